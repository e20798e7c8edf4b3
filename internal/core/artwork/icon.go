package artwork

import (
	"cmp"
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
	a,
		err := readSVG(
		[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">`+d.svg+`</svg>`), NewBudget())
	if err != nil { // a test reads all of them
		return nil, false
	}
	drawnIcons.Store(name, a)
	return a, true
}

// Icons finds icons by plain words, in singular or plural, those that are called so first; at most so many.
func Icons(query string, most int) (names []string) {
	words := strings.Fields(strings.ToLower(query))
	rank := map[string]int{}
	for name, d := range icons() {
		worst := 0
		for _, w := range words {
			fit := farOff
			for _, form := range forms(w) {
				fit = min(fit, d.fits(form))
			}
			worst = max(worst, fit)
		}
		if len(words) > 0 && worst < farOff {
			rank[name] = worst
			names = append(names, name)
		}
	}
	slices.SortFunc(names, func(a, b string) int {
		return cmp.Or(rank[a]-rank[b], len(a)-len(b), strings.Compare(a, b))
	})
	return names[:min(len(names), most)]
}

// farOff is the rank of what a word does not find.
const farOff = 5

// fits ranks how a word finds a drawing: it is called so, a part of its name is, people look for it by that word, a part of
// its name begins so, another word does.
func (d Drawing) fits(word string) int {
	has := func(text, cut string, test func(string) bool) bool {
		return slices.ContainsFunc(strings.Split(text, cut), test)
	}
	is := func(s string) bool { return s == word }
	begins := func(s string) bool { return strings.HasPrefix(s, word) }
	switch {
	case d.Name == word:
		return 0
	case has(d.Name, "-", is):
		return 1
	case has(strings.ReplaceAll(d.words, " ", ","), ",", is):
		return 2
	case has(d.Name, "-", begins):
		return 3
	case len(word) > 2 && has(strings.ReplaceAll(d.words, " ", ","), ",", begins):
		return 4
	}
	return farOff
}

// forms are a word and what it may be the plural of.
func forms(word string) []string {
	out := []string{word}
	if stem, ok := strings.CutSuffix(word, "ves"); ok {
		out = append(out, stem+"f", stem+"fe")
	}
	if stem, ok := strings.CutSuffix(word, "ies"); ok {
		out = append(out, stem+"y")
	}
	if stem, ok := strings.CutSuffix(word, "s"); ok && len(stem) > 2 {
		out = append(out, stem)
	}
	return out
}
