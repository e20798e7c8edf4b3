package artwork

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"image"
	"image/color"
	"image/png"
	"math"
	"strconv"
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// withDensity puts a pHYs chunk into a PNG, pixels a metre.
func withDensity(file []byte, x, y uint32, unit byte) []byte {
	body := append(binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32([]byte("pHYs"), x), y), unit)
	chunk := append(binary.BigEndian.AppendUint32(nil, 9), body...)
	chunk = append(chunk, 0, 0, 0, 0)
	binary.BigEndian.PutUint32(chunk[len(chunk)-4:], crc(body))
	return append(append(append([]byte{}, file[:33]...), chunk...), file[33:]...)
}

func crc(b []byte) (c uint32) { // ISO/IEC 15948, annex D
	c = ^uint32(0)
	for _, v := range b {
		c ^= uint32(v)
		for range 8 {
			if c&1 == 1 {
				c = c>>1 ^ 0xEDB88320
			} else {
				c >>= 1
			}
		}
	}
	return ^c
}

// TestSheetSize: artwork is as large as its file says, blank margins and all.
func TestSheetSize(t *testing.T) {
	half := func(x, y int) color.Color { return map[bool]color.Color{true: color.Black, false: color.White}[x < 30] }
	pixels := pngOf(300, 150, half)
	jfif := jpegOf(image.NewNRGBA(image.Rect(0, 0, 300, 150)))
	jfif = append(append([]byte{0xFF, 0xD8}, "\xFF\xE0\x00\x10JFIF\x00\x01\x01\x02\x00\x3C\x00\x3C\x00\x00"...), jfif[2:]...)
	for name, c := range map[string]struct {
		data []byte
		w, h float64
		said bool
	}{
		"millimetres": {[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" width="148mm" height="210mm" viewBox="0 0 1480 2100"><path d="M900 900h100v100z"/></svg>`), 148, 210, true},
		"inches": {[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" width="4in" height="6in"><path d="M9 9h10v10z"/></svg>`), 101.6,
			152.4, true},
		"a view alone": {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 960 480"><path d="M9 9h10v10z"/></svg>`),
			254, 127, false},
		"blank":         {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="50mm"/>`), 50, 50, true},
		"png of 150":    {withDensity(pixels, 5906, 5906, 1), 50.796, 25.398, true},
		"png, no unit":  {withDensity(pixels, 5906, 5906, 0), 25.4, 12.7, false},
		"png, two ways": {withDensity(pixels, 5906, 2953, 1), 25.4, 12.7, false},
		"jpeg of 60/cm": {jfif, 50, 25, true},
	} {
		t.Run(name, func(t *testing.T) {
			s, err := ReadSheet(c.data)
			if err != nil {
				t.Errorf("%s: %v", name, err)
				return
			}
			if math.Abs(s.Width-c.w) > 0.01 || math.Abs(s.Height-c.h) > 0.01 || s.Said != c.said {
				t.Errorf("%s: %.3f × %.3f mm, said %v; want %v × %v, %v", name, s.Width, s.Height, s.Said, c.w, c.h, c.said)
			}
		})
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"nothing":    {nil, "is empty"},
		"words":      {[]byte("a flyer"), "is none of PDF"},
		"0.5 mm":     {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="0.5mm" height="20mm"/>`), "0.5 × 20 mm"},
		"300 m":      {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="300000mm" height="200mm"/>`), "20 m a side"},
		"no size":    {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"><path d="M9 9h10v10z"/></svg>`), "says neither how large"},
		"cut off":    {pixels[:60], "damaged"},
		"1 × 1 dot":  {pngOf(1, 1, half), "mm; artwork lies between"},
		"3 m, sound": {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="3000mm" height="2000mm"/>`), ""},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := ReadSheet(c.data)
			if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
				t.Errorf("%s: %v, want %q", name, err, c.says)
			}
		})
	}
}

// flyer is 100 by 150 mm: a photograph-like head, two lines of words, and two empty parts.
const flyer = `<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="150mm" viewBox="0 0 100 150"><rect width="100" height="150" fill="#f6f0e2"/>
	<rect width="100" height="50" fill="#12594a"/><path d="M0 0h3v50h-3zM8 0h3v50h-3zM20 0h3v50h-3zM33 0h3v50h-3zM47 0h3v50h-3zM60 0h3v50h-3zM77 0h3v50h-3zM92 0h3v50h-3z" fill="#e9a820"/>
	<path d="M10 58h80v3h-80zM10 64h60v3h-60z" fill="#16241f"/><path d="M10 130h80v12h-80z" fill="#a8321f"/></svg>`

// TestFree: the empty rectangles of artwork are found, and none of them touches what is drawn.
func TestFree(t *testing.T) {
	s, err := ReadSheet([]byte(flyer))
	if err != nil {
		t.Fatal(err)
	}
	list := s.Free()
	if len(list) == 0 || list[0].Y < 67 || list[0].Y > 70 || list[0].Y+list[0].H < 127 || list[0].Y+list[0].H > 130 ||
		list[0].W < 98 {
		t.Fatalf("%+v", list)
	}
	for _, r := range list {
		if _, varies := s.Ground(r); varies > 0.02 {
			t.Errorf("%+v varies by %.2f", r, varies)
		}
	}
	plain, _ := ReadSheet([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="80mm"/>`))
	if list := plain.Free(); len(list) != 1 || list[0].W < 49 || list[0].H < 79 {
		t.Errorf("of a blank sheet: %+v", list)
	}
	busy := pngOf(400, 400, func(x, y int) color.Color { return color.Gray{uint8(x * y * 37)} })
	noise, _ := ReadSheet(busy)
	if list := noise.Free(); len(list) != 0 {
		t.Errorf("of noise: %+v", list)
	}
}

// TestLargest holds the fast way against trying every rectangle.
func TestLargest(t *testing.T) {
	seed := uint32(7)
	for range 200 {
		const w, h = 7, 6
		busy := make([]bool, w*h)
		for i := range busy {
			seed = seed*1664525 + 1013904223
			busy[i] = seed>>28 < 5
		}
		best := 0
		for y0 := range h {
			for x0 := range w {
				for y1 := y0 + 1; y1 <= h; y1++ {
					for x1 := x0 + 1; x1 <= w; x1++ {
						if clearOf(busy, w, image.Rect(x0, y0, x1, y1)) {
							best = max(best, (x1-x0)*(y1-y0))
						}
					}
				}
			}
		}
		if r := largest(busy, w, h); r.Dx()*r.Dy() != best || !clearOf(busy, w, r) {
			t.Fatalf("%v of %v: want %d cells", r, busy, best)
		}
	}
}

func clearOf(busy []bool, w int, r image.Rectangle) bool {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if busy[y*w+x] {
				return false
			}
		}
	}
	return true
}

// TestGround: what lies under a code is measured, and the inks that artwork is made of are named.
func TestGround(t *testing.T) {
	s, err := ReadSheet([]byte(flyer))
	if err != nil {
		t.Fatal(err)
	}
	near := func(c ink.Colour, hex string) bool { d, _ := ink.Typed(hex); return ink.Distance(c, d) < 4 }
	if c, varies := s.Ground(Rect{20, 80, 40, 40}); !near(c, "#f6f0e2") || varies > 0.01 {
		t.Errorf("paper: %v, varies %.2f", c, varies)
	}
	if _, varies := s.Ground(Rect{0, 0, 100, 50}); varies < 0.25 {
		t.Errorf("the head varies by %.2f", varies)
	}
	if c, _ := s.Ground(Rect{-200, -200, 10, 10}); c != ink.White {
		t.Errorf("beyond the edge: %v", c)
	}
	inks := s.Inks()
	for i, want := range []string{"#12594a", "#a8321f", "#e9a820"} {
		t.Run(want, func(t *testing.T) {
			found := false
			for _, c := range inks {
				found = found || near(c, want)
			}
			if !found {
				t.Errorf("ink %d, %s, is not among %v", i, want, inks)
			}
		})
	}
	pic := s.Cut(Rect{0, 60, 100, 30}, 200)
	if pic == nil || pic.Pixels.Rect.Dx() != 200 || pic.Pixels.Rect.Dy() != 60 {
		t.Fatalf("%+v", pic)
	}
}

// TestSheetAsDrawn holds a sheet's drawing against another program's.
func TestSheetAsDrawn(t *testing.T) {
	s, err := ReadSheet([]byte(flyer))
	if err != nil {
		t.Fatal(err)
	}
	img, err := raster.Draw(&scene.Scene{Width: s.Width, Height: s.Height, Items: s.Items},
		raster.View{Width: 400, Height: 600, Scale: 4})
	if err != nil {
		t.Fatal(err)
	}
	if mean, _ := differ(img, outside(t, []byte(flyer), 400)); mean > 1 {
		t.Errorf("differs by %.2f steps from another program's picture", mean)
	}
}

// TestPage: a page's picture is cut to what is left after trimming, and a signature is told.
func TestPage(t *testing.T) {
	file := []byte(
		"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R /AcroForm << /SigFlags 3 /Fields [] >> >>\nendobj\n2 0 obj\n<< " +
			"/Type /Pages /Kids [3 0 R] /Count 1 >>\nendobj\n3 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 400] " +
			"/TrimBox [50 100 150 300] >>\nendobj\ntrailer\n<< /Size 4 /Root 1 0 R >>\n")
	at := []int{bytes.Index(file, []byte("1 0 obj")), bytes.Index(file, []byte("2 0 obj")), bytes.Index(file, []byte("3 0 obj"))}
	table := "xref\n0 4\n0000000000 65535 f \n"
	for _, o := range at {
		table += strings.Repeat("0", 10-len(strconv.Itoa(o))) + strconv.Itoa(o) + " 00000 n \n"
	}
	start := bytes.Index(file, []byte("trailer"))
	file = []byte(string(file[:start]) + table + string(file[start:]) + "startxref\n" + strconv.Itoa(start) + "\n%%EOF\n")
	var picture bytes.Buffer
	img := image.NewNRGBA(image.Rect(0, 0, 100, 200))
	for y := 50; y < 150; y++ {
		for x := 25; x < 75; x++ {
			img.Set(x, y, color.Black)
		}
	}
	if err := png.Encode(&picture, img); err != nil {
		t.Fatal(err)
	}
	s, err := ReadPage(file, 1, picture.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	pixels := s.Items[0].Picture.Pixels
	if math.Abs(s.Width-100*25.4/72) > 1e-6 || math.Abs(s.Height-200*25.4/72) > 1e-6 ||
		pixels.Rect != image.Rect(0, 0, 50, 100) || pixels.NRGBAAt(0, 0).R != 0 || pixels.NRGBAAt(49, 99).R != 0 {
		t.Errorf("%.2f × %.2f mm, %v", s.Width, s.Height, pixels.Rect)
	}
	if len(s.Left) != 1 || !strings.Contains(s.Left[0], "signed") || s.Pages != 1 {
		t.Errorf("%q, %d pages", s.Left, s.Pages)
	}
}

// TestClearEdges: a picture within a drawing lies where it was put, whatever of it is clear, as another program draws it.
func TestClearEdges(t *testing.T) {
	img := pngOf(80, 80, func(x, y int) color.Color {
		if x > 50 && y > 40 {
			return color.NRGBA{18, 89, 74, 255}
		}
		return color.Transparent
	})
	drawing := []byte(
		`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40mm" height="40mm" viewBox="0 0 40 40"><rect width="40" height="40" fill="#fff"/><image width="40" height="40" xlink:href="data:image/png;base64,` + base64.StdEncoding.EncodeToString(img) + `"/></svg>`)
	s, err := ReadSheet(drawing)
	if err != nil {
		t.Fatal(err)
	}
	got, err := raster.Draw(&scene.Scene{Width: 40, Height: 40, Items: s.Items}, raster.View{Width: 160, Height: 160, Scale: 4})
	if err != nil {
		t.Fatal(err)
	}
	if mean, _ := differ(got, outside(t, drawing, 160)); mean > 1 {
		t.Errorf("differs by %.2f steps from another program's picture", mean)
	}
}
