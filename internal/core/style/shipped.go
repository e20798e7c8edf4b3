package style

import "sodrik/internal/core/fields"

// shipped are the looks that come along, from plain to bold; a test holds that every family of readers reads each at usual sizes.
var shipped = []struct{ key, name, wear string }{
	{"plain", "Plain", `{}`},
	{"pebble", "Pebble",
		`{"modules":{"join":"all","corner":1},"eyes":{"ring":{"corners":[0.4,0.4,0.4,0.4]},"core":{"corners":[0.5,0.5,0.5,0.5]}}}`},
	{"furrow", "Furrow", `{"modules":{"join":"rows","corner":1},"eyes":{"ring":{"corners":[0.2,0.2,0.2,0.2]}}}`},
	{"stake", "Stake", `{"modules":{"join":"columns","corner":0.8},"eyes":{"core":{"motif":"tab"}}}`},
	{"drill", "Drill",
		`{"modules":{"join":"none","motif":"disc","scale":0.92},"eyes":{"ring":{"corners":[0.6,0.6,0.6,0.6]},"core":{"motif":"disc","scale":1.1}}}`},
	{"cotyledon", "Cotyledon",
		`{"ink":"#12352b","modules":{"join":"none","motif":"leaf"},"eyes":{"ring":{"corners":[0,0.7,0,0.7]},"core":{"motif":"leaf"}}}`},
	{"letterpress", "Letterpress",
		`{"ink":"#5a2d0c","paper":"#f6f0e2","modules":{"join":"all","corner":0.4},"eyes":{"ring":{"corners":[0.15,0.15,0.15,0.15]}}}`},
	{"label", "Garden label",
		`{"ink":"#12352b","paper":"#e9efdf","modules":{"join":"columns","corner":1},"eyes":{"ring":{"corners":[0.9,0.9,0,0]},"core":{"corners":[0.6,0.6,0,0]}}}`},
	{"porthole", "Porthole",
		`{"ink":"#1f3a5a","modules":{"join":"all","corner":1},"eyes":{"ring":{"corners":[0.8,0.8,0.8,0.8]},"core":{"motif":"disc","scale":1.05}}}`},
	{"dusk", "Dusk",
		`{"ink":{"kind":"linear","angle":60,"stops":[{"at":0,"colour":"#1f3a5a"},{"at":1,"colour":"#5b1f33"}]},"modules":{"join":"rows","corner":1},"eyes":{"ring":{"corners":[0.5,0.5,0.5,0.5]},"core":{"corners":[0.6,0.6,0.6,0.6]}}}`},
	{"seedling", "Seedling",
		`{"ink":"#12352b","modules":{"join":"all","corner":1},"eyes":{"ring":{"corners":[0.6,0.6,0,0.6]},"core":{"corners":[0.6,0.6,0,0.6]},"facing":"inward"},"mark":{"source":"icon:sprout","width":0.18,"clear":"disc","pad":0.5}}`},
	{"poppy", "Poppy",
		`{"ink":"#5b1f33","paper":"#f6f0e2","modules":{"join":"all","corner":1},"eyes":{"ring":{"corners":[0.5,0.5,0.5,0.5],"ink":"#12352b"},"core":{"corners":[0.7,0.7,0.7,0.7]}},"mark":{"source":"icon:flower","width":0.16,"clear":"disc","pad":0.5}}`},
}

// ShippedKey stands before the key of a look that comes along, so that it is never that of a look of the house.
const ShippedKey = "shipped/"

// Shipped are the looks that come along.
var Shipped = func() (out []Look) {
	for _, l := range shipped {
		v, err := fields.Decode([]byte(l.wear))
		if err != nil {
			panic(err) // part of the program
		}
		out = append(out, Look{Key: ShippedKey + l.key, Name: l.name, Wear: v})
	}
	return out
}()

// Find finds a look of the house or one that comes along.
func (s *Style) Find(key string) (Look, bool) {
	for _, l := range Shipped {
		if l.Key == key {
			return l, true
		}
	}
	return s.Look(key)
}
