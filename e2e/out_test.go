package e2e

import (
	"bytes"
	"encoding/csv"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/code"
	"sodrik/internal/records"
	"sodrik/internal/standin"
)

// TestOut: what is handed over stands on the overview of all that is out there, with what is noted of it; an outside program
// reads the same on its print, and the table has it too.
func TestOut(t *testing.T) {
	t.Parallel()
	a := open(t)
	desk := a.create(t, `{"name":"Out there","content":{"kind":"url","url":"https://marrowby.example/out"},
		"placements":[{"name":"gate","medium":"poster-a2"}]}`)
	id := strings.TrimPrefix(desk, "/codes/")
	if _, err := a.links.Turn(t.Context(), standin.Loader(), id, code.Anyhow); err != nil {
		t.Fatal(err)
	}
	c, err := a.links.Codes.Issue(t.Context(), standin.Loader(), id)
	if err != nil {
		t.Fatal(err)
	}
	on, problems := records.ReadPrinting("2 March 2026", "Okafor Print", "12,000", a.store.Now())
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if err := records.Of(a.store).SayPrinted(t.Context(), standin.Loader(), id, c.Issued.N, on); err != nil {
		t.Fatal(err)
	}
	placed, err := a.links.Placed(t.Context(), standin.Loader())
	if err != nil {
		t.Fatal(err)
	}
	link := ""
	for _, p := range placed {
		if p.Live.Code == id {
			link = p.Address
		}
	}
	if err := a.links.Hang(t.Context(), standin.Loader(), id, link, map[string]string{"spot": "by the church door",
		"hangs_from": "2026-03-09", "hangs_until": "2026-04-30", "prints": "40"}); err != nil {
		t.Fatal(err)
	}
	p := a.page(t, "/codes")
	wait := nextPage(t, p)
	p.MustElementR("a", "What is out there").MustClick()
	wait()
	words := []string{"Out there v1", "gate", "by the church door", "9 Mar 2026", "30 Apr 2026", "taken down",
		"2 Mar 2026, Okafor Print, 40 prints",
		link, "https://marrowby.example/out"}
	row := p.MustElementR("tr", "Out there").MustText()
	for _, w := range words {
		if !strings.Contains(row, w) {
			t.Errorf("the row lacks %q: %q", w, row)
		}
	}
	r, err := p.PDF(&proto.PagePrintToPDF{PreferCSSPageSize: true})
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "out.pdf")
	pdf, err := io.ReadAll(r)
	if err == nil {
		err = os.WriteFile(file, pdf, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range []string{"What is out there", "by the church door", "Okafor", link} {
		if !bytes.Contains(text, []byte(w)) {
			t.Errorf("the print lacks %q", w)
		}
	}
	if bytes.Contains(text, []byte("Download CSV")) {
		t.Error("the buttons are printed")
	}
	_, data := download(t, p, func() { p.MustElementR("a", "Download CSV").MustClick() })
	lines, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range lines[1:] {
		if got := strings.Join(line, "|"); line[1] == "Out there" {
			want := "|Out there|1|gate|poster-a2|160|by the church door|2026-03-09|2026-04-30|"
			if !strings.HasPrefix(got, want) || !strings.HasSuffix(got, "|2026-03-02|Okafor Print|40|"+line[14]+"|"+link+
				"|https://marrowby.example/out|") {
				t.Errorf("the table says %s", got)
			}
			return
		}
	}
	t.Errorf("the table lacks it: %d lines", len(lines))
}
