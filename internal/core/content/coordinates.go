package content

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

func number(f float64) json.Number { return json.Number(strconv.FormatFloat(f, 'f', -1, 64)) }

// A coordinate is degrees, then perhaps minutes and seconds, with a letter before or behind that says which way.
var (
	angle = `(\d{1,3}(?:[.,]\d+)?)\s*(?:°|º|deg|\s|d|:)?\s*(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:['’′]|min|m|:|\s)\s*(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:["”″]|''|’’|′′|sec|s)?)?)?`
	side  = `([NSEWO]|north|south|east|west)?`
	pair  = regexp.MustCompile(`(?i)^\s*` + side + `\s*([+−-])?\s*` + angle + `\s*` + side + `\s*(?:[,;/]|\s)\s*` + side +
		`\s*([+−-])?\s*` + angle + `\s*` + side + `\s*$`)
	first = regexp.MustCompile(`(?i)^\s*([NSEWO]|north|south|east|west)\s*()` + angle +
		`\s*()(?:[,;/]|\s)\s*([NSEWO]|north|south|east|west)\s*()` + angle + `\s*()$`)
	plain = regexp.MustCompile(`^\s*([+−-]?\d{1,3}(?:\.\d+)?)\s*(?:[,;]|\s)\s*([+−-]?\d{1,3}(?:\.\d+)?)\s*$`)
	comma = regexp.MustCompile(`^\s*([+−-]?\d{1,3},\d+)\s*(?:;|\s|, )\s*([+−-]?\d{1,3},\d+)\s*$`)
)

// Coordinates reads a point as people write and copy it: decimal degrees, degrees with minutes and seconds, letters or signs
// for the direction, latitude first unless letters say otherwise. ok is false where the text is none or lies off the earth.
func Coordinates(text string) (lat, lon float64, ok bool) {
	if m := plain.FindStringSubmatch(text); m != nil && strings.Contains(text, ".") {
		return onEarth(decimal(m[1]), decimal(m[2]))
	}
	if m := comma.FindStringSubmatch(text); m != nil {
		return onEarth(decimal(strings.Replace(m[1], ",", ".", 1)), decimal(strings.Replace(m[2], ",", ".", 1)))
	}
	m := first.FindStringSubmatch(text) // letters in front
	if m == nil {
		m = pair.FindStringSubmatch(text)
	}
	if m == nil {
		return 0, 0, false
	}
	one, oneSide, ok1 := angleOf(m[1], m[2], m[3], m[4], m[5], m[6])
	two, twoSide, ok2 := angleOf(m[7], m[8], m[9], m[10], m[11], m[12])
	if !ok1 || !ok2 || (oneSide == "") != (twoSide == "") || oneSide != "" && oneSide == twoSide {
		return 0, 0, false
	}
	if oneSide == "" && !strings.ContainsAny(text, "°º'’′.,") {
		return 0, 0, false // bare whole numbers are anything
	}
	if oneSide == "lon" {
		one, two = two, one
	}
	return onEarth(one, two)
}

func decimal(s string) float64 {
	f, err := strconv.ParseFloat(strings.Replace(s, "−", "-", 1), 64)
	if err != nil {
		return math.NaN()
	}
	return f
}

// onEarth rounds to a tenth of a metre, which is what a code holds.
func onEarth(lat, lon float64) (float64, float64, bool) {
	lat, lon = math.Round(lat*1e6)/1e6, math.Round(lon*1e6)/1e6
	return lat, lon, math.Abs(lat) <= 90 && math.Abs(lon) <= 180
}

// angleOf puts one coordinate together; axis is "lat", "lon" or "" where no letter says it.
func angleOf(before, sign, d, m, s, after string) (value float64, axis string, ok bool) {
	part := func(s string) float64 {
		if s == "" {
			return 0
		}
		return decimal(strings.Replace(s, ",", ".", 1))
	}
	minutes, seconds := part(m), part(s)
	value = part(d) + minutes/60 + seconds/3600
	letter := strings.ToUpper(before + after)
	if before != "" && after != "" || minutes >= 60 || seconds >= 60 || m != "" && strings.ContainsAny(d, ".,") || s != "" &&
		strings.ContainsAny(m, ".,") {
		return 0, "", false
	}
	if letter != "" {
		letter = letter[:1]
	}
	switch letter {
	case "N", "S":
		axis = "lat"
	case "E", "W", "O":
		axis = "lon"
	}
	if sign == "-" || sign == "−" {
		value = -value
	}
	if letter == "S" || letter == "W" {
		value = -value
	}
	return value, axis, true
}

// Forms in which map links carry their point, in the order in which they are trusted: a marked point before the middle of
// the picture.
var mapLinks = []*regexp.Regexp{
	regexp.MustCompile(
		`[?&#](?:q|query|ll|sll|center|destination|daddr|loc|pin|coordinate|markers?)=(?:loc:)?(-?\d{1,2}\.\d+)(?:,|%2C|\+|%20)+(-?\d{1,3}\.\d+)`),
	regexp.MustCompile(`!3d(-?\d{1,2}\.\d+)!4d(-?\d{1,3}\.\d+)`),
	regexp.MustCompile(`[?&#]m?lat=(-?\d{1,2}\.\d+)&m?(?:lon|lng)=(-?\d{1,3}\.\d+)`),
	regexp.MustCompile(`@(-?\d{1,2}\.\d+),(-?\d{1,3}\.\d+)`),
	regexp.MustCompile(`#(?:map=)?\d{1,2}(?:\.\d+)?/(-?\d{1,2}\.\d+)/(-?\d{1,3}\.\d+)`),
	regexp.MustCompile(`[?&#]cp=(-?\d{1,2}\.\d+)~(-?\d{1,3}\.\d+)`),
}

// MapLink finds the point that a copied link to a map shows.
func MapLink(link string) (lat, lon float64, ok bool) {
	if !strings.Contains(link, "://") && !bareLink.MatchString(link) {
		return 0, 0, false
	}
	for _, form := range mapLinks {
		if m := form.FindStringSubmatch(link); m != nil {
			return onEarth(decimal(m[1]), decimal(m[2]))
		}
	}
	return 0, 0, false
}

var bareLink = regexp.MustCompile(`^[\p{L}\p{N}.-]+\.\p{L}{2,}[/?#]`)

// ParsePosition reads a point in any of the notations above, a geo: URI or a map link.
func ParsePosition(text string) (lat, lon float64, ok bool) {
	s := strings.TrimSpace(text)
	if len(s) > 4 && strings.EqualFold(s[:4], "geo:") {
		values, took := takeGeo(s)
		if !took {
			return 0, 0, false
		}
		lat, _ = values["lat"].(json.Number).Float64()
		lon, _ = values["lon"].(json.Number).Float64()
		return onEarth(lat, lon)
	}
	if lat, lon, ok = Coordinates(s); ok {
		return lat, lon, ok
	}
	return MapLink(s)
}

// Sexagesimal writes a point in degrees, minutes and seconds.
func Sexagesimal(lat, lon float64) string {
	one := func(f float64, positive, negative string) string {
		letter := positive
		if f < 0 {
			f, letter = -f, negative
		}
		tenths := int(math.Round(f * 36000))
		return fmt.Sprintf("%d° %02d′ %04.1f″ %s", tenths/36000, tenths/600%60, float64(tenths%600)/10, letter)
	}
	return one(lat, "N", "S") + ", " + one(lon, "E", "W")
}
