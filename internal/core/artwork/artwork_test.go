package artwork

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"maps"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

func pngOf(w, h int, at func(x, y int) color.Color) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, at(x, y))
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err)
	}
	return b.Bytes()
}

func jpegOf(img image.Image) []byte {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 100}); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// claims is a PNG whose header claims a size, with next to no data.
func claims(w, h uint32) []byte {
	head := binary.BigEndian.AppendUint32(nil, w)
	head = append(binary.BigEndian.AppendUint32(head, h), 8, 6, 0, 0, 0)
	chunk := append([]byte("IHDR"), head...)
	out := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"), chunk...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(chunk))
}

const svgHead = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 24 24">`

// TestRefused: what cannot be taken in is refused with a reason, quickly, whatever it claims.
func TestRefused(t *testing.T) {
	bomb := `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><defs><g id="a0"><rect width="1" height="1"/></g>`
	for i := 1; i < 20; i++ {
		bomb += fmt.Sprintf(`<g id="a%d">%s</g>`, i, strings.Repeat(fmt.Sprintf(`<use href="#a%d"/>`, i-1), 10))
	}
	bomb += `</defs><use href="#a19"/></svg>`
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"nothing":     {nil, "is empty"},
		"large":       {make([]byte, MaxBytes+1), "MB"},
		"words":       {[]byte("seed"), "is none of"},
		"gif":         {[]byte("GIF89a\x01\x00\x01\x00"), "is a GIF"},
		"cut png":     {pngOf(40, 40, func(x, y int) color.Color { return color.Black })[:60], "damaged"},
		"huge png":    {claims(60_000, 60_000), "60,000 × 60,000"},
		"clear png":   {pngOf(4, 4, func(x, y int) color.Color { return color.Transparent }), "shows nothing"},
		"moving webp": {append([]byte("RIFF\x20\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00\x02"), make([]byte, 20)...), "animated"},
		"broken webp": {[]byte("RIFF\x20\x00\x00\x00WEBPVP8 aaaaaaaa"), "damaged"},
		"entities": {[]byte(
			`<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>`), "entities"},
		"uses":          {[]byte(bomb), "more than"},
		"uses itself":   {[]byte(svgHead + `<g id="a"><use href="#a"/><rect width="1" height="1"/></g></svg>`), "nested"},
		"deep":          {[]byte(svgHead + strings.Repeat("<g>", 200) + strings.Repeat("</g>", 200) + "</svg>"), "nested"},
		"many":          {[]byte(svgHead + strings.Repeat("<g/>", maxNodes+1) + "</svg>"), "elements"},
		"not closed":    {[]byte(svgHead + `<rect width="2" height="2">`), "cannot be read" + "|" + "unexpected EOF"},
		"empty drawing": {[]byte(svgHead + `</svg>`), "shows nothing"},
		"only foreign": {[]byte(svgHead +
			`<foreignObject width="9" height="9"><body xmlns="http://www.w3.org/1999/xhtml">hello</body></foreignObject></svg>`),
			"shows nothing"},
		"only elsewhere": {[]byte(svgHead + `<image href="https://marrowby.example/a.png" width="9" height="9"/></svg>`),
			"shows nothing"},
		"another charset": {[]byte(`<?xml version="1.0" encoding="utf-16"?>` + svgHead + `</svg>`), "UTF-8"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := Read(c.data)
			ok := false
			for _, says := range strings.Split(c.says, "|") {
				ok = ok || err != nil && strings.Contains(err.Error(), says)
			}
			if !ok {
				t.Errorf("%s: %v, want %q", name, err, c.says)
			}
		})
	}
}

// TestNothingLivesOn: what could run, fetch or grow is gone from what is written.
func TestNothingLivesOn(t *testing.T) {
	a,
		err := Read([]byte(svgHead +
		`<script>alert(1)</script><style>@import url(https://marrowby.example/a.css); .k{fill:#123456} rect{stroke:none}</style>
		<rect class="k" width="9" height="9" onclick="alert(2)" style="fill-opacity:.5"/><a href="javascript:alert(3)"><circle cx="15" cy="15" r="4"/></a>
		<foreignObject width="9" height="9"><p xmlns="http://www.w3.org/1999/xhtml">x</p></foreignObject><image href="https://marrowby.example/b.png" width="3" height="3"/>
		<use href="https://marrowby.example/c.svg#d"/><text x="2" y="9">Marrowby</text><animate attributeName="x"/><metadata>secret place</metadata><!-- a comment --></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	out := string(a.Normal())
	for _, gone := range []string{"script", "alert", "import", "onclick", "javascript", "foreign", "https:", "text", "animate",
		"secret", "comment", "class", "style"} {
		t.Run(gone, func(t *testing.T) {
			if strings.Contains(out, gone) {
				t.Errorf("%q lives on in %s", gone, out)
			}
		})
	}
	if len(a.Items) != 2 || a.Items[0].Fill != (ink.Colour{R: 0x12, G: 0x34, B: 0x56}) || a.Items[0].Fade != 0.5 {
		t.Errorf("%+v", a.Items)
	}
	if len(a.Left) < 5 {
		t.Errorf("it says only %v", a.Left)
	}
}

// picture draws art on white.
func picture(t *testing.T, a *Art, width int) *image.NRGBA {
	t.Helper()
	s := &scene.Scene{Width: a.Width, Height: a.Height,
		Items: append([]scene.Item{{Path: scene.Rectangle(0, 0, a.Width, a.Height), At: scene.Unit, Fill: ink.White}},
			a.Items...)}
	img, err := raster.Draw(s, raster.Fit(s, width))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// outside draws an SVG with another program.
func outside(t *testing.T, svg []byte, width int) image.Image {
	t.Helper()
	file, out := filepath.Join(t.TempDir(), "a.svg"), filepath.Join(t.TempDir(), "a.png")
	if err := os.WriteFile(file, svg, 0o600); err != nil {
		t.Fatal(err)
	}
	if b, err := exec.Command("rsvg-convert", "-w", fmt.Sprint(width), "-b", "white", "-o", out, file).
		CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, b)
	}
	data, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// differ is the mean difference of two pictures, of 255, and the share of pixels that differ by more than 48.
func differ(a *image.NRGBA, b image.Image) (mean, far float64) {
	n := 0.0
	for y := range a.Rect.Dy() {
		for x := range a.Rect.Dx() {
			p, q := a.NRGBAAt(x, y), color.NRGBAModel.Convert(b.At(x, y)).(color.NRGBA)
			d := max(math.Abs(float64(p.R)-float64(q.R)), math.Abs(float64(p.G)-float64(q.G)),
				math.Abs(float64(p.B)-float64(q.B)))
			mean += d
			if d > 48 {
				far++
			}
			n++
		}
	}
	return mean / n, far / n
}

// TestDrawings: rebuilt drawings look as another program draws the originals.
func TestDrawings(t *testing.T) {
	back := `<rect width="24" height="24" fill="#fff"/>` // so that nothing is trimmed
	for name, inner := range map[string]string{
		"shapes":     `<circle cx="6" cy="6" r="4" fill="teal"/><ellipse cx="16" cy="6" rx="6" ry="3" fill="rgb(90, 45, 12)"/><rect x="3" y="13" width="8" height="8" rx="2" fill="hsl(200 60% 30%)"/><polygon points="14,21 18,13 22,21" fill="#a80"/>`,
		"even-odd":   `<path fill-rule="evenodd" d="M2 2H22V22H2zM6 6H18V18H6zM9 9H15V15H9z"/>`,
		"arcs":       `<path d="M4 12a8 8 0 0 1 16 0l-3 2a5 9 30 1 0-10 1z" fill="#12594a"/>`,
		"stroke":     `<path d="M4 20C4 2 20 22 20 4" fill="none" stroke="#5b1f33" stroke-width="3" stroke-linecap="round"/><path d="M3 3l6 5l-6 1" fill="none" stroke="#000" stroke-width="1.5"/>`,
		"joins":      `<path d="M4 20L8 6L12 20" fill="none" stroke="#000" stroke-width="2" stroke-linejoin="bevel"/><path d="M14 20L17 6L20 20z" fill="none" stroke="#000" stroke-width="2" stroke-linejoin="miter" stroke-linecap="square"/>`,
		"transforms": `<g transform="translate(12 12) rotate(30)" fill="#1f3a5a"><rect x="-6" y="-2" width="12" height="4" transform="skewX(20)"/><g transform="scale(.5 -1)"><path d="M0 3H8V6H0z"/></g></g>`,
		"gradient":   `<defs><linearGradient id="g" gradientTransform="rotate(40)"><stop offset="0" stop-color="#12352b"/><stop offset="1" style="stop-color:#e9a820"/></linearGradient><radialGradient id="r" gradientUnits="userSpaceOnUse" cx="17" cy="17" r="5"><stop offset=".2" stop-color="#000"/><stop offset="1" stop-color="#8DB8DC"/></radialGradient></defs><rect x="2" y="2" width="14" height="7" fill="url(#g)"/><circle cx="17" cy="17" r="5" fill="url(#r)"/>`,
		"clip":       `<clipPath id="c"><circle cx="12" cy="12" r="8"/></clipPath><g clip-path="url(#c)" opacity=".6"><rect width="24" height="12" fill="#a8321f"/><rect y="12" width="24" height="12" fill="#12594a"/></g>`,
		"symbols":    `<symbol id="s" viewBox="0 0 10 10"><path d="M5 0L10 10H0z"/></symbol><use href="#s" x="2" y="2" width="8" height="8" fill="#2c5f86"/><use xlink:href="#s" x="12" y="12" width="10" height="5"/>`,
		"sheet":      `<style>.a{fill:#5a2d0c;opacity:.5} #b{fill:none;stroke:#000;stroke-width:2px}</style><rect class="x a" x="2" y="2" width="9" height="9"/><rect id="b" x="13" y="13" width="8" height="8"/>`,
		"picture": `<image x="4" y="4" width="16" height="16" href="data:image/png;base64,` +
			base64.StdEncoding.EncodeToString(pngOf(8, 8, func(x, y int) color.Color {
				return color.NRGBA{uint8(30 * x), uint8(30 * y), 90, 255}
			})) + `"/>`,
	} {
		t.Run(name, func(t *testing.T) {
			text := []byte(svgHead + back + inner + `</svg>`)
			a, err := Read(text)
			if err != nil {
				t.Errorf("%s: %v", name, err)
				return
			}
			const width = 240
			limit, most := 1.2, 0.003
			if name == "picture" { // each program smooths enlarged pixels in its own way
				limit, most = 6, 0.03
			}
			if mean, far := differ(picture(t, a, width), outside(t, text, width)); mean > limit || far > most {
				t.Errorf("%s: %.2f of 255 apart in the mean, %.2f %% far", name, mean, far*100)
			}
			again, err := Read(a.Normal())
			if err != nil {
				t.Errorf("%s does not read back: %v", name, err)
				return
			}
			if mean, far := differ(picture(t, again, width), picture(t, a, width)); mean > 0.1 || far > 0 {
				t.Errorf("%s reads back as another drawing: %.2f, %.2f %%", name, mean, far*100)
			}
		})
	}
}

// TestIcons: every icon reads, in nothing but the ink it is given; a sample looks as another program draws it.
func TestIcons(t *testing.T) {
	n := 0
	for _, name := range slices.Sorted(maps.Keys(icons())) {
		d := icons()[name]
		a, ok := Icon(name)
		if !ok || len(a.Left) > 0 {
			t.Fatalf("%s: %v %v", name, ok, a)
		}
		for _, it := range a.Items {
			if !it.Current || it.Fade != 0 {
				t.Fatalf("%s has an ink of its own", name)
			}
		}
		if n++; n%90 != 0 {
			continue
		}
		text := svgHead +
			`<rect width="24" height="24" fill="#fff"/><g fill="none" stroke="#000" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">` + d.svg + `</g></svg>`
		b, err := Read([]byte(text))
		if err != nil {
			t.Fatal(name, err)
		}
		if mean, far := differ(picture(t, b, 192), outside(t, []byte(text), 192)); mean > 1.2 || far > 0.005 {
			t.Errorf("%s: %.2f of 255 apart in the mean, %.2f %% far", name, mean, far*100)
		}
	}
	if n < 1500 {
		t.Errorf("only %d icons", n)
	}
	if got := Icons("seed", 5); len(got) == 0 || got[0] != "sprout" && !strings.Contains(strings.Join(got, " "), "sprout") {
		t.Errorf("seed finds %v", got)
	}
	if got := Icons("", 5); len(got) != 0 {
		t.Errorf("no words find %v", got)
	}
}

// TestUpright: each of the eight Exif orientations comes out the same way up, and metadata is gone.
func TestUpright(t *testing.T) {
	const w, h = 48, 32 // red on the left, blue below on the right
	want := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.NRGBA{230, 230, 230, 255}
			if x < 16 {
				c = color.NRGBA{200, 20, 20, 255}
			} else if x >= 32 && y >= 16 {
				c = color.NRGBA{20, 20, 200, 255}
			}
			want.SetNRGBA(x, y, c)
		}
	}
	inverse := [9]int{0, 1, 2, 3, 4, 5, 8, 7, 6}
	for o := 1; o <= 8; o++ {
		data := jpegOf(upright(want, inverse[o]))
		for _, order := range []binary.AppendByteOrder{binary.BigEndian, binary.LittleEndian} {
			mark := "MM"
			if order == binary.AppendByteOrder(binary.LittleEndian) {
				mark = "II"
			}
			tiff := order.AppendUint16([]byte(mark), 42)
			tiff = order.AppendUint32(tiff, 8)
			tiff = order.AppendUint16(tiff, 1)
			tiff = order.AppendUint16(order.AppendUint16(tiff, 274), 3)
			tiff = order.AppendUint16(order.AppendUint32(tiff, 1), uint16(o))
			tiff = append(tiff, 0, 0, 0, 0, 0, 0)
			part := append([]byte("Exif\x00\x00"), tiff...)
			exif := append(binary.BigEndian.AppendUint16([]byte{0xFF, 0xE1}, uint16(len(part)+2)), part...)
			a, err := Read(append(append(append([]byte(nil), data[:2]...), exif...), data[2:]...))
			if err != nil {
				t.Fatal(err)
			}
			got := a.Items[0].Picture.Pixels
			if got.Rect != want.Rect {
				t.Fatalf("orientation %d comes out %v", o, got.Rect)
			}
			if mean, far := differ(got, want); mean > 8 || far > 0.02 {
				t.Errorf("orientation %d, %s: %.1f apart", o, mark, mean)
			}
			if bytes.Contains(a.Normal(), []byte("Exif")) {
				t.Error("Exif lives on")
			}
		}
	}
}

// TestCMYK: a JPEG in four inks, as another program writes it, comes in with about the colours it had.
func TestCMYK(t *testing.T) {
	sc := &scene.Scene{Width: 20, Height: 10,
		Items: []scene.Item{{Path: scene.Rectangle(0, 0, 20, 10), At: scene.Unit, Fill: ink.White},
			{Path: scene.Rectangle(0, 0, 10, 10), At: scene.Unit, Fill: ink.Colour{R: 168, G: 50, B: 31}}}}
	file := filepath.Join(t.TempDir(), "a.pdf")
	if err := os.WriteFile(file, pdf.Encode(sc, export.Meta{}), 0o600); err != nil {
		t.Fatal(err)
	}
	out := strings.TrimSuffix(file, ".pdf")
	if b, err := exec.Command("pdftoppm", "-jpegcmyk", "-singlefile", "-r", "100", file, out).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, b)
	}
	data, err := os.ReadFile(out + ".jpg")
	if err != nil {
		t.Fatal(err)
	}
	if config, err := jpeg.DecodeConfig(bytes.NewReader(data)); err != nil || config.ColorModel != color.CMYKModel {
		t.Fatalf("the outside program wrote no CMYK: %v %v", config.ColorModel, err)
	}
	a, err := Read(data)
	if err != nil || len(a.Left) != 1 || !strings.Contains(a.Left[0], "CMYK") {
		t.Fatal(a, err)
	}
	p := a.Items[0].Picture.Pixels
	red, white := p.NRGBAAt(p.Rect.Dx()/4, p.Rect.Dy()/2), p.NRGBAAt(p.Rect.Dx()*3/4, p.Rect.Dy()/2)
	if red.R < 120 || red.G > 90 || red.B > 90 || white.R < 245 || white.G < 245 || white.B < 245 {
		t.Errorf("red is %v, white %v", red, white)
	}
}

// TestCutOut: a picture on a uniform ground comes free of it, holes inside stay, soft edges lose its colour.
func TestCutOut(t *testing.T) {
	ground := color.NRGBA{240, 250, 240, 255}
	disc := func(x, y int) color.Color {
		d := math.Hypot(float64(x)-49.5, float64(y)-49.5)
		k := min(max(35.5-d, 0), 1) * min(max(d-9.5, 0), 1)
		mix := func(a, b uint8) uint8 { return uint8(float64(a)*k + float64(b)*(1-k)) }
		return color.NRGBA{mix(18, ground.R), mix(89, ground.G), mix(74, ground.B), 255}
	}
	a, err := Read(pngOf(100, 100, disc))
	if err != nil {
		t.Fatal(err)
	}
	if c, ok := a.Ground(); !ok || c != (ink.Colour{R: 240, G: 250, B: 240}) {
		t.Fatalf("ground %v %v", c, ok)
	}
	b := a.CutOut()
	if math.Abs(b.Width-72) > 2 {
		t.Errorf("it is %g wide, the disc is 71", b.Width)
	}
	p := b.Items[0].Picture.Pixels
	if p.NRGBAAt(0, 0).A != 0 || p.NRGBAAt(36, 12).A != 255 || p.NRGBAAt(36, 36) != (color.NRGBA{240, 250, 240, 255}) {
		t.Errorf("corner %v, ring %v, hole %v", p.NRGBAAt(0, 0), p.NRGBAAt(36, 12), p.NRGBAAt(36, 36))
	}
	for i := 0; i < len(p.Pix); i += 4 {
		if q := p.Pix[i : i+4]; q[3] > 20 && q[3] < 220 && q[0] > 140 {
			t.Fatalf("an edge keeps the ground's colour: %v", q)
		}
	}
	if mixed, err := Read(pngOf(40, 40, func(x, y int) color.Color {
		return color.NRGBA{uint8(6 * x), uint8(6 * y), 90, 255}
	})); err != nil || mixed.CutOut() != mixed {
		t.Error("a picture without a ground was cut")
	}
}

// TestNear: what the art covers, and what comes close.
func TestNear(t *testing.T) {
	a, err := Read([]byte(svgHead + `<path d="M0 0H10V10H0zM14 14H24V24H14z"/></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		x, y, d float64
		is      bool
	}{{2, 2, 0, true}, {11, 2, 0, false}, {11, 2, 0.5, false}, {11, 2, 1.3, true}, {11, 11, 1.2, false}, {11, 11, 1.7, true},
		{20, 20, 0, true}, {20, 2, 0, false}, {-2, 5, 0.5, false}, {-2, 5, 1.2, true}} {
		t.Run(fmt.Sprint(c.x), func(t *testing.T) {
			if got := a.Near(c.x, c.y, c.x+1, c.y+1, c.d); got != c.is {
				t.Errorf("near %g, %g by %g: %v", c.x, c.y, c.d, got)
			}
		})
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(svgHead +
		`<g transform="rotate(3)"><path d="M0 0A3 4 5 0 1 9 9z" stroke="red" style="fill:url(#g)"/><use href="#a"/></g></svg>`))
	f.Add([]byte(svgHead +
		`<style>.a{fill:red}</style><symbol id="s" viewBox="0 0 1 1"><rect class="a" width="1" height="1" rx="2"/></symbol><use xlink:href="#s"/></svg>`))
	f.Add(pngOf(3, 2, func(x, y int) color.Color { return color.Black }))
	f.Add(jpegOf(image.NewCMYK(image.Rect(0, 0, 2, 2))))
	f.Fuzz(func(t *testing.T, data []byte) {
		a, err := Read(data)
		if err != nil {
			return
		}
		if !(a.Width > 0 && a.Height > 0) || math.IsInf(a.Width+a.Height, 0) || len(a.Items) == 0 {
			t.Fatalf("%g by %g with %d items", a.Width, a.Height, len(a.Items))
		}
		if _, err := Read(a.Normal()); err != nil {
			t.Fatalf("what is kept cannot be read: %v\n%.500s", err, a.Normal())
		}
	})
}

// TestPlainWords: what people call a thing finds it, first where it is called so.
func TestPlainWords(t *testing.T) {
	for query, want := range map[string]string{"leaf": "leaf", "key": "key", "keys": "key", "leaves": "leaf", "tap": "faucet",
		"house": "house", "tea cup": "coffee", "Bike": "bike"} {
		t.Run(query, func(t *testing.T) {
			if got := Icons(query, 1); len(got) == 0 || got[0] != want {
				t.Errorf("%q finds %v first, want %s", query, got, want)
			}
		})
	}
	for query, want := range map[string]string{"present": "gift", "cup": "coffee", "tea": "coffee", "cherries": "cherry",
		"seed": "sprout"} {
		t.Run(query, func(t *testing.T) {
			if got := Icons(query, 12); !slices.Contains(got, want) {
				t.Errorf("%q finds %v, and no %s", query, got, want)
			}
		})
	}
	if got := Icons("xyzzy", 5); len(got) != 0 {
		t.Errorf("%v", got)
	}
}
