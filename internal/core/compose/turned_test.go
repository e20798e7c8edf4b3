package compose

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/eps"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
	"sodrik/internal/core/typeface"
)

// turnedScene is a sheet with a code on it that is turned, sheared a little and mirrored not at all, with a gradient, a
// picture in a clip, and words.
func turnedScene(t *testing.T, degrees float64, words string) (*scene.Scene, string) {
	t.Helper()
	m := parse(t,
		`{"name":"Turned","content":{"kind":"url","url":"https://marrowby.example/turned"},"look":{"ink":{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5b1f33"}]}},
		"placements":[{"name":"a","width_mm":50,"distance_mm":500}]}`)
	s := &scene.Scene{Width: 90, Height: 100,
		Items: []scene.Item{{Name: "sheet", Path: scene.Rectangle(0, 0, 90, 100), At: scene.Unit, Fill: ink.White}}}
	s.Items = append(s.Items, scene.Transformed(m.Scene(m.Place(0)).Items,
		scene.At(1, 20, 15).Then(scene.Turn(degrees, 45, 40)).Then(scene.Transform{A: 1, C: 0.08, D: 0.96}))...)
	pixels := image.NewNRGBA(image.Rect(0, 0, 40, 20))
	for y := range 20 {
		for x := range 40 {
			pixels.SetNRGBA(x, y, color.NRGBA{R: uint8(6 * x), G: uint8(12 * y), B: 120, A: 255})
		}
	}
	picture := scene.NewPicture(pixels)
	picture.Width, picture.Height = 16, 8
	window := scene.Rectangle(2, 1, 12, 6)
	s.Items = append(s.Items, scene.Item{Name: "picture", Picture: picture, Clip: &window,
		At: scene.Turn(-degrees, 8, 4).Then(scene.At(1, 8, 84))})
	line := typeface.Faces[0].Set(words)
	s.Items = append(s.Items, scene.Item{Name: "words", Path: line.Path, Letters: line.Letters, Fill: ink.Black,
		At: scene.At(4, 0, 0).Then(scene.Turn(8, 0, 0)).Then(scene.At(1, 34, 86))})
	return s, "https://marrowby.example/turned"
}

// farOff is how far two pictures of the same size lie apart: the share of pixels that differ by more than 48 of 255, which
// edges do by a little.
func farOff(t *testing.T, file string, want *image.NRGBA) float64 {
	t.Helper()
	b, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	if d := img.Bounds().Size().Sub(want.Rect.Size()); max(d.X, -d.X, d.Y, -d.Y) > 1 {
		t.Fatalf("%s is %v, want %v", filepath.Base(file), img.Bounds().Size(), want.Rect.Size())
	}
	far, all := 0, 0
	for y := range min(img.Bounds().Dy(), want.Rect.Dy()) {
		for x := range min(img.Bounds().Dx(), want.Rect.Dx()) {
			a := color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)
			o := want.NRGBAAt(x, y)
			all++
			if d := func(a, b uint8) float64 {
				return math.Abs(float64(a) - float64(b))
			}; max(d(a.R, o.R), d(a.G, o.G), d(a.B, o.B)) > 48 {
				far++
			}
		}
	}
	return float64(far) / float64(all)
}

// TestTurned: what is turned and sheared is the same in our pixels and in what other programs make of SVG, PDF and EPS; in
// each, readers read the code.
func TestTurned(t *testing.T) {
	for _, degrees := range []float64{90, 217} {
		t.Run(fmt.Sprint(degrees), func(t *testing.T) {
			s, payload := turnedScene(t, degrees, "Way to the fair")
			dir := t.TempDir()
			at := func(name string) string { return filepath.Join(dir, name) }
			const dpi = 254
			ours, err := raster.Draw(s, raster.View{Width: 900, Height: 1000, Scale: dpi / 25.4})
			if err != nil {
				t.Fatal(err)
			}
			var b bytes.Buffer
			if err := png.Encode(&b, ours); err != nil {
				t.Fatal(err)
			}
			sheet, err := separation.Separate(s, press.Conditions[0], nil)
			if err != nil {
				t.Fatal(err)
			}
			x, err := pdf.EncodeX(sheet, pdf.Press{}, meta)
			if err != nil {
				t.Fatal(err)
			}
			for name, data := range map[string][]byte{"ours.png": b.Bytes(), "a.svg": svg.Encode(s, export.Meta{}),
				"a.pdf": pdf.Encode(s, export.Meta{}), "x.pdf": x, "a.eps": eps.Encode(sheet, meta)} {
				if err := os.WriteFile(at(name), data, 0o600); err != nil {
					t.Fatal(err)
				}
			}
			tool(t, "rsvg-convert", "--width", "900", "-o", at("svg.png"), at("a.svg"))
			tool(t, "pdftoppm", "-r", fmt.Sprint(dpi), "-singlefile", "-png", at("a.pdf"), at("pdf"))
			tool(t, "mutool", "draw", "-q", "-r", fmt.Sprint(dpi), "-o", at("mupdf.png"), at("a.pdf"), "1")
			tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-dGraphicsAlphaBits=4", "-dDOINTERPOLATE",
				"-r254", "-o", at("gs.png"), at("a.pdf"))
			tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-dEPSCrop", "-sDEVICE=pnggray", "-r254", "-o", at("eps.png"),
				at("a.eps"))
			tool(t, "pdftoppm", "-r", fmt.Sprint(dpi), "-singlefile", "-gray", "-png", at("x.pdf"), at("pdfx"))
			// ghostscript smooths no clip, which a gradient's modules are
			for name, most := range map[string]float64{"svg.png": 0.004, "pdf.png": 0.004, "mupdf.png": 0.004, "gs.png": 0.02} {
				if far := farOff(t, at(name), ours); far > most {
					t.Errorf("%s: %.2f %% of its pixels differ from ours", name, 100*far)
				}
			}
			for _, name := range []string{"ours.png", "svg.png", "pdf.png", "mupdf.png", "gs.png", "eps.png", "pdfx.png"} {
				decodeWith(t, at(name), payload)
			}
		})
	}
}

// counting counts what is written.
type counting struct {
	io.Writer
	n int64
}

func (c *counting) Write(b []byte) (int, error) { c.n += int64(len(b)); return c.Writer.Write(b) }

// TestManyPages: a document of 500 pages of many sizes with turned codes is written in flat memory; four programs find its
// pages as large as they are, and readers the codes on them. Letters are in it once.
func TestManyPages(t *testing.T) {
	for _, kind := range []string{"pdf", "pdfx"} {
		t.Run(kind, func(t *testing.T) {
			const pages = 200
			name := filepath.Join(t.TempDir(), "many.pdf")
			f, err := os.Create(name)
			if err != nil {
				t.Fatal(err)
			}
			defer f.Close()
			out := &counting{Writer: f}
			var d *pdf.Document
			if kind == "pdf" {
				d = pdf.NewDocument(out, meta)
			} else if d, err = pdf.NewDocumentX(out, meta); err != nil {
				t.Fatal(err)
			}
			m := parse(t,
				`{"name":"Row","content":{"kind":"url","url":"https://marrowby.example/row"},"placements":[{"name":"a","width_mm":40,"distance_mm":400}]}`)
			code := m.Scene(m.Place(0)).Items
			face := typeface.Faces[0]
			page := func(i int) *scene.Scene {
				s := &scene.Scene{Width: 70 + float64(i%7), Height: 80 + float64(i%11)}
				s.Items = scene.Transformed(code, scene.At(1, 15, 15).Then(scene.Turn(float64(i*17%360), 35, 35)))
				line := face.Set(fmt.Sprintf("Bed %d, row %d", i, i%40))
				s.Items = append(s.Items, scene.Item{Name: "words", Path: line.Path, Letters: line.Letters, Fill: ink.Black,
					At: scene.At(4, 8, 76)})
				return s
			}
			var first, at100, at200 int64
			heap := func() int64 {
				var s runtime.MemStats
				runtime.GC()
				runtime.GC() // pools are emptied by the second
				runtime.ReadMemStats(&s)
				return int64(s.HeapAlloc)
			}
			for i := range pages {
				s := page(i)
				if kind == "pdf" {
					err = d.Add(s)
				} else {
					var sheet *separation.Sheet
					if sheet, err = separation.Separate(s, press.Conditions[0], nil); err == nil {
						err = d.AddX(sheet, pdf.Press{Bleed: 3, Marks: true})
					}
				}
				if err != nil {
					t.Fatal(err)
				}
				switch i {
				case 0:
					first = out.n
				case 99:
					at100 = heap()
				}
			}
			at200 = heap()
			if grown := at200 - at100; grown > 100<<10 {
				t.Errorf("100 pages keep %d bytes", grown)
			}
			if err := d.Close(); err != nil {
				t.Fatal(err)
			}
			if each := (out.n - first) / (pages - 1); each > 2000 {
				t.Errorf("the first page takes %d bytes, each further one %d", first, each)
			}
			if got := tool(t, "qpdf", "--check", name); !strings.Contains(got, "No syntax or stream encoding errors found") {
				t.Errorf("qpdf: %s", got)
			}
			if got := strings.TrimSpace(tool(t, "qpdf", "--show-npages", name)); got != fmt.Sprint(pages) {
				t.Errorf("qpdf counts %s pages", got)
			}
			if got := tool(t, "mutool", "info", "-F", name); !strings.Contains(got, fmt.Sprintf("Pages: %d", pages)) {
				t.Errorf("mupdf: %.300s", got)
			}
			if got := tool(t, "gs", "-q", "-dNODISPLAY", "-dSAFER", "--permit-file-read="+name, "-c",
				fmt.Sprintf("(%s) (r) file runpdfbegin pdfpagecount = quit", name)); strings.TrimSpace(got) != fmt.Sprint(pages) {
				t.Errorf("ghostscript counts %s pages", got)
			}
			boxes := tool(t, "pdfinfo", "-box", "-f", "1", "-l", fmt.Sprint(pages), name)
			for _, i := range []int{0, 1, 100, 199} {
				s := page(i)
				want := fmt.Sprintf("Page %4d TrimBox:  ", i+1)
				at := strings.Index(boxes, want)
				if at < 0 {
					t.Fatalf("pdfinfo has no %q in %.200s", want, boxes)
				}
				var x0, y0, x1, y1 float64
				fmt.Sscan(boxes[at+len(want):], &x0, &y0, &x1, &y1)
				if math.Abs((x1-x0)*25.4/72-s.Width) > 0.01 || math.Abs((y1-y0)*25.4/72-s.Height) > 0.01 {
					t.Errorf("page %d is %g by %g points, want %g by %g mm", i+1, x1-x0, y1-y0, s.Width, s.Height)
				}
				n := fmt.Sprint(i + 1)
				picture := func(by string) string { return fmt.Sprintf("%s-%d-%s", name, i, by) }
				tool(t, "pdftoppm", "-r", "200", "-f", n, "-l", n, "-singlefile", "-png", name, picture("poppler"))
				tool(t, "mutool", "draw", "-q", "-r", "200", "-o", picture("mupdf.png"), name, n)
				tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-r200", "-dFirstPage="+n,
					"-dLastPage="+n, "-o", picture("gs.png"), name)
				for _, by := range []string{"poppler.png", "mupdf.png", "gs.png"} {
					decodeWith(t, picture(by), m.Payload)
				}
			}
			if kind == "pdfx" {
				b, err := os.ReadFile(name)
				if err != nil {
					t.Fatal(err)
				}
				if wrong := pdf.Preflight(b); len(wrong) > 0 {
					t.Errorf("it does not pass for PDF/X: %v", wrong[0])
				}
			}
		})
	}
}
