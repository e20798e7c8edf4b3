package gazetteer

import (
	"bufio"
	"bytes"
	"cmp"
	"compress/gzip"
	_ "embed"
	"slices"
	"strings"
	"sync"
)

// Area is a part of a country, or a town, by its name.
type Area struct {
	Name, Country string // the country by its two letters (ISO 3166-1)
	People        int    // of a part not known, and taken for as many as a large town has
	Part          bool   // and not a town
}

// partPeople is what a part of a country counts for beside towns of its name.
const partPeople = 1_000_000

// packedParts is the names of parts of countries (ISO 3166-2) in English, made from the Unicode Common Locale Data Repository,
// under the Unicode licence.
//
//go:embed parts.tsv.gz
var packedParts []byte

var areas = sync.OnceValue(func() map[string][]Area {
	out := map[string][]Area{}
	z, err := gzip.NewReader(bytes.NewReader(packedParts))
	if err != nil {
		panic(err) // it is part of the program
	}
	for lines := bufio.NewScanner(z); lines.Scan(); {
		name, country, _ := strings.Cut(lines.Text(), "\t")
		key := Fold(name)
		out[key] = append(out[key], Area{name, country, partPeople, true})
	}
	for _, t := range towns() {
		out[t.folded] = append(out[t.folded], Area{t.Name, t.Country, t.People, false})
	}
	for _, list := range out {
		slices.SortStableFunc(list, func(a, b Area) int { return cmp.Compare(b.People, a.People) })
	}
	return out
})

// Named are the parts of countries and the towns of exactly a name but for case, accents and signs, the larger first.
func Named(name string) []Area { return areas()[Fold(name)] }
