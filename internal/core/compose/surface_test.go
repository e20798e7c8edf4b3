package compose

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"image"
	_ "image/jpeg"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	_ "golang.org/x/image/webp"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// board is a dark sheet of 100 by 150 mm whose lower half is striped.
const board = `<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="150mm" viewBox="0 0 100 150"><path d="M0 0h100v150h-100z" fill="#10301f"/>
	<path d="M0 80h5v70h-5zM10 80h5v70h-5zM20 80h5v70h-5zM30 80h5v70h-5zM40 80h5v70h-5zM50 80h5v70h-5zM60 80h5v70h-5zM70 80h5v70h-5zM80 80h5v70h-5zM90 80h5v70h-5z" fill="#f3e9c8"/></svg>`

func onBoard(t *testing.T, look, artwork, more string) *Rendition {
	t.Helper()
	return parse(t,
		fmt.Sprintf(
			`{"name":"Board","content":{"kind":"url","url":"https://marrowby.example/garden"},"look":%s,"placements":[{"name":"board","width_mm":40,"distance_mm":400,"artwork":{"source":"data:image/svg+xml;base64,%s"%s}%s}]}`,
			look, base64.StdEncoding.EncodeToString([]byte(board)), artwork, more))
}

// TestWholeFiles: the code on its artwork, with words, is read out of every format by others, and lies where it was asked for.
func TestWholeFiles(t *testing.T) {
	m := onBoard(t, `{"ink":"#12352b","frame":{"shape":"rule","text":"Sow"}}`, `,"x_mm":10,"y_mm":12`,
		`,"words":{"headline":"Walk the garden","help":"Scan for today's beds","address":"marrowby.example/garden","side":"right","ink":"#ffffff"}`)
	p := m.Place(0)
	c, ok := m.Compose(p)
	if !ok || c.Width != 100 || c.Height != 150 || c.Outside || c.WordsOutside ||
		c.Code != (artwork.Rect{X: 10, Y: 12, W: 40, H: 40}) {
		t.Fatalf("%+v", c)
	}
	if c.Words.X < 50 || c.Words.X+c.Words.W > 100 || c.Least < 40*0.07 {
		t.Errorf("the words lie at %+v, %.2f mm large", c.Words, c.Least)
	}
	dir := t.TempDir()
	for _, f := range All {
		if f.Of != Whole {
			continue
		}
		b, problems := m.File(f, p, meta)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		name := filepath.Join(dir, f.Key()+"."+f.Ending())
		if err := os.WriteFile(name, b, 0o600); err != nil {
			t.Fatal(err)
		}
		switch f.Ending() {
		case "svg":
			tool(t, "rsvg-convert", "--width", "900", "-o", name+".png", name)
			name += ".png"
		case "pdf":
			tool(t, "pdftoppm", "-scale-to", "1400", "-singlefile", "-png", name, name)
			if out := tool(t, "pdfinfo", name); !strings.Contains(out, "283.465 x 425.197 pts") {
				t.Errorf("the page is no 100 × 150 mm: %s", out)
			}
			name += ".png"
		}
		decodeWith(t, name, m.Payload)
	}
}

// TestUnstatedSize: artwork that does not say how large it is is as large as fits on its medium, upright or across; what says
// so keeps its size.
func TestUnstatedSize(t *testing.T) {
	for _, c := range []struct {
		name, medium  string
		wide, high    int
		said          bool
		width, height float64 // mm, of the medium as place.Media has it: A3 is 297 × 420, a business card 85 × 55
	}{
		{"a poster of its medium's shape", "poster-a3", 594, 840, false, 297, 420},
		{"a square on a poster", "poster-a3", 500, 500, false, 297, 297},
		{"a wide picture on an upright medium", "poster-a3", 840, 594, false, 420, 297},
		{"one that says its size", "poster-a3", 594, 840, true, 594 / 300.0 * 25.4, 840 / 300.0 * 25.4},
		{"no medium", "", 600, 300, false, 50.8, 25.4}, // as 300 dots an inch
	} {
		t.Run(c.name, func(t *testing.T) {
			sheet := &artwork.Sheet{Width: float64(c.wide) / 300 * 25.4, Height: float64(c.high) / 300 * 25.4, Said: c.said}
			m := &Rendition{brought: brought{sheets: map[string]*artwork.Sheet{"asset:x": sheet}}}
			w, h, ok := m.Surface(&place.Placement{Medium: c.medium, Artwork: place.Artwork{Source: "asset:x"}})
			if !ok || math.Abs(w-c.width) > 0.01 || math.Abs(h-c.height) > 0.01 {
				t.Errorf("%.2f × %.2f mm, want %.2f × %.2f", w, h, c.width, c.height)
			}
		})
	}
}

// TestPlaces: what lies beyond the edge, on a busy ground, or says nothing is found, and mended by its fix.
func TestPlaces(t *testing.T) {
	transparent := `{"ink":"#ffffff","paper":"none"}`
	for name, c := range map[string]struct {
		look, artwork, more, code string
		severity                  proof.Severity
	}{
		"beyond the edge":         {`{}`, `,"x_mm":-6,"y_mm":12`, ``, "artwork.off", proof.SeverityStop},
		"at the edge":             {`{}`, `,"x_mm":0,"y_mm":12`, ``, "artwork.trim", proof.SeverityNote},
		"larger than it":          {`{}`, `,"width_mm":30`, ``, "artwork.off", proof.SeverityStop},
		"on stripes":              {`{"paper":"none"}`, `,"x_mm":10,"y_mm":100`, ``, "artwork.busy", proof.SeverityCare},
		"over something":          {`{}`, `,"x_mm":10,"y_mm":100`, ``, "artwork.covers", proof.SeverityNote},
		"no words":                {`{}`, ``, ``, "words.none", proof.SeverityNote},
		"words at a distance":     {`{}`, `,"x_mm":5,"y_mm":20`, `,"words":{"help":"Scan","ink":"#ffffff"}`, "", ""},
		"black words on the dark": {`{}`, `,"x_mm":5,"y_mm":20`, `,"words":{"help":"Scan"}`, "words.pale", proof.SeverityCare},
		"small words": {`{}`, `,"x_mm":5,"y_mm":20`,
			`,"words":{"address":"marrowby.example/garden/beds/today","size":0.5}`, "words.small", proof.SeverityNote},
		"words without room": {`{}`, `,"x_mm":58,"y_mm":20`, `,"words":{"headline":"Walk the garden","side":"right"}`,
			"words.off", proof.SeverityNote},
		"reversed on the dark": {transparent, `,"x_mm":10,"y_mm":20`, ``, "contrast.reversed", proof.SeverityStop},
		"a panel on stripes": {`{"paper":"none"}`, `,"x_mm":10,"y_mm":100,"panel":"#ffffff"`,
			`,"words":{"headline":"Sow","side":"above","ink":"#000"}`, "words.pale", proof.SeverityNote},
	} {
		t.Run(name, func(t *testing.T) {
			m := onBoard(t, c.look, c.artwork, c.more)
			found := func(m *Rendition) *proof.Finding {
				for _, f := range findings(t, m) {
					if c.code == "" && (strings.HasPrefix(f.Code, "artwork") || strings.HasPrefix(f.Code, "words") ||
						strings.HasPrefix(f.Code, "contrast")) || c.code != "" && f.Code == c.code {
						return &f
					}
				}
				return nil
			}
			f := found(m)
			if (f == nil) != (c.code == "") || f != nil && f.Severity != c.severity {
				t.Errorf("%s: %+v, want %q", name, f, c.code)
				return
			}
			if f == nil || f.Fix == nil {
				return
			}
			text, err := m.Job.MarshalJSON()
			if err != nil {
				t.Fatal(err)
			}
			doc, err := fields.Decode(text)
			if err != nil {
				t.Fatal(err)
			}
			if doc, _, err = f.Fix.Patch.Apply(doc); err != nil {
				t.Fatal(err)
			}
			mended, _, problems := Read(doc, nil)
			if len(problems) > 0 {
				t.Errorf("%s: the fix gives %v", name, problems)
			} else if again := found(mended); again != nil && c.code != "artwork.off" {
				t.Errorf("%s: after its fix %+v", name, again)
			}
		})
	}
}

// TestEverySize: every format at many sizes is read by others, and says how large it is to a thousandth.
func TestEverySize(t *testing.T) {
	dir := t.TempDir()
	for _, width := range []float64{12, 25, 60, 600} {
		m := parse(t,
			fmt.Sprintf(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"output":{"dpi":%d},"placements":[{"name":"a","width_mm":%g,"distance_mm":500}]}`, map[bool]int{true: 60, false: 300}[width > 100], width))
		p := m.Place(0)
		for _, f := range All {
			if f.Of == Whole || f.Ending() == "eps" || f.Ending() == "tif" { // for which see TestPressFormats
				continue
			}
			b, problems := m.File(f, p, meta)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			name := filepath.Join(dir, fmt.Sprintf("%g-%s.%s", width, f.Key(), f.Ending()))
			want := width
			if f.Ending() == "webp" && width > 100 { // the same pixels as the PNG, and slow to write
				continue
			}
			switch f.Ending() {
			case "svg":
				if err := os.WriteFile(name, bytes.ReplaceAll(b, []byte("currentColor"), []byte("#000")), 0o600); err != nil {
					t.Fatal(err)
				}
				tool(t, "rsvg-convert", "--width", "600", "--background-color", "white", "-o", name+".png", name)
				decodeWith(t, name+".png", m.Payload)
				continue
			case "pdf":
				if err := os.WriteFile(name, b, 0o600); err != nil {
					t.Fatal(err)
				}
				tool(t, "pdftoppm", "-scale-to", "600", "-singlefile", "-png", name, name)
				decodeWith(t, name+".png", m.Payload)
				continue
			case "webp": // read by a decoder of others, and written as what the readers take
				img, kind, err := image.Decode(bytes.NewReader(b))
				if err != nil || kind != "webp" {
					t.Fatalf("%v %s", err, kind)
				}
				var out bytes.Buffer
				if err := png.Encode(&out, img); err != nil {
					t.Fatal(err)
				}
				b, name, want = out.Bytes(), name+".png", 0
			}
			if err := os.WriteFile(name, b, 0o600); err != nil {
				t.Fatal(err)
			}
			decodeWith(t, name, m.Payload)
			if f.Key() == "label" {
				size, printed := m.Dots(p)
				if want = float64(printed); printed > p.Width*1.001 && size.PerModule > 1 {
					t.Errorf("%g mm: the label is %s", width, printed)
				}
			}
			if got := told(t, b); want > 0 && math.Abs(got/want-1) > 0.001 {
				t.Errorf("%s says that it is %.3f mm wide, want %.3f", filepath.Base(name), got, want)
			}
		}
	}
}

// told is how wide a picture says it is, in mm: by pHYs of a PNG, by Exif of a JPEG.
func told(t *testing.T, b []byte) float64 {
	t.Helper()
	config, kind, err := image.DecodeConfig(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	if kind == "png" {
		at := bytes.Index(b, []byte("pHYs"))
		if at < 0 {
			return 0
		}
		return float64(config.Width) / float64(binary.BigEndian.Uint32(b[at+4:])) * 1000
	}
	tiff := b[bytes.Index(b, []byte("Exif\x00\x00"))+6:]
	for i, n := 10, int(binary.BigEndian.Uint16(tiff[8:])); n > 0; i, n = i+12, n-1 {
		if binary.BigEndian.Uint16(tiff[i:]) == 0x011A {
			v := tiff[binary.BigEndian.Uint32(tiff[i+8:]):]
			return float64(config.Width) / (float64(binary.BigEndian.Uint32(v)) / float64(binary.BigEndian.Uint32(v[4:]))) * 25.4
		}
	}
	t.Fatal("no resolution")
	return 0
}

// TestLabel: what goes to a label printer is dark or light in whole dots, thinner where that is asked.
func TestLabel(t *testing.T) {
	job := `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"output":{"thinner_dots":%d},"placements":[{"name":"a","width_mm":25,"distance_mm":300,"substrate":"thermal"}]}`
	dark := func(thin int) (n int, side int) {
		m := parse(t, fmt.Sprintf(job, thin))
		b, problems := m.File(MustFormat("label"), m.Place(0), meta)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		img, err := png.Decode(bytes.NewReader(b))
		if err != nil {
			t.Fatal(err)
		}
		p, ok := img.(*image.Paletted)
		if !ok || len(p.Palette) != 2 {
			t.Fatalf("%T with more than two colours", img)
		}
		for _, v := range p.Pix {
			n += int(v)
		}
		return n, p.Rect.Dx()
	}
	all, side := dark(0)
	less, _ := dark(1)
	if side%(side/33) != 0 && side%29 != 0 || less >= all || less < all/2 {
		t.Errorf("%d dots of %d², thinner %d", all, side, less)
	}
	m := parse(t, strings.Replace(fmt.Sprintf(job, 4), `"width_mm":25`, `"width_mm":14`, 1))
	if _, problems := m.File(MustFormat("label"), m.Place(0), meta); len(problems) != 1 ||
		problems[0].Field != "/output/thinner_dots" {
		t.Errorf("thinner than a module: %v", problems)
	}
}

// TestOnScreens: what is shown on a screen has no more pixels than there is room for, whole ones a module, and the whole is
// as wide as the screen.
func TestOnScreens(t *testing.T) {
	m := parse(t,
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a","medium":"slide","pixels":434,"words":{"headline":"Sow"}}]}`)
	p := m.Place(0)
	if got := m.Pixels(p); got.Pixels > 434 || got.Pixels < 434-m.Modules() || got.Pixels%m.Modules() != 0 {
		t.Errorf("%+v for 434 pixels", got)
	}
	c, _ := m.Compose(p)
	if got := m.SheetPixels(p, c); got < 1915 || got > 1925 {
		t.Errorf("the whole slide is %d pixels wide", got)
	}
	m = parse(t,
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a","medium":"slide","pixels":21}]}`)
	if got := m.Pixels(m.Place(0)); got.PerModule != 1 {
		t.Errorf("below a pixel a module: %+v", got)
	}
}

// TestSurfaces: every medium that comes along says how large it is, and its usual code fits onto it.
func TestSurfaces(t *testing.T) {
	for _, medium := range place.Media {
		m := parse(t,
			fmt.Sprintf(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a","medium":%q}]}`,
				medium.Key))
		c, ok := m.Compose(m.Place(0))
		if !ok || c.Outside || c.Width != float64(medium.Size[0]) {
			t.Errorf("%s: %v %+v", medium.Key, ok, c.Code)
		}
		s := medium.Surface()
		if (s != nil) != (medium.Key == "call-background") {
			t.Errorf("%s begins with %v", medium.Key, s)
		}
		if s != nil { // a face is in the middle of a call, and at most two fifths as wide as the picture
			b, _ := json.Marshal(s)
			m = parse(t, fmt.Sprintf(`{"content":{"kind":"url","url":"https://marrowby.example/fair"},
				"placements":[{"name":"a","medium":%q,"artwork":%s}]}`, medium.Key, b))
			if c, ok := m.Compose(m.Place(0)); !ok || c.Outside || c.Code.X < 0.7*c.Width ||
				c.Height/c.Width < 0.56 || c.Height/c.Width > 0.565 {
				t.Errorf("%s: %v %+v of %g × %g", medium.Key, ok, c.Code, c.Width, c.Height)
			}
		}
		in, err := m.Proof(0)
		if err != nil {
			t.Fatal(err)
		}
		if medium.Round && (in.Surface == nil || in.Surface.Round == 0) {
			t.Errorf("%s is round, which its proof does not know", medium.Key)
		}
	}
}
