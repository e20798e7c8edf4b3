package detect

import (
	"cmp"
	"math"
	"slices"
)

// pose is where a grid lies: the middles of the three finder patterns, the point across, and how far the middles of its sides
// bow out, which is nothing on a flat surface. Pixels.
type pose struct {
	x, y [4]float64 // top left, top right, bottom left, and as far right and down
	bow  [4]float64 // along x and y, of lines across; along x and y, of lines down
}

// known is a module whose colour is known beforehand.
type known struct {
	x, y float64 // its middle
	sign float64 // −1 dark, 1 light
}

// grid fits the modules of one symbol of n a side.
type grid struct {
	l     *light
	n     int
	first pose
	known []known // all of the function patterns
	far   []known // those that tell where the fourth corner is
	ux    float64 // a module across and down, in pixels
	uy    float64
	vx    float64
	vy    float64
}

func newGrid(l *light, n int, a, b, c eye) *grid {
	g := &grid{l: l, n: n}
	g.first = pose{x: [4]float64{a.x, b.x, c.x, b.x + c.x - a.x}, y: [4]float64{a.y, b.y, c.y, b.y + c.y - a.y}}
	k := float64(n - 7)
	g.ux, g.uy, g.vx, g.vy = (b.x-a.x)/k, (b.y-a.y)/k, (c.x-a.x)/k, (c.y-a.y)/k
	g.list()
	return g
}

// list writes down the function patterns (clause 6.3).
func (g *grid) list() {
	n := g.n
	add := func(to *[]known, x, y int, dark bool) {
		k := known{float64(x) + 0.5, float64(y) + 0.5, 1}
		if dark {
			k.sign = -1
		}
		*to = append(*to, k)
	}
	ring := func(dx, dy int) int { return max(max(dx, -dx), max(dy, -dy)) }
	for _, c := range [3][2]int{{3, 3}, {n - 4, 3}, {3, n - 4}} {
		for dy := -4; dy <= 4; dy++ {
			for dx := -4; dx <= 4; dx++ {
				x, y := c[0]+dx, c[1]+dy
				if r := ring(dx, dy); x >= 0 && y >= 0 && x < n && y < n && r != 1 { // the edge of the core may be rounded away
					add(&g.known, x, y, r == 0 || r == 3)
				}
			}
		}
	}
	for i := 8; i < n-8; i++ {
		add(&g.known, i, 6, i%2 == 0)
		add(&g.known, 6, i, i%2 == 0)
	}
	centres := centresOf(n)
	for i, y := range centres {
		for j, x := range centres {
			last := len(centres) - 1
			if i == 0 && j == 0 || i == 0 && j == last || i == last && j == 0 {
				continue
			}
			for dy := -2; dy <= 2; dy++ {
				for dx := -2; dx <= 2; dx++ {
					add(&g.known, x+dx, y+dy, ring(dx, dy) != 1)
					if i == last && j == last {
						add(&g.far, x+dx, y+dy, ring(dx, dy) != 1)
					}
				}
			}
		}
	}
	if len(g.far) == 0 {
		g.far = g.known
	}
}

// centresOf gives the coordinates of the alignment patterns (annex E): the first at 6, the last 6 from the end, the others
// evenly and at even steps from the last, but for version 32.
func centresOf(n int) []int {
	v := (n - 17) / 4
	if v == 1 {
		return nil
	}
	parts := v/7 + 1
	step := int(math.Ceil(float64(n-13)/float64(parts)/2)) * 2
	if v == 32 {
		step = 26
	}
	out := []int{6}
	for i := parts - 1; i >= 0; i-- {
		out = append(out, n-7-i*step)
	}
	return out
}

// fitted is a pose with its mapping worked out.
type fitted struct {
	g *grid
	pose
	h         [8]float64 // of the projection
	agreement float64    // of the known modules, 1 at best
}

// with works the projection out that takes the four middles, at 3.5 and n − 3.5 modules, to a pose.
func (g *grid) with(p pose) fitted {
	// The unit square to a quadrilateral, in closed form.
	x0, y0, x1, y1, x3, y3, x2, y2 := p.x[0], p.y[0], p.x[1], p.y[1], p.x[2], p.y[2], p.x[3], p.y[3]
	dx1, dy1, dx2, dy2 := x1-x2, y1-y2, x3-x2, y3-y2
	sx, sy := x0-x1+x2-x3, y0-y1+y2-y3
	den := dx1*dy2 - dx2*dy1
	var a, b float64
	if den != 0 {
		a, b = (sx*dy2-dx2*sy)/den, (dx1*sy-sx*dy1)/den
	}
	return fitted{g: g, pose: p, h: [8]float64{x1 - x0 + a*x1, x3 - x0 + b*x3, x0, y1 - y0 + a*y1, y3 - y0 + b*y3, y0, a, b}}
}

// at takes a point in modules to pixels.
func (f *fitted) at(x, y float64) (float64, float64) {
	k := 1 / float64(f.g.n-7)
	s, t := (x-3.5)*k, (y-3.5)*k
	h := &f.h
	w := 1 / (h[6]*s + h[7]*t + 1)
	across, down := 4*s*(1-s), 4*t*(1-t)
	return (h[0]*s+h[1]*t+h[2])*w + f.bow[0]*across + f.bow[2]*down, (h[3]*s+h[4]*t+h[5])*w + f.bow[1]*across + f.bow[3]*down
}

// agrees is how well known modules are where a pose says: 1 at best, 0 by chance. Nearly all of a search is spent here, so
// that what fitted.at and light.at do for one point is written out for many.
func (f *fitted) agrees(list []known) float64 {
	l, h, bow := f.g.l, f.h, f.bow
	v, wide := l.v, l.w
	right, bottom := float64(l.w-1), float64(l.h-1)
	k := 1 / float64(f.g.n-7)
	bent := bow != [4]float64{}
	sum := 0.0
	for i := range list {
		m := &list[i]
		s, t := (m.x-3.5)*k, (m.y-3.5)*k
		w := 1 / (h[6]*s + h[7]*t + 1)
		x, y := (h[0]*s+h[1]*t+h[2])*w, (h[3]*s+h[4]*t+h[5])*w
		if bent {
			across, down := 4*s*(1-s), 4*t*(1-t)
			x += bow[0]*across + bow[2]*down
			y += bow[1]*across + bow[3]*down
		}
		x, y = x-0.5, y-0.5
		if !(x >= 0 && x < right && y >= 0 && y < bottom) {
			sum += m.sign * l.at(x+0.5, y+0.5)
			continue
		}
		a, b := int(x), int(y)
		tx, ty := float32(x-float64(a)), float32(y-float64(b))
		p := v[b*wide+a:]
		q := v[(b+1)*wide+a:]
		sum += m.sign * float64((p[0]*(1-tx)+p[1]*tx)*(1-ty)+(q[0]*(1-tx)+q[1]*tx)*ty)
	}
	*l.effort -= len(list)
	return sum / float64(len(list))
}

// starts gives poses whose fourth corner may be right: where the pattern near it agrees best, anywhere that perspective may
// have moved it.
func (g *grid) starts() (out []pose) {
	type try struct {
		pose
		agrees float64
	}
	var tries []try
	reach := 3 + 0.18*float64(g.n)
	const step = 0.6
	for j := -reach; j <= reach; j += step {
		for i := -reach; i <= reach; i += step {
			p := g.first
			p.x[3] += i*g.ux + j*g.vx
			p.y[3] += i*g.uy + j*g.vy
			f := g.with(p)
			tries = append(tries, try{p, f.agrees(g.far) - 0.002*math.Hypot(i, j)})
		}
	}
	slices.SortStableFunc(tries, func(a, b try) int { return cmp.Compare(b.agrees, a.agrees) })
	for _, t := range tries {
		apart := func(p pose) bool {
			return math.Hypot(p.x[3]-t.x[3], p.y[3]-t.y[3]) > 2*math.Hypot(g.ux+g.vx, g.uy+g.vy)/math.Sqrt2
		}
		if !slices.ContainsFunc(out, func(p pose) bool { return !apart(p) }) {
			out = append(out, t.pose)
		}
		if len(out) == 3 {
			break
		}
	}
	return out
}

// fit moves a pose, one number at a time, to where the known modules agree best.
func (g *grid) fit(p pose, bent bool) fitted { return g.fitTo(g.known, p, bent) }

// exact fits near the edges of the known modules, where a shift tells most; their middles are all alike in large pictures.
func (g *grid) exact(p pose) fitted {
	const off = 0.42
	list := make([]known, 0, 4*len(g.known))
	for _, k := range g.known {
		for _, d := range [4][2]float64{{-off, -off}, {off, -off}, {-off, off}, {off, off}} {
			list = append(list, known{k.x + d[0], k.y + d[1], k.sign})
		}
	}
	return g.fitTo(list, p, true)
}

func (g *grid) fitTo(list []known, p pose, bent bool) fitted {
	best := g.with(p)
	agrees := best.agrees(list)
	module := math.Sqrt(math.Abs(g.ux*g.vy - g.uy*g.vx))
	numbers := func(p *pose) []*float64 {
		out := []*float64{&p.x[3], &p.y[3], &p.x[0], &p.y[0], &p.x[1], &p.y[1], &p.x[2], &p.y[2]}
		if bent {
			out = append(out, &p.bow[0], &p.bow[1], &p.bow[2], &p.bow[3])
		}
		return out
	}
	for step := 0.8; step > 0.04; step /= 2 {
		for pass, moved := 0, true; moved && pass < 6; pass++ {
			moved = false
			for i := range numbers(&best.pose) {
				for _, way := range [2]float64{step * module, -step * module} {
					p := best.pose
					*numbers(&p)[i] += way
					f := g.with(p)
					if a := f.agrees(list); a > agrees+1e-6 {
						best, agrees, moved = f, a, true
						break
					}
				}
			}
		}
	}
	best.agreement = agrees
	return best
}

// dark weighs the middle of a module, five points of it.
func (f *fitted) dark(x, y int) bool {
	const off = 0.18
	cx, cy := float64(x)+0.5, float64(y)+0.5
	sum := 0.0
	for _, d := range [5][2]float64{{0, 0}, {-off, -off}, {off, -off}, {-off, off}, {off, off}} {
		px, py := f.at(cx+d[0], cy+d[1])
		sum += f.g.l.at(px, py)
	}
	return sum < 0
}

// middle is what the very middle of a module is.
func (f *fitted) middle(x, y int) bool {
	return f.g.l.at(f.at(float64(x)+0.5, float64(y)+0.5)) < 0
}

// apart tells modules apart that a soft lens has run into one another: from the middle of each it takes what its four
// neighbours have spilt over it.
func (f *fitted) apart() func(x, y int) bool {
	const spilt = 0.2 // of a neighbour's brightness
	n := f.g.n
	wide := n + 2
	middles := make([]float64, wide*wide)
	for y := range wide {
		for x := range wide {
			middles[y*wide+x] = f.g.l.at(f.at(float64(x)-0.5, float64(y)-0.5))
		}
	}
	return func(x, y int) bool {
		i := (y+1)*wide + x + 1
		return middles[i]-spilt*(middles[i-1]+middles[i+1]+middles[i-wide]+middles[i+wide]) < 0
	}
}

func (f *fitted) corners() (out [4][2]float64) {
	n := float64(f.g.n)
	for i, c := range [4][2]float64{{0, 0}, {n, 0}, {n, n}, {0, n}} {
		out[i][0], out[i][1] = f.at(c[0], c[1])
	}
	return out
}
