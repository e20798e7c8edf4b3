package place

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/schema"
)

// Bounds of a placement, in millimetres: from a mark on a tool to a banner on a house front.
const (
	MinWidth        = 5
	MaxWidth        = 3000
	MinDistant      = 30
	MaxDistant      = 100000
	MinRadius       = 5 // of a bottle or tube
	MinPixels       = 21
	MinSurface      = 10 // of the thing it lies on
	MaxSurface      = 20000
	MaxScreenPixels = 10000
)

// Placement is one place a code hangs, lies or shows.
type Placement struct {
	// of its own in a draft, so that changes mean it whatever its index; says nothing of the code, and may be ""
	ID            string
	Name          string
	Medium        string // key of a Medium, or ""
	Substrate     string // key of a Substrate
	Width         measure.Length
	Distance      measure.Length // from the eye of the camera to the code
	Light         string
	Background    *ink.Colour     // what lies under a code without paper; nil is white
	Clear         *measure.Length // free of print around the code's own border; nil is not known
	Use           string          // of a code for scanners: a key of Uses, or ""
	HumanReadable bool            // the identifiers stand in figures beneath
	Radius        measure.Length  // of what it is wrapped around; 0 is flat
	Glass         bool            // it is behind glass
	Moving        bool            // it or the people move while it is scanned
	Pixels        int             // of the screen, that the code is wide; 0 is as many as it takes
	Keyword       string          // put into messages sent from here, so that they tell where they came from
	Link          string          // of its own, of a dynamic code; "" is the code's
	Artwork       Artwork         // what it lies on
	Words         Words           // what stands beside it there
}

var idForm = regexp.MustCompile(`^[a-z][a-z0-9]{0,15}$`)

// MaxKeyword bounds a keyword, in bytes.
const MaxKeyword = 24

// lit are the lights with their words.
var lit = schema.Words("indoor", "indoors", "outdoor", "outdoors", "dim", "dim")

func substrates() (out []schema.Choice) {
	for _, s := range Substrates {
		out = append(out, schema.Choice{Value: s.Key, Words: s.Name})
	}
	return out
}

func uses() (out []schema.Choice) {
	out = schema.Words("", "phones only")
	for _, u := range Uses {
		out = append(out, schema.Choice{Value: u.Key, Words: u.Name})
	}
	return out
}

func mediaNames() (out []schema.Choice) {
	for _, m := range Media {
		out = append(out, schema.Choice{Value: m.Key, Words: m.Name})
	}
	return out
}

// keyed declares a value that is one of a list of things with keys.
func keyed(key, code, what string, choices func() []schema.Choice, f schema.Field, at func(*Placement) *string) schema.Field {
	f.Key, f.ChoicesOf, f.Always = key, choices, true
	f.Read = func(o schema.Reader, part any) {
		s := o.String(key)
		switch known := schema.Values(choices()); {
		case s == "" || !o.Sound(key):
		case !slices.Contains(known, s):
			known = slices.DeleteFunc(known, func(s string) bool { return s == "" })
			o.Problem(key, code, "%q is not a %s; known are %s", s, what, strings.Join(known, ", "))
		default:
			*at(part.(*Placement)) = s
		}
	}
	f.Write = func(part any) any {
		if s := *at(part.(*Placement)); s != "" {
			return s
		}
		return nil
	}
	return f
}

// side declares a length of a placement, as what says.
func side(key, what string, least, most float64, f schema.Field, at func(*Placement) *measure.Length) schema.Field {
	f.Key, f.Type, f.Least, f.Most, f.Keep = key, schema.Length, least, most, true
	f.Read = func(o schema.Reader, part any) {
		*at(part.(*Placement)) = length(o, key, float64(*at(part.(*Placement))), least, most, what)
	}
	f.Write = func(part any) any { return schema.Millimetres(*at(part.(*Placement))) }
	return f
}

// habitual declares a flag that a medium may bring: it is written where it is set, or where the medium would set it.
func habitual(key, called, label, about string, at func(*Placement) *bool, habit func(Medium) bool) schema.Field {
	return schema.Field{Key: key, Type: schema.Flag, Keep: true, Called: called, Label: label, About: about,
		Read: func(o schema.Reader, part any) { *at(part.(*Placement)) = o.Bool(key, *at(part.(*Placement))) },
		Write: func(part any) any {
			p := part.(*Placement)
			m, _ := MediumOf(p.Medium)
			if on := *at(p); on || habit(m) {
				return on
			}
			return nil
		}}
}

// Fields are those of a placement. What is not given follows from the medium; without one, coated paper indoors, read from
// ten times its width.
var Fields = schema.Part{
	Fields: []schema.Field{
		{Key: "id", At: schema.In(func(p *Placement) any { return &p.ID }), Pattern: idForm.String(), Off: true, Fixed: true,
			About: "Which placement it is, whatever it is called and wherever it stands in the list; given to those that have none."},
		{Key: "name", At: schema.In(func(p *Placement) any { return &p.Name }), Type: schema.Line, Required: true, Keep: true,
			Most: 60, Called: "name of the place", Label: "Name",
			About: "Unlike any other placement's."},
		{
			Key:       "medium",
			Heads:     "medium, printed on",
			Read:      readMedium,
			Write:     func(part any) any { return nonempty(part.(*Placement).Medium) },
			ChoicesOf: mediaNames,
			Called:    "medium",
			Label:     "Medium",
			Along:     mediumHabits,
			Schema:    `{"anyOf": [{"$ref": "#/$defs/medium-key"}, {"type": "string", "pattern": "^own:[a-z0-9][a-z0-9-]{0,39}$"}]}`,
			About: "Brings the habits of its kind for what is not given; own: is one that a workspace keeps, which brings " +
				"none here.",
		},
		keyed("substrate", "place.substrate", "substrate", substrates,
			schema.Field{Keep: true, Called: "substrate", Label: "Printed on", Schema: `{"$ref": "#/$defs/substrate"}`},
			func(p *Placement) *string { return &p.Substrate }),
		side("width_mm", "the side of the symbol with its quiet zone", MinWidth, MaxWidth,
			schema.Field{Pixels: true, Called: "width", Label: "Width", Heads: "width, code width, width mm, size",
				About: "Side of the symbol, quiet zone included."}, func(p *Placement) *measure.Length { return &p.Width }),
		side("distance_mm", "from the phone to the code", MinDistant, MaxDistant,
			schema.Field{Called: "distance", Label: "Scanned from",
				About: "From the phone to the code; ten times the width if not given."}, func(p *Placement) *measure.Length {
				return &p.Distance
			}),
		keyed("light", "place.light", "light", func() []schema.Choice {
			return lit
		}, schema.Field{Keep: true, Called: "light", Label: "Light",
			Schema: `{"enum": ["indoor", "outdoor", "dim"], "default": "indoor"}`},
			func(p *Placement) *string { return &p.Light }),
		{Key: "background", Type: schema.Colour, At: schema.In(func(p *Placement) any { return &p.Background }),
			Example: "#f4efe6", Called: "ground", Label: "Ground",
			About: "What lies under a code without paper."},
		{Key: "clear_mm", Type: schema.Length, Read: readClear, Write: func(part any) any {
			if c := part.(*Placement).Clear; c != nil {
				return schema.Millimetres(*c)
			}
			return nil
		}, Most: MaxWidth, Called: "free space", Label: "Clear space", Example: "not known",
			Hint:  "From its border to what is printed beside it.",
			About: "Free of print around the code's own border; not known if not given."},
		keyed("use", "place.use", "use", uses, schema.Field{Called: "use", Label: "Scanned at",
			Schema: `{"enum": ["", "till", "distribution"]}`,
			About:  "Where scanners of the trade read a code with GS1 identifiers; decides how wide a module has to be."},
			func(p *Placement) *string { return &p.Use }),
		{Key: "readable", Type: schema.Flag, At: schema.In(func(p *Placement) any { return &p.HumanReadable }),
			Called: "figures beneath", Label: "Figures beneath",
			About: "The identifiers stand in figures beneath the code."},
		{Key: "radius_mm", Type: schema.Length, Flat: true, Read: func(o schema.Reader, part any) {
			if o.Has("radius_mm") {
				part.(*Placement).Radius = radius(o)
			}
		}, Write: func(part any) any {
			p := part.(*Placement)
			m, _ := MediumOf(p.Medium)
			if r := schema.Millimetres(p.Radius); r != 0 || m.Radius > 0 {
				return r
			}
			return nil
		}, Most: MaxWidth * 10, Called: "curve", Label: "Curve", Example: "flat",
			Hint:  "Radius of the bottle or tube it goes around.",
			About: "Of the bottle or tube it is wrapped around, 5 or more; 0 is flat, whatever the habit of the medium."},
		habitual("behind_glass", "glass", "Behind glass", "", func(p *Placement) *bool { return &p.Glass }, func(m Medium) bool {
			return m.Glass
		}),
		habitual("moving", "movement", "Scanned while moving", "It, or the people who scan it, move.", func(p *Placement) *bool {
			return &p.Moving
		}, func(m Medium) bool { return m.Moving }),
		{Key: "pixels", Type: schema.Whole, Read: readPixels, Write: func(part any) any {
			if n := part.(*Placement).Pixels; n != 0 {
				return n
			}
			return nil
		}, Least: MinPixels, Most: MaxScreenPixels, Called: "pixels of the screen", Label: "Screen pixels",
			Example: "as many as it takes", Hint: "That the code is wide where it is shown.",
			About: "Of the screen, that the code is wide."},
		{Key: "keyword", Type: schema.Line, At: schema.In(func(p *Placement) any { return &p.Keyword }), Most: MaxKeyword,
			Called: "keyword", Label: "Keyword", Example: "GATE", Hint: "Goes into the message.",
			About: "Goes into the message of an sms or email, so it tells where it was sent from."},
		{Key: "link", Type: schema.Line, At: schema.In(func(p *Placement) any { return &p.Link }), Fixed: true, Off: true,
			Called: "short link", Example: "go.marrowby.example/G8TE",
			About: "Of a dynamic code: the short link that stands here, in place of the content's, so that scans tell where they were."},
		{Key: "artwork", Type: schema.Object, At: schema.In(func(p *Placement) any { return &p.Artwork }), Part: &artworkFields},
		{Key: "words", Type: schema.Object, At: schema.In(func(p *Placement) any { return &p.Words }), Part: &wordsFields},
	},
	New:   func() any { return &Placement{Substrate: "coated", Light: "indoor"} },
	Rules: `"anyOf": [{"required": ["width_mm"]}, {"required": ["medium"], "properties": {"medium": {"not": {"pattern": "^own:"}}}}]`,
}

func nonempty(s string) any {
	if s == "" {
		return nil
	}
	return s
}

// readMedium reads the medium, which comes before all that follows from it.
func readMedium(o schema.Reader, part any) {
	p := part.(*Placement)
	if p.Medium = o.String("medium"); p.Medium == "" {
		return
	}
	m, ok := MediumOf(p.Medium)
	switch {
	case ok:
		p.Substrate, p.Light, p.Radius, p.Glass, p.Moving = m.Substrate, m.Light, m.Radius, m.Glass, m.Moving
		p.Width, p.Distance = m.Width, m.Distance
	case !Own(p.Medium):
		o.Problem("medium", "place.medium", "%q is not a medium; known are %s", p.Medium,
			strings.Join(schema.Values(mediaNames()), ", "))
	}
}

// mediumHabits are what a medium brings for the fields that it has a habit for.
func mediumHabits(draft any, path, typed string) (ops patch.Patch) {
	m, ok := MediumOf(typed)
	if !ok {
		return nil
	}
	base, brought := strings.TrimSuffix(path, "/medium"), m.Habits()
	for _, key := range slices.Sorted(maps.Keys(brought)) {
		switch at := base + "/" + key; {
		case key == "medium":
		case brought[key] == nil:
			ops = append(ops, patch.Without(draft, at)...)
		default:
			ops = append(ops, patch.Set(at, brought[key])...)
		}
	}
	return ops
}

func readClear(o schema.Reader, part any) {
	if !o.Has("clear_mm") {
		return
	}
	mm := o.Number("clear_mm", 0)
	if o.Sound("clear_mm") && (mm < 0 || mm > MaxWidth) {
		o.Problem("clear_mm", "place.size",
			"is %s mm; it lies between 0 and %s (from the code's border to what is printed beside it)", measure.Number(mm, 3),
			measure.Count(MaxWidth))
	}
	l := measure.Length(mm)
	part.(*Placement).Clear = &l
}

func readPixels(o schema.Reader, part any) {
	if !o.Has("pixels") {
		return
	}
	n := o.Number("pixels", 0)
	if o.Sound("pixels") && (n < MinPixels || n > MaxScreenPixels || n != math.Trunc(n)) {
		o.Problem("pixels", "place.pixels",
			"is %s; it is a whole number from %d to %s (pixels of the screen that the code is wide)", measure.Number(n, 3),
			MinPixels, measure.Count(MaxScreenPixels))
		n = 0
	}
	part.(*Placement).Pixels = int(n)
}

// Read reads one placement, every problem noted.
func Read(o *fields.Object) Placement {
	p := Fields.New().(*Placement)
	Fields.Read(o, p)
	p.check(o)
	o.Close()
	return *p
}

func (p *Placement) check(o *fields.Object) {
	if p.ID != "" && !idForm.MatchString(p.ID) {
		o.Problem("id", "place.id",
			"is %.20q; an id has up to 16 small letters and digits and begins with a letter. It may be left out", p.ID)
		p.ID = ""
	}
	if p.Name == "" {
		o.Problem("name", "place.name", "is missing; name the place, such as gate")
	} else if len(p.Name) > 60 {
		o.Problem("name", "place.name", "is longer than 60 bytes; a short name such as gate does")
	}
	if p.Distance == 0 && p.Width > 0 {
		p.Distance = p.Width * 10
	}
	if len(p.Keyword) > MaxKeyword || strings.ContainsFunc(p.Keyword, unicode.IsControl) {
		o.Problem("keyword", "place.keyword", "is longer than %d bytes or more than a line; a word such as GATE does", MaxKeyword)
	}
	if o.Has("artwork") {
		p.Artwork.check(o.Object("artwork"))
	}
	if o.Has("words") {
		p.Words.check(o.Object("words"))
	}
}

// radius reads that of what the code goes around; 0 is flat.
func radius(o *fields.Object) measure.Length {
	mm := o.Number("radius_mm", 0)
	if o.Has("radius_mm") && o.Sound("radius_mm") && mm != 0 && (mm < MinRadius || mm > MaxWidth*10) {
		o.Problem(
			"radius_mm",
			"place.radius",
			"is %s mm; it lies between %d and %s (half the thickness of the bottle or tube; leave it out where the code lies flat)",
			measure.Number(mm, 3),
			MinRadius,
			measure.Count(MaxWidth*10),
		)
	}
	return measure.Length(mm)
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
func (p Placement) MarshalJSON() ([]byte, error) { return Fields.Write(&p, nil).MarshalJSON() }

// Where names the place for a sentence: "at gate: uncoated paper, outdoor, 1.5 m".
func (p Placement) Where() string {
	s, _ := SubstrateOf(p.Substrate)
	return fmt.Sprintf("at %s: %s, %s, from %s", p.Name, s.Name,
		map[string]string{"indoor": "indoors", "outdoor": "outdoors", "dim": "in dim light"}[p.Light], p.Distance.Spoken())
}
