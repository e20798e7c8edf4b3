// Package press is what inks look like on paper, by measurement: from shares of cyan, magenta, yellow and black to CIE Lab
// under a printing condition, and back from a colour of screens to shares that print it, with what is lost on the way. The
// measurements are characterisation data in CGATS.17 form, see data/license.txt. Nothing here knows a file format or a page.
package press

import (
	"bufio"
	"bytes"
	"embed"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"sodrik/internal/core/ink"
)

//go:embed data/*.ti3
var files embed.FS

// Condition is a printing condition.
type Condition struct {
	Key        string  // as in the job file
	Name       string  // in words
	Identifier string  // of the output condition, as registered
	Says       string  // what the registry says of it
	Limit      float64 // of all inks together, in percent
	file       string

	once sync.Once
	grid *grid
}

// Registry is where the conditions are registered (ISO 15930-1:2001, 6.13).
const Registry = "http://www.color.org"

// Conditions there are, the first being the usual one. Limits of total ink are those that ISO 12647-2 houses commonly ask for.
var Conditions = []*Condition{
	{Key: "coated", Name: "coated paper, sheet-fed offset", Identifier: "FOGRA39",
		Says: "Offset printing, according to ISO 12647-2:2004/Amd 1, OFCOM, paper type 1 or 2 = coated art, 115 g/m2, tone " +
			"value increase curves A (CMY) and B (K)", Limit: 300, file: "FOGRA39L"},
	{Key: "uncoated", Name: "uncoated paper, sheet-fed offset", Identifier: "FOGRA29",
		Says: "Offset printing, according to ISO 12647-2, OFCOM, paper type 4 = uncoated white offset, 115 g/m2", Limit: 260,
		file: "FOGRA29L"},
	{Key: "web-coated", Name: "light coated paper, web offset", Identifier: "FOGRA28",
		Says: "Offset printing, according to ISO 12647-2, OFCOM, paper type 3 = gloss coated, web, 65 g/m2", Limit: 300,
		file: "FOGRA28L"},
	{Key: "us-coated", Name: "coated paper, US sheet-fed offset", Identifier: "CGATS TR 006",
		Says: "GRACoL printing on Grade 1 coated paper, ISO 12647-2 Paper type 1", Limit: 300, file: "TR006"},
}

// Of finds a condition by its key.
func Of(key string) (*Condition, bool) {
	for _, c := range Conditions {
		if c.Key == key {
			return c, true
		}
	}
	return nil, false
}

// Lab is a colour in CIE Lab for D50 (ISO 13655): what instruments of the trade tell.
type Lab struct{ L, A, B float64 }

// patch is one measured patch.
type patch struct {
	inks [4]float64
	lab  Lab
}

// read reads the patches of a condition.
func (c *Condition) read() (out []patch) {
	text, err := files.ReadFile("data/" + c.file + ".ti3")
	if err != nil {
		panic(err) // it is part of the program
	}
	fields := map[string]int{}
	inFormat, inData := false, false
	lines := bufio.NewScanner(bytes.NewReader(text))
	for lines.Scan() {
		line := strings.TrimSpace(lines.Text())
		switch {
		case line == "BEGIN_DATA_FORMAT" || line == "END_DATA_FORMAT":
			inFormat = line == "BEGIN_DATA_FORMAT"
		case line == "BEGIN_DATA" || line == "END_DATA":
			inData = line == "BEGIN_DATA"
		case inFormat:
			for i, name := range strings.Fields(line) {
				fields[name] = i
			}
		case inData && line != "":
			f := strings.Fields(line)
			at := func(name string) float64 {
				v, err := strconv.ParseFloat(f[fields[name]], 64)
				if err != nil {
					panic(fmt.Sprintf("%s: %s in %q", c.file, name, line))
				}
				return v
			}
			out = append(out, patch{[4]float64{at("CMYK_C"), at("CMYK_M"), at("CMYK_Y"), at("CMYK_K")},
				Lab{at("LAB_L"), at("LAB_A"), at("LAB_B")}})
		}
	}
	return out
}

// level is the measured patches of one share of black that lie on a full grid of the other inks.
type level struct {
	black float64
	steps []float64 // the same for cyan, magenta and yellow
	lab   []Lab     // by cyan, magenta, yellow
}

// grid is the levels of a condition, by rising black.
type grid struct {
	levels []level
	blacks []float64
	ramp   curve // black alone, finer than the levels
}

// curve takes a share of black to the one at which the levels would have to be asked, so that black alone comes out as
// measured between them.
type curve struct{ from, to []float64 }

func (c *Condition) measured() *grid {
	c.once.Do(func() { c.grid = newGrid(c.read()) })
	return c.grid
}

// newGrid finds, for every share of black, the finest full grid among the patches.
func newGrid(patches []patch) *grid {
	by := map[float64]map[[3]float64]Lab{}
	for _, p := range patches {
		k := p.inks[3]
		if by[k] == nil {
			by[k] = map[[3]float64]Lab{}
		}
		by[k][[3]float64{p.inks[0], p.inks[1], p.inks[2]}] = p.lab
	}
	g := &grid{}
	for k, of := range by {
		candidates := map[float64]bool{}
		for inks := range of {
			candidates[inks[0]] = true
		}
		var steps []float64
		for v := range candidates {
			steps = append(steps, v)
		}
		slices.Sort(steps)
		// Leave out, one by one, the step with most patches missing, until all are there.
		for len(steps) > 2 {
			worst, most, total := -1, 0, 0
			for i, v := range steps {
				missing := 0
				for _, a := range steps {
					for _, b := range steps {
						for _, inks := range [3][3]float64{{v, a, b}, {a, v, b}, {a, b, v}} {
							if _, ok := of[inks]; !ok {
								missing++
							}
						}
					}
				}
				total += missing
				if missing > most && v != 0 && v != 100 {
					worst, most = i, missing
				}
			}
			if total == 0 {
				break
			}
			if worst < 0 {
				steps = nil
				break
			}
			steps = slices.Delete(steps, worst, worst+1)
		}
		if len(steps) < 3 || steps[0] != 0 || steps[len(steps)-1] != 100 {
			if l, ok := corners(of); ok {
				steps = l
			} else {
				continue
			}
		}
		l := level{black: k, steps: steps}
		for _, c := range steps {
			for _, m := range steps {
				for _, y := range steps {
					l.lab = append(l.lab, of[[3]float64{c, m, y}])
				}
			}
		}
		g.levels = append(g.levels, l)
	}
	slices.SortFunc(g.levels, func(a, b level) int { return int(a.black - b.black) })
	for _, l := range g.levels {
		g.blacks = append(g.blacks, l.black)
	}
	g.ramp = rampOf(g, by)
	return g
}

// corners are the two ends of the inks, where all eight patches of them are there.
func corners(of map[[3]float64]Lab) ([]float64, bool) {
	for i := range 8 {
		if _, ok := of[[3]float64{float64(i&1) * 100, float64(i>>1&1) * 100, float64(i>>2&1) * 100}]; !ok {
			return nil, false
		}
	}
	return []float64{0, 100}, true
}

// rampOf warps black so that black alone is as dark as measured at every share of it that was.
func rampOf(g *grid, by map[float64]map[[3]float64]Lab) (c curve) {
	var shares []float64
	for k, of := range by {
		if _, ok := of[[3]float64{}]; ok {
			shares = append(shares, k)
		}
	}
	slices.Sort(shares)
	for _, k := range shares {
		want := by[k][[3]float64{}].L
		low, high := 0.0, 100.0
		for range 40 { // black alone grows darker all the way
			mid := (low + high) / 2
			if g.at([4]float64{0, 0, 0, mid}, false).L > want {
				low = mid
			} else {
				high = mid
			}
		}
		if slices.Contains(g.blacks, k) {
			low = k
		}
		c.from, c.to = append(c.from, k), append(c.to, low)
	}
	return c
}

func (c curve) of(v float64) float64 {
	i := slices.IndexFunc(c.from, func(f float64) bool { return f >= v })
	if i <= 0 {
		return v
	}
	t := (v - c.from[i-1]) / (c.from[i] - c.from[i-1])
	return c.to[i-1] + t*(c.to[i]-c.to[i-1])
}

// weights are of the four steps around v, as a cubic through them takes them: Hermite, its slopes those of the parabola
// through three steps.
func weights(steps []float64, v float64) (from int, w [4]float64) {
	n := len(steps)
	v = min(max(v, steps[0]), steps[n-1])
	i := 0
	for i < n-2 && v > steps[i+1] {
		i++
	}
	h := steps[i+1] - steps[i]
	t := (v - steps[i]) / h
	h00, h10, h01, h11 := (1+2*t)*(1-t)*(1-t), t*(1-t)*(1-t), t*t*(3-2*t), t*t*(t-1)
	w[1], w[2] = h00, h01
	slope := func(k int, share float64) { // of step k, times h
		if n == 2 {
			w[1], w[2] = w[1]-share*1, w[2]+share*1
			return
		}
		at := func(j int, x float64) { w[j-i+1] += share * x * h }
		switch {
		case k == 0:
			d := steps[1] - steps[0]
			at(0, -1/d)
			at(1, 1/d)
		case k == n-1:
			d := steps[n-1] - steps[n-2]
			at(n-2, -1/d)
			at(n-1, 1/d)
		default:
			d0, d1 := steps[k]-steps[k-1], steps[k+1]-steps[k]
			at(k-1, -d1/(d0*(d0+d1)))
			at(k, (d1-d0)/(d0*d1))
			at(k+1, d0/(d1*(d0+d1)))
		}
	}
	slope(i, h10)
	slope(i+1, h11)
	return i - 1, w
}

// at interpolates among the patches of a level.
func (l *level) at(c, m, y float64) (out Lab) {
	n := len(l.steps)
	ci, cw := weights(l.steps, c)
	mi, mw := weights(l.steps, m)
	yi, yw := weights(l.steps, y)
	for a, wa := range cw {
		if wa == 0 || ci+a < 0 || ci+a >= n {
			continue
		}
		for b, wb := range mw {
			if wb == 0 || mi+b < 0 || mi+b >= n {
				continue
			}
			row := ((ci+a)*n + mi + b) * n
			for d, wd := range yw {
				if wd == 0 || yi+d < 0 || yi+d >= n {
					continue
				}
				w, p := wa*wb*wd, l.lab[row+yi+d]
				out.L, out.A, out.B = out.L+w*p.L, out.A+w*p.A, out.B+w*p.B
			}
		}
	}
	return out
}

func (g *grid) at(inks [4]float64, warped bool) (out Lab) {
	k := min(max(inks[3], 0), 100)
	if warped {
		k = g.ramp.of(k)
	}
	from, w := weights(g.blacks, k)
	for i, share := range w {
		if share == 0 || from+i < 0 || from+i >= len(g.levels) {
			continue
		}
		p := g.levels[from+i].at(inks[0], inks[1], inks[2])
		out.L, out.A, out.B = out.L+share*p.L, out.A+share*p.A, out.B+share*p.B
	}
	return out
}

// Lab is what shares of cyan, magenta, yellow and black, 0 to 100, look like.
func (c *Condition) Lab(inks [4]float64) Lab { return c.measured().at(inks, true) }

// Paper is what the paper looks like.
func (c *Condition) Paper() Lab { return c.Lab([4]float64{}) }

// white is D50 (ISO 13655), to which XYZ of Y 1 is related.
var white = [3]float64{0.9642, 1, 0.8249}

// xyz is a colour as tristimulus values.
func (l Lab) xyz() [3]float64 {
	fy := (l.L + 16) / 116
	f := [3]float64{fy + l.A/500, fy, fy - l.B/200}
	for i, v := range f {
		if v > 6.0/29 {
			f[i] = v * v * v * white[i]
		} else {
			f[i] = 3 * 36.0 / 841 * (v - 4.0/29) * white[i]
		}
	}
	return f
}

func labOf(xyz [3]float64) Lab {
	f := func(i int) float64 {
		t := xyz[i] / white[i]
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	return Lab{116*f(1) - 16, 500 * (f(0) - f(1)), 200 * (f(1) - f(2))}
}

// The linear values of sRGB as tristimulus values of D50, adapted by Bradford (ICC.1:2010, annex E; IEC 61966-2-1), and back.
var (
	fromRGB = [3][3]float64{{0.4360747, 0.3850649, 0.1430804}, {0.2225045, 0.7168786, 0.0606169},
		{0.0139322, 0.0971045, 0.7141733}}
	toRGB = [3][3]float64{{3.1338561, -1.6168667, -0.4906146}, {-0.9787684, 1.9161415, 0.0334540},
		{0.0719453, -0.2289914, 1.4052427}}
)

func times(m [3][3]float64, v [3]float64) (out [3]float64) {
	for i := range 3 {
		out[i] = m[i][0]*v[0] + m[i][1]*v[1] + m[i][2]*v[2]
	}
	return out
}

// OnScreen is a colour of screens in Lab for D50.
func OnScreen(c ink.Colour) Lab {
	r, g, b := c.Linear()
	return labOf(times(fromRGB, [3]float64{r, g, b}))
}

// screen is the nearest that a screen shows.
func (l Lab) screen() ink.Colour {
	v := times(toRGB, l.xyz())
	code := func(f float64) uint8 {
		f = min(max(f, 0), 1)
		if f <= 0.0031308 {
			f *= 12.92
		} else {
			f = 1.055*math.Pow(f, 1/2.4) - 0.055
		}
		return uint8(f*255 + 0.5)
	}
	return ink.Colour{R: code(v[0]), G: code(v[1]), B: code(v[2])}
}

// Shown is what a screen shows of inks on this paper, the paper's own colour included.
func (c *Condition) Shown(inks [4]float64) ink.Colour { return c.Lab(inks).screen() }

// Deepest is the darkest that the inks give within their limit.
func (c *Condition) Deepest() Lab {
	other := (c.Limit - 100) / 3
	return c.Lab([4]float64{other, other, other, 100})
}

// onPaper is what a colour of screens ought to look like on this paper: its white is the paper's, and black as deep as the
// inks give (ISO 18619, black point compensation, in luminance). Without the second every dark colour on uncoated paper would
// count as lost.
func (c *Condition) onPaper(col ink.Colour) Lab {
	v, p := OnScreen(col).xyz(), c.Paper().xyz()
	deep := c.Deepest().xyz()[1] / p[1]
	for i := range v {
		v[i] = (v[i]/white[i]*(1-deep) + deep) * p[i]
	}
	return labOf(v)
}
