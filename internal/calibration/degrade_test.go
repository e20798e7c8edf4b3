package calibration

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
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
// gain is how many times as much as on its substrate.
func printed(t testing.TB, m *compose.Rendition, p *place.Placement, gain float64) *sheet {
	t.Helper()
	sub, _ := place.SubstrateOf(p.Substrate)
	return printedBy(t, m, p, sub.Gain*gain, fine)
}

// printedBy lets ink spread by so many millimetres, and draws so many pixels a module.
func printedBy(t testing.TB, m *compose.Rendition, p *place.Placement, gain, fine float64) *sheet {
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
	s.spread(gain * per)
	return s
}

// linear is light by a plain power.
func linear(c color.NRGBA) float32 {
	f := func(v uint8) float64 { return math.Pow(float64(v)/255, 2.2) }
	return float32(0.21*f(c.R) + 0.72*f(c.G) + 0.07*f(c.B))
}

// spread grows by whole pixels first: an edge within a pixel stays as soft as it is.
func (s *sheet) spread(r float64) {
	if r > 1 && r != math.Floor(r) {
		s.spread(math.Floor(r))
		r -= math.Floor(r)
	}
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

// phone is what takes all pictures of a code, and the press that printed it; it varies more than anything in the model.
type phone struct {
	Lens    float64 `json:"lens"` // standard deviation of its blur in pixels
	Halo    float64 `json:"halo"` // of sharpening
	Quality int     `json:"quality"`
	Lines   int     `json:"lines"` // of its video
	Gain    float64 `json:"gain"`  // of the press, in that of the substrate
	Per     float64 `json:"-"`     // pixels a module that its pictures have at most; 0 for 3.6
}

func phoneOf(rng *rand.Rand) phone {
	p := phone{Lens: 0.35 + 0.55*rng.Float64(), Halo: []float64{0, 0, 0.3, 0.6, 0.9}[rng.Intn(5)], Quality: 60 + rng.Intn(36),
		Lines: []int{1080, 1080, 2160}[rng.Intn(3)], Gain: []float64{1, 1.25, 1.5}[rng.Intn(3)]}
	if *onlyLines > 0 {
		p.Lines = *onlyLines
	}
	return p
}

func (p phone) focal() float64 { return float64(p.Lines) * 26 / 24 }

// look is one draw.
type look struct {
	distance, tilt, way, turn float64 // mm; degrees
	level                     float64
	vignette, shade           float64
	motion, blur              float64 // mm
	roll                      float64 // by how much lines move on from one to the next, in parts of a line
}

// lookOf draws one of what is ordinary at a place, as the proof understands it.
func lookOf(p *place.Placement, module float64, with phone, rng *rand.Rand) look {
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
		k.tilt = 10 + 15*rng.Float64()
	case 4:
		k.vignette = 0.4
	case 5:
		k.motion, k.blur, k.roll = 0.2*module, 0.1*module, 0.04*(rng.Float64()-0.5)
	case 6:
		k.shade = 0.65
	}
	near := max(80, float64(p.Width)*with.focal()/float64(with.Lines)/0.9)
	k.distance = max(k.distance, near)
	return k
}

// shoot takes the picture: corners thrown onto the sensor one by one, the projection between them solved for, nine shaken
// samples a pixel, which the lens blurs before the pixel adds them up.
func (s *sheet) shoot(width float64, modules int, k look, with phone, rng *rand.Rand) *image.Gray {
	focal := with.focal()
	if most := max(3.6, with.Per) * float64(modules); width*focal/k.distance > most {
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
	wide := 3 * w
	light := make([]float64, wide*3*h) // thirds of pixels
	px := k.motion * focal / k.distance
	angle := rng.Float64() * 2 * math.Pi
	cx, cy := float64(wide)*rng.Float64(), float64(3*h)*rng.Float64()
	edge := rng.Float64() * 2 * math.Pi
	for v := range 3 * h {
		for u := range wide {
			a, b := (float64(u)+rng.Float64())/3, (float64(v)+rng.Float64())/3
			a += k.roll * math.Floor(b)
			if px > 0 {
				t := rng.Float64() - 0.5
				a, b = a+px*t*math.Cos(angle), b+px*t*math.Sin(angle)
			}
			l := float64(s.at(through(back, a, b))) * k.level
			if k.vignette > 0 {
				l *= 1 - k.vignette*math.Min(1, math.Hypot(float64(u)-cx, float64(v)-cy)/float64(wide))
			}
			if k.shade > 0 && (float64(u)-float64(wide)/2)*math.Cos(edge)+(float64(v)-1.5*float64(h))*math.Sin(edge) > 0 {
				l *= 1 - k.shade
			}
			light[v*wide+u] = l
		}
	}
	light = soften(light, wide, 3*math.Hypot(with.Lens, k.blur*focal/k.distance))
	pixels := make([]float64, w*h)
	for v := range 3 * h {
		for u := range wide {
			pixels[v/3*w+u/3] += light[v*wide+u] / 9
		}
	}
	return with.store(expose(pixels, w, rng))
}

// store sharpens a picture and compresses it.
func (p phone) store(img *image.Gray) *image.Gray {
	plain := make([]float64, len(img.Pix))
	for i, v := range img.Pix {
		plain[i] = float64(v)
	}
	for i, v := range soften(plain, img.Rect.Dx(), 1.2) {
		img.Pix[i] = uint8(math.Min(255, math.Max(0, plain[i]+p.Halo*(plain[i]-v)+0.5)))
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: p.Quality}); err != nil {
		panic(err) // memory takes it
	}
	back, err := jpeg.Decode(&b)
	if err != nil {
		panic(err)
	}
	draw.Draw(img, img.Rect, back, image.Point{}, draw.Src)
	return img
}

// soften convolves with a Gaussian, weights taken from its integral, along lines and then along columns.
func soften(y []float64, w int, sigma float64) []float64 {
	r := int(math.Ceil(3 * sigma))
	k := make([]float64, 2*r+1)
	for i := range k {
		d := float64(i - r)
		k[i] = 0.5 * (math.Erf((d+0.5)/sigma/math.Sqrt2) - math.Erf((d-0.5)/sigma/math.Sqrt2))
	}
	h := len(y) / w
	along := func(in []float64, step, n, lines, skip int) []float64 {
		out := make([]float64, len(in))
		for l := range lines {
			for i := range n {
				v, sum := 0.0, 0.0
				for j, weight := range k {
					if at := i + j - r; at >= 0 && at < n {
						v, sum = v+weight*in[l*skip+at*step], sum+weight
					}
				}
				out[l*skip+i*step] = v / sum
			}
		}
		return out
	}
	return along(along(y, 1, w, h, w), w, h, w, 1)
}

// expose counts electrons of a sensor somewhat worse than the model's, for up to three times as long where it is dark,
// brightens by the mean of the picture's edge, which is paper, and stores by a plain power.
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
