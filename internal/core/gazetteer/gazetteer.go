// Package gazetteer finds towns by name and by place, so that nobody has to know coordinates. Its list is made from GeoNames
// (geonames.org), licensed under Creative Commons Attribution 4.0.
package gazetteer

import (
	"bufio"
	"bytes"
	"cmp"
	"compress/gzip"
	_ "embed"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
	"golang.org/x/text/unicode/norm"
)

// Town is one place where people live.
type Town struct {
	Name, Country string  // the country by its two letters (ISO 3166-1)
	Lat, Lon      float64 // degrees, to about 100 m
	People        int

	folded string
}

// CountryName is the country in English.
func (t Town) CountryName() string {
	if r, err := language.ParseRegion(t.Country); err == nil {
		return display.English.Regions().Name(r)
	}
	return t.Country
}

//go:embed towns.tsv.gz
var packed []byte

// towns is the list, largest first.
var towns = sync.OnceValue(func() (out []Town) {
	z, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		panic(err) // it is part of the program
	}
	for lines := bufio.NewScanner(z); lines.Scan(); {
		f := strings.Split(lines.Text(), "\t")
		t := Town{Name: f[0], Country: f[1], folded: Fold(f[0])}
		t.Lat, _ = strconv.ParseFloat(f[2], 64)
		t.Lon, _ = strconv.ParseFloat(f[3], 64)
		t.People, _ = strconv.Atoi(f[4])
		out = append(out, t)
	}
	return out
})

// Fold takes case, accents and signs off, so that Zürich is found as zurich.
func Fold(s string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(s)) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsLetter(r), unicode.IsDigit(r):
			b.WriteRune(r)
		default:
			if b.Len() > 0 && !strings.HasSuffix(b.String(), " ") {
				b.WriteByte(' ')
			}
		}
	}
	return strings.TrimSpace(b.String())
}

// Find gives up to n towns whose name begins with a text, those of exactly that name first, then the larger before the
// smaller. Behind a comma the country may follow, by name or letters.
func Find(text string, n int) (out []Town) {
	name, country, _ := strings.Cut(text, ",")
	name, country = Fold(name), Fold(country)
	if len([]rune(name)) < 2 || len(name) > 60 {
		return nil
	}
	for _, exact := range []bool{true, false} {
		for _, t := range towns() {
			if len(out) == n {
				return out
			}
			if strings.HasPrefix(t.folded, name) && (t.folded == name) == exact &&
				(country == "" || strings.HasPrefix(Fold(t.CountryName()), country) || strings.EqualFold(t.Country, country)) {
				out = append(out, t)
			}
		}
	}
	return out
}

// Around gives up to n towns within so many degrees of latitude of a point, and as far east and west on the ground, the
// largest first.
func Around(lat, lon, degrees float64, n int) (out []Town) {
	wide := degrees / math.Max(0.1, math.Cos(lat*math.Pi/180))
	for _, t := range towns() {
		if dx := math.Abs(math.Mod(t.Lon-lon+540, 360) - 180); math.Abs(t.Lat-lat) <= degrees && dx <= wide {
			if out = append(out, t); len(out) == n {
				break
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Town) int { return cmp.Compare(b.People, a.People) })
	return out
}
