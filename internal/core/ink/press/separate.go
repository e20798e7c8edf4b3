package press

import (
	"math"

	lru "github.com/hashicorp/golang-lru/v2"

	"sodrik/internal/core/ink"
)

// Inks is how a colour is printed.
type Inks struct {
	CMYK [4]float64 // percent, whole
	Off  float64    // CIEDE2000 between what was asked for on this paper and what the inks give; 0 where the inks were given
}

// Total is all inks together, in percent.
func (i Inks) Total() float64 { return i.CMYK[0] + i.CMYK[1] + i.CMYK[2] + i.CMYK[3] }

// Seen is the difference from which a colour counts as one that the inks cannot give; it is seen side by side.
const Seen = 3.0

// maxSeparated bounds how many colours are remembered: those of the codes that are worked on, many times over.
const maxSeparated = 8192

// separated keeps what was found before, those asked for last.
var separated = func() *lru.Cache[known, Inks] {
	c, err := lru.New[known, Inks](maxSeparated)
	if err != nil {
		panic(err) // it has room
	}
	return c
}()

type known struct {
	condition string
	r, g, b   uint8
}

// Separate gives the inks of a colour. One that has inks of its own keeps them. A grey is black alone, so that no plates have
// to meet for it. Any other is the shares whose colour on this paper is nearest, within the limit of total ink; of those that
// are as near, the darker the colour the more of it is black.
func (c *Condition) Separate(col ink.Colour) Inks {
	if col.Separated {
		return Inks{CMYK: [4]float64(col.Plates())}
	}
	key := known{c.Key, col.R, col.G, col.B}
	if v, ok := separated.Get(key); ok {
		return v
	}
	out := c.separate(col)
	separated.Add(key, out)
	return out
}

// neutral is by how much the channels of a grey differ at most.
const neutral = 3

func (c *Condition) separate(col ink.Colour) Inks {
	want := c.onPaper(col)
	if high, low := max(col.R, col.G, col.B), min(col.R, col.G, col.B); high-low <= neutral {
		if high <= neutral {
			return Inks{CMYK: [4]float64{0, 0, 0, 100}, Off: 0} // black is what black ink gives
		}
		k := c.blackFor(want.L)
		inks := [4]float64{0, 0, 0, math.Round(k)}
		return Inks{inks, DeltaE(want, c.Lab(inks))}
	}
	type option struct {
		inks [4]float64
		off  float64
	}
	var options []option
	start, best := [3]float64{30, 30, 30}, math.Inf(1)
	for k := 0.0; k <= 100; k += 5 {
		inks := c.solve(want, k, start)
		off := DeltaE(want, c.Lab(inks))
		options = append(options, option{inks, off})
		best = min(best, off)
		start = [3]float64{inks[0], inks[1], inks[2]}
	}
	least, most := -1, -1
	for i, o := range options {
		if o.off <= best+0.3 {
			if least < 0 {
				least = i
			}
			most = i
		}
	}
	share := min(max((75-want.L)/50, 0.1), 0.8) // how far towards most black
	i := least + int(math.Round(share*float64(most-least)))
	for options[i].off > best+0.3 {
		i--
	}
	inks := c.tidy(want, options[i].inks, options[i].off)
	return Inks{inks, DeltaE(want, c.Lab(inks))}
}

// blackFor is the share of black whose lightness is l.
func (c *Condition) blackFor(l float64) float64 {
	low, high := 0.0, 100.0
	for range 30 {
		if mid := (low + high) / 2; c.Lab([4]float64{0, 0, 0, mid}).L > l {
			low = mid
		} else {
			high = mid
		}
	}
	return low
}

// tidy takes plates away that do next to nothing, and rounds to whole percent.
func (c *Condition) tidy(want Lab, inks [4]float64, off float64) [4]float64 {
	for i, share := range inks {
		if share > 0 && share < 3 {
			without := inks
			without[i] = 0
			if DeltaE(want, c.Lab(without)) <= off+0.6 {
				inks = without
			}
		}
	}
	for i := range inks {
		inks[i] = math.Round(inks[i])
	}
	for inks[0]+inks[1]+inks[2]+inks[3] > c.Limit { // rounded up past the limit
		top := 0
		for i := range 3 {
			if inks[i] > inks[top] {
				top = i
			}
		}
		inks[top]--
	}
	return inks
}

// solve finds cyan, magenta and yellow for a share of black, nearest to a colour within the limit of total ink:
// Levenberg–Marquardt, the derivatives taken by differences, steps held within 0 and 100.
func (c *Condition) solve(want Lab, black float64, start [3]float64) [4]float64 {
	room := c.Limit - black
	at := func(v [3]float64) [4]float64 { return [4]float64{v[0], v[1], v[2], black} }
	rest := func(v [3]float64) [4]float64 {
		l := c.Lab(at(v))
		return [4]float64{l.L - want.L, l.A - want.A, l.B - want.B, 2 * max(0, v[0]+v[1]+v[2]-room)}
	}
	size := func(r [4]float64) float64 { return r[0]*r[0] + r[1]*r[1] + r[2]*r[2] + r[3]*r[3] }
	hold := func(f float64) float64 { return min(max(f, 0), 100) }
	v, damp := start, 1.0
	r := rest(v)
	for range 40 {
		var j [4][3]float64
		for i := range 3 {
			w, h := v, 0.5
			if w[i] > 50 {
				h = -0.5
			}
			w[i] += h
			q := rest(w)
			for k := range 4 {
				j[k][i] = (q[k] - r[k]) / h
			}
		}
		var m [3][4]float64 // normal equations, the right side last
		for a := range 3 {
			for b := range 3 {
				for k := range 4 {
					m[a][b] += j[k][a] * j[k][b]
				}
			}
			for k := range 4 {
				m[a][3] -= j[k][a] * r[k]
			}
			m[a][a] *= 1 + damp*0.01
			m[a][a] += 1e-6
		}
		step, ok := solve3(m)
		if !ok {
			break
		}
		next := [3]float64{hold(v[0] + step[0]), hold(v[1] + step[1]), hold(v[2] + step[2])}
		q := rest(next)
		moved := math.Abs(next[0]-v[0]) + math.Abs(next[1]-v[1]) + math.Abs(next[2]-v[2])
		if size(q) < size(r) {
			v, r, damp = next, q, damp/4
		} else {
			damp *= 8
		}
		if moved < 0.01 || damp > 1e8 {
			break
		}
	}
	return at(v)
}

// solve3 solves three equations by elimination; ok is false where they are not three.
func solve3(m [3][4]float64) (x [3]float64, ok bool) {
	for i := range 3 {
		p := i
		for k := i + 1; k < 3; k++ {
			if math.Abs(m[k][i]) > math.Abs(m[p][i]) {
				p = k
			}
		}
		m[i], m[p] = m[p], m[i]
		if math.Abs(m[i][i]) < 1e-12 {
			return x, false
		}
		for k := range 3 {
			if k != i {
				f := m[k][i] / m[i][i]
				for c := i; c < 4; c++ {
					m[k][c] -= f * m[i][c]
				}
			}
		}
	}
	return [3]float64{m[0][3] / m[0][0], m[1][3] / m[1][1], m[2][3] / m[2][2]}, true
}
