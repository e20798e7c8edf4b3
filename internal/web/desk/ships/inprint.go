package ships

import (
	"fmt"

	"sodrik/internal/code"
)

// Printed is what was said of a version in print, or the form that says it.
type Printed struct {
	CodeID   string
	Chip     string
	N        int    // the version that can be said to be in print
	Said     string // that one is, with all that is known; "" for none
	SaidOf   int    // which one
	On       string // as typed
	Printer  string
	Quantity string
	Errors   map[string]string
}

// PrintedOf is that of a code.
func PrintedOf(c *code.Code) Printed {
	p := Printed{CodeID: c.ID}
	if c.Issued != nil {
		p.N = c.Issued.N
	}
	if in := c.InPrint; in != nil {
		p.SaidOf = in.N
		p.Said = fmt.Sprintf("v%d is %s", in.N, in.Printing)
	}
	return p
}
