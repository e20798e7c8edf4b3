package calibration

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand"
	"os/exec"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/place"
)

// sheet is a printed page in linear light, per pixels a millimetre, with paper around it.
type sheet struct {
	w, h   int
	y      []float32
	per    float64 // pixels a millimetre
	margin float64 // mm
	ground float32
}

const fine = 10 // pixels a module

// printed has poppler turn the shipped PDF into pixels, lays it on its ground and lets ink spread: the darkest within a disc.
func printed(t testing.TB, m *compose.Rendition, p *place.Placement) *sheet {
	t.Helper()
	file, problems := m.File(compose.MustFormat("pdf"), p, export.Meta{})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	per := fine * float64(m.Modules()) / float64(p.Width)
	cmd := exec.Command("pdftoppm", "-r", fmt.Sprintf("%.3f", per*25.4), "-png", "-singlefile", "-")
	cmd.Stdin = bytes.NewReader(file)
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("pdftoppm: %v", err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	ground := float32(1)
	if p.Background != nil {
		ground = linear(color.NRGBA{p.Background.R, p.Background.G, p.Background.B, 255})
	}
	around := 3 * float64(p.Width) / float64(m.Modules())
	s := &sheet{per: per, margin: around + m.Framed(p).Left, ground: ground} // of a disc, whose middle the code is
	off := int(around * per)
	b := img.Bounds()
	s.w, s.h = b.Dx()+2*off, b.Dy()+2*off
	s.y = make([]float32, s.w*s.h)
	for i := range s.y {
		s.y[i] = ground
	}
	for y := range b.Dy() {
		for x := range b.Dx() {
			s.y[(y+off)*s.w+x+off] = linear(color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA))
		}
	}
	sub, _ := place.SubstrateOf(p.Substrate)
	s.spread(sub.Gain * per)
	return s
}

// linear is light by a plain power.
func linear(c color.NRGBA) float32 {
	f := func(v uint8) float64 { return math.Pow(float64(v)/255, 2.2) }
	return float32(0.21*f(c.R) + 0.72*f(c.G) + 0.07*f(c.B))
}

func (s *sheet) spread(r float64) {
	if r <= 0 {
		return
	}
	whole := int(math.Ceil(r))
	out := make([]float32, len(s.y))
	for y := range s.h {
		for x := range s.w {
			v := s.y[y*s.w+x]
			for dy := -whole; dy <= whole; dy++ {
				for dx := -whole; dx <= whole; dx++ {
					far := math.Hypot(float64(dx), float64(dy)) - r // the disc ends within this pixel where between 0 and 1
					if far >= 1 {
						continue
					}
					a, b := min(max(x+dx, 0), s.w-1), min(max(y+dy, 0), s.h-1)
					share := float32(1 - max(0, far))
					if n := s.y[b*s.w+a]; n < s.y[y*s.w+x] {
						v = min(v, s.y[y*s.w+x]+(n-s.y[y*s.w+x])*share)
					}
				}
			}
			out[y*s.w+x] = v
		}
	}
	s.y = out
}

func (s *sheet) at(x, y float64) float32 {
	fx, fy := (x+s.margin)*s.per-0.5, (y+s.margin)*s.per-0.5
	i, j := int(math.Floor(fx)), int(math.Floor(fy))
	if i < 0 || j < 0 || i+1 >= s.w || j+1 >= s.h {
		return s.ground
	}
	a, b := float32(fx-float64(i)), float32(fy-float64(j))
	r := s.y[j*s.w+i:]
	q := s.y[(j+1)*s.w+i:]
	return (r[0]*(1-a)+r[1]*a)*(1-b) + (q[0]*(1-a)+q[1]*a)*b
}

// look is one draw.
type look struct {
	distance, tilt, way, turn float64 // mm; degrees
	level                     float64
	vignette, shade           float64
	motion, blur              float64 // mm
}

// lookOf draws one of what is ordinary at a place, as the proof understands it.
func lookOf(p *place.Placement, module float64, rng *rand.Rand) look {
	k := look{distance: float64(p.Distance) * (0.97 + 0.06*rng.Float64()), way: rng.Float64() * 360, turn: rng.NormFloat64() * 4,
		level: map[string]float64{"indoor": 1, "outdoor": 3, "dim": 0.04}[p.Light]}
	kinds := 6
	outdoors := p.Light == "outdoor"
	if outdoors {
		kinds = 7
	}
	switch rng.Intn(kinds) {
	case 1:
		k.distance *= 0.5
	case 2:
		k.distance *= 1.5
	case 3:
		k.tilt = 10 + 10*rng.Float64()
	case 4:
		k.vignette = 0.4
	case 5:
		k.motion, k.blur = 0.2*module, 0.1*module
	case 6:
		k.shade = 0.65
	}
	near := max(80, float64(p.Width)*1170/1080/0.9)
	k.distance = max(k.distance, near)
	return k
}

// shoot takes the picture: corners thrown onto the sensor one by one, the projection between them solved for, nine shaken samples a pixel.
func (s *sheet) shoot(width float64, modules int, k look, rng *rand.Rand) *image.Gray {
	focal := 1170.0
	if most := 3.6 * float64(modules); width*focal/k.distance > most {
		focal = most * k.distance / width
	}
	m := s.shown(width / float64(modules))
	var src, dst [4][2]float64
	rad := math.Pi / 180
	for i, c := range [4][2]float64{{-m, -m}, {width + m, -m}, {width + m, width + m}, {-m, width + m}} {
		x, y := c[0]-width/2, c[1]-width/2
		// Turn, then lean about the line that lies at way.
		x, y = x*math.Cos(k.turn*rad)-y*math.Sin(k.turn*rad), x*math.Sin(k.turn*rad)+y*math.Cos(k.turn*rad)
		ax, ay := math.Cos(k.way*rad), math.Sin(k.way*rad)
		along, across := x*ax+y*ay, -x*ay+y*ax
		z := k.distance + across*math.Sin(k.tilt*rad)
		across *= math.Cos(k.tilt * rad)
		src[i] = c
		dst[i] = [2]float64{(along*ax - across*ay) * focal / z, (along*ay + across*ax) * focal / z}
	}
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, d := range dst {
		x0, y0, x1, y1 = min(x0, d[0]), min(y0, d[1]), max(x1, d[0]), max(y1, d[1])
	}
	dx, dy := rng.Float64()-x0, rng.Float64()-y0
	w, h := int(x1-x0)+1, int(y1-y0)+1
	for i := range dst {
		dst[i][0] += dx
		dst[i][1] += dy
	}
	back := solve(dst, src)
	light := make([]float64, w*h)
	px := k.motion * focal / k.distance
	angle := rng.Float64() * 2 * math.Pi
	cx, cy := float64(w)*rng.Float64(), float64(h)*rng.Float64()
	edge := rng.Float64() * 2 * math.Pi
	for v := range h {
		for u := range w {
			sum := float32(0)
			for i := range 9 {
				a := float64(u) + (float64(i%3)+rng.Float64())/3
				b := float64(v) + (float64(i/3)+rng.Float64())/3
				if px > 0 {
					t := rng.Float64() - 0.5
					a, b = a+px*t*math.Cos(angle), b+px*t*math.Sin(angle)
				}
				x, y := through(back, a, b)
				sum += s.at(x, y)
			}
			l := float64(sum) / 9 * k.level
			if k.vignette > 0 {
				l *= 1 - k.vignette*math.Min(1, math.Hypot(float64(u)-cx, float64(v)-cy)/float64(w))
			}
			if k.shade > 0 && (float64(u)-float64(w)/2)*math.Cos(edge)+(float64(v)-float64(h)/2)*math.Sin(edge) > 0 {
				l *= 1 - k.shade
			}
			light[v*w+u] = l
		}
	}
	light = soften(light, w, math.Hypot(0.5, k.blur*focal/k.distance))
	return expose(light, w, rng)
}

// soften convolves with a Gaussian, straight in two dimensions.
func soften(y []float64, w int, sigma float64) []float64 {
	r := int(math.Ceil(2.5 * sigma))
	h := len(y) / w
	type tap struct {
		dx, dy int
		k      float64
	}
	var taps []tap
	sum := 0.0
	for dy := -r; dy <= r; dy++ {
		for dx := -r; dx <= r; dx++ {
			k := math.Exp(-float64(dx*dx+dy*dy) / (2 * sigma * sigma))
			taps = append(taps, tap{dx, dy, k})
			sum += k
		}
	}
	out := make([]float64, len(y))
	for j := range h {
		for i := range w {
			v := 0.0
			for _, t := range taps {
				v += t.k * y[min(max(j+t.dy, 0), h-1)*w+min(max(i+t.dx, 0), w-1)]
			}
			out[j*w+i] = v / sum
		}
	}
	return out
}

// expose counts electrons of a sensor somewhat worse than the model's, for up to three times as long where it is dark, brightens by the mean of
// the picture's edge, which is paper, and stores by a plain power.
func expose(light []float64, w int, rng *rand.Rand) *image.Gray {
	h := len(light) / w
	edge, n := 0.0, 0.0
	for i, l := range light {
		if x, y := i%w, i/w; x < 2 || y < 2 || x >= w-2 || y >= h-2 {
			edge, n = edge+l, n+1
		}
	}
	const well, read = 5000, 3
	patience := math.Max(1, math.Min(3, 0.75/(edge/n)))
	gain := math.Min(16, 0.75/(patience*edge/n))
	img := image.NewGray(image.Rect(0, 0, w, h))
	for i, l := range light {
		e := math.Min(l*patience, 4) * well
		e += rng.NormFloat64() * math.Sqrt(e+read*read)
		img.Pix[i] = uint8(255*math.Pow(math.Min(1, math.Max(0, e/well*gain)), 1/2.2) + 0.5)
	}
	return img
}

// solve finds the projection that takes four points to four others, by Gauss's elimination.
func solve(from, to [4][2]float64) (h [9]float64) {
	var m [8][9]float64
	for i := range 4 {
		x, y, u, v := from[i][0], from[i][1], to[i][0], to[i][1]
		m[2*i] = [9]float64{x, y, 1, 0, 0, 0, -u * x, -u * y, u}
		m[2*i+1] = [9]float64{0, 0, 0, x, y, 1, -v * x, -v * y, v}
	}
	for c := range 8 {
		best := c
		for r := c; r < 8; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[best][c]) {
				best = r
			}
		}
		m[c], m[best] = m[best], m[c]
		for r := range 8 {
			if r == c {
				continue
			}
			k := m[r][c] / m[c][c]
			for j := c; j < 9; j++ {
				m[r][j] -= k * m[c][j]
			}
		}
	}
	for i := range 8 {
		h[i] = m[i][8] / m[i][i]
	}
	h[8] = 1
	return h
}

func through(h [9]float64, x, y float64) (float64, float64) {
	w := h[6]*x + h[7]*y + h[8]
	return (h[0]*x + h[1]*y + h[2]) / w, (h[3]*x + h[4]*y + h[5]) / w
}

// shown is how much around the code is in the picture, in millimetres: all of what fills a disc out.
func (s *sheet) shown(module float64) float64 { return max(2.6*module, s.margin-0.4*module) }
