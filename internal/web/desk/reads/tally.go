package reads

import (
	"fmt"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
)

// kindName is what a family is called where no engine is named.
func kindName(n int) string {
	return [...]string{"First kind", "Second kind", "Third kind", "Another kind"}[min(n, 3)]
}

func UpperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// tally counts what each family read of each set, and says what comes next.
func (r *Remarks) tally(p *proof.Proof) {
	sets := []proof.Stage{proof.Ordinary, proof.Hard, proof.Abuse}
	for _, family := range p.Families() {
		line := FamilyLine{Family: kindName(len(r.Families)), Engines: strings.Join(p.Engines(family), ", ")}
		for _, set := range sets {
			read, of := 0, 0
			for _, o := range p.Of(set) {
				if n, ok := o.Hits[family]; ok {
					read, of = read+n, of+o.Draws
				}
			}
			cell := "…"
			switch {
			case of > 0:
				cell = fmt.Sprintf("%d/%d", read, of)
			case p.Has(set):
				cell = "–"
			}
			line.Cells = append(line.Cells, cell)
		}
		r.Families = append(r.Families, line)
	}
	for _, set := range sets[1:] {
		if all := p.Of(set); len(all) > 0 {
			n := 0
			for _, o := range all {
				if o.Passes() {
					n++
				}
			}
			r.Beyond = append(
				r.Beyond,
				fmt.Sprintf(
					"%s: survives %d of %d",
					map[proof.Stage]string{proof.Hard: "Harder conditions", proof.Abuse: "Wear and damage"}[set],
					n,
					len(all),
				),
			)
		}
	}
	if r.PlaceIdx < 0 { // nothing but the pictures themselves to look at
		return
	}
	for _, set := range proof.Stages {
		if !p.Has(set) {
			r.Next = set
			r.Looking = map[proof.Stage]string{proof.Hard: "Checking harder conditions…",
				proof.Abuse: "Checking wear and damage…", proof.Range: "Measuring the range…",
				proof.Margins: "Measuring the margin…"}[set]
			break
		}
	}
}

// measured says what range and reserve are, and how they were measured.
func (r *Remarks) measured(c *code.Code, p *proof.Proof, i int) {
	r.Grades = gradingOf(p.Grades)
	if reason := p.Grades.Reason(); reason != "" {
		r.Facts = append(r.Facts, reason)
	}
	if i < 0 {
		return
	}
	planned := measure.Number(p.Reserve*100, 0) + " %"
	r.Reserve = planned
	if p.Measured != nil {
		r.Facts = append(
			r.Facts,
			fmt.Sprintf(
				"Reserve: the look leaves %s of the error correction. Seen from its distance, %s were left.",
				planned,
				measure.Number(*p.Measured*100, 0)+" %",
			),
		)
	}
	if !p.Has(proof.Range) {
		return
	}
	if p.Range[1] == 0 {
		r.Range, r.RangeHow = "none", "At no distance does every kind of phone read it."
	} else {
		r.Range = rangeWords(p.Range)
		spoken := func(mm float64) string { return measure.Length(mm).Rounded().Spoken() }
		r.RangeHow = fmt.Sprintf("Every kind of phone reader reads it from %s to %s: 4 pictures in 5 or more, at %d distances.",
			spoken(p.Range[0]), spoken(p.Range[1]), len(p.Ladder))
		if p.Poor > 0 {
			r.RangeHow += fmt.Sprintf(" With a poor phone to %s.", spoken(p.Poor))
		} else {
			r.RangeHow += " A poor phone does not read it."
		}
	}
	r.RangeHow += " Measured through " + optics.Phone.Name + "."
	if m := p.Margin; m != nil {
		r.Margin, r.MarginHow = m.Figure(), m.Words()
	}
}
