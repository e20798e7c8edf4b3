package content

import (
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Place is a point on the earth in the WGS 84 system. The payload is a geo: URI (RFC 5870), to six decimals, a tenth of a
// metre; the URI has no room for a label, which is for us alone. With form link it is a web address made from a pattern.
type Place struct {
	Lat, Lon             float64 // degrees, north and east positive
	Label, Form, Pattern string
	url                  *URL // of form link
}

// Position is the key under which latitude and longitude are typed as one, in any usual notation.
const Position = "/content/position"

var placeFields = schema.Part{
	Fields: []schema.Field{
		{Key: "position", Typed: true, Control: "position", Called: "position", Label: "Where",
			Heads:   "coordinates, latitude + longitude, lat + lon, lat + lng, lat + long",
			Example: "a town, 52.0871, -1.9432, or a map link", Put: putPosition, Show: showPosition},
		degreesField("lat", 90, "Degrees, north positive (WGS 84).", func(p *Place) any { return &p.Lat }),
		degreesField("lon", 180, "Degrees, east positive.", func(p *Place) any { return &p.Lon }),
		{Key: "label", Type: schema.Line, At: schema.In(func(p *Place) any { return &p.Label }), Pattern: oneLine, Def: "line",
			Label: "Name",
			Hint:  "For you; a geo: code has no room for it."},
		{Key: "form", At: schema.In(func(p *Place) any { return &p.Form }),
			Choices: schema.Words("geo", "geo:, opens the phone's own map", "link", "a link to a map of yours"),
			Called:  "form", Label: "Written as", Folded: "Format", Along: mapLink},
		{Key: "pattern", Type: schema.Line, At: schema.In(func(p *Place) any { return &p.Pattern }), Label: "Link",
			Example: exampleMap,
			Hint:    "{lat} and {lon} stand for the point.", When: func(get func(string) string) bool {
				return get("form") == "link"
			},
			Pattern: `\{lat\}.*\{lon\}|\{lon\}.*\{lat\}`, About: "With form link: a web address with {lat} and {lon} in it."},
	},
	New: func() any { return &Place{Form: "geo"} },
	Rules: `"if": {"required": ["form"], "properties": {"form": {"const": "link"}}},
		"then": {"required": ["pattern"]}, "else": {"not": {"required": ["pattern"]}}`,
}

var placeKind = Kind{Key: "place", Long: "pattern", Name: "Place", Outcome: "Someone finds the way",
	Calls: []string{"Find the way", "Scan for the map"}, Fields: &placeFields,
	Takes:   []Taker{{"geo:", takeGeo}},
	Example: `{"kind": "place", "lat": 52.0871, "lon": -1.9432, "label": "Show garden"}`}

const exampleMap = "https://maps.example/?q={lat},{lon}"

func degreesField(key string, most float64, about string, at func(*Place) any) schema.Field {
	read := func(o schema.Reader, part any) {
		*at(part.(*Place)).(*float64) = readDegrees(o, key, most, map[string]string{"lat": "north", "lon": "east"}[key])
	}
	return schema.Field{Key: key, Type: schema.Number, Read: read, Write: func(part any) any {
		return *at(part.(*Place)).(*float64)
	}, Required: true, Off: true,
		Least: -most, Most: most, Digits: -1, Fixed: true, Called: "position", About: about}
}

func putPosition(_ any, path, typed string) (patch.Patch, *problem.Problem) {
	lat, lon, ok := ParsePosition(typed)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "place.position",
			Message: "is not known; write a town, a point such as 52.0871, -1.9432, or paste a link to a map"}
	}
	return append(set("/lat", lat), set("/lon", lon)...), nil
}

func showPosition(draft any, _ string) string {
	figure := schema.Field{Type: schema.Number, Digits: -1}
	v, north := patch.Get(draft, "/content/lat")
	w, east := patch.Get(draft, "/content/lon")
	if !north && !east {
		return ""
	}
	return figure.Format(v) + ", " + figure.Format(w)
}

// mapLink is what changes along with the form: only a link has a pattern.
func mapLink(draft any, _, typed string) patch.Patch {
	if typed != "link" {
		return patch.Without(draft, "/content/pattern")
	}
	if _, ok := patch.Get(draft, "/content/pattern"); !ok {
		return set("/pattern", exampleMap)
	}
	return nil
}

func (p *Place) check(o *fields.Object) {
	if hasControl(p.Label, "") {
		o.Problem("label", "place.label", "holds a line break or another control character; it is one line")
	}
	switch {
	case p.Form == "geo" && p.Pattern != "":
		o.Problem("pattern", "place.pattern", "is only for form link")
	case p.Form == "link" && p.Pattern == "":
		o.Problem("pattern", "place.pattern",
			"is missing; it is the map's address with {lat} and {lon} in it, such as https://maps.example/?q={lat},{lon}")
	case p.Form == "link" && (!strings.Contains(p.Pattern, "{lat}") || !strings.Contains(p.Pattern, "{lon}")):
		o.Problem("pattern", "place.pattern", "has no {lat} or no {lon}, so every point would open the same place")
	case p.Form == "link":
		p.url = &URL{Raw: strings.NewReplacer("{lat}", degrees(p.Lat), "{lon}", degrees(p.Lon), "{label}",
			percent.Encode(p.Label, percent.Unreserved)).Replace(p.Pattern)}
		if code, message := p.url.parse(); code != "" {
			o.Problem("pattern", code, "%s", message)
		}
	}
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
		out = append(out, Saving{"Round the point to " + r.words, "/content/lat",
			patch.Patch{set("/lat", then.Lat)[0], set("/lon", then.Lon)[0]}, &then})
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
