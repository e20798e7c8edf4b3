package compose

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/png"
	"maps"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"golang.org/x/image/tiff"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/problem"
)

// spotted is a code in a spot ink on a colour of its own, with an eye in process inks.
const spotted = `{"name":"Packet","content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":{"screen":"#12352b","cmyk":[84,40,70,62],"spot":"Marrowby Pine"},"paper":{"cmyk":[2,4,13,0]},
	"eyes":{"core":{"ink":{"cmyk":[0,80,100,20]}}}},"output":{"colour":"coated","bleed_mm":3,"marks":true},"placements":[{"name":"back","width_mm":60,"distance_mm":600}]}`

func pressFile(t *testing.T, m *Rendition, format string) string {
	t.Helper()
	b, problems := m.File(MustFormat(format), m.Place(0), meta)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	name := filepath.Join(t.TempDir(), "file."+map[string]string{"pdfx": "pdf", "eps": "eps", "tif": "tif",
		"sheet-pdfx": "pdf"}[format])
	if err := os.WriteFile(name, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return name
}

// grey reads a plate that ghostscript drew: dark is ink.
func grey(t *testing.T, name string) (*image.Gray, image.Rectangle) {
	t.Helper()
	f, err := os.Open(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	img, err := tiff.Decode(f)
	if err != nil {
		t.Fatal(err)
	}
	g, ok := img.(*image.Gray)
	if !ok {
		t.Fatalf("%s is %T", name, img)
	}
	dark := image.Rectangle{}
	for y := range g.Rect.Dy() {
		for x := range g.Rect.Dx() {
			if g.GrayAt(x, y).Y < 128 {
				dark = dark.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return g, dark
}

// TestPressPlates: what ghostscript makes of the PDF/X has the modules on the plate of the spot ink and nowhere else, by its
// name; inks of its own are used as given; boxes are where they were asked for; the plate is read by others.
func TestPressPlates(t *testing.T) {
	m := parse(t, spotted)
	file := pressFile(t, m, "pdfx")
	if out := tool(t, "qpdf", "--check", file); !strings.Contains(out, "No syntax or stream encoding errors found") {
		t.Errorf("qpdf: %s", out)
	}
	if fonts := tool(t, "pdffonts", file); strings.Count(fonts, "\n") != 2 {
		t.Errorf("it holds fonts: %s", fonts)
	}
	const point = 72 / 25.4
	info := tool(t, "pdfinfo", "-box", file)
	around := 3 + markLengths
	for name, b := range map[string][4]float64{"MediaBox": {0, 0, 60 + 2*around, 60 + 2*around},
		"TrimBox": {around, around, around + 60, around + 60}, "BleedBox": {around - 3, around - 3, around + 63, around + 63}} {
		t.Run(name, func(t *testing.T) {
			want := fmt.Sprintf(`%s:\s+%.2f\s+%.2f\s+%.2f\s+%.2f`, name, b[0]*point, b[1]*point, b[2]*point, b[3]*point)
			if !regexp.MustCompile(want).MatchString(info) {
				t.Errorf("pdfinfo has no %s in\n%s", want, info)
			}
		})
	}
	dir := t.TempDir()
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r600", "-o", filepath.Join(dir, "p.tif"), file)
	plate := func(name string) string { return filepath.Join(dir, "p("+name+").tif") }
	g, _ := grey(t, plate("Marrowby Pine"))
	perMM := 600 / 25.4
	at := func(x, y float64) uint8 { return g.GrayAt(int((around+x)*perMM), int((around+y)*perMM)).Y }
	module := 60.0 / float64(m.Modules())
	// ring, quiet zone, core
	if at(module*4.5, module*4.5) != 0 || at(module*2, module*2) != 255 || at(module*7.5, module*7.5) != 255 {
		t.Errorf("on the plate of the spot: ring %d, quiet zone %d, core %d", at(module*4.5, module*4.5), at(module*2, module*2),
			at(module*7.5, module*7.5))
	}
	magenta, _ := grey(t, plate("Magenta"))
	share := func(g *image.Gray, x, y float64) float64 {
		return 100 - float64(g.GrayAt(int((around+x)*perMM), int((around+y)*perMM)).Y)/2.55
	}
	for _, c := range []struct {
		what       string
		x, y, want float64
	}{{"core", module * 7.5, module * 7.5, 80}, {"ring", module * 4.5, module * 4.5, 0}, {"paper", module * 2, module * 2, 4},
		{"bleed", -2, 30, 4}, {"beyond the bleed", -3.5, 20, 0}} {
		t.Run(c.what, func(t *testing.T) {
			if got := share(magenta, c.x, c.y); math.Abs(got-c.want) > 0.7 {
				t.Errorf("magenta in the %s is %.1f %%, want %g", c.what, got, c.want)
			}
		})
	}
	// The plate alone, cut to the trim, is a code.
	side := int(60 * perMM)
	cut := image.NewGray(image.Rect(0, 0, side, side))
	for y := range side {
		for x := range side {
			v := g.GrayAt(x+int(around*perMM), y+int(around*perMM))
			if magenta.GrayAt(x+int(around*perMM), y+int(around*perMM)).Y < 128 { // the cores lie on another plate
				v.Y = 0
			}
			cut.SetGray(x, y, v)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, cut); err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(dir, "cut.png")
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	decodeWith(t, name, m.Payload)
}

// markLengths is how far marks and what stands beyond them reach from the bleed of 3 mm.
const markLengths = 10.0

// TestBlackAlone: black modules are on the plate of black and on no other, within one dot of where they belong at 1,200 dots
// an inch.
func TestBlackAlone(t *testing.T) {
	m := parse(t,
		`{"name":"Plain","content":{"kind":"url","url":"https://marrowby.example/fair"},"output":{"colour":"uncoated"},"placements":[{"name":"a","width_mm":60,"distance_mm":600}]}`)
	file := pressFile(t, m, "pdfx")
	if st, err := os.Stat(file); err != nil || st.Size() > 12_000 {
		t.Errorf("plain it takes %d bytes", st.Size())
	}
	dir := t.TempDir()
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r1200", "-o", filepath.Join(dir, "p.tif"), file)
	for _, name := range []string{"Cyan", "Magenta", "Yellow"} {
		t.Run(name, func(t *testing.T) {
			if _, dark := grey(t, filepath.Join(dir, "p("+name+").tif")); !dark.Empty() {
				t.Errorf("%s has ink at %v", name, dark)
			}
		})
	}
	g, dark := grey(t, filepath.Join(dir, "p(Black).tif"))
	const perMM = 1200 / 25.4
	module := 60 * perMM / float64(m.Modules())
	first, last := 4*module, (float64(m.Modules())-4)*module
	for _, d := range []float64{float64(dark.Min.X) - first, float64(dark.Min.Y) - first, float64(dark.Max.X) - last,
		float64(dark.Max.Y) - last, float64(g.Rect.Dx()) - 60*perMM} {
		if math.Abs(d) > 1 {
			t.Errorf("an edge is off by %.2f dots", d)
		}
	}
}

// TestRegistration: the marks beyond the bleed are on every plate, in the same places: a plate without them could not be laid
// over the others.
func TestRegistration(t *testing.T) {
	m := parse(t, spotted)
	dir := t.TempDir()
	const dots = 600
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", fmt.Sprint("-r", dots), "-o",
		filepath.Join(dir, "p.tif"), pressFile(t, m, "pdfx"))
	at := func(mm float64) int { return int(mm * dots / 25.4) }
	bleed := image.Rect(at(markLengths-0.2), at(markLengths-0.2), at(markLengths+66.2), at(markLengths+66.2))
	marks := map[string]map[image.Point]bool{}
	for _, name := range []string{"Cyan", "Magenta", "Yellow", "Black", "Marrowby Pine"} {
		t.Run(name, func(t *testing.T) {
			g, _ := grey(t, filepath.Join(dir, "p("+name+").tif"))
			marks[name] = map[image.Point]bool{}
			for y := range g.Rect.Dy() {
				for x := range g.Rect.Dx() {
					// below stand the colour bar and a line in black
					if dot := image.Pt(x, y); !dot.In(bleed) && y < g.Rect.Dy()-at(5) && g.GrayAt(x, y).Y < 64 {
						marks[name][dot] = true
					}
				}
			}
		})
	}
	if n := len(marks["Black"]); n < 1000 {
		t.Fatalf("there are marks of %d dots", n)
	}
	for name, has := range marks {
		if !maps.Equal(has, marks["Black"]) {
			t.Errorf("%s has marks of %d dots, black of %d", name, len(has), len(marks["Black"]))
		}
	}
}

// TestOverprint: black and spot inks that overprint leave what lies beneath on its plate, others and those that do not knock
// it out (ISO 32000-1, 8.6.7: the fills by op, a component of nothing in DeviceCMYK by OPM 1).
func TestOverprint(t *testing.T) {
	for _, c := range []struct {
		name, ink string
		over      bool
		want      float64 // percent of yellow beneath a module
	}{
		{"black over it", `{"cmyk":[0,0,0,100]}`, true, 10}, {"black", `{"cmyk":[0,0,0,100]}`, false, 0},
		{"spot over it", `{"screen":"#12352b","cmyk":[80,40,0,70],"spot":"Pine"}`, true, 10},
		{"spot", `{"screen":"#12352b","cmyk":[80,40,0,70],"spot":"Pine"}`, false, 0},
		{"a mixture never", `{"cmyk":[50,0,0,90]}`, true, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := parse(t,
				fmt.Sprintf(
					`{"name":"Over","content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":%s,"paper":{"cmyk":[0,0,10,0]}},"output":{"colour":"coated","overprint":%v},
				"placements":[{"name":"a","width_mm":60,"distance_mm":600}]}`, c.ink, c.over))
			dir := t.TempDir()
			tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r300", "-o", filepath.Join(dir, "p.tif"),
				pressFile(t, m, "pdfx"))
			g, _ := grey(t, filepath.Join(dir, "p(Yellow).tif"))
			at := int(4.5 * 60 / float64(m.Modules()) * 300 / 25.4) // the ring of the first eye
			if got := 100 - float64(g.GrayAt(at, at).Y)/2.55; math.Abs(got-c.want) > 0.7 {
				t.Errorf("beneath a module there is %.1f %% of yellow, want %g", got, c.want)
			}
		})
	}
}

// TestPressFormats: EPS and TIFF show the same as the PDF/X, in what ghostscript and libtiff make of them, gradient and
// picture too.
func TestPressFormats(t *testing.T) {
	m := parse(t,
		`{"name":"Dressed","content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5b1f33"}]},
		"mark":{"source":"icon:sprout","width":0.18},"frame":{"shape":"rule","text":"Sow"}},"output":{"colour":"coated"},"placements":[{"name":"a","width_mm":40,"distance_mm":400}]}`)
	dir := t.TempDir()
	drawn := map[string]image.Image{}
	for _, format := range []string{"pdfx", "eps"} {
		t.Run(format, func(t *testing.T) {
			file, out := pressFile(t, m, format), filepath.Join(dir, format+".png")
			args := []string{"-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-r300", "-o", out}
			if format == "eps" {
				args = append(args, "-dEPSCrop")
			}
			tool(t, "gs", append(args, file)...)
			decodeWith(t, out, m.Payload)
			b, err := os.ReadFile(out)
			if err != nil {
				t.Fatal(err)
			}
			if drawn[format], err = png.Decode(bytes.NewReader(b)); err != nil {
				t.Fatal(err)
			}
		})
	}
	a, e := drawn["pdfx"], drawn["eps"]
	if d := a.Bounds().Size().Sub(e.Bounds().Size()); max(d.X, -d.X, d.Y, -d.Y) > 2 {
		t.Fatalf("%v and %v", a.Bounds(), e.Bounds())
	}
	diff, n := 0.0, 0
	for y := 5; y < min(a.Bounds().Dy(), e.Bounds().Dy())-5; y += 3 {
		for x := 5; x < min(a.Bounds().Dx(), e.Bounds().Dx())-5; x += 3 {
			r1, g1, b1, _ := a.At(x, a.Bounds().Dy()-1-y).RGBA() // both stand on their feet
			r2, g2, b2, _ := e.At(x, e.Bounds().Dy()-1-y).RGBA()
			diff += math.Abs(float64(r1)-float64(r2)) + math.Abs(float64(g1)-float64(g2)) + math.Abs(float64(b1)-float64(b2))
			n++
		}
	}
	if mean := diff / float64(n) / 3 / 257; mean > 4 {
		t.Errorf("EPS and PDF/X differ by %.2f steps of 255", mean)
	}
	// Poppler and mupdf see the same: dark and light alike in the middle of every module, whatever each makes of inks.
	px := pressFile(t, m, "pdfx")
	tool(t, "pdftoppm", "-r", "300", "-singlefile", "-png", px, filepath.Join(dir, "poppler"))
	tool(t, "mutool", "draw", "-q", "-r", "300", "-o", filepath.Join(dir, "mupdf.png"), px, "1")
	module := 40.0 / 25.4 * 300 / float64(m.Modules())
	for _, by := range []string{"poppler", "mupdf"} {
		t.Run(by, func(t *testing.T) {
			decodeWith(t, filepath.Join(dir, by+".png"), m.Payload)
			b, err := os.ReadFile(filepath.Join(dir, by+".png"))
			if err != nil {
				t.Fatal(err)
			}
			other, err := png.Decode(bytes.NewReader(b))
			if err != nil {
				t.Fatal(err)
			}
			dark := func(img image.Image, x, y int) bool {
				r, g, b, _ := img.At(img.Bounds().Min.X+int((float64(x)+0.5)*module),
					img.Bounds().Min.Y+int((float64(y)+0.5)*module)).RGBA()
				return r+g+b < 3*0x8000
			}
			for y := range m.Modules() {
				for x := range m.Modules() {
					n := float64(m.Modules())
					// the mark, whose edges lie anywhere
					if math.Abs(float64(x)+0.5-n/2) < n*0.16 && math.Abs(float64(y)+0.5-n/2) < n*0.16 {
						continue
					}
					if dark(a, x, y) != dark(other, x, y) {
						t.Fatalf("%s and ghostscript differ at module %d, %d", by, x, y)
					}
				}
			}
		})
	}
	file := pressFile(t, m, "tif")
	info := tool(t, "tiffinfo", file)
	for _, want := range []string{"Photometric Interpretation: separated", "Compression Scheme: LZW", "Samples/Pixel: 4",
		"Bits/Sample: 8", "pixels/inch"} {
		t.Run(want, func(t *testing.T) {
			if !strings.Contains(info, want) {
				t.Errorf("tiffinfo has no %q in\n%s", want, info)
			}
		})
	}
	wide, dpi := 0.0, 0.0
	fmt.Sscanf(info[strings.Index(info, "Image Width: "):], "Image Width: %f", &wide)
	fmt.Sscanf(info[strings.Index(info, "Resolution: "):], "Resolution: %f", &dpi)
	if width := m.Scene(m.Place(0)).Width; math.Abs(wide/dpi*25.4/width-1) > 0.001 {
		t.Errorf("the TIFF is %g dots at %g, not %g mm", wide, dpi, width)
	}
	tool(t, "tiffcp", "-c", "none", file, filepath.Join(dir, "plain.tif")) // libtiff unpacks it
}

// TestNoPress: what cannot be had is a problem that says why.
func TestNoPress(t *testing.T) {
	m := parse(t, gate)
	if _, problems := m.File(MustFormat("pdfx"), m.Place(0), export.Meta{Title: "x"}); len(problems) != 1 ||
		!strings.Contains(problems[0].Message, "date of the version") {
		t.Errorf("without a date: %v", problems)
	}
	if _, problems := m.File(MustFormat("sheet-pdfx"), m.Place(0), meta); len(problems) != 1 ||
		problems[0].Code != "artwork.none" {
		t.Errorf("of no whole: %v", problems)
	}
}

// TestPreflight: a file of ours passes; broken in one place it does not, and the place is named.
func TestPreflight(t *testing.T) {
	m := parse(t, spotted)
	b, problems := m.File(MustFormat("pdfx"), m.Place(0), meta)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if wrong := pdf.Preflight(b); len(wrong) > 0 {
		t.Fatal(wrong)
	}
	for old, c := range map[string][2]string{
		"%PDF-1.4":                         {"%PDF-1.6", "header"},
		"/Trapped /False":                  {"/Trapped /Maybe", "Trapped"},
		"(PDF/X-1a:2003)":                  {"(PDF/X-3:2003) ", "does not say that it is PDF/X-1a"},
		"/S /GTS_PDFX ":                    {"/S /GTS_PDFA ", "output intent"},
		"/TrimBox [":                       {"/TrimBex [", "TrimBox"},
		"/OutputConditionIdentifier (FOGR": {"/OutputConditionIdentifer  (FOGR", "identifier"},
		"/ModDate":                         {"/MudDate", "ModDate"},
		"/DeviceCMYK <<":                   {"/DeviceRGB  <<", "DeviceRGB"},
		" /ID [":                           {" /Id [", "ID"},
		"/Type /Page /":                    {"/Type /Page/Annots[<<>>]/", "annotations"},
		"/Resources <<": {
			"/Resources << /Font << /T1 << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> >>",
			"the font Helvetica is not embedded"},
	} {
		t.Run(old, func(t *testing.T) {
			broken := bytes.Replace(b, []byte(old), []byte(c[0]), 1)
			if bytes.Equal(broken, b) {
				t.Errorf("%q is not in the file", old)
				return
			}
			if wrong := pdf.Preflight(broken); !strings.Contains(strings.Join(wrong, "; "), c[1]) {
				t.Errorf("%q for %q: %v, want %q", c[0], old, wrong, c[1])
			}
		})
	}
	plain, _ := m.File(MustFormat("pdf"), m.Place(0), meta)
	if wrong := strings.Join(pdf.Preflight(plain), "; "); !strings.Contains(wrong, "RGB") {
		t.Errorf("a plain PDF: %s", wrong)
	}
}

// TestOntoPress: PDF/X artwork stays PDF/X with the code added in its own inks, every byte of it; other artwork is refused
// with what it breaks.
func TestOntoPress(t *testing.T) {
	sheet := parse(t,
		`{"name":"Card","content":{"kind":"url","url":"https://marrowby.example/card"},"look":{"ink":{"screen":"#5b1f33","cmyk":[35,95,50,58],"spot":"Beetroot"}},"output":{"colour":"coated"},"placements":[{"name":"a","width_mm":90,"distance_mm":900}]}`)
	art, problems := sheet.File(MustFormat("pdfx"), sheet.Place(0), meta)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	plain, _ := sheet.File(MustFormat("pdf"), sheet.Place(0), meta)
	on := func(file []byte) (*Rendition, problem.List) {
		picture := filepath.Join(t.TempDir(), "page")
		name := picture + ".pdf"
		if err := os.WriteFile(name, file, 0o600); err != nil {
			t.Fatal(err)
		}
		tool(t, "pdftoppm", "-r", "100", "-singlefile", "-png", name, picture)
		pixels, err := os.ReadFile(picture + ".png")
		if err != nil {
			t.Fatal(err)
		}
		s, err := artwork.ReadPage(file, 1, pixels)
		if err != nil {
			t.Fatal(err)
		}
		source := "asset:sha256-" + strings.Repeat("a", 64) + "#page=1"
		return Parse(
			[]byte(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":{"screen":"#12352b","cmyk":[84,40,70,62],"spot":"Marrowby Pine"}},"output":{"colour":"coated"},
			"placements":[{"name":"a","width_mm":30,"distance_mm":300,"artwork":{"source":"`+source+`","x_mm":20,"y_mm":20}}]}`),
			func(asked string) (artwork.Upload, bool) { return s, asked == source })
	}
	m, problems := on(art)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	out, problems := m.File(MustFormat("sheet-pdfx"), m.Place(0), meta)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if !bytes.HasPrefix(out, art) || len(pdf.Preflight(out)) > 0 {
		t.Errorf("%v", pdf.Preflight(out))
	}
	dir := t.TempDir()
	file := filepath.Join(dir, "out.pdf")
	if err := os.WriteFile(file, out, 0o600); err != nil {
		t.Fatal(err)
	}
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r300", "-o", filepath.Join(dir, "p.tif"), file)
	for _, name := range []string{"Beetroot", "Marrowby Pine"} {
		t.Run(name, func(t *testing.T) {
			if _, dark := grey(t, filepath.Join(dir, "p("+name+").tif")); dark.Empty() {
				t.Errorf("no ink on the plate of %s", name)
			}
		})
	}
	m, problems = on(plain)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if _, problems := m.File(MustFormat("sheet-pdfx"), m.Place(0), meta); len(problems) != 1 ||
		!strings.Contains(problems[0].Message, "is no PDF/X-1a") {
		t.Errorf("artwork in RGB: %v", problems)
	}
	for key, fits := range map[string]bool{"sheet-pdfx": false, "sheet-pdf": true, "pdfx": true} {
		if wrong := m.Unfit(MustFormat(key), m.Place(0)); (len(wrong) == 0) != fits {
			t.Errorf("%s of artwork in RGB: %v", key, wrong)
		}
	}
}

// TestPressRules: what a press makes hard is found, and only where the job is made for one.
func TestPressRules(t *testing.T) {
	hairs := `"data:image/svg+xml;base64,` +
		base64.StdEncoding.EncodeToString(
			[]byte(
				`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect width="100" height="40" fill="#12352b"/><rect y="60" width="100" height="0.5" fill="#12352b"/></svg>`)) + `"`
	for name, c := range map[string]struct{ look, output, code string }{
		"too much ink": {`{"ink":{"cmyk":[90,80,80,90]}}`, `{"colour":"coated"}`, "press.total"},
		"rich black":   {`{"ink":{"cmyk":[40,30,30,100]}}`, `{"colour":"coated"}`, "press.rich"},
		"out of reach": {`{"ink":"#0000c8"}`, `{"colour":"uncoated"}`, "press.gamut"},
		"coarse picture": {`{"backdrop":{"source":"` + coarse(t) + `","mode":"under"}}`, `{"colour":"coated"}`,
			"press.coarse"},
		"thin lines": {`{"frame":{"shape":"rule","text":"Sow"},"mark":{"source":` + hairs + `}}`, `{"colour":"coated"}`,
			"press.hairline"},
		"sound lines": {`{"frame":{"shape":"rule","text":"Sow"},"mark":{"source":"icon:sprout"}}`,
			`{"colour":"coated"}`, ""},
		"too much on screen": {`{"ink":{"cmyk":[90,80,80,90]}}`, `{}`, ""},
		"black alone":        {`{"ink":{"cmyk":[0,0,0,100]}}`, `{"colour":"coated"}`, ""},
		"a spot ink": {`{"ink":{"screen":"#12352b","cmyk":[84,80,80,90],"spot":"Marrowby Pine"}}`,
			`{"colour":"coated"}`, ""},
	} {
		t.Run(name, func(t *testing.T) {
			m := parse(t,
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":`+c.look+`,"output":`+c.output+`,"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`)
			found := ""
			for _, f := range findings(t, m) {
				if strings.HasPrefix(f.Code, "press.") && (found == "" || f.Code == c.code) {
					found = f.Code
				}
			}
			if found != c.code {
				t.Errorf("%s: %q, want %q", name, found, c.code)
			}
		})
	}
}

// coarse is a picture of few pixels as a data: address.
func coarse(t *testing.T) string {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, 60, 60))
	for i := range img.Pix {
		img.Pix[i] = 200
		if i%4 == 3 {
			img.Pix[i] = 255
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())
}

// TestOnPaper: made for a press, the sheet shows inks as the paper has them, its white too; made for screens, as screens do.
// Spot inks stay.
func TestOnPaper(t *testing.T) {
	job := `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":%s},"output":{"colour":%q},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`
	for _, c := range []struct {
		ink, colour string
		same        bool
	}{{`"#12352b"`, "rgb", true}, {`"#12352b"`, "uncoated", false},
		{`{"screen":"#12352b","cmyk":[84,40,70,62],"spot":"Marrowby Pine"}`, "uncoated", true}} {
		t.Run(c.ink, func(t *testing.T) {
			m := parse(t, fmt.Sprintf(job, c.ink, c.colour))
			s := m.Scene(m.Place(0))
			shown := m.OnPaper(s, m.Place(0))
			last := len(s.Items) - 1
			if same := shown.Items[last].Fill.Same(s.Items[last].Fill); same != c.same {
				t.Errorf("%s for %s: %v becomes %v", c.ink, c.colour, s.Items[last].Fill, shown.Items[last].Fill)
			}
			if white := m.PaperWhite(m.Place(0)).Same(ink.White); white != (c.colour == "rgb") {
				t.Errorf("%s: the paper is white: %v", c.colour, white)
			}
		})
	}
}
