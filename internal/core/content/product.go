package content

import "sodrik/internal/core/gs1"

// GTINOf is the number of the product, 14 digits, that a code says; "" where it says none.
func GTINOf(c Content) string {
	var all []gs1.Element
	switch c := c.(type) {
	case *GS1Link:
		all = c.Elements
	case *GS1Data:
		all = c.Elements
	}
	for _, e := range all {
		if e.AI == "01" {
			return e.Value
		}
	}
	return ""
}
