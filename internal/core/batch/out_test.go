package batch

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	xdraw "golang.org/x/image/draw"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/symbol/detect"
	"sodrik/internal/core/table"
)

func tool(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s: %v\n%s", name, err, out)
	}
	return string(out)
}

// fifty are fifty rows, of which the tenth cannot be made.
func fifty() (sources []Source) {
	for i := 1; i <= 50; i++ {
		s := Source{N: i, Cells: []string{fmt.Sprintf("MB-%02d", i), "Leek"}}
		if i == 10 {
			s.Bad = "has 3 cells"
		}
		sources = append(sources, s)
	}
	return sources
}

func fiftyOf(t *testing.T, look, output string) *Made {
	t.Helper()
	p := &Plan{
		Job: pattern(t, `{"version":1,"content":{"kind":"url","url":"https://marrowby.example"},"look":`+look+`,"output":`+output+
			`,"placements":[{"name":"label","medium":"plant-tag","width_mm":22}]}`),
		Key:  "sku",
		Line: "{variety} {sku}",
		Set:  []Set{{"/name", "{variety}"}, {"/content/url", "https://marrowby.example/v/{sku}"}},
	}
	b, err := MakeAll(t.Context(), maker(t, p, "sku", "variety"), fifty(), nil)
	if err != nil || len(b.Bad) != 1 {
		t.Fatal(err, b.Bad[0].Problems)
	}
	return b
}

// TestSheets writes sheets in every way they are drawn, and has programs that are not ours count pages and boxes and read every
// label of a sheet.
func TestSheets(t *testing.T) {
	for name, c := range map[string]struct{ look, output string }{
		"plain": {`{}`, `{}`},
		"separate, inks": {`{"ink":"#12352b","modules":{"join":"none","motif":"disc","scale":0.9}}`,
			`{"colour":"coated","reduction_mm":0.05}`},
		"joined, overprint": {`{"modules":{"join":"all","corner":1},"eyes":{"ring":{"corners":[1,1,1,1]}}}`,
			`{"colour":"uncoated","overprint":true}`},
		"a mark": {`{"mark":{"source":"icon:sprout"},"paper":"#fff8e0"}`, `{}`},
	} {
		t.Run(name, func(t *testing.T) {
			b := fiftyOf(t, c.look, c.output)
			s := impose.Default()
			s.Marks = true
			w, err := b.Sheets(&s)
			if err != nil {
				t.Fatal(err)
			}
			done := 0
			w.Done = func(n int) { done = n }
			file := filepath.Join(t.TempDir(), "labels.pdf")
			var out, again bytes.Buffer
			meta := export.Meta{Title: "Labels", Created: time.Unix(1_800_000_000, 0)}
			if err := w.Write(t.Context(), &out, meta); err != nil {
				t.Fatal(err)
			}
			if err := w.Write(t.Context(), &again, meta); err != nil || !bytes.Equal(out.Bytes(), again.Bytes()) {
				t.Error("two files of the same rows differ", err)
			}
			if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
				t.Fatal(err)
			}
			if info := tool(t, "pdfinfo", "-box", file); !strings.Contains(info, "Pages:           3\n") ||
				!strings.Contains(info, "(A4)") || done != 49 {
				t.Error(info, done)
			}
			tool(t, "qpdf", "--check", file)
			if w.Press != nil {
				if wrong := pdf.Preflight(out.Bytes()); len(wrong) > 0 {
					t.Error(wrong)
				}
			}
			sheet := filepath.Join(t.TempDir(), "sheet")
			tool(t, "pdftoppm", "-r", "300", "-f", "2", "-l", "2", "-singlefile", "-png", file, sheet)
			f, err := os.Open(sheet + ".png")
			if err != nil {
				t.Fatal(err)
			}
			defer f.Close()
			img, err := png.Decode(f)
			if err != nil {
				t.Fatal(err)
			}
			args := []string{"-q", "--raw"}
			some := s.On(1, 49)
			some = append(some[:4:4], some[20:]...)
			for _, i := range some {
				one := filepath.Join(t.TempDir(), "label.png")
				o, _ := os.Create(one)
				png.Encode(o, cut(img, within(img.Bounds(), s, s.At(i, 49))))
				o.Close()
				args = append(args, one)
			}
			found, _ := exec.Command("zbarimg", args...).Output() // what is missing is seen below
			read := strings.Fields(string(found))
			slices.Sort(read)
			var want []string
			for _, i := range some {
				want = append(want, "https://marrowby.example/v/"+b.Good[i].Key)
			}
			if !slices.Equal(read, want) || len(want) != 8 {
				t.Errorf("read %q\nwant %q", read, want)
			}
		})
	}
}

// TestPages has each code on a page of its own size.
func TestPages(t *testing.T) {
	w, err := fiftyOf(t, `{}`, `{}`).Sheets(nil)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := w.Write(t.Context(), &out, export.Meta{}); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "pages.pdf")
	if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	if info := tool(t, "pdfinfo", file); !strings.Contains(info, "Pages:           49\n") ||
		!strings.Contains(info, "62.3622 x ") {
		t.Error(info) // 22 mm are 62.36 points
	}
}

func TestTooLargeForItsLabel(t *testing.T) {
	b := fiftyOf(t, `{}`, `{}`)
	s, _ := impose.Read(map[string]any{"sheet": "a4-5x13"})
	w, err := b.Sheets(&s)
	if err != nil {
		t.Fatal(err)
	}
	err = w.Write(t.Context(), io.Discard, export.Meta{})
	var l problem.List
	if !errors.As(err, &l) || l[0].Field != "/placements/0/width_mm" || !strings.Contains(l[0].Message, "take 13.2 mm") {
		// 21.2 less two margins of 2, less the line of 0.8 + 1.3 × 7 pt = 4.01: 13.19, of a scene as wide as high
		if !errors.As(err, &l) || !strings.Contains(l[0].Message, "take 13.1 mm") {
			t.Fatal(err)
		}
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if err := w.Write(ctx, io.Discard, export.Meta{}); !errors.Is(err, context.Canceled) && l == nil {
		t.Error(err)
	}
}

// TestReadBack reads labels back from pictures of a sheet, and notices one that says nothing and one that says what another
// should.
func TestReadBack(t *testing.T) {
	b := fiftyOf(t, `{}`, `{}`)
	s := impose.Default()
	w, err := b.Sheets(&s)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := w.Write(t.Context(), &out, export.Meta{}); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "labels.pdf")
	if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	draw := func(_ context.Context, sheet int, dpi float64) (image.Image, error) {
		name := filepath.Join(t.TempDir(), "sheet")
		n := fmt.Sprint(sheet + 1)
		tool(t, "pdftoppm", "-r", fmt.Sprint(dpi), "-f", n, "-l", n, "-singlefile", "-png", file, name)
		f, err := os.Open(name + ".png")
		if err != nil {
			return nil, err
		}
		defer f.Close()
		return png.Decode(f)
	}
	asIs := func(_ context.Context, pictures []*image.Gray) (texts [][]string, err error) {
		for _, p := range pictures {
			var one []string
			for _, found := range detect.Find(p, 1) {
				one = append(one, found.Payload)
			}
			texts = append(texts, one)
		}
		return texts, nil
	}
	back, err := b.ReadBack(t.Context(), w, 0, draw, asIs)
	if err != nil || back.Looked != 49 || back.Read != 49 || back.String() != "All 49 labels read back from the file" {
		t.Fatalf("%+v %v", back, err)
	}
	// one label blank, and one that says what another should
	back, err = b.ReadBack(t.Context(), w, 0, func(ctx context.Context, sheet int, dpi float64) (image.Image, error) {
		img, err := draw(ctx, sheet, dpi)
		if err != nil || sheet > 0 {
			return img, err
		}
		out := image.NewGray(img.Bounds())
		xdraw.Draw(out, out.Rect, img, out.Rect.Min, xdraw.Src)
		at := func(i int) image.Rectangle { return within(out.Rect, s, s.At(i, 49)) }
		xdraw.Draw(out, at(3), image.White, image.Point{}, xdraw.Src)
		xdraw.Draw(out, at(4), img, at(5).Min, xdraw.Src)
		return out, nil
	}, asIs)
	if err != nil || !slices.Equal(back.Unread, []int{3, 4}) || back.String() != "2 of 49 labels do not read back from the file" {
		t.Fatalf("%+v %v", back, err)
	}
}

// TestSpread: the first and the last are always among those that are looked at.
func TestSpread(t *testing.T) {
	for _, c := range []struct {
		n, most int
		want    string
	}{{1, 2, "[0]"}, {2, 2, "[0 1]"}, {10, 2, "[0 9]"}, {10, 4, "[0 3 6 9]"}, {3, 9, "[0 1 2]"},
		{417, 10, "[0 46 92 138 184 231 277 323 369 416]"}} {
		t.Run(fmt.Sprint(c.n), func(t *testing.T) {
			if got := fmt.Sprint(spread(c.n, c.most)); got != c.want {
				t.Errorf("%d of %d: %s", c.most, c.n, got)
			}
		})
	}
}

// TestZip packs files of every row under names that tell them apart.
func TestZip(t *testing.T) {
	b := fiftyOf(t, `{}`, `{"pixels":300}`)
	formats := []compose.Format{compose.MustFormat("svg"), compose.MustFormat("svg-current"), compose.MustFormat("png")}
	at := time.Date(2027, 3, 20, 10, 0, 0, 0, time.UTC)
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	err := Zip(t.Context(), z, len(b.Good), at, func(i int) ([]Entry, error) {
		entries, problems := Files(b.Make(i), b.Names[i], formats, at)
		return entries, problems.Err()
	}, nil)
	if err != nil || z.Close() != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "codes.zip")
	if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	r, err := zip.OpenReader(file)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	seen := map[string]bool{}
	for _, f := range r.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if n, err := io.Copy(io.Discard, in); err != nil || n == 0 || seen[strings.ToLower(f.Name)] {
			t.Error(f.Name, n, err)
		}
		seen[strings.ToLower(f.Name)] = true
	}
	if len(r.File) != 3*49 || !seen["leek.svg"] || !seen["leek-svg-current.svg"] || !seen["leek-49.png"] || seen["leek-50.png"] {
		t.Errorf("%d files, %v", len(r.File), r.File[0].Name)
	}
	if got := tool(t, "python3", "-m", "zipfile", "-t", file); !strings.Contains(got, "Done testing") {
		t.Error(got)
	}
}

func TestListing(t *testing.T) {
	b := fiftyOf(t, `{}`, `{}`)
	var out bytes.Buffer
	if err := b.List(t.Context(), &out, "svg"); err != nil {
		t.Fatal(err)
	}
	rows, err := table.Open(t.Context(), &out, table.Options{})
	if err != nil {
		t.Fatal(err)
	}
	all, err := rows.All(100)
	if err != nil || len(all) != 50 || !slices.Equal(rows.Columns, Listing) {
		t.Fatal(len(all), err, rows.Columns)
	}
	if got := all[9].Cells; got[0] != "10" || !strings.Contains(got[10], "3 cells") || got[3] != "" {
		t.Errorf("%q", got)
	}
	if got := all[10].Cells; got[3] != "https://marrowby.example/v/MB-11" || got[5] != "leek-10.svg" || len(got[8]) != 16 ||
		got[7] != "29" {
		t.Errorf("%q", got)
	}
	digests := map[string]bool{}
	for _, row := range all {
		digests[row.Cells[8]] = true
	}
	if len(digests) != 50 { // of 49 codes, and none of the row that cannot be made
		t.Errorf("%d digests", len(digests))
	}
}

func TestSameVersionOfAll(t *testing.T) {
	p := &Plan{Job: pattern(t, label), Same: true, Set: []Set{{"/content/url", "https://marrowby.example/{a}"}}}
	b, err := MakeAll(
		t.Context(),
		maker(t, p, "a"),
		[]Source{{N: 1, Cells: []string{"x"}}, {N: 2, Cells: []string{strings.Repeat("y", 90)}}},
		nil,
	)
	if err != nil {
		t.Fatal(err)
	}
	if one, two := b.Make(0).Rendition.Symbol.Version, b.Make(1).Rendition.Symbol.Version; one != two || one < 4 {
		t.Errorf("versions %d and %d", one, two)
	}
}

// TestInOrder: things are taken in order, few are held, an error of either side ends all, and nothing runs on.
func TestInOrder(t *testing.T) {
	next := 0
	err := InOrder(t.Context(), 1000, func(i int) (int, error) { return i, nil }, func(i, made int) error {
		if i != next || made != i {
			return fmt.Errorf("%d and %d after %d", i, made, next)
		}
		next++
		return nil
	})
	if err != nil || next != 1000 {
		t.Fatal(err, next)
	}
	bad := errors.New("bad")
	if err := InOrder(t.Context(), 1000, func(i int) (int, error) {
		if i == 500 {
			return 0, bad
		}
		return i, nil
	}, func(int, int) error { return nil }); !errors.Is(err, bad) {
		t.Error(err)
	}
	if err := InOrder(t.Context(), 1000, func(i int) (int, error) { return i, nil }, func(i, _ int) error {
		if i == 7 {
			return bad
		}
		return nil
	}); !errors.Is(err, bad) {
		t.Error(err)
	}
	if err := InOrder(t.Context(), 0, func(i int) (int, error) { return i, bad }, nil); err != nil {
		t.Error(err)
	}
}
