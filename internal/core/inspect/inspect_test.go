package inspect_test

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/inspect"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
)

func input(t testing.TB, look string) proof.Input {
	t.Helper()
	m, problems := compose.Parse(
		[]byte(
			fmt.Sprintf(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{%s},"placements":[{"name":"a","width_mm":25,"distance_mm":200,"substrate":"uncoated"}]}`,
				look,
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
	return in
}

// taken is a picture of a print of so many pixels a module, with dark edges spread by gain, changed by how.
func taken(t testing.TB, in proof.Input, per, gain float64, how func(*optics.Setup)) *image.Gray {
	t.Helper()
	c := optics.Setup{Camera: optics.Phone, Distance: 150, Gain: gain, ShiftX: 0.3, ShiftY: 0.7, Seed: 5, Around: 0.3}
	c.Camera.Lines = 4000
	c.Camera.Focal = per * c.Distance * float64(in.Symbol.Size+2*in.QuietZone) / in.Scene.Width
	if how != nil {
		how(&c)
	}
	img, err := optics.Expose(in.Scene, 1, c)
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// TestMeasure: what the model of the camera did to a print comes back as figures. Pictures by other means are in package
// calibration.
func TestMeasure(t *testing.T) {
	dark, pale := input(t, `"ink":"#000000"`), input(t, `"ink":"#6a6a6a"`)
	for _, c := range []struct {
		name              string
		in                proof.Input
		per, gain         float64
		how               func(*optics.Setup)
		contrast          float64
		damaged           [2]float64 // least and most
		growthOff, expect float64    // mm
	}{
		{name: "as it is", in: dark, per: 10, gain: 0.05, contrast: 1, growthOff: 0.01},
		{name: "nothing gained", in: dark, per: 10, contrast: 1, growthOff: 0.01},
		{name: "twice as much", in: dark, per: 10, gain: 0.1, contrast: 1, growthOff: 0.015},
		{name: "pale", in: pale, per: 10, gain: 0.05, contrast: 0.856, growthOff: 0.01},
		{name: "askew", in: dark, per: 12, gain: 0.05, how: func(c *optics.Setup) { c.TiltX, c.TiltY, c.Turn = 15, -10, 23 },
			contrast: 1, growthOff: 0.015},
		{name: "in uneven light", in: dark, per: 10, gain: 0.05, how: func(c *optics.Setup) {
			c.Uneven = 0.3
		}, contrast: 1, growthOff: 0.015},
		{name: "coarse", in: dark, per: 5, gain: 0.05, contrast: 1, growthOff: 0.03},
		{name: "fine", in: dark, per: 40, gain: 0.05, contrast: 1, growthOff: 0.01},
		{name: "worn", in: dark, per: 12, gain: 0.05, how: func(c *optics.Setup) {
			c.Wear, c.Seed = 0.02, 9
		}, contrast: 1, damaged: [2]float64{0.005, 0.08}, growthOff: 0.02},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := inspect.Measure(t.Context(), c.in, taken(t, c.in, c.per, c.gain, c.how), 0)
			if err != nil {
				t.Fatal(err)
			}
			if math.Abs(got.Growth.Value-c.gain) > c.growthOff || got.Growth.Reckoned != 0.05 || got.Growth.Off <= 0 {
				t.Errorf("growth %+v, want %g", got.Growth, c.gain)
			}
			if math.Abs(got.Contrast.Value-c.contrast) > 0.03 || got.Contrast.Off < 0.02 {
				t.Errorf("contrast %+v, want %g", got.Contrast, c.contrast)
			}
			if got.Damaged < c.damaged[0] || got.Damaged > c.damaged[1] || got.Reserve < 0.3 {
				t.Errorf("damaged %g, reserve %g", got.Damaged, got.Reserve)
			}
			if got.Width != nil {
				t.Error("a photograph has no resolution")
			}
		})
	}
}

// TestScan: a resolution makes a ruler of the picture; what is measured is the print and not the file.
func TestScan(t *testing.T) {
	in := input(t, `"ink":"#000000"`)
	modules := float64(in.Symbol.Size + 2*in.QuietZone)
	got, err := inspect.Measure(t.Context(),
		in,
		taken(t, in, 16, 0.05, nil),
		16*modules/24*25.4,
	) // at this resolution 16 pixels a module are 24 mm in all
	if err != nil {
		t.Fatal(err)
	}
	if w := got.Width; w == nil || math.Abs(w.Value-24) > 0.1 || w.Reckoned != 25 || !w.Apart() {
		t.Errorf("%+v", got.Width)
	}
	keys := map[string]bool{}
	forecast, err := proof.Prove(t.Context(), in, proof.Panel{}, proof.Hard)
	if err != nil {
		t.Fatal(err)
	}
	for _, g := range got.Grades {
		keys[g.Key] = true
		i := slices.IndexFunc(forecast.Grades.Parameters, func(p proof.GradedValue) bool { return p.Key == g.Key })
		if i < 0 || g.Reckoned != forecast.Grades.Parameters[i].Grade {
			t.Errorf("%s is said to be reckoned %v", g.Key, g.Reckoned)
		}
		if g.Key == "modulation" && g.Reckoned != [2]string{"A", "A"} { // black on white: nothing takes away from it
			t.Errorf("modulation is reckoned %v", g.Reckoned)
		}
	}
	if keys["symbol_contrast"] || !keys["axial_nonuniformity"] || !keys["modulation"] || !keys["unused_error_correction"] {
		t.Errorf("%v", got.Grades)
	}
}

// TestReversed: a code light on dark is found and measured; what its dark parts gained is not known of it.
func TestReversed(t *testing.T) {
	in := input(t, `"ink":"#ffffff","paper":"#12352b"`)
	got, err := inspect.Measure(t.Context(), in, taken(t, in, 12, 0.05, nil), 0)
	if err != nil {
		t.Fatal(err)
	}
	// #12352b has a luminance of 0.0285 (IEC 61966-2-1)
	if c := got.Contrast; got.Growth != nil || math.Abs(c.Value-0.972) > 0.04 || math.Abs(c.Reckoned-0.972) > 0.001 {
		t.Errorf("growth %v, contrast %+v", got.Growth, c)
	}
	if got.Damaged > 0.01 || got.Reserve < 0.9 {
		t.Errorf("%.3f damaged, reserve %.2f", got.Damaged, got.Reserve)
	}
	told := strings.Join(got.Words(), " ")
	if strings.Contains(told, "gained") || !strings.Contains(told, "ontrast") {
		t.Errorf("told: %s", told)
	}
}

// faint leaves four hundredths of a picture's contrast.
func faint(img *image.Gray) *image.Gray {
	for i, v := range img.Pix {
		img.Pix[i] = 240 + v/60
	}
	return img
}

// TestUnmeasured: every reason for which a picture tells nothing, and what a person reads.
func TestUnmeasured(t *testing.T) {
	in := input(t, `"ink":"#000000"`)
	other := in
	other.Payload = "https://marrowby.example/other"
	unplaced := in
	unplaced.Placement = nil
	for _, c := range []struct {
		name string
		in   proof.Input
		img  image.Image
		err  error
		says string
	}{
		{"nothing in it", in, image.NewGray(image.Rect(0, 0, 300, 300)), inspect.ErrNothing,
			"/picture shows no code that can be read"},
		{"another code", other, taken(t, in, 10, 0, nil), inspect.ErrOther, "/picture shows another code"},
		{"all but white", in, faint(taken(t, in, 10, 0, nil)), inspect.ErrFaint, "/picture shows ink and paper too much alike"},
		{"few pixels", in, taken(t, in, 3.2, 0, nil), inspect.ErrCoarse, "/picture is too coarse"},
		{"no place", unplaced, taken(t, in, 10, 0, nil), inspect.ErrPlace, "/placements are missing"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := inspect.Measure(t.Context(), c.in, c.img, 0)
			var list problem.List
			if !errors.Is(err, c.err) || !errors.As(inspect.Problem(err), &list) ||
				!strings.HasPrefix(list[0].Field+" "+list[0].Message, c.says) {
				t.Errorf("%v: %v", err, list)
			}
		})
	}
	if boom := errors.New("boom"); inspect.Problem(boom) != boom {
		t.Error("another error was changed")
	}
	for dpi, ok := range map[float64]bool{0: true, 100: true, 4800: true, 99: false, 4801: false, -1: false, math.NaN(): false} {
		t.Run(fmt.Sprint(dpi), func(t *testing.T) {
			if err := inspect.ReadDPI(dpi); (err == nil) != ok {
				t.Errorf("%g dpi: %v", dpi, err)
			}
		})
	}
}

// TestOpen: a picture that cannot be opened is a problem of its field.
func TestOpen(t *testing.T) {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 30, 20))); err != nil {
		t.Fatal(err)
	}
	if img, err := inspect.Open(b.Bytes()); err != nil || img.Bounds().Dx() != 30 {
		t.Errorf("%v", err)
	}
	for says, data := range map[string][]byte{"is missing": nil, "is no picture": []byte("no picture"),
		"is damaged": b.Bytes()[:50]} {
		t.Run(says, func(t *testing.T) {
			var list problem.List
			if _, err := inspect.Open(data); !errors.As(err, &list) || list[0].Field != "/picture" ||
				!strings.HasPrefix(list[0].Message, says) {
				t.Errorf("%s: %v", says, err)
			}
		})
	}
}

// TestWords: what a print buyer reads, every case once.
func TestWords(t *testing.T) {
	whole := inspect.Print{
		Growth:   &inspect.Figure{Value: 0.0612, Off: 0.0091, Reckoned: 0.05},
		Contrast: inspect.Figure{Value: 0.883, Off: 0.02, Reckoned: 0.92},
		Width:    &inspect.Figure{Value: 27.94, Off: 0.11, Reckoned: 28},
		Damaged:  0.012,
		Reserve:  0.78,
	}
	want := []string{
		"Ink gained 0.061 mm at each edge, give or take 0.01 mm. We had reckoned 0.05 mm.",
		"Contrast is 88 %, give or take 2. We had reckoned 92 %.",
		"It is 27.9 mm wide, give or take 0.1. It should be 28 mm.",
		"1.2 % of its modules are damaged; 78 % of the error correction is left.",
	}
	if got := whole.Words(); strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("%q", got)
	}
	for _, c := range []struct {
		growth        *inspect.Figure
		now, forecast proof.Verdict
		line          string
	}{
		{whole.Growth, proof.Safe, proof.Safe, "Ink gained 0.06 mm, we had reckoned 0.05 mm; safe as forecast"},
		{&inspect.Figure{Value: -0.021, Reckoned: 0.05}, proof.Care, proof.Safe,
			"Ink lost 0.02 mm, we had reckoned 0.05 mm; with that it is to be printed with care, the forecast was safe"},
		{&inspect.Figure{Value: 0.001, Reckoned: 0.05}, proof.Stop, proof.Stop,
			"Ink gained nothing, we had reckoned 0.05 mm; not to be printed as forecast"},
		{nil, proof.Safe, proof.Safe, "safe as forecast"},
		{nil, proof.Unknown, proof.Safe, "not proved with it"},
	} {
		t.Run(fmt.Sprint(c.growth), func(t *testing.T) {
			if got := (inspect.Print{Growth: c.growth, Reserve: 1}).Line(c.now, c.forecast); got != c.line {
				t.Errorf("%q, want %q", got, c.line)
			}
		})
	}
	in := input(t, `"ink":"#000000"`)
	in = whole.Printed(in)
	s := optics.Setup{Gain: 0.05}
	if in.Tune(&s); math.Abs(s.Gain-0.0612) > 1e-9 || s.Distance != 0 {
		t.Errorf("proved with %g mm of growth", s.Gain)
	}
	narrow := whole
	narrow.Width = &inspect.Figure{Value: 21, Off: 0.1, Reckoned: 28}
	s = optics.Setup{Gain: 0.05, Distance: 300, Dot: 0.3}
	if in := narrow.Printed(in); in.Tune != nil {
		in.Tune(&s)
	}
	// at three quarters of the width
	if math.Abs(s.Gain-0.0816) > 1e-9 || math.Abs(s.Distance-400) > 1e-9 || math.Abs(s.Dot-0.4) > 1e-9 {
		t.Errorf("proved as %+v", s)
	}
	if got := narrow.Line(proof.Care,
		proof.Safe); got != "Ink gained 0.06 mm, we had reckoned 0.05 mm; it is 21 mm wide, not 28; with that it is to be "+
		"printed with care, the forecast was safe" {
		t.Error(got)
	}
}

func BenchmarkMeasure(b *testing.B) {
	in := input(b, `"ink":"#000000"`)
	img := taken(b, in, 12, 0.05, nil)
	for b.Loop() {
		if _, err := inspect.Measure(b.Context(), in, img, 0); err != nil {
			b.Fatal(err)
		}
	}
}

func FuzzOpen(f *testing.F) {
	f.Add([]byte("\x89PNG\r\n\x1a\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if img, err := inspect.Open(data); err == nil && img.Bounds().Empty() {
			t.Error("an empty picture")
		}
	})
}

// TestSaid: a mirrored print, a second code in the picture and a reserve that is half spent are said, and are not safe.
func TestSaid(t *testing.T) {
	in := input(t, `"ink":"#12352b"`)
	img := taken(t, in, 8, 0.03, nil)
	mirrored := image.NewGray(img.Rect)
	for y := range img.Rect.Dy() {
		for x := range img.Rect.Dx() {
			mirrored.SetGray(img.Rect.Dx()-1-x, y, img.GrayAt(x, y))
		}
	}
	p, err := inspect.Measure(t.Context(), in, mirrored, 0)
	if err != nil || !p.Mirrored || p.Verdict(proof.Safe) != proof.Stop || !strings.Contains(p.Line(proof.Safe, proof.Safe),
		"mirrored") ||
		!strings.Contains(strings.Join(p.Words(), " "), "printed mirrored") {
		t.Errorf("mirrored: %+v, %v", p, err)
	}
	m, problems := compose.Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/other"},"placements":[{"name":"a","width_mm":25,
		"distance_mm":200,"substrate":"uncoated"}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	other, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	beside := taken(t, other, 8, 0.03, nil)
	both := image.NewGray(image.Rect(0, 0, img.Rect.Dx()+beside.Rect.Dx(), max(img.Rect.Dy(), beside.Rect.Dy())))
	for i := range both.Pix {
		both.Pix[i] = 230
	}
	for y := range both.Rect.Dy() {
		for x := range both.Rect.Dx() {
			if at := image.Pt(x, y); at.In(img.Rect) {
				both.SetGray(x, y, img.GrayAt(x, y))
			} else if at = at.Sub(image.Pt(img.Rect.Dx(), 0)); at.In(beside.Rect) {
				both.SetGray(x, y, beside.GrayAt(at.X, at.Y))
			}
		}
	}
	p, err = inspect.Measure(t.Context(), in, both, 0)
	if err != nil || !slices.Equal(p.Others, []string{"https://marrowby.example/other"}) || p.Verdict(proof.Safe) != proof.Care {
		t.Errorf("two codes: %+v, %v", p, err)
	}
	for reserve, want := range map[float64]proof.Verdict{0.5: proof.Safe, 0.49: proof.Care, 0.38: proof.Care} {
		p := inspect.Print{Reserve: reserve}
		if got := p.Verdict(proof.Safe); got != want || p.Verdict(proof.Stop) != proof.Stop ||
			strings.Contains(p.Line(proof.Safe, proof.Safe), "of its error correction is left") != (want == proof.Care) {
			t.Errorf("%v left: %s, %q", reserve, got, p.Line(proof.Safe, proof.Safe))
		}
	}
}
