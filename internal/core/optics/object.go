package optics

import (
	"math"
	"math/rand/v2"

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

// objectOf prints the drawing and wears it.
func objectOf(s *scene.Scene, ground, fine, margin float64, c Setup) (*object, error) {
	o := &object{fine: fine, margin: margin, ground: ground, width: int(math.Ceil((s.Width + 2*margin) * fine)), height: int(math.Ceil((s.Height + 2*margin) * fine))}
	var err error
	o.y, err = raster.Luminance(s, raster.View{Width: o.width, Height: o.height, Scale: fine, X: margin * fine, Y: margin * fine}, ground)
	if err != nil {
		return nil, err
	}
	if c.Gain > 0 {
		o.spread(c.Gain * fine)
	}
	if c.Wear > 0 {
		o.wear(s, min(c.Wear, 0.5), rand.New(rand.NewPCG(c.Seed, 0x5EED)))
	}
	return o, nil
}

// spread lets dark grow by a part of a pixel or more: the least of what lies within, between two whole reaches by shares.
func (o *object) spread(r float64) {
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

// wear scratches and soils the drawing until a share of its area is hit: half by light scratches, half by dark blots.
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
		r := w * 0.012 * (0.4 + rng.Float64())
		for j := -r; j <= r && count < want; j++ {
			for i := -r; i <= r; i++ {
				if i*i+j*j <= r*r {
					set(x+i, y+j, 0.06)
				}
			}
		}
	}
}

// at is the luminance at a point of the drawing, in millimetres from its corner; beyond the margin it is the ground.
func (o *object) at(x, y float64) float64 {
	i, j := int(math.Floor((x+o.margin)*o.fine)), int(math.Floor((y+o.margin)*o.fine))
	if i < 0 || j < 0 || i >= o.width || j >= o.height {
		return o.ground
	}
	return o.y[j*o.width+i]
}
