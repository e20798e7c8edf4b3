package proof

import (
	"fmt"
	"math"

	"sodrik/internal/core/grade"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/place"
)

// Grades are a forecast, from the file, of what a verifier would say of a print. Since what inks throw back of red light is
// known within bounds only, so are the grades: the first of two is at the worse end, the second at the better.
type Grades struct {
	Edition    string        `json:"edition"`
	Forecast   bool          `json:"forecast" doc:"Always true: nothing was printed and nothing measured."`
	Wavelength int           `json:"wavelength_nm,omitempty"`
	Aperture   float64       `json:"aperture_mm,omitempty"`
	Overall    [2]string     `json:"overall"`
	Growth     float64       `json:"print_growth" doc:"Of dark on both sides together, as a share of a module; it carries no grade."`
	Parameters []GradedValue `json:"parameters"`
}

// GradedValue is one parameter at both ends.
type GradedValue struct {
	Key   string     `json:"key"`
	Value [2]float64 `json:"value"`
	Grade [2]string  `json:"grade"`
}

// Apertures: four fifths of a module, unless what the code is for prescribes one (GS1 General Specifications, 5.12.3).
const (
	usualAperture = 0.8
	tillAperture  = 0.20 // mm
	farAperture   = 0.50
)

// Forecast grades a print that is still to be made, at the worse and the better end of what its inks and its substrate throw
// back. An error is of the drawing.
func Forecast(in Input) (*Grades, error) {
	module := in.Scene.Width / modulesOf(in)
	aperture, gain := usualAperture*module, 0.0
	s, _ := place.SubstrateOf("coated")
	if p := in.Placement; p != nil {
		s, _ = place.SubstrateOf(p.Substrate)
		gain = s.Gain
		switch p.Use {
		case "till":
			aperture = tillAperture
		case "distribution":
			aperture = farAperture
		}
	}
	out := &Grades{Edition: grade.Edition, Forecast: true, Wavelength: 660, Aperture: math.Round(aperture*1000) / 1000,
		Growth: math.Round(2*gain/module*1000) / 1000}
	middle := (in.Look.Ink.Luminance() + paperOf(in).Luminance()) / 2
	for end, worse := range [2]bool{true, false} {
		// At the worse end ink throws back as much as it may and paper as little.
		of := func(c ink.Colour) float64 {
			least, most := c.At660(s.Reflects)
			if (c.Luminance() > middle) == worse {
				return least
			}
			return most
		}
		if s.Screen {
			of = ink.Colour.Luminance
			out.Wavelength = 0
		}
		ground := paperOf(in)
		if in.Placement != nil && in.Placement.Background != nil {
			ground = *in.Placement.Background
		}
		printed, err := optics.NewPrintIn(in.Scene, of(ground), 10/module,
			optics.Setup{Gain: gain, Dot: s.Dot, Bilevel: s.Bilevel}, of)
		if err != nil {
			return nil, err
		}
		quiet := float64(in.QuietZone)
		r := grade.Evaluate(grade.Input{Symbol: in.Symbol, QuietZone: in.QuietZone, Aperture: aperture / module, Width: 1,
			Growth: out.Growth,
			At:     func(x, y float64) float64 { return printed.At((x+quiet)*module, (y+quiet)*module) }})
		out.Overall[end] = r.Overall.Letter()
		if end == 0 {
			out.Parameters = make([]GradedValue, len(r.Parameters))
		}
		for i, p := range r.Parameters {
			g := &out.Parameters[i]
			g.Key = p.Key
			g.Value[end], g.Grade[end] = math.Round(p.Value*1000)/1000, p.Grade.Letter()
		}
	}
	return out, nil
}

// graded holds a code for scanners of the trade against the least grade that it asks for.
func graded(in Input, p *Proof, _ Panel) []Finding {
	if in.Placement == nil || in.Placement.Use == "" || p.Grades == nil || p.Grades.Overall[0] < "D" {
		return nil
	}
	worst := ""
	for _, g := range p.Grades.Parameters {
		if g.Grade[0] == p.Grades.Overall[0] {
			worst = gradeWords[g.Key]
			break
		}
	}
	of := p.Grades.Overall[0]
	if p.Grades.Overall[1] != of {
		of += " to " + p.Grades.Overall[1]
	}
	return []Finding{{Code: "grade", Severity: SeverityCare, Fix: blackOnWhite(),
		Message: fmt.Sprintf("The trade asks for grade C or better; from the file %s is to be expected, for its %s.", of, worst)}}
}

// GradeWords names a parameter in words.
func GradeWords(key string) string { return gradeWords[key] }

var gradeWords = map[string]string{
	grade.Decode: "decode", grade.SymbolContrast: "symbol contrast", grade.Modulation: "modulation",
	grade.Margin:       "reflectance margin",
	grade.FixedPattern: "fixed pattern damage", grade.Format: "format information", grade.Version: "version information",
	grade.Axial: "axial non-uniformity", grade.Grid: "grid non-uniformity", grade.UnusedEC: "unused error correction",
}

// Of is the grade of a parameter at the worse and at the better end; empty where it is not among them.
func (g *Grades) Of(key string) [2]string {
	for _, p := range g.Parameters {
		if p.Key == key {
			return p.Grade
		}
	}
	return [2]string{}
}

// Reason says in a sentence why the forecast is poor while phones read the code, "" where it is not: a grade of D or F, which
// print buyers refuse.
func (g *Grades) Reason() string {
	if g == nil || g.Overall[0] != "D" && g.Overall[0] != "F" {
		return ""
	}
	var who []string
	for _, p := range g.Parameters {
		if p.Grade[0] == g.Overall[0] {
			who = append(who, GradeWords(p.Key))
		}
	}
	return fmt.Sprintf("A verifier may grade it %s, for its %s. Phones forgive that; scanners at tills may not.",
		g.Overall[0], list(who))
}
