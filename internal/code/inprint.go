package code

import "time"

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
