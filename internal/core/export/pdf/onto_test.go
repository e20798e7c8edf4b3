package pdf

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// sample is a PDF of one page of 200 by 300 points with a blue square in a corner, by its parts.
type sample struct {
	page    string // entries of the page
	pages   string // entries of the tree
	content string
	arrays  bool // contents as a list in an object of its own
}

func (s sample) file() []byte {
	var b bytes.Buffer
	var at []int
	object := func(body string) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), body)
	}
	b.WriteString("%PDF-1.4\n%\xE2\xE3\xCF\xD3\n")
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object("<< /Type /Pages /Kids [3 0 R] /Count 1 " + s.pages + " >>")
	contents := "4 0 R"
	if s.arrays {
		contents = "6 0 R"
	}
	object("<< /Type /Page /Parent 2 0 R /Contents " + contents + " " + s.page + " >>")
	object(fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(s.content), s.content))
	object("<< /Title (Flyer) /Producer (another) >>")
	object("[4 0 R]")
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, o := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b,
		"trailer\n<< /Size %d /Root 1 0 R /Info 5 0 R /ID [<0123456789ABCDEF0123456789ABCDEF> "+
			"<0123456789ABCDEF0123456789ABCDEF>] >>\nstartxref\n%d\n%%%%EOF", len(at)+1, start)
	return b.Bytes()
}

const blue = "0 0 1 rg 0 0 40 40 re f"

var samples = map[string]sample{
	"plain":        {"/MediaBox [0 0 200 300] /Resources << >>", "", blue, false},
	"turned right": {"/MediaBox [0 0 200 300] /Rotate 90 /Resources << >>", "", blue, false},
	"upside down":  {"/MediaBox [0 0 200 300] /Rotate 180", "", blue, false},
	"turned left":  {"/MediaBox [0 0 200 300] /Rotate -90", "", blue, true},
	"moved box":    {"/MediaBox [-50 20 150 320] /Resources << /ProcSet [/PDF] >>", "", blue, false},
	"cropped and trimmed": {
		"/MediaBox [0 0 260 360] /CropBox [10 10 250 350] /TrimBox [30 30 230 330] /BleedBox [20 20 240 340] /Rotate 270", "",
		blue, false},
	"all inherited": {"",
		"/MediaBox [0 0 200 300] /Rotate 90 /Resources << /ExtGState << /G << /Type /ExtGState /ca 1 >> >> >>",
		"/G gs " + blue, true},
	"left moved":     {"/MediaBox [0 0 200 300]", "", blue + " 3 0 0 3 70 90 cm q q /P << /T (a \\) Q) >> BDC EMC", false},
	"one Q too many": {"/MediaBox [0 0 200 300]", "", "q " + blue + " Q Q 1 0 0 1 20 20 cm Q", false},
	"large units":    {"/MediaBox [0 0 100 150] /UserUnit 2", "", blue, false},
}

// marker is 20 by 10 mm: red, with a black square of 5 mm at its left top.
func marker() *scene.Scene {
	return &scene.Scene{Width: 20, Height: 10, Items: []scene.Item{
		{Path: scene.Rectangle(0, 0, 20, 10), At: scene.Unit, Fill: ink.Colour{R: 255}},
		{Path: scene.Rectangle(0, 0, 5, 5), At: scene.Unit, Fill: ink.Black}}}
}

// drawn has another program draw the page, 100 dots an inch, and cuts what is trimmed.
func drawn(t *testing.T, file []byte, by string) image.Image {
	t.Helper()
	dir := t.TempDir()
	in, out := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "out.png")
	if err := os.WriteFile(in, file, 0o600); err != nil {
		t.Fatal(err)
	}
	var cmd *exec.Cmd
	switch by {
	case "poppler":
		cmd = exec.Command("pdftoppm", "-r", "100", "-singlefile", "-png", in, strings.TrimSuffix(out, ".png"))
	case "mupdf":
		cmd = exec.Command("mutool", "draw", "-q", "-r", "100", "-o", out, in, "1")
	case "ghostscript":
		cmd = exec.Command("gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-r100", "-o", out, in)
	}
	if text, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%s: %v %s", by, err, text)
	}
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// TestOnto: a drawing comes to lie where it was asked for on pages of every kind, in what three other programs make of them;
// the file stays as it was byte for byte, and qpdf finds nothing wrong.
func TestOnto(t *testing.T) {
	for name, s := range samples {
		t.Run(name, func(t *testing.T) {
			original := s.file()
			forms := map[string][]byte{"": original}
			for how, args := range map[string][]string{", with streams of objects": {"--object-streams=generate",
				"--newline-before-endstream"}, ", linearized": {"--linearize"}} {
				if name == "plain" || name == "turned right" {
					forms[how] = qpdf(t, original, args...)
				}
			}
			for how, file := range forms {
				out, err := Onto(file, 1, marker(), Spot{30, 40, 1})
				if err != nil {
					t.Errorf("%s%s: %v", name, how, err)
					continue
				}
				if !bytes.HasPrefix(out, file) {
					t.Errorf("%s%s: the file itself is changed", name, how)
				}
				if text, err := exec.Command("qpdf", "--check", written(t, out)).CombinedOutput(); err != nil ||
					bytes.Contains(text, []byte("WARNING")) {
					t.Errorf("%s%s: qpdf says %s", name, how, text)
				}
				p, err := pdfpage.Open(out, 1)
				if err != nil {
					t.Fatal(err)
				}
				for _, by := range []string{"poppler", "mupdf", "ghostscript"} {
					// units that one does not know; a box that the other draws only
					if how != "" && by != "poppler" || by == "ghostscript" && name == "large units" || by == "mupdf" &&
						name == "cropped and trimmed" {
						continue
					}
					img := drawn(t, out, by)
					w, h := p.Shown(p.Trim)
					x0, y0, _, _ := p.Within()
					fw, fh := p.Shown(p.Media)
					at := func(x, y float64) [3]uint32 {
						px := img.Bounds().Min.X + int((x0*fw+x)/fw*float64(img.Bounds().Dx()))
						py := img.Bounds().Min.Y + int((y0*fh+y)/fh*float64(img.Bounds().Dy()))
						r, g, b, _ := img.At(px, py).RGBA()
						return [3]uint32{r >> 8, g >> 8, b >> 8}
					}
					red, black, white := [3]uint32{255, 0, 0}, [3]uint32{}, [3]uint32{255, 255, 255}
					for where, c := range map[[2]float64][3]uint32{{32, 42}: black, {36, 42}: red, {32, 46}: red,
						{49.3, 49.3}: red, {30.6, 49.3}: red, {50.7, 45}: white, {29.3, 45}: white, {40, 39.3}: white,
						{40, 50.7}: white} {
						if got := at(where[0], where[1]); got != c && where[0] < w && where[1] < h {
							t.Errorf("%s%s, %s: at %v mm is %v, want %v", name, how, by, where, got, c)
						}
					}
				}
			}
		})
	}
}

func written(t *testing.T, file []byte) string {
	t.Helper()
	name := filepath.Join(t.TempDir(), "file.pdf")
	if err := os.WriteFile(name, file, 0o600); err != nil {
		t.Fatal(err)
	}
	return name
}

func qpdf(t *testing.T, file []byte, args ...string) []byte {
	t.Helper()
	out := filepath.Join(t.TempDir(), "out.pdf")
	if text, err := exec.Command("qpdf", append(args, written(t, file), out)...).CombinedOutput(); err != nil {
		t.Fatalf("qpdf: %v %s", err, text)
	}
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// TestOntoRefuses: what cannot be added to is refused with a reason.
func TestOntoRefuses(t *testing.T) {
	plain := samples["plain"].file()
	many := sample{"/MediaBox [0 0 200 300]", "", blue, false}.file()
	many = bytes.Replace(many, []byte("/Kids [3 0 R] /Count 1"),
		[]byte("/Kids ["+strings.Repeat("3 0 R ", 400)+"] /Count 400"), 1)
	for name, c := range map[string]struct {
		file []byte
		page int
		says string
	}{
		"encrypted":        {qpdf(t, plain, "--encrypt", "user", "owner", "256", "--"), 1, "is encrypted"},
		"open to all":      {qpdf(t, plain, "--encrypt", "", "owner", "256", "--"), 1, "is encrypted"},
		"400 pages":        {many, 1, "400 pages"},
		"no such page":     {plain, 2, "no page 2"},
		"nothing":          {nil, 1, "damaged"},
		"words":            {[]byte("%PDF-1.4 and no more"), 1, "damaged"},
		"cut off":          {plain[:len(plain)-200], 1, "damaged"},
		"a page of nought": {sample{"/MediaBox [0 0 0 300]", "", blue, false}.file(), 1, "damaged"},
	} {
		t.Run(name, func(t *testing.T) {
			if _, err := Onto(c.file, c.page, marker(), Spot{1, 1, 1}); err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%s: %v, want %q", name, err, c.says)
			}
		})
	}
}

// TestStates counts saved states past strings, comments and inline images.
func TestStates(t *testing.T) {
	for text, want := range map[string][2]int{"": {0, 0}, "q Q": {0, 0}, "q q Q": {0, 1}, "Q q": {-1, 0}, "Q Q q": {-2, -1},
		"(q ( Q) \\) Q) Tj q": {0, 1}, "% Q q\nq": {0, 1}, "/Q gs /q gs": {0, 0},
		"q BI /W 1 /H 1 ID \x00Q Q\x01 EI Q": {0, 0}, "[(Q)] TJ <51> Tj q": {0, 1}, "0 0 m\tq\nQ": {0, 0}} {
		t.Run(text, func(t *testing.T) {
			if least, end := pdfpage.States([]byte(text)); [2]int{least, end} != want {
				t.Errorf("%q: %d, %d, want %v", text, least, end, want)
			}
		})
	}
}

func FuzzOnto(f *testing.F) {
	for _, s := range samples {
		f.Add(s.file(), 0, byte(0))
	}
	f.Fuzz(func(t *testing.T, file []byte, at int, v byte) {
		if at >= 0 && at < len(file) {
			file = bytes.Clone(file)
			file[at] = v
		}
		if out, err := Onto(file, 1, marker(), Spot{1, 1, 1}); err == nil && !bytes.HasPrefix(out, file) {
			t.Error("the file itself is changed")
		}
	})
}
