package route

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/gazetteer"
)

// Bounds of how near somebody is asked to be, in kilometres. Nearer than the first, positions of phones within buildings are
// guesses.
const LeastNear, MostNear = 1, 500

var pointForm = regexp.MustCompile(`^\s*(-?\d{1,2}(?:\.\d+)?)\s*[,;]\s*(-?\d{1,3}(?:\.\d+)?)\s*$`)

// Point is a place on earth, in degrees.
type Point struct {
	Lat float64 `json:"a"`
	Lon float64 `json:"o"`
}

// pointNamed reads a point as degrees, or the name of a town, and gives it as a file keeps it: "52.368,-2.718".
func pointNamed(text string) (own, bad string) {
	if p, ok := pointOf(text); ok {
		return p.String(), ""
	}
	name, _, _ := strings.Cut(text, ",")
	var towns []gazetteer.Town
	for _, t := range gazetteer.Find(text, 10) {
		if gazetteer.Fold(t.Name) == gazetteer.Fold(name) {
			towns = append(towns, t)
		}
	}
	switch {
	case len(towns) == 0:
		return "", fmt.Sprintf("is %q; write a larger town, or latitude and longitude, such as 52.368, -2.718", text)
	case len(towns) > 1 && towns[1].People*clearly > towns[0].People && towns[1].Country != towns[0].Country:
		return "", fmt.Sprintf("is %s, of which there are several; write %s, %s or %s, %s", text, name, towns[0].Country, name,
			towns[1].Country)
	}
	return Point{towns[0].Lat, towns[0].Lon}.String(), ""
}

func pointOf(text string) (p Point, ok bool) {
	m := pointForm.FindStringSubmatch(text)
	if m == nil {
		return p, false
	}
	p.Lat, _ = strconv.ParseFloat(m[1], 64)
	p.Lon, _ = strconv.ParseFloat(m[2], 64)
	return p, math.Abs(p.Lat) <= 90 && math.Abs(p.Lon) <= 180
}

// String is a point as a file keeps it, to about 100 m.
func (p Point) String() string {
	return strconv.FormatFloat(math.Round(p.Lat*1000)/1000, 'f', -1, 64) + "," +
		strconv.FormatFloat(math.Round(p.Lon*1000)/1000, 'f', -1, 64)
}

// closeTown is how many degrees away a town may be that a point is named after.
const closeTown = 0.02

// pointSays is a point in a sentence: by its town, or in degrees.
func pointSays(text string) string {
	p, ok := pointOf(text)
	if !ok {
		return text
	}
	if towns := gazetteer.Around(p.Lat, p.Lon, closeTown, 1); len(towns) > 0 {
		return Says(towns[0].Name + " (" + towns[0].Country + ")")
	}
	return text
}

// Near is where a rule asks phones to be, and within how many kilometres; ok is false where it does not ask.
func (r *Rule) NearWhat() (at Point, km float64, ok bool) {
	at, ok = pointOf(r.Near)
	return at, r.Within, ok
}

// NearSays is where a rule asks phones to be: "within 5 km of Ludlow".
func (r *Rule) NearSays() string {
	return fmt.Sprintf("within %g km of %s", r.Within, pointSays(r.Near))
}

// unanswered says that a phone has not said yet whether it is near what a rule asks for.
func (r *rule) unanswered(in *Input) bool {
	return r.near && !slices.Contains(in.Near, r.id) && !slices.Contains(in.Far, r.id)
}

// far says that a phone has said that it is not near.
func (r *rule) far(in *Input) bool { return r.near && slices.Contains(in.Far, r.id) }

// Unanswered says that a rule, which Choose gave, depends on whether the phone is near, which it has not said yet.
func (s *Set) Unanswered(i int, in *Input) bool { return i != Everybody && s.rules[i].unanswered(in) }
