package desk

import (
	"fmt"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/grade"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
)

// tally counts what each family read of each set, and says what comes next.
func (r *Remarks) tally(p *proof.Proof) {
	sets := []proof.Stage{proof.Ordinary, proof.Hard, proof.Abuse}
	for _, family := range p.Families() {
		line := FamilyLine{Family: kindName(len(r.Families)), Engines: strings.Join(p.Engines(family), ", ")}
		for _, set := range sets {
			read, of := 0, 0
			for _, o := range p.Of(set) {
				if n, ok := o.Hits[family]; ok {
					read, of = read+n, of+o.Draws
				}
			}
			cell := "…"
			switch {
			case of > 0:
				cell = fmt.Sprintf("%d/%d", read, of)
			case p.Has(set):
				cell = "–"
			}
			line.Cells = append(line.Cells, cell)
		}
		r.Families = append(r.Families, line)
	}
	for _, set := range sets[1:] {
		if all := p.Of(set); len(all) > 0 {
			n := 0
			for _, o := range all {
				if o.Passes() {
					n++
				}
			}
			r.Beyond = append(r.Beyond, fmt.Sprintf("%s: survives %d of %d", map[proof.Stage]string{proof.Hard: "Harder conditions", proof.Abuse: "Wear and damage"}[set], n, len(all)))
		}
	}
	if r.PlaceIdx < 0 { // nothing but the pictures themselves to look at
		return
	}
	for _, set := range proof.Stages {
		if !p.Has(set) {
			r.Next = set
			r.Looking = map[proof.Stage]string{proof.Hard: "Checking harder conditions…", proof.Abuse: "Checking wear and damage…", proof.Range: "Measuring the range…"}[set]
			break
		}
	}
}

// measured says what range and reserve are, and how they were measured.
func (r *Remarks) measured(c *code.Code, p *proof.Proof, i int) {
	r.Grades = gradingOf(p.Grades)
	if reason := p.Grades.Reason(); reason != "" {
		r.Facts = append(r.Facts, reason)
	}
	if i < 0 {
		return
	}
	planned := measure.Number(p.Reserve*100, 0) + " %"
	r.Reserve = planned
	if p.Measured != nil {
		r.Facts = append(r.Facts, fmt.Sprintf("Reserve: the look leaves %s of the error correction. Seen from its distance, %s were left.", planned, measure.Number(*p.Measured*100, 0)+" %"))
	}
	if !p.Has(proof.Range) {
		return
	}
	if p.Range[1] == 0 {
		r.Range, r.RangeHow = "none", "At no distance does every kind of phone read it."
	} else {
		r.Range = rangeWords(p.Range)
		r.RangeHow = fmt.Sprintf("Every kind of phone reader reads it from %s to %s: 4 pictures in 5 or more, at %d distances.", measure.Length(p.Range[0]).Rounded().Spoken(), measure.Length(p.Range[1]).Rounded().Spoken(), len(p.Ladder))
	}
	r.RangeHow += " Measured through " + optics.Phone.Name + "."
	r.Facts = append(r.Facts, "Range: "+strings.ToLower(r.RangeHow[:1])+r.RangeHow[1:])
}

// Grading is the forecast of grades.
type Grading struct {
	Overall string
	Rows    []GradeRow
	Words   string
}

// GradeRow is one parameter.
type GradeRow struct{ Name, Value, Grade string }

// gradingOf formats a forecast; values that are shares in percent.
func gradingOf(g *proof.Grades) *Grading {
	if g == nil {
		return nil
	}
	between := func(a, b string) string {
		if a == b {
			return a
		}
		return a + " to " + b
	}
	out := &Grading{Overall: between(g.Overall[0], g.Overall[1])}
	for _, p := range g.Parameters {
		value := ""
		switch p.Key {
		case grade.Decode, grade.FixedPattern, grade.Format, grade.Version:
		case grade.Axial, grade.Grid:
			value = measure.Number(p.Value[0], 2)
		default:
			value = between(measure.Number(p.Value[0]*100, 0), measure.Number(p.Value[1]*100, 0)) + " %"
		}
		out.Rows = append(out.Rows, GradeRow{upperFirst(proof.GradeWords(p.Key)), value, between(p.Grade[0], p.Grade[1])})
	}
	out.Rows = append(out.Rows, GradeRow{"Print growth", measure.Number(g.Growth*100, 0) + " %", "–"})
	light := "white light"
	if g.Wavelength > 0 {
		light = fmt.Sprintf("%d nm, where what an ink throws back is known within bounds only", g.Wavelength)
	}
	out.Words = fmt.Sprintf("A forecast from the file after %s, not a measurement: aperture %s mm, %s. What is red to the eye is paper to a scanner.", g.Edition, measure.Number(g.Aperture, 2), light)
	return out
}

// rangeWords keeps two figures.
func rangeWords(r [2]float64) string {
	places := 1
	if r[1] < 1000 {
		places = 2
	}
	return fmt.Sprintf("%s–%s m", measure.Number(r[0]/1000, places), measure.Number(r[1]/1000, places))
}
