package compose

import (
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/slip"
)

// SlipFormat takes a format such as "slip-de.pdf" apart: the payment part with receipt of a Swiss QR-bill, in a language.
func SlipFormat(format string) (language, ending string, ok bool) {
	rest, ok := strings.CutPrefix(format, "slip-")
	language, ending, has := strings.Cut(rest, ".")
	return language, ending, ok && has && slices.Contains(slip.Languages, language) && (ending == "pdf" || ending == "svg")
}

// HasSlip says whether the job is a bill, which is paid with a slip and not with a lone symbol.
func (m *Made) HasSlip() bool { _, ok := m.Job.Content.(*content.Swiss); return ok }

func (m *Made) slip(language, ending string, meta export.Meta) ([]byte, problem.List) {
	var problems problem.List
	bill, ok := m.Job.Content.(*content.Swiss)
	if !ok {
		problems.Add("/format", "output.slip", "is the slip of a Swiss QR-bill, and this code is of kind %s", m.Job.Content.Kind())
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
