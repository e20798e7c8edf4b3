package place

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strings"
	"unicode"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
)

// Bounds of a placement, in millimetres: from a mark on a tool to a banner on a house front.
const (
	LeastWidth       = 5
	MostWidth        = 3000
	LeastDistant     = 30
	MostDistant      = 100000
	LeastRadius      = 5 // of a bottle or tube
	LeastPixels      = 21
	LeastSurface     = 10 // of the thing it lies on
	MostSurface      = 20000
	MostScreenPixels = 10000
)

// Placement is one place a code hangs, lies or shows.
type Placement struct {
	ID         string // of its own in a draft, so that changes mean it whatever its index; says nothing of the code, and may be ""
	Name       string
	Medium     string // key of a Medium, or ""
	Substrate  string // key of a Substrate
	Width      measure.Length
	Distance   measure.Length // from the eye of the camera to the code
	Light      string
	Background *ink.Colour     // what lies under a code without paper; nil is white
	Clear      *measure.Length // free of print around the code's own border; nil is not known
	Use        string          // of a code for scanners: a key of Uses, or ""
	Readable   bool            // the identifiers stand in figures beneath
	Radius     measure.Length  // of what it is wrapped around; 0 is flat
	Glass      bool            // it is behind glass
	Moving     bool            // it or the people move while it is scanned
	Pixels     int             // of the screen, that the code is wide; 0 is as many as it takes
	Keyword    string          // put into messages sent from here, so that they tell where they came from
	Artwork    Artwork         // what it lies on
	Words      Words           // what stands beside it there
}

var idForm = regexp.MustCompile(`^[a-z][a-z0-9]{0,15}$`)

// MostKeyword bounds a keyword, in bytes.
const MostKeyword = 24

// Read reads one placement, every problem noted. What is not given follows from the medium; without one, coated paper
// indoors, read from ten times its width.
func Read(o *fields.Object) Placement {
	p := Placement{ID: o.String("id"), Name: strings.TrimSpace(o.String("name")), Substrate: "coated", Light: "indoor"}
	if p.ID != "" && !idForm.MatchString(p.ID) {
		o.Problem("id", "place.id", "is %.20q; an id has up to 16 small letters and digits and begins with a letter. It may be left out", p.ID)
		p.ID = ""
	}
	if p.Name == "" {
		o.Problem("name", "place.name", "is missing; name the place, such as gate")
	} else if len(p.Name) > 60 {
		o.Problem("name", "place.name", "is longer than 60 bytes; a short name such as gate does")
	}
	medium := Medium{}
	if p.Medium = o.String("medium"); p.Medium != "" {
		m, ok := MediumOf(p.Medium)
		switch {
		case ok:
			medium = m
			p.Substrate, p.Light, p.Radius, p.Glass, p.Moving = m.Substrate, m.Light, m.Radius, m.Glass, m.Moving
		case !Own(p.Medium):
			o.Problem("medium", "place.medium", "%q is not a medium; known are %s", p.Medium, keys(Media, func(m Medium) string { return m.Key }))
		}
	}
	if s := o.String("substrate"); s != "" {
		if p.Substrate = s; !known(s) {
			o.Problem("substrate", "place.substrate", "%q is not a substrate; known are %s", s, keys(Substrates, func(s Substrate) string { return s.Key }))
			p.Substrate = "coated"
		}
	}
	p.Width = length(o, "width_mm", float64(medium.Width), LeastWidth, MostWidth, "the side of the symbol with its quiet zone")
	p.Distance = length(o, "distance_mm", float64(medium.Distance), LeastDistant, MostDistant, "from the phone to the code")
	if p.Distance == 0 && p.Width > 0 {
		p.Distance = p.Width * 10
	}
	if s := o.String("light"); s != "" {
		if p.Light = s; !contains(Lights, s) {
			o.Problem("light", "place.light", "%q is not a light; known are %s", s, strings.Join(Lights, ", "))
			p.Light = "indoor"
		}
	}
	if c, ok := ink.Read(o, "background", "#f4efe6"); ok || !o.Sound("background") {
		p.Background = &c
	}
	if o.Has("radius_mm") {
		p.Radius = radius(o)
	}
	p.Glass, p.Moving = o.Bool("behind_glass", p.Glass), o.Bool("moving", p.Moving)
	if o.Has("pixels") {
		n := o.Number("pixels", 0)
		if o.Sound("pixels") && (n < LeastPixels || n > MostScreenPixels || n != math.Trunc(n)) {
			o.Problem("pixels", "place.pixels", "is %s; it is a whole number from %d to %s (pixels of the screen that the code is wide)", measure.Number(n, 3), LeastPixels, measure.Count(MostScreenPixels))
			n = 0
		}
		p.Pixels = int(n)
	}
	p.Keyword = strings.TrimSpace(o.String("keyword"))
	if len(p.Keyword) > MostKeyword || strings.ContainsFunc(p.Keyword, unicode.IsControl) {
		o.Problem("keyword", "place.keyword", "is longer than %d bytes or more than a line; a word such as GATE does", MostKeyword)
	}
	if o.Has("clear_mm") {
		mm := o.Number("clear_mm", 0)
		if o.Sound("clear_mm") && (mm < 0 || mm > MostWidth) {
			o.Problem("clear_mm", "place.size", "is %s mm; it lies between 0 and %s (from the code's border to what is printed beside it)", measure.Number(mm, 3), measure.Count(MostWidth))
		}
		l := measure.Length(mm)
		p.Clear = &l
	}
	if p.Use = o.String("use"); p.Use != "" {
		if _, ok := UseOf(p.Use); !ok {
			o.Problem("use", "place.use", "%q is not a use; known are %s", p.Use, keys(Uses, func(u Use) string { return u.Key }))
		}
	}
	p.Readable = o.Bool("readable", false)
	if o.Has("artwork") {
		p.Artwork = readArtwork(o.Object("artwork"))
	}
	if o.Has("words") {
		p.Words = readWords(o.Object("words"))
	}
	o.Close()
	return p
}

// radius reads that of what the code goes around; 0 is flat.
func radius(o *fields.Object) measure.Length {
	mm := o.Number("radius_mm", 0)
	if o.Has("radius_mm") && o.Sound("radius_mm") && mm != 0 && (mm < LeastRadius || mm > MostWidth*10) {
		o.Problem("radius_mm", "place.radius", "is %s mm; it lies between %d and %s (half the thickness of the bottle or tube; leave it out where the code lies flat)", measure.Number(mm, 3), LeastRadius, measure.Count(MostWidth*10))
	}
	return measure.Length(mm)
}

func known(substrate string) bool { _, ok := SubstrateOf(substrate); return ok }

func contains(list []string, s string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

func keys[T any](list []T, key func(T) string) string {
	names := make([]string, len(list))
	for i, v := range list {
		names[i] = key(v)
	}
	return strings.Join(names, ", ")
}

// length reads a length in millimetres; def 0 with the key absent is a problem only for the width.
func length(o *fields.Object, key string, def, least, most float64, what string) measure.Length {
	given := o.Has(key)
	mm := o.Number(key, def)
	switch {
	case !o.Sound(key):
		return 0
	case !given && def == 0 && key == "width_mm":
		o.Problem(key, "place.width", "is missing; give %s in millimetres", what)
		return 0
	case !given:
	case mm <= 0:
		o.Problem(key, "place.size", "is %s mm; it must be more than 0 (%s)", measure.Number(mm, 3), what)
		return 0
	case mm < least || mm > most:
		o.Problem(key, "place.size", "is %s mm; it must lie between %s and %s mm (%s)", measure.Number(mm, 3),
			measure.Number(least, 0), measure.Count(int(most)), what)
		return 0
	}
	return measure.Length(mm)
}

// MarshalJSON writes every field, so that a stored job does not change with a medium's habits.
func (p Placement) MarshalJSON() ([]byte, error) {
	var clear *float64
	if p.Clear != nil {
		mm := round(*p.Clear)
		clear = &mm
	}
	m, _ := MediumOf(p.Medium)
	out := struct {
		ID         string      `json:"id,omitempty"`
		Name       string      `json:"name"`
		Medium     string      `json:"medium,omitempty"`
		Substrate  string      `json:"substrate"`
		Width      float64     `json:"width_mm"`
		Distance   float64     `json:"distance_mm"`
		Light      string      `json:"light"`
		Background *ink.Colour `json:"background,omitempty"`
		Clear      *float64    `json:"clear_mm,omitempty"`
		Use        string      `json:"use,omitempty"`
		Readable   bool        `json:"readable,omitempty"`
		Radius     *float64    `json:"radius_mm,omitempty"`
		Glass      *bool       `json:"behind_glass,omitempty"`
		Moving     *bool       `json:"moving,omitempty"`
		Pixels     int         `json:"pixels,omitempty"`
		Keyword    string      `json:"keyword,omitempty"`
		Artwork    any         `json:"artwork,omitempty"`
		Words      any         `json:"words,omitempty"`
	}{p.ID, p.Name, p.Medium, p.Substrate, round(p.Width), round(p.Distance), p.Light, p.Background, clear, p.Use, p.Readable, given(round(p.Radius), m.Radius > 0), given(p.Glass, m.Glass), given(p.Moving, m.Moving), p.Pixels, p.Keyword, p.Artwork.json(), p.Words.json()}
	return json.Marshal(out)
}

// given is a value that is written where it is none of the usual ones, or where the medium would bring another.
func given[T comparable](v T, habit bool) *T {
	var none T
	if v == none && !habit {
		return nil
	}
	return &v
}

// round keeps a thousandth of a millimetre, so that 2 in is 50.8 mm and not 50.799999.
func round(l measure.Length) float64 { return math.Round(float64(l)*1000) / 1000 }

// Where names the place for a sentence: "at gate: uncoated paper, outdoor, 1.5 m".
func (p Placement) Where() string {
	s, _ := SubstrateOf(p.Substrate)
	return fmt.Sprintf("at %s: %s, %s, from %s", p.Name, s.Name, map[string]string{"indoor": "indoors", "outdoor": "outdoors", "dim": "in dim light"}[p.Light], p.Distance.Spoken())
}
