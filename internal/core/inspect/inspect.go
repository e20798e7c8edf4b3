// Package inspect measures a printed code in a picture of it, a photograph or a flatbed scan, and holds what it finds against
// what was reckoned before it was printed.
//
// A picture is not calibrated. What is known of the print stands in for it: the paper beside the code is taken to be as light
// as the job has it, the widest dark parts as dark as they get, and the code's own module, whose width in millimetres the job
// says, is the ruler. The growth of dark parts follows from how much of the code is dark: that share is the same however soft
// the picture is.
package inspect

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"

	"sodrik/internal/core/grade"
	"sodrik/internal/core/picture"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol"
)

// Errors of Measure.
var (
	ErrNothing = errors.New("inspect: no code is found in the picture")
	ErrOther   = errors.New("inspect: the picture shows another code")
	ErrCoarse  = errors.New("inspect: a module takes too few pixels to be measured")
	ErrFaint   = errors.New("inspect: ink and paper are too alike to be measured")
	ErrPlace   = errors.New("inspect: the job says no place, hence no size")
)

// Pixels by which the growth of a print may be off, whatever its quarters agree on: phones sharpen, and bend the scale of
// brightness. From pictures by other means whose growth is known, in package calibration: it comes back up to 0.1 pixels too
// large where nothing is sharpened, and 0.2 too small where a halo of 0.6 is added.
const (
	blindPhoto = 0.25
	blindScan  = 0.2
)

// LeastPixels is how many pixels a module has to take for a print to be measured.
const LeastPixels = 4.0

// Print is what was measured of a printed code.
type Print struct {
	Module   float64  `json:"pixels"              doc:"That a module takes in the picture."`
	Width    *Figure  `json:"width_mm,omitempty"  doc:"With its border; only of a scan whose resolution is known."`
	Growth   *Figure  `json:"growth_mm,omitempty" doc:"Of dark parts, at each edge. Absent of a code light on dark."`
	Contrast Figure   `json:"contrast"            doc:"Luminance of paper less that of ink, the paper taken to be as light as the job has it."`
	Axial    float64  `json:"axial_nonuniformity"`
	Grid     float64  `json:"grid_nonuniformity"  doc:"Modules by which the surface is bent at most, beyond what a view askew explains."`
	Damaged  float64  `json:"damaged"             doc:"Share of the modules that are not what they should be."`
	Reserve  float64  `json:"reserve"             doc:"Share of correctable codewords left in the worst block."`
	Mirrored bool     `json:"mirrored,omitempty"  doc:"It is printed as seen from behind: many readers find nothing."`
	Others   []string `json:"others,omitempty"    doc:"What further codes in the picture say."`
	Grades   []Graded `json:"grades"              doc:"Parameters of ISO/IEC 15415:2011 that a picture without calibrated reflectance tells, the paper taken for white."`
}

// Graded is a parameter of the grade as far as a picture tells it.
type Graded struct {
	Key      string    `json:"key"`
	Value    float64   `json:"value"`
	Grade    string    `json:"grade"`
	Reckoned [2]string `json:"reckoned" doc:"The grade that the proof forecasts, at its worse and at its better end."`
}

// Figure is one that was measured, how far it may be off, and what was reckoned.
type Figure struct {
	Value    float64 `json:"value"`
	Off      float64 `json:"off"      doc:"Two standard deviations."`
	Reckoned float64 `json:"reckoned"`
}

// Apart says that a figure differs from what was reckoned by more than it may be off.
func (f Figure) Apart() bool { return math.Abs(f.Value-f.Reckoned) > f.Off }

// Measure finds the code of a proof's input in a picture and measures it. dpi is the resolution of a flatbed scan in dots an
// inch, 0 of a photograph. Errors are those of this package, of which ErrOther says what the code in the picture says, and that
// of ctx.
func Measure(ctx context.Context, in proof.Input, whole image.Image, dpi float64) (*Print, error) {
	if in.Placement == nil {
		return nil, ErrPlace
	}
	f, others, picture, scale, err := found(ctx, in, picture.Greys(whole))
	if err != nil {
		return nil, err
	}
	dpi *= scale
	v := newView(in, f, picture)
	v.blind = blindPhoto
	if dpi > 0 {
		v.blind = blindScan
	}
	if v.pixels < LeastPixels {
		return nil, fmt.Errorf("%w: %.1f pixels", ErrCoarse, v.pixels)
	}
	if err := v.look(); err != nil {
		return nil, err
	}
	if err := v.level(); err != nil {
		return nil, err
	}
	if err := v.place(!f.Inverted); err != nil {
		return nil, err
	}
	out := &Print{Module: math.Round(v.pixels*100) / 100, Axial: v.axial(), Grid: v.bent(),
		Mirrored: f.Mirrored, Others: others}
	out.Contrast = v.contrast()
	if !f.Inverted {
		growth, err := v.growth()
		if err != nil {
			return nil, err
		}
		out.Growth = growth
	}
	if dpi > 0 {
		out.Width = v.width(dpi)
	}
	out.Damaged = v.damaged()
	may := float64(symbol.BlocksOf(in.Symbol.Version, in.Symbol.Level).Correct)
	out.Reserve = 1
	for _, n := range f.ByBlock {
		out.Reserve = min(out.Reserve, 1-float64(n)/may)
	}
	paper := v.paper
	shape := 1.0 // a view askew says nothing of it
	if dpi > 0 {
		shape += out.Axial
	}
	g := grade.Evaluate(grade.Input{Symbol: in.Symbol, QuietZone: in.QuietZone, Aperture: 0.8, Width: shape,
		At: func(x, y float64) float64 { return min(max(v.reflected(x, y)*paper, 0), 1) }})
	forecast, err := proof.Forecast(in)
	if err != nil {
		return nil, err
	}
	for _, p := range g.Parameters {
		if p.Key == grade.SymbolContrast || p.Key == grade.Axial && dpi == 0 || p.Key == grade.Grid {
			continue // what is not known of a picture
		}
		out.Grades = append(out.Grades, Graded{p.Key, math.Round(p.Value*1000) / 1000, p.Grade.Letter(), forecast.Of(p.Key)})
	}
	return out, nil
}

// reckonedGrowth is by how much the substrate lets dark edges spread.
func reckonedGrowth(in proof.Input) float64 {
	s, _ := place.SubstrateOf(in.Placement.Substrate)
	return s.Gain
}
