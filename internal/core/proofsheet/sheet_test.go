package proofsheet_test

import (
	"bytes"
	"fmt"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/proofsheet"
	"sodrik/internal/readers"
)

func sheet(t *testing.T, widths ...float64) proofsheet.Sheet {
	t.Helper()
	s := proofsheet.Sheet{Name: "Gate poster", State: "Version 2", Date: "25 November 2026", Says: "Opens",
		Payload: "https://marrowby.example/fair", Symbol: "29 × 29 modules", Files: []string{"gate_v2"},
		Readers: []string{"a", "b"}}
	for i, w := range widths {
		m,
			problems := compose.Parse(
			[]byte(
				fmt.Sprintf(
					`{"content":{"kind":"url","url":"https://marrowby.example/fair/%d"},"placements":[{"name":"gate","width_mm":%g}]}`, i, w)), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		s.Places = append(s.Places, proofsheet.Place{Code: m.Scene(m.Place(0)),
			Proof: &proof.Proof{Verdict: proof.Care, Where: "at gate", Range: [2]float64{80, 900},
				Stages: []proof.Stage{proof.Ordinary, proof.Range},
				Findings: []proof.Finding{{Severity: proof.SeverityStop, Message: "One."},
					{Severity: proof.SeverityNote, Message: strings.Repeat("A long remark. ", 40)}}}})
	}
	return s
}

// TestSheet has poppler turn the page into pixels: one A4 page without fonts, with codes that are read, at the size that is said.
func TestSheet(t *testing.T) {
	drawn, left := proofsheet.Draw(sheet(t, 30, 74))
	if left != 0 {
		t.Fatalf("no room for %d of two places", left)
	}
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	if err := os.WriteFile(file, pdf.Encode(drawn, export.Meta{Title: "Proof"}), 0o600); err != nil {
		t.Fatal(err)
	}
	info, err := exec.Command("pdfinfo", file).CombinedOutput()
	if err != nil || !strings.Contains(string(info), "A4") || !strings.Contains(string(info), "Pages:           1") {
		t.Errorf("%v %s", err, info)
	}
	fonts, err := exec.Command("pdffonts", file).CombinedOutput()
	if lines := strings.Count(strings.TrimSpace(string(fonts)), "\n"); err != nil || lines > 1 {
		t.Errorf("fonts: %v %s", err, fonts)
	}
	const dpi = 200
	out, err := exec.Command("pdftoppm", "-r", fmt.Sprint(dpi), "-png", "-singlefile", file).Output()
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]float64{} // width without border, mm
	for _, f := range readers.Symbols(img) {
		a, b := f.Corners[0], f.Corners[1]
		got[f.Payload] = math.Hypot(b[0]-a[0], b[1]-a[1]) * 25.4 / dpi
	}
	for i, width := range []float64{30, 74} {
		want := width * 29 / 37 // 29 modules and the border
		if w := got[fmt.Sprintf("https://marrowby.example/fair/%d", i)]; math.Abs(w-want) > 0.25 {
			t.Errorf("code %d is %.2f mm wide, want %.2f", i, w, want)
		}
	}
}

// TestScripts: a name in Arabic is set in a face that has it, joined, and narrower than empty boxes would be.
func TestScripts(t *testing.T) {
	s := sheet(t, 40)
	s.Name = "ملصق البوابة"
	drawn, _ := proofsheet.Draw(s)
	for _, it := range drawn.Items {
		if it.Name == "text" && it.At.A > 1 {
			return
		}
	}
	t.Error("the name is not set in a face of its script")
}

// TestCrowded: many and large places stay on the page, and it says which were left out.
func TestCrowded(t *testing.T) {
	for _, c := range []struct {
		widths []float64
		left   int
	}{{[]float64{160}, 0}, {[]float64{160, 160, 160}, 0}, {[]float64{40, 40, 40, 40, 40, 40, 40, 40, 40}, 6}, {nil, 0}} {
		t.Run(fmt.Sprint(c.widths), func(t *testing.T) {
			drawn, left := proofsheet.Draw(sheet(t, c.widths...))
			if left != c.left {
				t.Errorf("%v: %d left out, want %d", c.widths, left, c.left)
			}
			for _, it := range drawn.Items {
				for _, q := range it.Path.Points {
					x, y := q.X*it.At.A+it.At.X, q.Y*it.At.A+it.At.Y
					if x < -0.01 || y < -0.01 || x > proofsheet.Width+0.01 || y > proofsheet.Height+0.01 {
						t.Fatalf("%v: %s at %.1f, %.1f is off the page", c.widths, it.Name, x, y)
					}
				}
			}
		})
	}
}
