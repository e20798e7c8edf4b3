package place

// Use is where scanners of the trade read a code, with the widths of a module that they are set to (GS1 General Specifications,
// section 5.12, symbol specification tables 1 and 2; two-dimensional symbols).
type Use struct {
	Key, Name   string
	Least, Most float64 // millimetres a module
}

// Uses are the values of "use".
var Uses = []Use{
	{"till", "the till", 0.396, 0.990},
	{"distribution", "general distribution", 0.743, 1.500},
}

// UseOf finds a use.
func UseOf(key string) (u Use, ok bool) {
	for _, u := range Uses {
		if u.Key == key {
			return u, true
		}
	}
	return u, false
}
