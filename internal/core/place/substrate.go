// Package place is where a code sits: its placements, the media and substrates there are, and what each asks for.
package place

// Substrate is what the code is printed on or shown by.
type Substrate struct {
	Key  string // as in the job file
	Name string // in words
	// MinXDimension is the smallest module, in millimetres, that still prints with clean edges. The values are our working
	// figures: spread of ink on both sides of an edge (about 0.03 mm coated, 0.05 uncoated, 0.08 newsprint and kraft) kept
	// under a fifth of the module, and one thread or one head dot where that is coarser.
	MinXDimension float64
	Spread        string  // why, in words
	Screen        bool    // light comes from it; no ink
	Gain          float64 // by how many millimetres dark edges spread, each side
	Dot           float64 // millimetres a side of what it is made of, where that is coarse; else 0
	Bilevel       bool    // a dot is dark or light
	Reflects      float64 // how much red light, 660 nm, it throws back unprinted: our working figures
}

// Substrates, the first being the default.
var Substrates = []Substrate{
	{"coated", "coated paper", 0.30, "ink spreads about 0.03 mm at each edge", false, 0.03, 0, false, 0.86},
	{"uncoated", "uncoated paper", 0.45, "ink spreads about 0.05 mm at each edge", false, 0.05, 0, false, 0.84},
	{"newsprint", "newsprint", 0.70, "ink spreads about 0.08 mm at each edge", false, 0.08, 0, false, 0.62},
	{"kraft", "kraft board", 0.70, "ink spreads about 0.08 mm at each edge", false, 0.08, 0, false, 0.48},
	{"film", "film", 0.40, "flexo plates squeeze ink about 0.04 mm past each edge", false, 0.04, 0, false, 0.80},
	{"textile", "textile", 1.00, "one thread is about 0.3 mm wide", false, 0.1, 0, false, 0.75},
	{"thermal", "thermal label", 0.375, "a 203 dpi head prints dots of 0.125 mm", false, 0.03, 0.125, true, 0.82},
	{"screen", "screen", 0.50, "a screen pixel is about 0.25 mm wide", true, 0, 0.25, false, 1.00},
}

// SubstrateOf finds a substrate by its key.
func SubstrateOf(key string) (Substrate, bool) {
	for _, s := range Substrates {
		if s.Key == key {
			return s, true
		}
	}
	return Substrate{}, false
}

// Lights there are.
var Lights = []string{"indoor", "outdoor", "dim"}
