package optics

import (
	"math"
	"math/rand/v2"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// object is the printed thing as luminance, fine pixels a millimetre, the drawing's corner at margin.
type object struct {
	y             []float64
	width, height int
	fine, margin  float64
	ground        float64
}

// objectOf prints the drawing.
func objectOf(s *scene.Scene, ground, fine, margin float64, c Setup, of func(ink.Colour) float64) (*object, error) {
	o := &object{fine: fine, margin: margin, ground: ground, width: int(math.Ceil((s.Width + 2*margin) * fine)),
		height: int(math.Ceil((s.Height + 2*margin) * fine))}
	var err error
	o.y, err = raster.Reflectance(s, raster.View{Width: o.width, Height: o.height, Scale: fine, X: margin * fine,
		Y: margin * fine}, ground, of)
	if err != nil {
		return nil, err
	}
	switch {
	case c.Gain > 0 && c.Even:
		o.spread(c.Gain * fine)
	case c.Gain > 0:
		o.spreadSquare(c.Gain * fine)
	}
	if c.Dot > 0 && c.Dot*fine > 1 {
		o.dots(c.Dot*fine, c.Bilevel)
	} else if c.Bilevel {
		o.dots(1, true)
	}
	return o, nil
}

// worn is a copy that has been through something; the print itself where it has not.
func (o *object) worn(s *scene.Scene, c Setup) *object {
	if c.Wear <= 0 && c.Fold <= 0 && c.Torn <= 0 && c.Misplaced <= 0 {
		return o
	}
	w := *o
	w.y = slices.Clone(o.y)
	rng := rand.New(rand.NewPCG(c.Seed, 0x5EED))
	if c.Misplaced > 0 {
		w.misplace(o.y, c.Misplaced*o.fine, rng.Float64()*2*math.Pi)
	}
	if c.Wear > 0 {
		w.wear(s, min(c.Wear, 0.5), rng)
	}
	if c.Fold > 0 {
		w.fold(s, min(c.Fold, 1), rng)
	}
	if c.Torn > 0 {
		w.tear(s, min(c.Torn, 0.5))
	}
	return &w
}

// dots lets every dot of the device, side fine pixels wide, have one shade: the mean of what it covers, or the nearer of the
// darkest and the lightest that there is.
func (o *object) dots(side float64, bilevel bool) {
	low, high := slices.Min(o.y), slices.Max(o.y)
	nx, ny := int(float64(o.width)/side)+1, int(float64(o.height)/side)+1
	sum, count := make([]float64, nx*ny), make([]float64, nx*ny)
	for j := range o.height {
		row := int(float64(j)/side) * nx
		for i, y := range o.y[j*o.width:][:o.width] {
			at := row + int(float64(i)/side)
			sum[at] += y
			count[at]++
		}
	}
	for i := range sum {
		sum[i] /= max(1, count[i])
		if bilevel {
			if sum[i] > (low+high)/2 {
				sum[i] = high
			} else {
				sum[i] = low
			}
		}
	}
	for j := range o.height {
		row := int(float64(j)/side) * nx
		for i := range o.width {
			o.y[j*o.width+i] = sum[row+int(float64(i)/side)]
		}
	}
}

// misplace lets two plates, each with half of the density, lie so many fine pixels apart: what both let through is the
// product of what each does.
func (o *object) misplace(whole []float64, way, angle float64) {
	sin, cos := math.Sincos(angle)
	dx, dy := int(math.Round(way*cos)), int(math.Round(way*sin))
	for j := range o.height {
		for i := range o.width {
			other := whole[min(max(j+dy, 0), o.height-1)*o.width+min(max(i+dx, 0), o.width-1)]
			o.y[j*o.width+i] = math.Sqrt(whole[j*o.width+i] * other)
		}
	}
}

// fold breaks the ink along a crease across the code, and leaves one side of it turned from the light.
func (o *object) fold(s *scene.Scene, strength float64, rng *rand.Rand) {
	sin, cos := math.Sincos(rng.Float64() * math.Pi)
	w := s.Width * o.fine
	x0, y0 := (o.margin*o.fine)+w*(0.35+0.3*rng.Float64()), (o.margin*o.fine)+w*(0.35+0.3*rng.Float64())
	wide := w * 0.012 * strength
	for j := range o.height {
		for i := range o.width {
			d := (float64(i)-x0)*sin - (float64(j)-y0)*cos
			switch y := &o.y[j*o.width+i]; {
			case math.Abs(d) < wide/2:
				*y = 0.85
			case d > 0:
				*y *= 1 - 0.3*strength
			}
		}
	}
}

// tear takes the corner without an eye away; what lies beneath is of middling shade.
func (o *object) tear(s *scene.Scene, share float64) {
	right, bottom, cut := (o.margin+s.Width)*o.fine, (o.margin+s.Height)*o.fine, share*s.Width*o.fine
	for j := range o.height {
		for i := range o.width {
			if (right-float64(i))+(bottom-float64(j)) < cut*2 {
				o.y[j*o.width+i] = 0.35
			}
		}
	}
}

// spread lets dark grow by r pixels whichever way its edge faces: by whole pixels first, which moves soft edges as they are, then
// by what is left.
func (o *object) spread(r float64) {
	whole, part := math.Modf(r)
	if whole > 0 {
		o.y = o.darkest(whole)
	}
	if part > 1e-6 {
		o.y = o.darkest(part)
	}
}

// spreadSquare lets dark grow by a part of a pixel or more along lines and columns: the least of what lies within, between two
// whole reaches by shares. Corners grow farther than ink does.
func (o *object) spreadSquare(r float64) {
	whole := int(r)
	y := o.y
	if whole > 0 {
		y = o.least(y, whole)
	}
	if part := r - float64(whole); part > 1e-6 {
		more := o.least(y, 1)
		for i := range y {
			more[i] = y[i] + (more[i]-y[i])*part
		}
		y = more
	}
	o.y = y
}

// darkest is the darkest within a disc around each pixel; of its rim the share counts that lies within r of the pixel's edge.
func (o *object) darkest(r float64) []float64 {
	reach := int(math.Ceil(r))
	type step struct {
		dx, dy int
		share  float64
	}
	var disc []step
	for dy := -reach; dy <= reach; dy++ {
		for dx := -reach; dx <= reach; dx++ {
			if share := min(1, 1+r-math.Hypot(float64(dx), float64(dy))); share > 0 && (dx != 0 || dy != 0) {
				disc = append(disc, step{dx, dy, share})
			}
		}
	}
	out := o.least(o.y, reach)
	for j := range o.height {
		for i := range o.width {
			y := o.y[j*o.width+i]
			if out[j*o.width+i] == y { // nothing darker is near
				continue
			}
			v := y
			for _, s := range disc {
				x, z := i+s.dx, j+s.dy
				if x < 0 || z < 0 || x >= o.width || z >= o.height {
					continue
				}
				if n := o.y[z*o.width+x]; n < y {
					v = min(v, y+(n-y)*s.share)
				}
			}
			out[j*o.width+i] = v
		}
	}
	return out
}

// least is the least value within reach both ways.
func (o *object) least(y []float64, reach int) []float64 {
	rows, out := make([]float64, len(y)), make([]float64, len(y))
	for j := range o.height {
		for i := range o.width {
			v := y[j*o.width+i]
			for k := max(0, i-reach); k <= min(o.width-1, i+reach); k++ {
				v = min(v, y[j*o.width+k])
			}
			rows[j*o.width+i] = v
		}
	}
	for j := range o.height {
		for i := range o.width {
			v := rows[j*o.width+i]
			for k := max(0, j-reach); k <= min(o.height-1, j+reach); k++ {
				v = min(v, rows[k*o.width+i])
			}
			out[j*o.width+i] = v
		}
	}
	return out
}

// wear scratches and soils the drawing until a share of its area is hit: half by light scratches a few tenths of a millimetre
// wide on a code of 60 mm, half by dark blots of up to a twentieth of its width.
func (o *object) wear(s *scene.Scene, share float64, rng *rand.Rand) {
	x0, y0 := o.margin*o.fine, o.margin*o.fine
	w, h := s.Width*o.fine, s.Height*o.fine
	hit := make([]bool, len(o.y))
	count, want := 0, int(share*w*h)
	set := func(x, y float64, v float64) {
		i, j := int(x), int(y)
		if i < 0 || j < 0 || i >= o.width || j >= o.height || hit[j*o.width+i] {
			return
		}
		hit[j*o.width+i] = true
		o.y[j*o.width+i] = v
		count++
	}
	for n := 0; count < want && n < 4000; n++ {
		x, y := x0+rng.Float64()*w, y0+rng.Float64()*h
		if n%2 == 0 { // a scratch, down to the paper
			sin, cos := math.Sincos(rng.Float64() * 2 * math.Pi)
			long, wide := w*(0.05+0.2*rng.Float64()), w*0.004*(0.5+rng.Float64())
			for a := 0.0; a < long && count < want; a += 0.5 {
				for b := -wide; b <= wide; b += 0.5 {
					set(x+cos*a-sin*b, y+sin*a+cos*b, 0.85)
				}
			}
			continue
		}
		r := w * (0.006 + 0.02*rng.Float64())
		for j := -r; j <= r && count < want; j++ {
			for i := -r; i <= r; i++ {
				if i*i+j*j <= r*r {
					set(x+i, y+j, 0.06)
				}
			}
		}
	}
}
