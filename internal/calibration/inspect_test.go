package calibration

import (
	"flag"
	"fmt"
	"image"
	"math"
	"math/rand"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/inspect"
)

var allPrints = flag.Bool("prints", false, "measure every look with every growth in TestInspect, not two of them")

// TestInspect measures pictures of prints, made by other means than those of the core, whose growth and contrast are known:
// flatbed scans at 600 dots an inch, and photographs of eight pixels a module and more, from askew, in uneven light, through
// lenses, halos and compression drawn at random.
func TestInspect(t *testing.T) {
	const width = 25.0
	looks := []string{
		`"ink":"#000000"`,
		`"ink":"#12352b"`,
		`"ink":"#5b1f33","modules":{"join":"rows","corner":0.6}`,
		`"ink":"#1f3a5a","paper":"#f6f0e2","eyes":{"ring":{"corners":[0.5,0.5,0.5,0.5]},"core":{"motif":"disc"}}`,
		`"ink":"#12352b","mark":{"source":"icon:sprout","clear":"disc","width":0.18}`,
		`"ink":"#3c3c3c","modules":{"join":"none","corner":0.2,"scale":0.85}`,
		`"ink":"#12352b","modules":{"join":"none","motif":"disc","scale":0.9}`,
		`"ink":"#12352b","modules":{"join":"all","corner":0.8}`,
		`"ink":"#12352b","modules":{"join":"rows","corner":1,"scale":0.8}`,
	}
	for _, way := range []struct {
		name   string
		growth float64 // mm that it may be off
	}{{"scanned", 0.015}, {"photographed", 0.03}} {
		tried, outOf := 0, 0
		for i, look := range looks {
			for k, gain := range []float64{0, 0.04, 0.07, 0.1} {
				if !*allPrints && (i != 6+len(way.name)%2 || k != 3-len(way.name)%2) { // of each way one
					continue
				}
				t.Run(fmt.Sprintf("%s %d %g", way.name, i, gain), func(t *testing.T) {
					rng := rand.New(rand.NewSource(int64(i)*100 + int64(gain*1000)))
					m, problems := compose.Parse(
						[]byte(
							fmt.Sprintf(
								`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{%s},"placements":[{"name":"a","width_mm":%g,"distance_mm":200}]}`,
								look,
								width,
							),
						),
						nil,
					)
					if len(problems) > 0 {
						t.Fatal(problems)
					}
					in, err := m.Proof(0)
					if err != nil {
						t.Fatal(err)
					}
					at := m.Place(0)
					page := printedBy(t, m.For(at), at, gain, 24)
					pale := 0.12 * rng.Float64() // ink that turns out paler than it is in the file
					want := page.fade(pale)
					picture, dpi := page.taken(way.name, width, m.Modules(), rng)
					got, err := inspect.Measure(t.Context(), in, picture, dpi)
					if err != nil {
						t.Fatal(err)
					}
					if math.Abs(got.Growth.Value-gain) > way.growth {
						t.Errorf("ink grew by %.4f mm (± %.4f), truly by %.4f", got.Growth.Value, got.Growth.Off, gain)
					}
					if math.Abs(got.Contrast.Value-want) > 0.04 {
						t.Errorf("contrast %.3f (± %.3f), truly %.3f", got.Contrast.Value, got.Contrast.Off, want)
					}
					if dpi > 0 && (got.Width == nil || math.Abs(got.Width.Value-width) > 0.1) {
						t.Errorf("%+v wide, truly %g mm", got.Width, width)
					}
					if math.Abs(got.Growth.Value-gain) > got.Growth.Off {
						outOf++
					}
					tried++
					t.Logf(
						"%.1f pixels a module, growth %+.4f off (± %.4f), contrast %+.3f off (± %.3f), damaged %g, reserve "+
							"%g, axial %g, bent %g",
						got.Module,
						got.Growth.Value-gain,
						got.Growth.Off,
						got.Contrast.Value-want,
						got.Contrast.Off,
						got.Damaged,
						got.Reserve,
						got.Axial,
						got.Grid,
					)
				})
			}
		}
		t.Logf("%s: of %d growths %d lie beyond what is given or taken", way.name, tried, outOf)
		if outOf > 0 {
			t.Errorf("%s: of %d growths %d lie beyond what is given or taken", way.name, tried, outOf)
		}
	}
}

// fade lets some light through the ink everywhere, and gives the contrast of what is darkest that is left.
func (s *sheet) fade(by float64) float64 {
	low, high := float32(1), float32(0)
	for i, v := range s.y {
		s.y[i] = v + float32(by)*(1-v)
		if x, y := i%s.w, i/s.w; x > s.w/4 && x < s.w*3/4 && y > s.h/4 && y < s.h*3/4 {
			low, high = min(low, s.y[i]), max(high, s.y[i])
		}
	}
	return float64(high - low)
}

// taken is the sheet under a scanner of 600 dots an inch, or before a phone.
func (s *sheet) taken(how string, width float64, modules int, rng *rand.Rand) (picture *image.Gray, dpi float64) {
	if how == "scanned" {
		dpi, far := 600.0, 1e5
		// A pin-hole so far away that all lies the same way below it.
		with := phone{Lens: 0.6, Quality: 95, Lines: int(dpi / 25.4 * far * 24 / 26), Per: 100}
		return s.shoot(width, modules, look{distance: far, turn: rng.NormFloat64(), level: 1}, with, rng), dpi
	}
	with := phone{
		Lens:    0.4 + 0.5*rng.Float64(),
		Halo:    []float64{0, 0.3, 0.6}[rng.Intn(3)],
		Quality: 75 + rng.Intn(20),
		Lines:   2160,
		Per:     8 + 4*rng.Float64(),
	}
	k := look{
		distance: 120 + 40*rng.Float64(),
		tilt:     15 * rng.Float64(),
		way:      rng.Float64() * 360,
		turn:     rng.NormFloat64() * 8,
		level:    1,
		vignette: 0.25 * rng.Float64(),
	}
	return s.shoot(width, modules, k, with, rng), 0
}
