package proof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/measure"
)

// absent gives the readers that could not work on some picture, and the families that are not among those asked.
func absent(p *Proof, panel Panel) (broken, missing []string) {
	tried := map[string]bool{}
	for _, r := range p.Readings {
		if r.Error != "" && !slices.Contains(broken, r.Reader) {
			broken = append(broken, r.Reader)
		}
		tried[r.Family] = true
	}
	for _, family := range panel.Families {
		if !tried[family] {
			missing = append(missing, family)
		}
	}
	if len(tried) == 0 && len(missing) == 0 {
		missing = []string{"any"}
	}
	return broken, missing
}

// readersRule says that engines could not work, or are not there: so far there is no verdict.
func readersRule(in Input, p *Proof, panel Panel) (out []Finding) {
	if len(p.Broken) > 0 {
		out = append(out, Finding{Code: "reader.broken", Severity: SeverityCare,
			Message: "One kind of phone reader did not answer, so there is no verdict yet. This says nothing about the code; " +
				"it is asked again."})
	}
	switch kinds := len(panel.Families); {
	case len(p.Readings) == 0:
		out = append(out, Finding{Code: "reader.missing", Severity: SeverityCare,
			Message: "No phone reader is installed on this server, so nothing has read the code. Whoever runs the server can " +
				"install them."})
	case len(p.Missing) > 0:
		out = append(out, Finding{Code: "reader.missing", Severity: SeverityCare,
			Message: fmt.Sprintf(
				"%s of %d kinds of phone reader %s missing on this server, so there is no verdict. Whoever runs the server "+
					"can install what is missing.", upperCount(len(p.Missing)), kinds,
				map[bool]string{true: "is", false: "are"}[len(p.Missing) == 1])})
	}
	return out
}

func upperCount(n int) string {
	if n == 1 {
		return "One"
	}
	return fmt.Sprint(n)
}

// often is the share of the pictures that each family reads of all that are ordinary to an ordinary phone, but for those from
// afar.
func often(ordinary []Outcome) map[string]float64 {
	hits, draws := map[string]int{}, map[string]int{}
	for _, o := range ordinary {
		if apart(o.Condition) {
			continue
		}
		for family, n := range o.Hits {
			hits[family] += n
			draws[family] += o.Draws
		}
	}
	out := map[string]float64{}
	for family, n := range draws {
		out[family] = float64(hits[family]) / float64(n)
	}
	return out
}

// losing says that every family loses more than half of what is ordinary with an ordinary phone.
func losing(ordinary []Outcome) bool {
	shares := often(ordinary)
	for _, share := range shares {
		if share >= maxLost {
			return false
		}
	}
	return len(shares) > 0
}

// lost says that every family does, with a good phone too. Without a place there is no phone, and the files alone say it.
func (p *Proof) lost(in Input) bool {
	if !losing(p.Of(Ordinary)) {
		return false
	}
	if in.Placement == nil {
		return true
	}
	good, ok := p.Outcome(goodPhone)
	for _, n := range good.Hits {
		if float64(n) >= maxLost*float64(good.Draws) {
			return false
		}
	}
	return ok
}

// untold is how many pictures of a circumstance a family may lose without a word, where all in all it loses few: a phone has
// taken the next before anybody notices.
const untold = 1

// readings turns what readers did into findings: another payload, no payload, a relative that is stricter.
func readings(in Input, p *Proof, _ Panel) (out []Finding) {
	for _, r := range p.Readings {
		if o, ok := p.Outcome(r.Condition); ok && r.Payload != "" {
			out = append(out, Finding{Code: "misread", Severity: SeverityStop,
				Message: fmt.Sprintf("Some phones read something else %s: %q. A wrong address is worse than none.", o.Words,
					r.Payload)})
			return out
		}
	}
	var failing, lossy []Outcome
	for _, o := range p.Of(Ordinary) {
		switch {
		case len(o.Hits) == 0:
		case !o.Passes():
			failing = append(failing, o)
		case !o.Everyone():
			lossy = append(lossy, o)
		}
	}
	severity, seldom := SeverityCare, false
	for _, share := range often(p.Of(Ordinary)) {
		seldom = seldom || share < maxOften
	}
	switch {
	case len(failing) > 0 && p.lost(in):
		severity = SeverityStop
	case len(failing) == 0 && !seldom:
		severity = SeverityNote
		lossy = slices.DeleteFunc(lossy, func(o Outcome) bool { return o.Draws-o.Least() <= untold })
	}
	if len(failing) == 0 {
		failing = lossy
	}
	if len(failing) == 0 {
		return append(out, strict(in, p)...)
	}
	worst := failing[0]
	for _, o := range failing {
		if o.Draws > 1 && worst.Draws > 1 && o.Least()*worst.Draws < worst.Least()*o.Draws {
			worst = o
		}
	}
	f := Finding{Code: "unread." + worst.Condition, Severity: severity, Message: unread(worst)}
	var others []string
	for _, o := range failing {
		if o.Condition != worst.Condition && o.Draws > 1 {
			others = append(others, o.Words)
		}
	}
	switch {
	case severity == SeverityStop && in.Placement == nil:
		f.Message += " Every kind of phone reader loses most pictures."
	case severity == SeverityStop:
		f.Message += " Every kind of phone reader loses most pictures, even with a good phone."
	case severity == SeverityNote:
		f.Message += " Nobody will notice: phones take many a second."
	}
	if len(others) > 0 && worst.Draws > 1 {
		f.Message += " The same happens " + list(others[:min(len(others), 3)]) + "."
	}
	if severity != SeverityNote && in.Placement != nil && p.Contrast > contrastLeast &&
		in.Look.Ink.Luminance() < paperOf(in).Luminance() && !narrow(in) {
		if w, ok := wider(in); ok && worst.Draws > 1 && perFar(in) < 3.2 {
			f.Fix = setWidth(in, w)
		}
	}
	return append(append(out, f), strict(in, p)...)
}

// unread says how many kinds of reader read a condition how often: those that never do, and the one that misses most pictures.
func unread(o Outcome) string {
	never, some, missed := 0, 0, 0
	for _, n := range o.Hits {
		switch {
		case n == 0:
			never++
		case n < o.Draws:
			some++
			missed = max(missed, o.Draws-n)
		}
	}
	var who []string
	if never > 0 {
		who = append(who, kindsOf(never, len(o.Hits))+" cannot read it")
	}
	if some > 0 {
		who = append(who, fmt.Sprintf("%s missed %s in %d", kindsOf(some, len(o.Hits)),
			measure.Plural(missed, "picture"), o.Draws))
	}
	return sentence(o.Words) + ", " + list(who) + "."
}

// kindsOf says how many of the kinds of phone reader are meant: engines are named where an expert looks at the evidence, and
// nowhere else.
func kindsOf(n, of int) string {
	words := []string{"no", "one", "two", "three", "four", "five"}
	switch {
	case n == of && of == 1:
		return "the phone reader"
	case n == of:
		return "every kind of phone reader"
	case max(n, of) < len(words):
		return fmt.Sprintf("%s of %s kinds of phone reader", words[n], words[of])
	}
	return fmt.Sprintf("%d of %d kinds of phone reader", n, of)
}

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// strict says which engine does not read what a relative of it does: seldom under what is ordinary, or not the picture itself.
func strict(in Input, p *Proof) (out []Finding) {
	hits, draws, inverted := map[string]int{}, map[string]int{}, map[string]bool{}
	for _, r := range p.Readings {
		if o, ok := p.Outcome(r.Condition); ok && o.Stage == Ordinary && !apart(o.Condition) && r.Error == "" {
			hits[r.Reader] += r.Hits
			draws[r.Reader] += r.Draws
			inverted[r.Reader] = inverted[r.Reader] || r.Inverted
		}
	}
	shares := often(p.Of(Ordinary))
	for _, r := range p.Readings {
		if r.Condition != "picture" || r.Error != "" || r.Payload != "" || inverted[r.Reader] {
			continue
		}
		o, _ := p.Outcome("picture")
		switch {
		case draws[r.Reader] > o.Draws && float64(hits[r.Reader]) < maxLost*float64(draws[r.Reader]) &&
			shares[r.Family] >= maxOften:
			f := Finding{Code: "reader.strict", Severity: SeverityCare, Message: "Some phones cannot read this file at all."}
			if n := hits[r.Reader]; n > 0 {
				f.Message = fmt.Sprintf("Some phones will not read it: the strictest kind of reader managed %d of %s.", n,
					measure.Plural(draws[r.Reader], "picture"))
			}
			return append(out, f)
		case !r.Read && o.Hits[r.Family] == o.Draws:
			f := Finding{Code: "reader.strict", Severity: SeverityNote, Message: "Some phones cannot read this file at all."}
			if in.Placement == nil { // then the files are all that is asked of it
				f.Severity = SeverityCare
			}
			return append(out, f)
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
