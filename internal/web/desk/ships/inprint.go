package ships

import (
	"fmt"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
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
		p.Said = fmt.Sprintf("v%d is in print since %s", in.N, in.On.Format("2 January 2006"))
		if in.Printer != "" {
			p.Said += ", " + in.Printer
		}
		if in.Quantity > 0 {
			p.Said += ", " + measure.Count(in.Quantity) + " pieces"
		}
	}
	return p
}
