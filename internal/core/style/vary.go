package style

import (
	"maps"
	"math"
	"math/rand/v2"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/patch"
)

// Variations at once.
const Variations = 9

// variedContrast is the least contrast of ink and paper that a variation has: a step above what the proof asks for.
const variedContrast = 0.62

// Vary gives the k-th alternative, from 0, to what a code wears: other forms of modules and eyes, other inks of the house
// where it has some, with the code's own mark, frame and backdrop. It is the same for the same seed; k and k + Variations
// have the same form of modules, so that one can stand in for the other. The house may be nil.
func Vary(draft any, s *Style, seed uint64, k int) any {
	rng := rand.New(rand.NewPCG(seed, uint64(k)))
	order := rand.New(rand.NewPCG(seed, 1<<40)).Perm(Variations)
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	step := func(least, most float64) float64 { return math.Round((least+rng.Float64()*(most-least))*20) / 20 }
	out := map[string]any{}
	if v, _ := patch.Get(draft, "/look"); v != nil {
		if has, is := v.(map[string]any); is {
			for _, key := range own {
				if has[key] != nil {
					out[key] = has[key]
				}
			}
			maps.Copy(out, map[string]any{"ink": has["ink"], "paper": has["paper"]})
		}
	}
	var modules map[string]any
	switch order[k%Variations] {
	case 0, 1:
		modules = map[string]any{"join": "all", "corner": step(0.5, 1)}
	case 2, 3:
		modules = map[string]any{"join": "rows", "corner": step(0.3, 1)}
	case 4, 5:
		modules = map[string]any{"join": "columns", "corner": step(0.3, 1)}
	case 6:
		modules = map[string]any{"join": "none", "motif": "disc", "scale": step(0.85, 1)}
	case 7:
		modules = map[string]any{"join": "none", "motif": pick("leaf", "bean", "ticket", "hexagon", "tab"), "scale": 1.0}
	default:
		modules = map[string]any{"join": "none", "motif": "square", "corner": step(0.2, 0.6), "scale": step(0.85, 0.95)}
	}
	out["modules"] = modules
	ring := step(0, 1)
	corners := []any{ring, ring, ring, ring}
	facing := "same"
	if rng.IntN(3) == 0 { // one corner, or two, stay square
		facing = pick("same", "inward")
		corners[2] = 0.0
		if rng.IntN(2) == 0 {
			corners[0] = 0.0
		}
	}
	core := map[string]any{"motif": pick("square", "square", "disc", "bean", "tab", "leaf"), "scale": step(1, 1.15)}
	if core["motif"] == "square" {
		c := step(0, 0.6)
		core["corners"] = []any{c, c, c, c}
	}
	eyes := map[string]any{"ring": map[string]any{"corners": corners}, "core": core, "facing": facing}
	out["eyes"] = eyes
	if rng.IntN(4) > 0 || out["ink"] == nil { // one in four keeps the inks
		varyInks(out, core, s, rng)
	}
	for _, key := range []string{"ink", "paper"} {
		if out[key] == nil {
			delete(out, key)
		}
	}
	if g, is := out["ink"].(map[string]any); is && g["kind"] == "radial" {
		delete(g, "angle")
	}
	return out
}

// varyInks dresses a look in inks and a paper of the house, now and then in a gradient, or its cores in another ink.
func varyInks(out, core map[string]any, s *Style, rng *rand.Rand) {
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	inks, papers := at(s)
	p := papers[rng.IntN(len(papers))]
	var dark []choice
	for _, c := range inks {
		if ink.Contrast(c.colour, p.colour) >= variedContrast {
			dark = append(dark, c)
		}
	}
	if len(dark) > 0 {
		first := dark[rng.IntN(len(dark))]
		out["ink"], out["paper"] = first.value, p.value
		second := dark[rng.IntN(len(dark))]
		switch {
		case second.colour.Same(first.colour):
		case rng.IntN(4) == 0:
			out["ink"] = map[string]any{"kind": pick("linear", "radial"), "angle": 45.0,
				"stops": []any{map[string]any{"at": 0.0, "colour": first.value},
					map[string]any{"at": 1.0, "colour": second.value}}}
		case rng.IntN(3) == 0:
			core["ink"] = second.value
		}
	}
}

// choice is a colour with how a look writes it.
type choice struct {
	value  any
	colour ink.Colour
}

// at are the inks and the papers to choose from: those of the house, or those at hand. White is always a paper.
func at(s *Style) (inks, papers []choice) {
	papers = []choice{{ink.White.String(), ink.White}}
	if s != nil && len(s.Colours) > 0 {
		for _, c := range s.Colours {
			one := choice{map[string]any{"style": c.Key}, c.Value}
			if c.Value.Luminance() > 0.6 {
				papers = append(papers, one)
			} else {
				inks = append(inks, one)
			}
		}
		return inks, papers
	}
	for _, c := range ink.Inks {
		inks = append(inks, choice{c.Colour.String(), c.Colour})
	}
	for _, c := range ink.Papers[1:] {
		papers = append(papers, choice{c.Colour.String(), c.Colour})
	}
	return inks, papers
}

// Changes are the changes that put a variation on: of what it varies, and nothing else.
func Changes(variation any) (out patch.Patch) {
	v, _ := variation.(map[string]any)
	for _, part := range []struct {
		key   string
		plain any
	}{{"ink", ink.Black.String()}, {"paper", ink.White.String()}, {"modules", map[string]any{}}, {"eyes", map[string]any{}}} {
		value := v[part.key]
		if value == nil {
			value = part.plain
		}
		out = append(out, patch.Op{Op: "add", Path: "/look/" + part.key, Value: value})
	}
	return out
}
