package inspect

import (
	"fmt"
	"math"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
)

// Words say to a print buyer what was measured, the forecast beside each.
func (p Print) Words() (out []string) {
	mm := func(f float64) string { return measure.Number(math.Round(f*1000)/1000, 3) }
	if g := p.Growth; g != nil {
		out = append(
			out,
			fmt.Sprintf(
				"Ink %s at each edge, give or take %s mm. We had reckoned %s mm.",
				grown(g.Value, 3),
				mm(math.Ceil(g.Off*1000)/1000),
				mm(g.Reckoned),
			),
		)
	}
	percent := func(f float64) string { return measure.Number(math.Round(f*100), 0) }
	out = append(
		out,
		fmt.Sprintf(
			"Contrast is %s %%, give or take %s. We had reckoned %s %%.",
			percent(p.Contrast.Value),
			percent(p.Contrast.Off),
			percent(p.Contrast.Reckoned),
		),
	)
	if w := p.Width; w != nil {
		out = append(
			out,
			fmt.Sprintf(
				"It is %s mm wide, give or take %s. It should be %s mm.",
				measure.Number(w.Value, 1),
				measure.Number(w.Off, 1),
				measure.Number(w.Reckoned, 1),
			),
		)
	}
	damage := "No module is damaged"
	if p.Damaged > 0 {
		damage = measure.Number(p.Damaged*100, 1) + " % of its modules are damaged"
	}
	out = append(out, fmt.Sprintf("%s; %s %% of the error correction is left.", damage, percent(p.Reserve)))
	if p.Mirrored {
		out = append(out, "It is printed mirrored. Many phones read nothing there; print it anew, the right way round.")
	}
	switch len(p.Others) {
	case 0:
	case 1:
		out = append(out, "A second code is in the picture. Phones may take that one.")
	default:
		out = append(out, fmt.Sprintf("%d further codes are in the picture. Phones may take one of them.", len(p.Others)))
	}
	return out
}

// leastLeft is the share of the error correction below which a print is no longer called safe: what wear may still take is then
// more than halved.
const leastLeft = 0.5

// Verdict is that of a proof of the print as it is, held against what the picture shows beside it: a mirrored print is none,
// and what has spent half of its error correction, or stands beside another code, is to be looked after.
func (p Print) Verdict(now proof.Verdict) proof.Verdict {
	switch {
	case p.Mirrored:
		return proof.Stop
	case now == proof.Safe && (p.Reserve < leastLeft || len(p.Others) > 0):
		return proof.Care
	}
	return now
}

// why says what of a picture alone makes a verdict another, "" for nothing.
func (p Print) why() string {
	switch {
	case p.Mirrored:
		return "it is printed mirrored, where many phones read nothing; "
	case p.Reserve < leastLeft:
		return fmt.Sprintf("only %s %% of its error correction is left; ", measure.Number(math.Round(p.Reserve*100), 0))
	case len(p.Others) > 0:
		return "another code is beside it; "
	}
	return ""
}

// grown says a growth in millimetres, of so many places.
func grown(mm float64, places int) string {
	switch text := measure.Number(math.Abs(mm), places); {
	case text == "0":
		return "gained nothing"
	case mm < 0:
		return "lost " + text + " mm"
	default:
		return "gained " + text + " mm"
	}
}

// Line sums a check up: "Ink gained 0.06 mm, we had reckoned 0.05 mm; safe as forecast".
func (p Print) Line(now, forecast proof.Verdict) string {
	words := map[proof.Verdict]string{proof.Safe: "safe", proof.Care: "to be printed with care", proof.Stop: "not to be printed"}
	line := ""
	if g := p.Growth; g != nil {
		line = fmt.Sprintf("Ink %s, we had reckoned %s mm; ", grown(g.Value, 2), measure.Number(g.Reckoned, 2))
	}
	if w := p.Width; w != nil && w.Apart() {
		line += fmt.Sprintf("it is %s mm wide, not %s; ", measure.Number(w.Value, 1), measure.Number(w.Reckoned, 1))
	}
	now, line = p.Verdict(now), line+p.why()
	switch {
	case words[now] == "":
		return line + "not proved with it"
	case now == forecast:
		return line + words[now] + " as forecast"
	}
	return line + "with that it is " + words[now] + ", the forecast was " + words[forecast]
}

// Printed is the input of a proof with as much ink as was measured, and as wide as was measured where that differs.
func (p Print) Printed(in proof.Input) proof.Input {
	ink, width := 1.0, 1.0
	if g := p.Growth; g != nil && g.Reckoned > 0 { // what is seen from farther away, or printed smaller, is spread in proportion
		ink = max(0, g.Value) / g.Reckoned
	}
	if w := p.Width; w != nil && w.Apart() {
		width = w.Value / w.Reckoned
	}
	in.Tune = func(s *optics.Setup) { // narrower is seen from as much farther, and spreads and dots are as much larger
		s.Gain *= ink / width
		s.Distance /= width
		s.Dot /= width
	}
	return in
}
