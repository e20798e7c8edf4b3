package compose

import (
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/slip"
)

// HasSlip says whether the job is a bill, which is paid with a slip and not with a lone symbol.
func (m *Rendition) HasSlip() bool { _, ok := m.Job.Content.(*content.Swiss); return ok }

func (m *Rendition) slip(language, ending string, meta export.Meta) ([]byte, problem.List) {
	var problems problem.List
	bill, ok := m.Job.Content.(*content.Swiss)
	if !ok {
		problems.Add("/format", "output.slip", "is the slip of a Swiss QR-bill, and this code is of kind %s",
			m.Job.Content.Kind())
		return nil, problems
	}
	symbol := layout.Draw(m.Symbol, m.Job.Look, 0, 46, nil)
	symbol.Items = append(symbol.Items, layout.Cross(float64(m.Symbol.Size), symbol.Items[len(symbol.Items)-1].At)...)
	s := slip.Draw(bill, language, symbol)
	if ending == "pdf" {
		return pdf.Encode(s, meta), nil
	}
	return svg.Encode(s, meta), nil
}
