package reads

import (
	"fmt"

	"sodrik/internal/core/grade"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
)

// Grading is the forecast of grades.
type Grading struct {
	Overall string
	Rows    []GradeRow
	Words   string
}

// GradeRow is one parameter.
type GradeRow struct{ Name, Value, Grade string }

// between is a span from the worse end to the better.
func between(a, b string) string {
	if a == b {
		return a
	}
	return a + " to " + b
}

// gradingOf formats a forecast; values that are shares in percent.
func gradingOf(g *proof.Grades) *Grading {
	if g == nil {
		return nil
	}
	out := &Grading{Overall: between(g.Overall[0], g.Overall[1])}
	for _, p := range g.Parameters {
		value := ""
		switch p.Key {
		case grade.Decode, grade.FixedPattern, grade.Format, grade.Version:
		case grade.Axial, grade.Grid:
			value = measure.Number(p.Value[0], 2)
		default:
			value = between(measure.Number(p.Value[0]*100, 0), measure.Number(p.Value[1]*100, 0)) + " %"
		}
		out.Rows = append(out.Rows, GradeRow{UpperFirst(proof.GradeWords(p.Key)), value, between(p.Grade[0], p.Grade[1])})
	}
	out.Rows = append(out.Rows, GradeRow{"Print growth", measure.Number(g.Growth*100, 0) + " %", "–"})
	light := "white light"
	if g.Wavelength > 0 {
		light = fmt.Sprintf("%d nm, where what an ink throws back is known within bounds only", g.Wavelength)
	}
	out.Words = fmt.Sprintf(
		"A forecast from the file after %s, not a measurement: aperture %s mm, %s. What is red to the eye is paper to a scanner.",
		g.Edition,
		measure.Number(g.Aperture, 2),
		light,
	)
	return out
}
