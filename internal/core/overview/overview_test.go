package overview

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/scene"
)

func rows(t *testing.T, n int) (out []Row) {
	t.Helper()
	m, problems := compose.Parse([]byte(`{"name":"Fair","content":{"kind":"url","url":"marrowby.example/fair"}}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	for i := range n {
		out = append(
			out,
			Row{
				Code:  m.Scene(m.Place(-1)),
				Name:  fmt.Sprintf("gate %d", i),
				Of:    "Spring fair",
				Says:  "Opens marrowby.example/fair",
				Hangs: "since 27 February 2027, 4,000 printed",
				Bars:  []int{1, 5, 3, 0, 9},
				Total: "18 scans",
				Rate:  "3.6 a day (1.2 to 8.8)",
				Goes:  "steady",
			},
		)
	}
	return out
}

// TestDraw: nothing lies outside the page or on another row, however many rows there are; what has no room is counted.
func TestDraw(t *testing.T) {
	for _, n := range []int{0, 1, 7, Most, Most + 3} {
		s := Draw(Overview{House: "Marrowby Seed House", Title: "Spring fair", Sentence: "1,504 scans in 28 days.",
			Span: "27 February to 26 March 2027.", Rows: rows(t, n), Method: "Each interval holds in 95 of 100 cases."})
		for _, item := range s.Items {
			for _, p := range item.Path.Points {
				if q := item.At.Point(p); q.X < -0.01 || q.Y < -0.01 || q.X > Width+0.01 || q.Y > Height+0.01 {
					t.Fatalf("%d rows: %v lies outside the page", n, q)
				}
			}
		}
		if codes := pictures(s); codes != min(n, Most) {
			t.Errorf("%d rows: %d codes are drawn", n, codes)
		}
	}
}

// pictures counts codes by their papers.
func pictures(s *scene.Scene) (n int) {
	for _, i := range s.Items {
		if i.Name == "paper" {
			n++
		}
	}
	return n - 1 // that of the page
}

// TestRead: poppler finds one A4 page, and zbar reads each of its codes from it.
func TestRead(t *testing.T) {
	file := filepath.Join(t.TempDir(), "overview.pdf")
	s := Draw(Overview{House: "Marrowby Seed House", Title: "Spring fair", Rows: rows(t, 8)})
	if err := os.WriteFile(file, pdf.Encode(s, export.Meta{Title: "Spring fair"}), 0o600); err != nil {
		t.Fatal(err)
	}
	info, err := exec.Command("pdfinfo", file).Output()
	if err != nil || !bytes.Contains(info, []byte("Pages:           1")) || !bytes.Contains(info, []byte("(A4)")) {
		t.Errorf("%s, %v", info, err)
	}
	raster := exec.Command("pdftoppm", "-r", "300", "-gray", "-singlefile", file, strings.TrimSuffix(file, ".pdf"))
	if out, err := raster.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	read, err := exec.Command("zbarimg", "--raw", "-q", "-Sdisable", "-Sqrcode.enable", strings.TrimSuffix(file, ".pdf")+".pgm").
		Output()
	if n := strings.Count(strings.ToLower(string(read)), "marrowby.example/fair"); err != nil || n != 8 {
		t.Errorf("%d codes are read: %s, %v", n, read, err)
	}
}
