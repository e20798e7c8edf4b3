package optics

import (
	"fmt"
	"image"
	"math"
	"slices"
	"testing"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

func drawn(t *testing.T) (*symbol.Symbol, *scene.Scene) {
	t.Helper()
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return s, layout.Draw(s, look.Default(), 4, 37, nil) // 1 mm a module
}

// spotOf is where a point of the drawing lies on the sensor, worked out afresh: a plane turned about one horizontal and one
// vertical axis in front of a pin-hole.
func spotOf(c Setup, sc *scene.Scene, x, y float64) (u, w float64) {
	x, y = x-sc.Width/2, y-sc.Height/2
	a, b := c.TiltX*math.Pi/180, c.TiltY*math.Pi/180
	// About the vertical axis first, then about the horizontal one.
	x1, z1 := x*math.Cos(b), -x*math.Sin(b)
	y2, z2 := y*math.Cos(a)-z1*math.Sin(a), y*math.Sin(a)+z1*math.Cos(a)
	z := z2 + c.Distance
	return x1 / z * c.Camera.Focal, y2 / z * c.Camera.Focal
}

// matrix samples the middle of every module from a picture, where independent geometry says it lies, against a threshold
// between its neighbours, and has the symbol decoded.
func matrix(t *testing.T, s *symbol.Symbol, sc *scene.Scene, c Setup) (wrong int, read bool) {
	t.Helper()
	img, err := Expose(sc, 1, c)
	if err != nil {
		t.Fatal(err)
	}
	r := newView(sc, c).frame(sc, 37*0.12*0.8, c)
	at := func(mx, my int) float64 {
		u, w := spotOf(c, sc, float64(mx)+4.5, float64(my)+4.5)
		p := image.Pt(int(math.Floor(u))-r.Min.X, int(math.Floor(w))-r.Min.Y)
		if !p.In(img.Rect) {
			return 255
		}
		return float64(img.GrayAt(p.X, p.Y).Y)
	}
	var all []float64
	for y := range s.Size {
		for x := range s.Size {
			all = append(all, at(x, y))
		}
	}
	slices.Sort(all)
	limit := (all[len(all)/20] + all[len(all)*19/20]) / 2
	dark := func(x, y int) bool { return at(x, y) < limit }
	for y := range s.Size {
		for x := range s.Size {
			if dark(x, y) != s.Dark(x, y) {
				wrong++
			}
		}
	}
	d, err := decode.Matrix(s.Size, dark)
	return wrong, err == nil && d.Payload == "https://marrowby.example/fair"
}

func from(distance float64) Setup { return Setup{Camera: Phone, Distance: distance, Seed: 7} }

// TestIdeal: with nothing in the way the grid comes back exactly, at ten pixels a module, and from a tilt that an independent
// geometry agrees with.
func TestIdeal(t *testing.T) {
	s, sc := drawn(t)
	near := from(Phone.Focal / 10)
	for _, c := range []Setup{near, {Camera: Phone, Distance: 150, TiltX: 40}, {Camera: Phone, Distance: 150, TiltY: -35},
		{Camera: Phone, Distance: 180, TiltX: 25, TiltY: 30}} {
		if wrong, read := matrix(t, s, sc, c); wrong != 0 || !read {
			t.Errorf("tilts %g, %g: %d modules are wrong", c.TiltX, c.TiltY, wrong)
		}
	}
	a, _ := Expose(sc, 1, near)
	b, _ := Expose(sc, 1, near)
	if !slices.Equal(a.Pix, b.Pix) {
		t.Error("the same setup gives other pixels")
	}
}

// TestThereAndBack: points of the sensor go back to where they came from, on planes and around cylinders.
func TestThereAndBack(t *testing.T) {
	_, sc := drawn(t)
	for _, c := range []Setup{from(200), {Camera: Phone, Distance: 300, TiltX: 50, TiltY: 20, Turn: 33, ShiftX: 0.4},
		{Camera: Phone, Distance: 250, Radius: 30}, {Camera: Phone, Distance: 250, Radius: 25, TiltX: 20, Turn: 5}} {
		v := newView(sc, c)
		for _, p := range [][2]float64{{18.5, 18.5}, {3, 5}, {30, 34}, {12, 1}} {
			u, w, ok := v.project(p[0], p[1])
			x, y, hit := v.back(u, w)
			if !ok || !hit || math.Hypot(x-p[0], y-p[1]) > 1e-6 {
				t.Errorf("%+v: %v comes back as %g, %g", c, p, x, y)
			}
		}
	}
}

// TestWorse: each circumstance has a level at which reading fails for certain, and never gets better towards it by more than
// chance.
func TestWorse(t *testing.T) {
	s, sc := drawn(t)
	for name, worse := range map[string]func(k float64) Setup{
		"distance": func(k float64) Setup { return from(250 + 1400*k) },
		"blur":     func(k float64) Setup { c := from(250); c.Blur = 1.6 * k; return c },
		"motion":   func(k float64) Setup { c := from(250); c.Motion = 4 * k; return c },
		"dark":     func(k float64) Setup { c := from(250); c.Level = math.Pow(10, -4.5*k); return c },
		"tilt":     func(k float64) Setup { c := from(380); c.TiltX = 84 * k; return c },
		"wear":     func(k float64) Setup { c := from(250); c.Wear = 0.5 * k; return c },
		"gain":     func(k float64) Setup { c := from(250); c.Gain = 0.9 * k; return c },
		"glare":    func(k float64) Setup { c := from(250); c.Glare = 40 * k; return c },
	} {
		t.Run(name, func(t *testing.T) {
			best, before := true, 0
			for i := range 11 {
				wrong, read := matrix(t, s, sc, worse(float64(i)/10))
				switch {
				case i == 0 && (wrong != 0 || !read):
					t.Errorf("%s: at none of it %d modules are wrong", name, wrong)
				case wrong < before*7/10-6:
					t.Errorf("%s: from %d to %d wrong modules at step %d", name, before, wrong, i)
				case read && !best && wrong > 8:
					t.Errorf("%s: reads again at step %d", name, i)
				}
				best, before = read, wrong
			}
			if best {
				t.Errorf("%s: reads at its worst", name)
			}
		})
	}
}

// TestBlurAgrees: an edge blurred by the model is the error function, worked out here.
func TestBlurAgrees(t *testing.T) {
	sc := &scene.Scene{Width: 40, Height: 40, Items: []scene.Item{{Path: scene.Rectangle(0, 0, 20, 40), At: scene.Unit}}}
	plain := Phone
	plain.Halo, plain.Quality = 0, 0
	c := Setup{Camera: plain, Distance: 117, Blur: 0.5}
	img, err := Expose(sc, 1, c)
	if err != nil {
		t.Fatal(err)
	}
	r := newView(sc, c).frame(sc, 40*0.12*0.8, c)
	for d := -1.5; d <= 1.5; d += 0.25 { // millimetres from the edge
		px := d * Phone.Focal / c.Distance
		x := int(math.Floor(px)) - r.Min.X
		exact := 0.5 * (1 + math.Erf((math.Floor(px)+0.5)/math.Sqrt2/math.Hypot(0.5*Phone.Focal/c.Distance, plain.Lens))) * 0.8
		mean := 0.0
		for y := range 40 {
			v := float64(img.GrayAt(x, img.Rect.Dy()/2-20+y).Y) / 255
			if v <= 0.04045 {
				v /= 12.92
			} else {
				v = math.Pow((v+0.055)/1.055, 2.4)
			}
			mean += v / 40
		}
		if math.Abs(mean-exact) > 0.02 {
			t.Errorf("%g mm from the edge it is %.3f bright, want %.3f", d, mean, exact)
		}
	}
}

func BenchmarkExpose(b *testing.B) {
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{})
	if err != nil {
		b.Fatal(err)
	}
	sc := layout.Draw(s, look.Default(), 4, 37, nil)
	c := Setup{Camera: Phone, Distance: 250, TiltX: 20, Blur: 0.1, Gain: 0.05, Wear: 0.03}
	for b.Loop() {
		if _, err := Expose(sc, 1, c); err != nil {
			b.Fatal(err)
		}
	}
}

// TestFlatAgreesWithRays: the projection of a plane is what rays to it give, and how it moves from pixel to pixel is its
// derivative.
func TestFlatAgreesWithRays(t *testing.T) {
	_, sc := drawn(t)
	for _, c := range []Setup{from(200), {Camera: Phone, Distance: 150, TiltX: 40, TiltY: -25, Turn: 33, ShiftX: 0.3,
		ShiftY: 0.8}} {
		v := newView(sc, c)
		flat := v.flat()
		for _, p := range [][2]float64{{0, 0}, {40, -30}, {-70, 55}, {12.5, 80.25}} {
			got, ok := flat(p[0], p[1])
			want, ok2 := v.curved(p[0], p[1])
			if !ok || !ok2 {
				t.Fatalf("%v is not seen", p)
			}
			for i, pair := range [][2]float64{{got.x, want.x}, {got.y, want.y}, {got.xu, want.xu}, {got.yu, want.yu},
				{got.xw, want.xw}, {got.yw, want.yw}} {
				if math.Abs(pair[0]-pair[1]) > 2e-3 {
					t.Errorf("%v at %v, number %d: %g, by rays %g", c, p, i, pair[0], pair[1])
				}
			}
		}
	}
}

// TestHandling: creases, torn corners, coarse dots and copies each change the picture where they should and nowhere else.
func TestHandling(t *testing.T) {
	_, sc := drawn(t)
	near := from(Phone.Focal / 8)
	p, err := NewPrint(sc, 1, 24, near)
	if err != nil {
		t.Fatal(err)
	}
	take := func(change func(*Setup)) *image.Gray {
		t.Helper()
		c := near
		change(&c)
		img, err := p.Expose(c)
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	plain := take(func(*Setup) {})
	changed := func(img *image.Gray, r image.Rectangle) float64 {
		n := 0.0
		for y := r.Min.Y; y < r.Max.Y; y++ {
			for x := r.Min.X; x < r.Max.X; x++ {
				if d := int(img.GrayAt(x, y).Y) - int(plain.GrayAt(x, y).Y); d > 40 || d < -40 {
					n++
				}
			}
		}
		return n / float64(r.Dx()*r.Dy())
	}
	b := plain.Rect
	corner, rest := image.Rect(b.Max.X-50, b.Max.Y-50, b.Max.X-30, b.Max.Y-30), image.Rect(30, 30, 150, 150)
	if torn := take(func(c *Setup) { c.Torn = 0.2 }); changed(torn, corner) < 0.3 || changed(torn, rest) > 0.01 {
		t.Errorf("torn: corner %.2f, rest %.2f", changed(torn, corner), changed(torn, rest))
	}
	if fold := changed(take(func(c *Setup) { c.Fold = 1 }), b); fold < 0.002 || fold > 0.6 {
		t.Errorf("fold: %.3f", fold)
	}
	little, much := changed(take(func(c *Setup) { c.Misplaced = 0.2 }), b), changed(take(func(c *Setup) { c.Misplaced = 0.5 }), b)
	if little <= 0 || much <= little || much > 0.5 {
		t.Errorf("plates off by a fifth and a half of a module: %.3f, %.3f", little, much)
	}
	if again := changed(take(func(*Setup) {}), b); again != 0 {
		t.Errorf("the print keeps what one picture did to it: %.3f", again)
	}
	copied, err := NewPrint(sc, 1, 24, Setup{Dot: 0.3, Bilevel: true})
	if err != nil {
		t.Fatal(err)
	}
	for _, at := range [][2]float64{{5.2, 5.3}, {20.1, 18.7}, {0.3, 0.3}} {
		if y := copied.At(at[0], at[1]); y > 0.01 && y < 0.99 {
			t.Errorf("a dot of %g at %v", y, at)
		}
	}
}

// TestExposure: where it is darker a picture takes longer, up to a video frame, and keeps its grain and its brightness;
// beyond that it is amplified with all of its noise, and at last stays dark.
func TestExposure(t *testing.T) {
	sheet := &scene.Scene{Width: 40, Height: 40}
	at := func(level float64) (mean, grain float64) {
		c := from(200)
		c.Level = level
		img, err := Expose(sheet, 0.8, c)
		if err != nil {
			t.Fatal(err)
		}
		n := 0.0
		for _, v := range img.Pix {
			mean, n = mean+float64(v), n+1
		}
		mean /= n
		for _, v := range img.Pix {
			grain += (float64(v) - mean) * (float64(v) - mean)
		}
		return mean, math.Sqrt(grain / n)
	}
	mean, grain := at(1)
	for _, c := range []struct {
		level, mean, least, most float64 // of the grain in an office
	}{{0.35, mean, 0.8, 1.25}, {0.1, mean, 1.2, 3}, {0.04, mean, 2, 6}, {0.004, mean * 0.6, 4, 60}} {
		t.Run(fmt.Sprint(c.level), func(t *testing.T) {
			m, g := at(c.level)
			if m > mean*1.06 || m < c.mean*0.9 && c.level > 0.01 || c.level < 0.01 && m > c.mean || g < c.least*grain ||
				g > c.most*grain {
				t.Errorf("in %g of the light: brightness %.0f, grain %.2f; in an office %.0f, %.2f", c.level, m, g, mean, grain)
			}
		})
	}
}
