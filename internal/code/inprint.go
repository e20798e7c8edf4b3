package code

import (
	"time"

	"sodrik/internal/core/measure"
)

// Printing is what a person says of a version in print.
type Printing struct {
	On       time.Time // the day
	Printer  string    // who prints it, "" where it is not said
	Quantity int       // how many, 0 where it is not said
}

// InPrint is a version that somebody has said to be in print.
type InPrint struct {
	Printing
	N   int
	Who string // who said so
}

// String is what is known of a print: "in print since 2 March 2027, Okafor Print, 2,000 pieces".
func (p Printing) String() string {
	words := "in print since " + p.On.Format("2 January 2006")
	if p.Printer != "" {
		words += ", " + p.Printer
	}
	if p.Quantity > 0 {
		words += ", " + measure.Count(p.Quantity) + " pieces"
	}
	return words
}
