package content

import (
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/percent"
)

// Place is a point on the earth in the WGS 84 system. The payload is a geo: URI (RFC 5870), to six decimals, a tenth of a
// metre; the URI has no room for a label, which is for us alone. With form link it is a web address made from a pattern.
type Place struct {
	Lat, Lon             float64 // degrees, north and east positive
	Label, Form, Pattern string
	url                  *URL // of form link
}

func readPlace(o *fields.Object) *Place {
	p := &Place{Label: strings.TrimSpace(o.String("label")), Form: o.OneOf("form", "geo", "link"), Pattern: strings.TrimSpace(o.String("pattern"))}
	p.Lat, p.Lon = readDegrees(o, "lat", 90, "north"), readDegrees(o, "lon", 180, "east")
	if hasControl(p.Label, "") {
		o.Problem("label", "place.label", "holds a line break or another control character; it is one line")
	}
	switch {
	case p.Form == "geo" && p.Pattern != "":
		o.Problem("pattern", "place.pattern", "is only for form link")
	case p.Form == "link" && p.Pattern == "":
		o.Problem("pattern", "place.pattern", "is missing; it is the map's address with {lat} and {lon} in it, such as https://maps.example/?q={lat},{lon}")
	case p.Form == "link" && (!strings.Contains(p.Pattern, "{lat}") || !strings.Contains(p.Pattern, "{lon}")):
		o.Problem("pattern", "place.pattern", "has no {lat} or no {lon}, so that it would open the same place for every point")
	case p.Form == "link":
		p.url = &URL{Raw: strings.NewReplacer("{lat}", degrees(p.Lat), "{lon}", degrees(p.Lon), "{label}", percent.Encode(p.Label, percent.Unreserved)).Replace(p.Pattern)}
		if code, message := p.url.parse(); code != "" {
			o.Problem("pattern", code, "%s", message)
		}
	}
	return p
}

func readDegrees(o *fields.Object, key string, most float64, towards string) float64 {
	if !o.Has(key) {
		if o.Sound(key) {
			o.Problem(key, "place."+key, "is missing; it is in degrees, %s positive", towards)
		}
		return 0
	}
	f := o.Number(key, 0)
	if math.Abs(f) > most {
		o.Problem(key, "place."+key, "is %s; it lies between −%v and %v degrees", degrees(f), most, most)
	}
	return f
}

// degrees writes an angle to six decimals, trailing zeros left out.
func degrees(f float64) string {
	s := strconv.FormatFloat(f, 'f', 6, 64)
	if s = strings.TrimRight(strings.TrimRight(s, "0"), "."); s == "-0" {
		return "0"
	}
	return s
}

func (p *Place) Kind() string { return "place" }

// Payload is the URI.
func (p *Place) Payload() string {
	if p.Form == "link" && p.url != nil {
		return p.url.Payload()
	}
	return "geo:" + degrees(p.Lat) + "," + degrees(p.Lon)
}

// Position is the point as decimal degrees.
func (p *Place) Position() string { return degrees(p.Lat) + ", " + degrees(p.Lon) }

// Summary gives the label, else the point.
func (p *Place) Summary() Summary {
	if p.Label != "" {
		return Summary{"Points to", brief(p.Label, 48)}
	}
	return Summary{"Points to", p.Position()}
}

// Search is label and point.
func (p *Place) Search() string { return p.Label + " " + p.Position() }

// Phone opens a map. The label is not in the code, so that no phone knows it.
func (p *Place) Phone() Offer {
	if p.Form == "link" && p.url != nil {
		return p.url.Phone()
	}
	return Offer{Action: "Opens a map at", Strong: p.Position(), Lines: []string{Sexagesimal(p.Lat, p.Lon)}}
}

// Savings: a point to about ten or a hundred metres.
func (p *Place) Savings() (out []Saving) {
	for _, r := range []struct {
		scale float64
		words string
	}{{1e4, "11 m"}, {1e3, "110 m"}} {
		then := *p
		then.Lat, then.Lon = math.Round(p.Lat*r.scale)/r.scale, math.Round(p.Lon*r.scale)/r.scale
		if then.Lat == p.Lat && then.Lon == p.Lon || p.Form == "link" {
			continue
		}
		out = append(out, Saving{"Round the point to " + r.words, "/content/lat", patch.Patch{set("/lat", then.Lat)[0], set("/lon", then.Lon)[0]}, &then})
	}
	return out
}

// JSON gives the fields.
func (p *Place) JSON() any {
	out := map[string]any{"kind": "place", "lat": p.Lat, "lon": p.Lon}
	put(out, "label", p.Label)
	if p.Form == "link" {
		out["form"] = "link"
		put(out, "pattern", p.Pattern)
	}
	return out
}

// takeGeo reads a geo: URI, its altitude and parameters other than the coordinate system left out, and the query with a
// label that some programs add.
func takeGeo(payload string) (map[string]any, bool) {
	rest, query, _ := strings.Cut(payload[len("geo:"):], "?")
	point, params, _ := strings.Cut(rest, ";")
	for _, p := range strings.Split(params, ";") {
		if key, value, _ := strings.Cut(strings.ToLower(p), "="); key == "crs" && value != "wgs84" {
			return nil, false // another system: the numbers mean something else
		}
	}
	out := map[string]any{"kind": "place"}
	for _, q := range strings.Split(query, "&") {
		value, ok := strings.CutPrefix(q, "q=")
		if !ok {
			continue
		}
		value = percent.Decode(strings.ReplaceAll(value, "+", " "))
		if at, label, ok := strings.Cut(value, "("); ok {
			value = at
			put(out, "label", strings.TrimSpace(strings.TrimSuffix(label, ")")))
		}
		if lat, lon, ok := Coordinates(value); ok {
			out["lat"], out["lon"] = number(lat), number(lon)
		}
	}
	c := strings.Split(point, ",")
	if out["lat"] == nil && len(c) >= 2 {
		lat, errLat := strconv.ParseFloat(c[0], 64)
		lon, errLon := strconv.ParseFloat(c[1], 64)
		if errLat != nil || errLon != nil || math.IsNaN(lat) || math.IsNaN(lon) || math.IsInf(lat, 0) || math.IsInf(lon, 0) {
			return nil, false
		}
		out["lat"], out["lon"] = number(lat), number(lon)
	}
	return out, out["lat"] != nil
}
