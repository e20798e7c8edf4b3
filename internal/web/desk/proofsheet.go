package desk

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/proofsheet"
	"sodrik/internal/core/scene"
	"sodrik/internal/web/ui"
)

// proofSheet answers the page that a colleague or client signs. It waits for every set of every place.
func (h *Handler) proofSheet(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	drawn, _, err := h.sheet(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	version := 0
	if c.Printed() {
		version = c.Issued.N
	}
	file := pdf.Encode(drawn, export.Meta{Title: c.Name() + ", proof sheet", Payload: content.Shown(c.Made.Job.Content)})
	ui.Attachment(w, "pdf", export.FileName(c.Name()+" proof sheet", 0, version, "pdf"), file)
}

// sheet draws the proof sheet of a code, and gives the verdict of every placement.
func (h *Handler) sheet(ctx context.Context, actor access.Actor, c *code.Code) (*scene.Scene, map[int]proof.Verdict, error) {
	s, verdicts := sheetOf(c, h.Store.Now().Format("2 January 2006")), map[int]proof.Verdict{}
	for i := min(0, len(c.Made.Job.Placements)-1); i < len(c.Made.Job.Placements); i++ {
		p, err := h.Store.Prove(code.Hurry(ctx), actor, c.Made, i, proof.Range)
		if err != nil {
			return nil, nil, err
		}
		verdicts[i] = p.Verdict
		at := c.Made.Place(i)
		s.Places = append(s.Places, proofsheet.Place{Code: c.Made.For(at).Scene(at), Proof: p})
		if s.Readers == nil {
			for _, family := range familiesOf(p) {
				for _, e := range enginesOf(p, family) {
					s.Readers = append(s.Readers, readerName(e))
				}
			}
		}
		if i < 0 {
			break
		}
	}
	drawn, _ := proofsheet.Draw(s)
	return drawn, verdicts, nil
}

// sheetOf is what the page says of the code itself.
func sheetOf(c *code.Code, date string) proofsheet.Sheet {
	m := c.Made
	says := ui.SaysOf(m.Job.Content)
	s := proofsheet.Sheet{Name: c.Name(), State: "Draft", Date: date, Says: says.Verb, Payload: content.Shown(m.Job.Content), Forecast: "Every figure is a forecast from the file.",
		Symbol: fmt.Sprintf("%d × %d modules, version %d, level %v, mask %d, border of %d modules", m.Symbol.Size, m.Symbol.Size, m.Symbol.Version, m.Symbol.Level, m.Symbol.Mask, (layout.Modules(m.Symbol, m.Job.Symbol.QuietZone)-m.Symbol.Size)/2)}
	if c.Printed() {
		s.State = fmt.Sprintf("Version %d", c.Issued.N)
	}
	for i := min(0, len(m.Job.Placements)-1); i < len(m.Job.Placements); i++ {
		n := 0
		if c.Printed() {
			n = c.Issued.N
		}
		s.Files = append(s.Files, strings.TrimSuffix(fileName(c.House.FileNames(), m.Job, i, n, "svg"), ".svg"))
		if i < 0 {
			break
		}
	}
	return s
}

// readerName is what a reader is called.
func readerName(name string) string {
	if name == proof.Own {
		return "our own reader"
	}
	return name
}
