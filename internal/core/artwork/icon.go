package artwork

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
)

//go:embed icon/icons.txt
var iconLines string

// Drawing is one of the icons that come with Sodrik: Lucide, under the ISC licence (icon/license.txt).
type Drawing struct {
	Name  string
	words string // to find it by
	svg   string
}

var icons = sync.OnceValue(func() map[string]Drawing {
	out := map[string]Drawing{}
	for _, line := range strings.Split(strings.TrimSpace(iconLines), "\n") {
		if part := strings.Split(line, "\t"); len(part) == 3 {
			out[part[0]] = Drawing{part[0], strings.ReplaceAll(part[0], "-", " ") + "," + part[1], part[2]}
		}
	}
	return out
})

var drawnIcons sync.Map // name → *Art

// Icon is an icon by its name, in the ink of whoever uses it.
func Icon(name string) (*Art, bool) {
	if a, ok := drawnIcons.Load(name); ok {
		return a.(*Art), true
	}
	d, ok := icons()[name]
	if !ok {
		return nil, false
	}
	a, err := readSVG([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">`+d.svg+`</svg>`), NewBudget())
	if err != nil { // a test reads all of them
		return nil, false
	}
	drawnIcons.Store(name, a)
	return a, true
}

// Icons finds icons by words, those whose name begins with them first; at most so many.
func Icons(query string, most int) (names []string) {
	words := strings.Fields(strings.ToLower(query))
	rank := map[string]int{}
	for name, d := range icons() {
		best := 3
		all := len(words) > 0
		for _, w := range words {
			switch {
			case strings.HasPrefix(name, w):
				best = min(best, 0)
			case strings.Contains(name, w):
				best = min(best, 1)
			case strings.Contains(d.words, w):
				best = min(best, 2)
			default:
				all = false
			}
		}
		if all {
			rank[name] = best
			names = append(names, name)
		}
	}
	slices.SortFunc(names, func(a, b string) int {
		if d := rank[a] - rank[b]; d != 0 {
			return d
		}
		return strings.Compare(a, b)
	})
	return names[:min(len(names), most)]
}
