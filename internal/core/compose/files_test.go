package compose

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/export"
)

// tool runs a program that must be there: these tests are about what others make of our files.
func tool(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).Output()
	if err != nil {
		t.Fatalf("%s %s: %v\n%s", name, strings.Join(args, " "), err, out)
	}
	return string(out)
}

func parse(t *testing.T, text string) *Rendition {
	t.Helper()
	m, problems := Parse([]byte(text), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

const gate = `{"name":"Fair, gate poster – \"Grüße\" (1)","content":{"kind":"url","url":"marrowby.example/fair?utm_source=gate&a=<1>"},"look":{"ink":"#12352b"},
	"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":30,"distance_mm":300}]}`

var meta = export.Meta{Title: `Gate – "Grüße" (1) <&>`, Created: time.Date(2027, 3, 1, 9, 30, 0, 0, time.UTC)}

// decodeWith reads a picture file with both outside readers.
func decodeWith(t *testing.T, file, want string) {
	t.Helper()
	if got := strings.TrimSuffix(tool(t, "zbarimg", "--quiet", "--raw", "--nodbus", "-Sdisable", "-Sqrcode.enable", "-Sbinary",
		file), "\n"); got != want {
		t.Errorf("%s: zbar reads %q, want %q", filepath.Base(file), got, want)
	}
	if got := tool(t, "ZXingReader", "-format", "QRCode", "-bytes", file); got != want {
		t.Errorf("%s: zxing-cpp reads %q, want %q", filepath.Base(file), got, want)
	}
}

// TestFilesAreReadByOthers writes every format, has other programs rasterise it, and reads the pixels with other readers.
func TestFilesAreReadByOthers(t *testing.T) {
	dir := t.TempDir()
	m := parse(t, gate)
	for i := -1; i < 2; i++ {
		at := func(name string) string { return filepath.Join(dir, fmt.Sprintf("%d-%s", i, name)) }
		for _, format := range Formats {
			b, problems := m.File(MustFormat(format), m.Place(i), meta)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			if err := os.WriteFile(at("code."+format), b, 0o600); err != nil {
				t.Fatal(err)
			}
			again, _ := m.File(MustFormat(format), m.Place(i), meta)
			if !bytes.Equal(b, again) {
				t.Errorf("%s: the same job gives other bytes", format)
			}
		}
		decodeWith(t, at("code.png"), m.Payload)
		tool(t, "rsvg-convert", "--width", "700", "-o", at("svg.png"), at("code.svg"))
		decodeWith(t, at("svg.png"), m.Payload)
		tool(t, "pdftoppm", "-scale-to", "700", "-singlefile", "-png", at("code.pdf"), at("pdf"))
		decodeWith(t, at("pdf.png"), m.Payload)
		if out := tool(t, "qpdf", "--check", at("code.pdf")); !strings.Contains(out,
			"No syntax or stream encoding errors found") {
			t.Errorf("qpdf: %s", out)
		}
		side := 1.0 * float64(m.Modules())
		if i >= 0 {
			side = float64(m.Job.Placements[i].Width)
		}
		info := tool(t, "pdfinfo", "-box", at("code.pdf"))
		for _, want := range []string{
			`Title:\s+Gate – "Grüße" \(1\) <&>`, `Subject:\s+https://marrowby\.example/fair\?utm_source=gate&a=%3C1%3E`,
			`Producer:\s+Sodrik`, `CreationDate:\s+Mon Mar  1 09:30:00 2027`,
			fmt.Sprintf(`TrimBox:\s+0\.00\s+0\.00\s+%.2f\s+%.2f`, side/25.4*72, side/25.4*72), `PDF version:\s+1\.4`,
		} {
			t.Run(want, func(t *testing.T) {
				if !regexp.MustCompile(want).MatchString(info) {
					t.Errorf("placement %d: pdfinfo has no %s in\n%s", i, want, info)
				}
			})
		}
		if fonts := tool(t, "pdffonts", at("code.pdf")); strings.Count(fonts, "\n") != 2 {
			t.Errorf("the PDF holds fonts: %s", fonts)
		}
	}
}

func TestSVG(t *testing.T) {
	m := parse(t,
		`{"content":{"kind":"url","url":"https://marrowby.example/fair?utm_source=gate"},"placements":[{"name":"gate","width_mm":160}]}`)
	if m.Symbol.Size != 33 {
		t.Fatalf("the sample is %d wide", m.Symbol.Size)
	}
	b, _ := m.File(MustFormat("svg"), m.Place(0), export.Meta{})
	t.Logf("33 × 33 plain: %d bytes", len(b))
	if len(b) >= 6000 {
		t.Errorf("%d bytes; under 6,000 was promised", len(b))
	}
	b, _ = m.File(MustFormat("svg"), m.Place(0), meta)
	if n := bytes.Count(b, []byte("<path")); n != 2 {
		t.Errorf("%d paths; one a paint was promised", n)
	}
	d := xml.NewDecoder(bytes.NewReader(b))
	texts := map[string]string{}
	var root xml.StartElement
	name := ""
	for {
		tok, err := d.Token()
		if err == io.EOF {
			break
		} else if err != nil {
			t.Fatal(err)
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			if name = tok.Name.Local; name == "svg" {
				root = tok
			}
		case xml.CharData:
			texts[name] += string(tok)
		}
	}
	if got := strings.TrimSpace(texts["title"]); got != meta.Title {
		t.Errorf("title %q", got)
	}
	if got := strings.TrimSpace(texts["desc"]); got != m.Payload {
		t.Errorf("description %q", got)
	}
	attrs := map[string]string{}
	for _, a := range root.Attr {
		attrs[a.Name.Local] = a.Value
	}
	if attrs["width"] != "160mm" || attrs["height"] != "160mm" || attrs["viewBox"] != "0 0 41 41" {
		t.Errorf("%v", attrs)
	}
}

func TestPNG(t *testing.T) {
	m := parse(t, gate)
	b, _ := m.File(MustFormat("png"), m.Place(0), meta)
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	side := img.Bounds().Dx()
	if side%m.Modules() != 0 || float64(side)/160*25.4 < 300 {
		t.Errorf("%d pixels are not whole modules of %d, or less than 300 dpi", side, m.Modules())
	}
	at := bytes.Index(b, []byte("pHYs"))
	if at < 0 {
		t.Fatal("no pHYs")
	}
	perMetre := binary.BigEndian.Uint32(b[at+4:])
	if mm := float64(side) / float64(perMetre) * 1000; mm < 159.98 || mm > 160.02 || b[at+12] != 1 {
		t.Errorf("pHYs makes it %g mm wide, unit %d", mm, b[at+12])
	}
	for _, want := range []string{meta.Title, m.Payload, "Sodrik"} {
		t.Run(want, func(t *testing.T) {
			if !bytes.Contains(b, []byte(want)) {
				t.Errorf("the PNG does not hold %q", want)
			}
		})
	}
	bare, _ := m.File(MustFormat("png"), nil, meta)
	img, _ = png.Decode(bytes.NewReader(bare))
	if img.Bounds().Dx() < 2000 {
		t.Errorf("the bare PNG is %d pixels wide", img.Bounds().Dx())
	}
	m = parse(t,
		`{"content":{"kind":"url","url":"marrowby.example"},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":20}]}`)
	b, _ = m.File(MustFormat("png"), m.Place(0), meta)
	img, _ = png.Decode(bytes.NewReader(b))
	if _, _, _, a := img.At(0, 0).RGBA(); a != 0 {
		t.Error("the ground of a code without paper is not transparent")
	}
	m = parse(t,
		`{"content":{"kind":"url","url":"marrowby.example"},"output":{"dpi":4800},"placements":[{"name":"a","width_mm":3000}]}`)
	if _, problems := m.File(MustFormat("png"), m.Place(0), meta); len(problems) != 1 || problems[0].Field != "/output/dpi" {
		t.Errorf("a PNG of half a million pixels: %v", problems)
	}
	if _, problems := m.File(Format{Kind: "gif"}, nil, meta); len(problems) != 1 || problems[0].Field != "/format" {
		t.Errorf("gif: %v", problems)
	}
}

func TestTooLong(t *testing.T) {
	long := strings.Repeat("a", 2400)
	for text, field := range map[string]string{
		`{"content":{"kind":"url","url":"marrowby.example/` + long + `"}}`:                              "/content/url",
		`{"content":{"kind":"url","url":"marrowby.example/` + long + `"},"symbol":{"level":"H"}}`:       "/content/url",
		`{"content":{"kind":"url","url":"marrowby.example/fair/programme"},"symbol":{"max_version":1}}`: "/symbol/max_version",
	} {
		t.Run(text, func(t *testing.T) {
			if _, problems := Parse([]byte(text), nil); len(problems) != 1 || problems[0].Field != field {
				t.Errorf("%.80s…: %v", text, problems)
			}
		})
	}
	if _, problems := Parse([]byte(`{"content":{"kind":"url","url":"marrowby.example/`+long+`"},"symbol":{"level":"L"}}`),
		nil); len(problems) > 0 {
		t.Errorf("it fits at level L: %v", problems)
	}
}

// TestSecret: no file says the password of a network in words.
func TestSecret(t *testing.T) {
	m := parse(t, `{"content":{"kind":"wifi","ssid":"Potting Shed","security":"wpa","password":"sow;thin;water"}}`)
	for _, format := range Formats {
		b, problems := m.File(MustFormat(format), nil, export.Meta{Title: "Shed", Payload: m.Payload})
		if len(problems) > 0 || bytes.Contains(b, []byte("sow")) || format == "svg" &&
			!bytes.Contains(b, []byte("Potting Shed")) {
			t.Errorf("%s: %v, the password stands in it, or the network does not", format, problems)
		}
	}
	if !strings.Contains(m.Payload, `P:sow\;thin\;water;`) {
		t.Errorf("the code itself has it: %q", m.Payload)
	}
}

func BenchmarkMake(b *testing.B) {
	for b.Loop() {
		if _, problems := Parse([]byte(gate), nil); len(problems) > 0 {
			b.Fatal(problems)
		}
	}
}

func BenchmarkFile(b *testing.B) {
	m, _ := Parse([]byte(gate), nil)
	for _, format := range Formats {
		b.Run(format, func(b *testing.B) {
			for b.Loop() {
				if _, problems := m.File(MustFormat(format), m.Place(0), meta); len(problems) > 0 {
					b.Fatal(problems)
				}
			}
		})
	}
}
