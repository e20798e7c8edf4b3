package reads

import (
	"fmt"

	"sodrik/internal/core/grade"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
	"sodrik/internal/records"
)

// CheckLine is one check of a print in words.
type CheckLine struct {
	Verdict    proof.Verdict
	Line, When string
	Words      []string
	Grades     []CheckedRow
}

// CheckedRow is one parameter of a check, with what was reckoned beside it.
type CheckedRow struct{ Name, Value, Grade, Reckoned string }

// CheckLines lay checks out, newest first.
func CheckLines(list []records.Check) (out []CheckLine) {
	for _, c := range list {
		l := CheckLine{Verdict: c.Verdict, Line: c.Line() + ".", Words: c.Print.Words()}
		l.When = fmt.Sprintf("Version %d at %s, %s", c.N, c.Place, c.At.Format("2 January 2006"))
		if c.DPI > 0 {
			l.When += fmt.Sprintf(", scanned at %s dpi", measure.Number(c.DPI, 0))
		} else {
			l.When += fmt.Sprintf(", photographed at %s pixels a module", measure.Number(c.Print.Module, 0))
		}
		if c.Who != "" {
			l.When += ", " + c.Who
		}
		for _, g := range c.Print.Grades {
			value := ""
			switch g.Key {
			case grade.Modulation, grade.Margin, grade.UnusedEC:
				value = measure.Number(g.Value*100, 0) + " %"
			case grade.Axial:
				value = measure.Number(g.Value, 2)
			}
			l.Grades = append(l.Grades, CheckedRow{UpperFirst(proof.GradeWords(g.Key)), value, g.Grade,
				between(g.Reckoned[0], g.Reckoned[1])})
		}
		out = append(out, l)
	}
	return out
}
