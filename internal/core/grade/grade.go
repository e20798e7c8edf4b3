// Package grade works out what a verifier would say of a symbol: the parameters of ISO/IEC 15415:2011 for two-dimensional
// matrix symbols, with the fixed patterns, format and version information of a QR Code graded after ISO/IEC 18004:2015, annex
// G. Given reflectances at points of a picture whose grid is known, it is a forecast from a file, not a measurement: nobody
// has printed it, lit it at 45 degrees or turned it five times under a lens.
//
// The edition matters: from 2024 on values between two letters are interpolated. Here grades are the whole steps of 2011, 4
// (A) to 0 (F).
package grade

import (
	"math"

	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

// Edition is the standard whose limits these are.
const Edition = "ISO/IEC 15415:2011"

// Grade is a step of the scale, 4 to 0.
type Grade int

// Letter is what people call it.
func (g Grade) Letter() string { return string("FDCBA"[min(max(int(g), 0), 4)]) }

// Input is a symbol and how it reflects.
type Input struct {
	Symbol    *symbol.Symbol
	QuietZone int // modules
	// At is the reflectance, 0 to 1, at a point given in modules from the top left corner of the symbol without its quiet zone.
	At func(x, y float64) float64
	// Aperture is the diameter of the spot over which reflectance is taken, in modules.
	Aperture float64
	Width    float64 // of a module across over that down; 1 is square
	Growth   float64 // of dark edges on both sides together, in modules; reported, not graded
}

// Parameter is one of them. Value is a share where the standard has percent.
type Parameter struct {
	Key   string
	Value float64
	Grade Grade
}

// Result is all of them, in the order of the standard, and the least.
type Result struct {
	Overall    Grade
	Parameters []Parameter
	Growth     float64
}

// Of gives a parameter.
func (r Result) Of(key string) (Parameter, bool) {
	for _, p := range r.Parameters {
		if p.Key == key {
			return p, true
		}
	}
	return Parameter{}, false
}

// Keys of the parameters.
const (
	Decode         = "decode"
	SymbolContrast = "symbol_contrast"
	Modulation     = "modulation"
	Margin         = "reflectance_margin"
	FixedPattern   = "fixed_pattern_damage"
	Format         = "format_information"
	Version        = "version_information"
	Axial          = "axial_nonuniformity"
	Grid           = "grid_nonuniformity"
	UnusedEC       = "unused_error_correction"
)

// Limits of the grades 4, 3, 2, 1.
var (
	contrastLimits   = [4]float64{0.70, 0.55, 0.40, 0.20} // table 2 of ISO/IEC 15415
	modulationLimits = [4]float64{0.50, 0.40, 0.30, 0.20} // table 3
	unusedLimits     = [4]float64{0.62, 0.50, 0.37, 0.25} // table 8
	axialLimits      = [4]float64{0.06, 0.08, 0.10, 0.12} // table 6
	gridLimits       = [4]float64{0.38, 0.50, 0.63, 0.75} // table 7, modules
)

// least grades a value that should be large; most one that should be small. A rounding error does not cost a grade.
func least(v float64, limits [4]float64) Grade {
	for i, l := range limits {
		if v >= l-1e-9 {
			return Grade(4 - i)
		}
	}
	return 0
}

func most(v float64, limits [4]float64) Grade {
	for i, l := range limits {
		if v <= l+1e-9 {
			return Grade(4 - i)
		}
	}
	return 0
}

// Evaluate grades a symbol.
func Evaluate(in Input) Result {
	g := newGrid(in)
	r := Result{Overall: 4, Growth: in.Growth}
	add := func(key string, value float64, grade Grade) {
		r.Parameters = append(r.Parameters, Parameter{key, value, grade})
		r.Overall = min(r.Overall, grade)
	}
	decoded, err := decode.Matrix(in.Symbol.Size, func(x, y int) bool { return g.at(x, y) < g.threshold })
	if err != nil || decoded.Version != in.Symbol.Version {
		add(Decode, 0, 0)
	} else {
		add(Decode, 1, 4)
	}
	add(SymbolContrast, g.contrast, least(g.contrast, contrastLimits))
	value, grade := g.codewords(g.modulation)
	add(Modulation, value, grade)
	value, grade = g.codewords(g.margin)
	add(Margin, value, grade)
	grade = g.fixed()
	add(FixedPattern, float64(grade), grade)
	grade = g.copies(formatCopies(in.Symbol.Size))
	add(Format, float64(grade), grade)
	if in.Symbol.Version >= 7 {
		grade = g.copies(versionCopies(in.Symbol.Size))
		add(Version, float64(grade), grade)
	}
	axial := math.Abs(in.Width-1) / ((in.Width + 1) / 2)
	add(Axial, axial, most(axial, axialLimits))
	add(Grid, 0, most(0, gridLimits)) // the grid of a file is where it should be
	unused := 0.0
	if err == nil {
		may := symbol.BlocksOf(in.Symbol.Version, in.Symbol.Level).Correct
		unused = 1
		for _, n := range decoded.ByBlock {
			unused = min(unused, 1-float64(n)/float64(may))
		}
	}
	add(UnusedEC, unused, least(unused, unusedLimits))
	return r
}

// grid is the reflectance of every module through the aperture.
type grid struct {
	in                  Input
	r                   []float64
	contrast, threshold float64
}

func newGrid(in Input) *grid {
	n := in.Symbol.Size
	g := &grid{in: in, r: make([]float64, n*n)}
	var spot [][2]float64 // points within the aperture
	const steps = 7
	for j := range steps {
		for i := range steps {
			dx, dy := (float64(i)+0.5)/steps-0.5, (float64(j)+0.5)/steps-0.5
			if dx*dx+dy*dy <= 0.25 {
				spot = append(spot, [2]float64{dx * in.Aperture, dy * in.Aperture})
			}
		}
	}
	through := func(x, y float64) float64 {
		sum := 0.0
		for _, d := range spot {
			sum += in.At(x+d[0], y+d[1])
		}
		return sum / float64(len(spot))
	}
	low, high := math.Inf(1), math.Inf(-1)
	for y := range n {
		for x := range n {
			v := through(float64(x)+0.5, float64(y)+0.5)
			g.r[y*n+x] = v
			low, high = min(low, v), max(high, v)
		}
	}
	for i := range n { // the quiet zone belongs to the examined area
		for _, p := range [4][2]float64{{float64(i), -1}, {float64(i), float64(n)}, {-1, float64(i)}, {float64(n), float64(i)}} {
			if in.QuietZone > 0 {
				high = max(high, through(p[0]+0.5, p[1]+0.5))
			}
		}
	}
	g.contrast, g.threshold = high-low, (high+low)/2
	return g
}

func (g *grid) at(x, y int) float64 { return g.r[y*g.in.Symbol.Size+x] }

// modulation of a module: how far it lies from the threshold, whichever side (clause 7.8.4).
func (g *grid) modulation(x, y int) float64 {
	if g.contrast <= 0 {
		return 0
	}
	return 2 * math.Abs(g.at(x, y)-g.threshold) / g.contrast
}

// margin is that on the right side, and 0 on the wrong one (clause 7.8.5).
func (g *grid) margin(x, y int) float64 {
	if g.at(x, y) < g.threshold != g.in.Symbol.Dark(x, y) {
		return 0
	}
	return g.modulation(x, y)
}

// codewords grades a measure of modules as the standard does: at each grade, codewords with a module below it count as
// errors, and the grade holds as far as the error correction that is left then does. value is the least of any module that
// carries data.
func (g *grid) codewords(of func(x, y int) float64) (value float64, grade Grade) {
	s := g.in.Symbol
	b := symbol.BlocksOf(s.Version, s.Level)
	grades := make([]Grade, 0, 256)
	blocks := make([]int, 0, 256)
	value = math.Inf(1)
	for _, w := range s.Codewords() {
		worst := math.Inf(1)
		for _, m := range w.Modules {
			worst = min(worst, of(m%s.Size, m/s.Size))
		}
		value = min(value, worst)
		grades, blocks = append(grades, least(worst, modulationLimits)), append(blocks, w.Block)
	}
	for level := Grade(4); level > 0; level-- {
		lost := make([]int, b.Count)
		for i, have := range grades {
			if have < level {
				lost[blocks[i]]++
			}
		}
		holds := level
		for _, n := range lost {
			holds = min(holds, least(1-float64(n)/float64(b.Correct), unusedLimits))
		}
		grade = max(grade, holds)
	}
	return value, grade
}
