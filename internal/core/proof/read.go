package proof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/measure"
)

// readersRule says which engines could not work and which family is not there.
func readersRule(in Input, p *Proof, panel Panel) (out []Finding) {
	var broken []string
	tried := map[string]bool{}
	for _, r := range p.Readings {
		if r.Error != "" && !slices.Contains(broken, r.Reader) {
			broken = append(broken, r.Reader)
		}
		tried[r.Family] = true
	}
	if len(broken) > 0 {
		out = append(out, Finding{Code: "reader.broken", Severity: SeverityCare, Message: fmt.Sprintf("%s did not answer, so that its reading is unknown.", list(broken))})
	}
	var missing []string
	for _, family := range panel.Families {
		if !tried[family] {
			missing = append(missing, family)
		}
	}
	switch {
	case len(tried) == 0:
		out = append(out, Finding{Code: "reader.missing", Severity: SeverityCare, Message: "No reader is installed here, so that nothing has read it."})
	case len(missing) > 0:
		out = append(out, Finding{Code: "reader.missing", Severity: SeverityCare,
			Message: fmt.Sprintf("No reader of the family %s is installed here, so that nothing independent confirms the reading.", list(missing))})
	}
	return out
}

// mostLost is the share of pictures below which a family counts as not reading a code at all.
const mostLost = 0.5

// readings turns what readers did into findings: another payload, no payload, a relative that is stricter.
func readings(in Input, p *Proof, _ Panel) (out []Finding) {
	for _, r := range p.Readings {
		if o, ok := p.Outcome(r.Condition); ok && r.Payload != "" {
			out = append(out, Finding{Code: "misread", Severity: SeverityStop,
				Message: fmt.Sprintf("%s reads something else %s: %q. A wrong address is worse than none.", r.Reader, o.Words, r.Payload)})
			return out
		}
	}
	ordinary := p.Of(Ordinary)
	var failing []Outcome
	hits, draws := map[string]int{}, map[string]int{}
	for _, o := range ordinary {
		if len(o.Hits) > 0 && !o.Passes() {
			failing = append(failing, o)
		}
		for family, n := range o.Hits {
			hits[family] += n
			draws[family] += o.Draws
		}
	}
	if len(failing) == 0 {
		return append(out, strict(p)...)
	}
	lost := true
	for family, n := range draws {
		lost = lost && float64(hits[family]) < mostLost*float64(n)
	}
	worst := failing[0]
	for _, o := range failing {
		if o.Draws > 1 && worst.Draws > 1 && o.Least() < worst.Least() {
			worst = o
		}
	}
	f := Finding{Code: "unread." + worst.Condition, Severity: SeverityCare, Message: unread(p, worst)}
	if lost {
		f.Severity = SeverityStop
		f.Message += " Readers of every kind lose it in most pictures."
	}
	var others []string
	for _, o := range failing {
		if o.Condition != worst.Condition && o.Draws > 1 {
			others = append(others, o.Words)
		}
	}
	if len(others) > 0 && worst.Draws > 1 {
		f.Message += " Nor is it always read " + list(others[:min(len(others), 3)]) + "."
	}
	if in.Placement != nil && p.Contrast > contrastLeast && in.Look.Ink.Luminance() < paperOf(in).Luminance() && !narrow(in) {
		if w, ok := wider(in); ok && worst.Draws > 1 && perFar(in) < 3.2 {
			f.Fix = setWidth(in, w)
		}
	}
	return append(append(out, f), strict(p)...)
}

// unread says who reads a condition how often.
func unread(p *Proof, o Outcome) string {
	var who []string
	for _, family := range sortedKeys(o.Hits) {
		if n := o.Hits[family]; n < o.Draws {
			who = append(who, familyWords(p, family)+map[bool]string{true: fmt.Sprintf(" read %s of %d", measure.Plural(n, "picture"), o.Draws), false: " cannot read it"}[n > 0])
		}
	}
	return sentence(o.Words) + ", " + list(who) + "."
}

// familyWords names the engines of a family.
func familyWords(p *Proof, family string) string {
	var names []string
	for _, r := range p.Readings {
		name := r.Reader
		if name == Own {
			name = "our own reader"
		}
		if r.Family == family && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return list(names)
}

func sortedKeys(m map[string]int) []string {
	var keys []string
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// strict notes an engine that does not read the picture itself although a relative of it does.
func strict(p *Proof) (out []Finding) {
	o, ok := p.Outcome("picture")
	if !ok {
		return nil
	}
	for _, r := range p.Readings {
		if r.Condition == "picture" && !r.Read && r.Error == "" && r.Payload == "" && !r.Inverted && o.Hits[r.Family] == o.Draws {
			out = append(out, Finding{Code: "reader.strict", Severity: SeverityNote,
				Message: fmt.Sprintf("%s cannot read even the picture itself; a relative of it can. Phones that are as strict will not.", r.Reader)})
		}
	}
	return out
}

// narrow says that the eyes are what stands in the way, which size does not mend.
func narrow(in Input) bool { return len(eyesRule(in, nil, Panel{})) > 0 }

// Own is the name and family of the reader of package detect.
const Own = "sodrik"

// round1 keeps one place.
func round1(f float64) float64 { return math.Round(f*10) / 10 }
