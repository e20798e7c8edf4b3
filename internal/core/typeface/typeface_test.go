package typeface

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// TestSet: words are as wide as their parts and a little less where letters are kerned, joined scripts join, and what runs
// right to left begins on the right.
func TestSet(t *testing.T) {
	for _, f := range Faces {
		l := f.Set("See us grow")
		if len(l.Missing) > 0 || l.Width < 2 || l.Width > 9 || l.Top > -0.5 || l.Bottom < -0.01 || l.Bottom > 0.4 ||
			len(l.Path.Ops) < 40 {
			t.Errorf("%s: %.2f ems wide, %.2f to %.2f, missing %q", f.Key, l.Width, l.Top, l.Bottom, string(l.Missing))
		}
	}
	sans := Faces[0]
	if pair, apart := sans.Set("AV").Width, sans.Set("A").Width+sans.Set("V").Width; pair >= apart {
		t.Errorf("AV is not kerned: %.3f, apart %.3f", pair, apart)
	}
	arabic, _ := Of("vazirmatn")
	joined, apart := arabic.Set("بذور").Width, 0.0
	for _, r := range "بذور" {
		apart += arabic.Set(string(r)).Width
	}
	if joined >= apart*0.97 {
		t.Errorf("letters are not joined: %.2f, apart %.2f", joined, apart)
	}
	first, last := arabic.Set("ا م"), arabic.Set("م ا") // alef is a tall stroke, meem is low and round
	if tallAt(first) < tallAt(last) {
		t.Errorf("the first letter does not stand on the right: %.2f, %.2f", tallAt(first), tallAt(last))
	}
	mixed := arabic.Set("بذور Sow 3")
	if x := tallAt(mixed); x < 0 || len(mixed.Missing) > 0 {
		t.Errorf("mixed: %+v", mixed.Missing)
	}
}

// tallAt is where the highest point lies, as a share of the width.
func tallAt(l Line) float64 {
	best, at := math.Inf(1), 0.0
	for _, p := range l.Path.Points {
		if p.Y < best {
			best, at = p.Y, p.X
		}
	}
	return at / l.Width
}

// TestMissing: what a face has not is named, each once; nothing is drawn for it but its place.
func TestMissing(t *testing.T) {
	for text, want := range map[string]string{"Sow": "", "種をまく": "種をまく", "Sow 🌱 🌱": "🌱", "": "", "a\nb": ""} {
		t.Run(text, func(t *testing.T) {
			if got := string(Faces[0].Set(text).Missing); got != want {
				t.Errorf("%q: missing %q, want %q", text, got, want)
			}
		})
	}
}

// TestParse: what comes in is a font or is refused with a reason.
func TestParse(t *testing.T) {
	good, err := os.ReadFile("fonts/bitter.ttf")
	if err != nil {
		t.Fatal(err)
	}
	f, err := Parse(good)
	if err == nil && (f.Name != "Bitter Bold" || !Uploaded(f.Key) || Uploaded("bitter")) {
		t.Errorf("is called %q, key %s", f.Name, f.Key)
	}
	if err != nil || f.Set("Sow").Width != mustFace(t, "bitter").Set("Sow").Width {
		t.Errorf("a sound font: %v", err)
	}
	for name, c := range map[string]struct {
		data []byte
		want error
	}{"nothing": {nil, ErrFont}, "words": {[]byte("not a font"), ErrFont}, "cut off": {good[:5000], ErrFont},
		"40 MB": {make([]byte, 40<<20), ErrLarge}, "for the web": {append([]byte("wOF2"), good...), ErrWeb},
		"several": {append([]byte("ttcf"), good...), ErrCollection}} {
		t.Run(name, func(t *testing.T) {
			if _, err := Parse(c.data); err != c.want && !strings.Contains(fmt.Sprint(err), c.want.Error()) {
				t.Errorf("%s: %v, want %v", name, err, c.want)
			}
		})
	}
}

func mustFace(t *testing.T, key string) *Face {
	t.Helper()
	f, ok := Of(key)
	if !ok {
		t.Fatal(key)
	}
	return f
}

func FuzzParse(f *testing.F) {
	data, err := os.ReadFile("fonts/spline-sans-mono.ttf")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data[:2000], 0, byte(0))
	f.Add(data, 700, byte(255))
	f.Fuzz(func(t *testing.T, data []byte, at int, v byte) {
		if at >= 0 && at < len(data) {
			data = bytes.Clone(data)
			data[at] = v
		}
		if face, err := Parse(data); err == nil {
			defer func() {
				if r := recover(); r != nil {
					t.Errorf("set with a font that was taken in: %v", r)
				}
			}()
			face.Set("Sow it, 3 ways")
		}
	})
}

// TestOutlines holds the outlines against FreeType's, by way of poppler and a PDF that embeds the font: ten letters of every
// face at 300 dots an inch, 72 points.
func TestOutlines(t *testing.T) {
	const dpi, points, side = 300, 72, 100 // a letter a page of 100 points
	const letters = "RSagk&5QWe"
	for _, f := range Faces {
		data, err := files.ReadFile("fonts/" + f.Key + ".ttf")
		if err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(t.TempDir(), "letters.pdf")
		if err := os.WriteFile(file, textPDF(data, letters, points, side), 0o600); err != nil {
			t.Fatal(err)
		}
		prefix := filepath.Join(t.TempDir(), "p")
		if out, err := exec.Command("pdftoppm", "-r", fmt.Sprint(dpi), "-gray", "-png", file, prefix).
			CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		for i, r := range letters {
			b, err := os.ReadFile(fmt.Sprintf("%s-%02d.png", prefix, i+1))
			if err != nil {
				t.Fatal(err)
			}
			theirs, err := png.Decode(bytes.NewReader(b))
			if err != nil {
				t.Fatal(err)
			}
			l := f.Set(string(r))
			s := &scene.Scene{Width: side, Height: side,
				Items: []scene.Item{{Path: l.Path, At: scene.At(points, 10, side-25), Fill: ink.Black}}}
			width := theirs.Bounds().Dx()
			y, err := raster.Luminance(s, raster.Fit(s, width), 1)
			if err != nil {
				t.Fatal(err)
			}
			off, covered := 0.0, 0.0
			for j, v := range y {
				ours := v * 255 // coverage
				off += math.Abs(ours - float64(grey(theirs, j%width, j/width)))
				covered += 255 - ours
			}
			if share := off / covered; share > 0.07 { // edges within a fifth of a pixel: poppler places letters by quarters
				t.Errorf("%s, %c: the pictures differ by %.1f %% of what is covered", f.Key, r, share*100)
			}
		}
	}
}

func grey(img image.Image, x, y int) uint32 {
	r, _, _, _ := img.At(x, y).RGBA()
	return r >> 8
}

// textPDF is a PDF with one letter a page, set by an embedded TrueType font.
func textPDF(fontFile []byte, letters string, points, side int) []byte {
	var b bytes.Buffer
	var offsets []int
	object := func(body string) {
		offsets = append(offsets, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(offsets), body)
	}
	b.WriteString("%PDF-1.4\n")
	n := len(letters)
	kids := ""
	for i := range n {
		kids += fmt.Sprintf("%d 0 R ", 6+2*i)
	}
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object(fmt.Sprintf("<< /Type /Pages /Count %d /Kids [%s] >>", n, kids))
	object(
		"<< /Type /Font /Subtype /TrueType /BaseFont /Test /Encoding /WinAnsiEncoding /FirstChar 32 /LastChar 32 /Widths " +
			"[500] /FontDescriptor 4 0 R >>")
	object(
		"<< /Type /FontDescriptor /FontName /Test /Flags 32 /FontBBox [0 -300 1000 1000] /ItalicAngle 0 /Ascent 900 /Descent " +
			"-300 /CapHeight 700 /StemV 80 /FontFile2 5 0 R >>")
	object(fmt.Sprintf("<< /Length %d /Length1 %d >>\nstream\n%s\nendstream", len(fontFile), len(fontFile), fontFile))
	for i, r := range letters {
		content := fmt.Sprintf("BT /F %d Tf 10 25 Td (%c) Tj ET", points, r)
		object(
			fmt.Sprintf(
				"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 %d %d] /Resources << /Font << /F 3 0 R >> >> /Contents %d 0 R >>",
				side, side, 7+2*i))
		object(fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(content), content))
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(offsets)+1)
	for _, o := range offsets {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b, "trailer << /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(offsets)+1, start)
	return b.Bytes()
}

// TestTablesBeyondTheFile: a file whose directory promises more than is there is refused before room is made for it.
func TestTablesBeyondTheFile(t *testing.T) {
	sound, err := files.ReadFile("fonts/archivo-narrow.ttf")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Parse(sound); err != nil {
		t.Fatal(err)
	}
	tables := int(sound[4])<<8 | int(sound[5])
	changed := func(change func(b []byte)) []byte {
		b := bytes.Clone(sound)
		change(b)
		return b
	}
	bad := map[string][]byte{
		"a directory beyond the end": changed(func(b []byte) { b[4], b[5] = 0xff, 0xff }), "the head alone": sound[:12],
		"less": sound[:11],
		"every table the whole file": changed(func(b []byte) {
			for i := range tables {
				copy(b[12+16*i+8:], []byte{0, 0, 0, 0, byte(len(b) >> 24), byte(len(b) >> 16), byte(len(b) >> 8), byte(len(b))})
			}
		}),
	}
	for i := range tables {
		bad["length of table "+string(sound[12+16*i:16+16*i])] = changed(func(b []byte) { b[12+16*i+12] = 0x60 })
		bad["offset of table "+string(sound[12+16*i:16+16*i])] = changed(func(b []byte) { b[12+16*i+8] = 0xff })
	}
	for what, data := range bad {
		t.Run(what, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			if _, err := Parse(data); !errors.Is(err, ErrFont) {
				t.Errorf("%s: %v", what, err)
			}
			if runtime.ReadMemStats(&after); after.TotalAlloc-before.TotalAlloc > 4<<20 {
				t.Errorf("%s: takes %d MB", what, (after.TotalAlloc-before.TotalAlloc)>>20)
			}
		})
	}
}
