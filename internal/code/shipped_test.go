package code

import (
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

// flyerPDF is two pages, the second turned, made by another program.
func flyerPDF(t *testing.T) []byte {
	t.Helper()
	dir := t.TempDir()
	svg, pdf, out := filepath.Join(dir, "f.svg"), filepath.Join(dir, "f.pdf"), filepath.Join(dir, "two.pdf")
	if err := os.WriteFile(svg,
		[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" width="105mm" height="148mm" viewBox="0 0 105 148"><path fill="#12594a" d="M0 0h105v40h-105z"/></svg>`), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range [][]string{{"rsvg-convert", "-f", "pdf", "-o", pdf, svg},
		{"qpdf", pdf, "--pages", pdf, "1,1", "--", "--rotate=90:2", out}} {
		if text, err := exec.Command(c[0], c[1:]...).CombinedOutput(); err != nil {
			t.Fatalf("%v: %v %s", c, err, text)
		}
	}
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// ships opens a store with readers and with what draws pages.
func ships(t *testing.T) (*Store, *clock) {
	s, c := open(t)
	s.Panel, s.Pages = readers.Panel(), readers.PDFPage
	return s, c
}

func placed(t *testing.T, s *Store, artwork, look string) string {
	t.Helper()
	m,
		problems := compose.Parse(
		[]byte(
			fmt.Sprintf(
				`{"name":"Flyer","look":%s,"content":{"kind":"url","url":"https://marrowby.example/fair"},"output":{"dpi":150},"placements":[{"name":"flyer","medium":"flyer","width_mm":40%s}]}`, look, artwork)), s.Assets(t.Context(), ws))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Create(t.Context(), ws, m, "")
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// TestArtwork: pages of a PDF, drawings and pictures come in as artwork and are found by codes; what cannot be taken says why.
func TestArtwork(t *testing.T) {
	s, _ := ships(t)
	ctx := t.Context()
	pdf := flyerPDF(t)
	a, err := s.UploadArtwork(ctx, ws, `C:\flyers\spring.pdf`, pdf)
	if err != nil || a.Name != "spring.pdf" || !strings.HasSuffix(a.Source, "#page=1") || a.Is.(*artwork.Sheet).Width < 104.9 ||
		a.Is.(*artwork.Sheet).Width > 105.1 {
		t.Fatalf("%+v, %v", a, err)
	}
	second, err := s.ArtworkPage(ctx, ws, a.Source, 2)
	if err != nil || !strings.HasSuffix(second, "#page=2") {
		t.Fatalf("%s, %v", second, err)
	}
	var problems problem.List
	if _, err := s.ArtworkPage(ctx, ws, a.Source, 3); !errors.As(err, &problems) || problems[0].Field != "/page" ||
		!strings.Contains(problems[0].Message, "no page 3") {
		t.Errorf("page 3: %v", err)
	}
	if _, err := s.ArtworkPage(ctx, elsewhere, a.Source, 2); !errors.Is(err, ErrNotFound) {
		t.Errorf("another workspace turns its pages: %v", err)
	}
	svg, err := s.UploadArtwork(ctx, ws, "board.svg",
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm"><path d="M0 0h50v50z"/></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	list, err := s.Artworks(ctx, ws)
	if err != nil || len(list) != 2 {
		t.Errorf("%+v, %v", list, err)
	}
	if marks, err := s.Uploads(ctx, ws); err != nil || len(marks) != 0 {
		t.Errorf("among the marks: %v, %v", marks, err)
	}
	for name, data := range map[string][]byte{"nothing": nil, "words": []byte("a flyer"),
		"a damaged PDF": []byte("%PDF-1.4 no more"), "a PDF cut off": pdf[:len(pdf)/2]} {
		t.Run(name, func(t *testing.T) {
			if _, err := s.UploadArtwork(ctx, ws, "x", data); !errors.As(err, &problems) || problems[0].Field != "/file" {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	for _, source := range []string{a.Source, second, svg.Source} {
		t.Run(source, func(t *testing.T) {
			c, err := s.Get(ctx, ws, placed(t, s, `,"artwork":{"source":"`+source+`"}`, "{}"))
			if err != nil || c.Rendition.Sheet(c.Rendition.Place(0)) == nil {
				t.Errorf("%s is not found by a code: %v", source, err)
			}
		})
	}
	if w, h, _ := (func() (float64, float64, bool) {
		c, _ := s.Get(ctx, ws, placed(t, s, `,"artwork":{"source":"`+second+`"}`, "{}"))
		return c.Rendition.Surface(c.Rendition.Place(0))
	})(); w < 147.9 || h > 105.1 {
		t.Errorf("the turned page is %.1f × %.1f mm", w, h)
	}
	s.Pages = nil
	if _, err := s.UploadArtwork(ctx, ws, "x.pdf", pdf); !errors.As(err, &problems) ||
		!strings.Contains(problems[0].Message, "nothing that draws its pages") {
		t.Errorf("without a program for it: %v", err)
	}
}

// TestReadBack: every file is read from its own bytes; one whose code is painted over, or says something else, is told.
func TestReadBack(t *testing.T) {
	s, _ := ships(t)
	ctx := t.Context()
	a, err := s.UploadArtwork(ctx, ws, "spring.pdf", flyerPDF(t))
	if err != nil {
		t.Fatal(err)
	}
	turned, err := s.ArtworkPage(ctx, ws, a.Source, 2)
	if err != nil {
		t.Fatal(err)
	}
	for name, id := range map[string]string{
		"on a page": placed(t, s, `,"artwork":{"source":"`+a.Source+`","x_mm":30,"y_mm":60}`,
			`{"frame":{"shape":"rule","text":"Sow"}}`),
		"on a turned page": placed(t, s,
			`,"artwork":{"source":"`+turned+`","x_mm":80,"y_mm":50},"words":{"headline":"Sow","side":"left"}`, "{}"),
		"enlarged": placed(t, s, `,"artwork":{"source":"`+a.Source+`","width_mm":420,"x_mm":30,"y_mm":300}`, "{}"),
		"on the dark": placed(t, s, `,"artwork":{"source":"`+a.Source+`","x_mm":30,"y_mm":0},"background":"#12594a"`,
			`{"paper":"none","ink":"#ffffff"}`),
	} {
		t.Run(name, func(t *testing.T) {
			c, err := s.Get(ctx, ws, id)
			if err != nil {
				t.Fatal(err)
			}
			for _, f := range compose.All {
				if name != "on a page" && name != "on the dark" && f.Of != compose.Whole { // the code alone is the same
					continue
				}
				file, problems := c.Rendition.File(f, c.Rendition.Place(0), compose.MetaOf(f, "Flyer", s.Now()))
				if f.Key() == "sheet-pdfx" { // which this artwork is not
					continue
				}
				if len(problems) > 0 {
					t.Fatal(problems)
				}
				// many phones only look for dark on light; what is white there is no ink
				lost := name == "on the dark" && (f.Of == compose.Whole ||
					slices.Contains([]string{"label", "eps", "tif"}, f.Key()))
				if ok, err := s.ReadBack(ctx, c.Rendition, 0, f, file); err != nil || ok == lost {
					t.Errorf("%s: %s does not read: %v", name, f.Key(), err)
				}
			}
		})
	}
	c, _ := s.Get(ctx, ws, placed(t, s, "", "{}"))
	other, _ := s.Get(ctx, ws, create(t, s, "Other", "https://marrowby.example/other"))
	for _, format := range []string{"svg", "pdf", "png"} {
		t.Run(format, func(t *testing.T) {
			file, _ := other.Rendition.File(compose.MustFormat(format), other.Rendition.Place(0), export.Meta{})
			if ok, err := s.ReadBack(ctx, c.Rendition, 0, compose.MustFormat(format), file); err != nil || ok {
				t.Errorf("%s that says something else is taken for right: %v", format, err)
			}
		})
	}
	empty := image.NewGray(image.Rect(0, 0, 50, 50))
	if proof.Reads(ctx, s.Panel, c.Rendition.Payload, empty) != proof.Illegible {
		t.Error("something is read in nothing")
	}
}

// TestUnopened: a file that cannot be opened at all is told as one that does not read.
func TestUnopened(t *testing.T) {
	s, _ := ships(t)
	c, err := s.Get(t.Context(), ws, placed(t, s, "", "{}"))
	if err != nil {
		t.Fatal(err)
	}
	for _, format := range []string{"svg", "pdf", "png", "jpg", "webp"} {
		t.Run(format, func(t *testing.T) {
			ok, err := s.ReadBack(t.Context(), c.Rendition, 0, compose.MustFormat(format), []byte("no file"))
			if err != nil || ok {
				t.Errorf("%s: %v, %v", format, ok, err)
			}
		})
	}
}
