// Package style is the house style: the colours, marks, typefaces and looks that a house prints in, and the rules it keeps.
// It is one JSON object, the same in a job (as top-level "style"), in the file that leaves and comes in, and where it is
// stored. A colour of it is named in a look by its key, {"style": "pine"}, and follows when the house changes it; what was
// issued keeps the value it had.
package style

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"sodrik/internal/core/export"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
)

// Style is a house style. The zero value is none.
type Style struct {
	Name    string
	Locked  bool // only its parts are offered, and what is not of it is remarked on
	Colours []Colour
	Marks   []Mark
	Faces   []Face
	Looks   []Look
	Media   []place.Medium
	Links   []pattern.Pattern
	Names   export.Names // how files are called; "" is as usual
	Rules   Rules
}

// Colour is a colour of the house. Its value carries its key.
type Colour struct {
	Key, Name string
	Value     ink.Colour
}

// Mark is a drawing of the house.
type Mark struct {
	Key, Name string
	Source    string  // as in a job: "icon:…", "asset:…" or "data:…"
	Clear     float64 // modules that stay free around it, at least
}

// Look is a look with a name. It does not hold what a single code says: a frame's words stay the code's own.
type Look struct {
	Key, Name string
	Wear      any // as "look" in a job, decoded JSON
}

// Rules are what the house keeps to, beside its colours, marks and typefaces.
type Rules struct {
	Contrast float64 // least contrast of ink and paper, 0 to 1; 0 is no rule
	Grade    string  // least grade that the forecast of a print has at its worse end, one of Grades; "" is no rule
}

// Grades are those that a house may ask for, the best first. F is what is left below them.
var Grades = []string{"A", "B", "C", "D"}

// Bounds of a house style.
const (
	MaxColours = 24
	MaxMarks   = 24
	MaxFaces   = 24
	MaxLooks   = 60
	MaxMedia   = 40
	MaxLinks   = 24
	MaxName    = 60
)

var keyForm = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,39}$`)

// KeyOf makes a key of a name: "Marrowby Pine" is "marrowby-pine".
func KeyOf(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
	}
	key := strings.Trim(b.String()[:min(b.Len(), 40)], "-")
	if key == "" {
		return "unnamed"
	}
	return key
}

// Parse reads a house style, with every problem found in one pass.
func Parse(text []byte) (*Style, problem.List) {
	var problems problem.List
	v, err := fields.Decode(text)
	if err != nil {
		problems.Add("", "style.json", "the house style is not JSON: %v", err)
		return nil, problems
	}
	if _, is := v.(map[string]any); !is {
		problems.Add("", "style.json", "the house style is not an object with keys; nothing was taken of it")
		return nil, problems
	}
	s := Read(fields.Open(v, "", &problems))
	return s, problems
}

// named reads key and name of a part, and sees that neither is there twice.
func named(o *fields.Object, what string, keys, names map[string]bool) (key, name string) {
	name = strings.TrimSpace(o.String("name"))
	switch {
	case name == "" && o.Sound("name"):
		o.Problem("name", "style.name", "is missing; a %s has a name", what)
	case len(name) > MaxName || strings.ContainsFunc(name, unicode.IsControl):
		o.Problem("name", "style.name", "is longer than a line of %d bytes", MaxName)
	case names[strings.ToLower(name)]:
		o.Problem("name", "style.twice", "is taken: there is already a %s called %s", what, name)
	}
	names[strings.ToLower(name)] = true
	key = o.String("key")
	if key == "" {
		key = KeyOf(name)
	}
	switch {
	case !keyForm.MatchString(key):
		o.Problem("key", "style.key", "is %q; a key has up to 40 small letters, digits and hyphens", key)
	case keys[key]:
		o.Problem("key", "style.twice", "is taken: there is already a %s with the key %s", what, key)
	}
	keys[key] = true
	return key, name
}

// few reads a list of bounded length.
func few(o *fields.Object, key string, most int) []*fields.Object {
	list := o.Objects(key)
	if len(list) > most {
		o.Problem(key, "style.many", "has %d entries; at most %d are kept", len(list), most)
		return list[:most]
	}
	return list
}

// Read reads a house style, every problem noted.
func Read(o *fields.Object) *Style {
	s := &Style{Name: strings.TrimSpace(o.String("name")), Locked: o.Bool("locked", false)}
	o.Int("version", 1, 1, 1)
	if len(s.Name) > MaxName || strings.ContainsFunc(s.Name, unicode.IsControl) {
		o.Problem("name", "style.name", "is longer than a line of %d bytes", MaxName)
	}
	s.readColours(o)
	s.readMarks(o)
	s.readFaces(o)
	s.readLooks(o)
	s.readMedia(o)
	s.readLinks(o)
	if s.Names = export.Names(strings.TrimSpace(o.String("file_names"))); s.Names != "" {
		if wrong := s.Names.Check(); wrong != "" {
			o.Problem("file_names", "style.names", "%s", wrong)
		}
	}
	r := o.Object("rules")
	if s.Rules.Grade = r.String("grade"); s.Rules.Grade != "" && !slices.Contains(Grades, s.Rules.Grade) {
		r.Problem("grade", "style.grade", "is %q; it is one of %s", s.Rules.Grade, strings.Join(Grades, ", "))
	}
	if s.Rules.Contrast = r.Number("contrast", 0); !(s.Rules.Contrast >= 0 && s.Rules.Contrast <= 1) {
		r.Problem("contrast", "look.share", "is %.3g; it lies between 0 and 1", s.Rules.Contrast)
	}
	r.Close()
	o.Close()
	return s
}

// taken are the keys and names that parts of a kind have already.
type taken struct{ keys, names map[string]bool }

func none() taken { return taken{map[string]bool{}, map[string]bool{}} }

func (s *Style) readColours(o *fields.Object) {
	t := none()
	for _, c := range few(o, "colours", MaxColours) {
		var one Colour
		one.Key, one.Name = named(c, "colour", t.keys, t.names)
		v, ok := ink.Read(c, "value", "#12352b")
		if !ok && c.Sound("value") {
			c.Problem("value", "look.colour",
				"is missing; write six hexadecimal digits such as #12352b, or the four inks of a press")
		}
		one.Value = v
		one.Value.Style = one.Key
		c.Close()
		s.Colours = append(s.Colours, one)
	}
}

func (s *Style) readMarks(o *fields.Object) {
	t := none()
	for _, m := range few(o, "marks", MaxMarks) {
		var one Mark
		one.Key, one.Name = named(m, "mark", t.keys, t.names)
		one.Source = m.String("source")
		if scheme, rest, _ := strings.Cut(one.Source, ":"); rest == "" || scheme != "icon" && scheme != "asset" &&
			scheme != "data" {
			m.Problem("source", "mark.source",
				"%.40q names no drawing; write icon: and a name, such as icon:sprout, or asset: and the digest of an upload",
				one.Source)
		}
		if one.Clear = m.Number("clear", 1); !(one.Clear >= 0 && one.Clear <= 4) {
			m.Problem("clear", "look.share", "is %.3g; it lies between 0 and 4 modules", one.Clear)
		}
		m.Close()
		s.Marks = append(s.Marks, one)
	}
}

func (s *Style) readFaces(o *fields.Object) {
	for i, v := range o.List("typefaces") {
		if len(s.Faces) == MaxFaces {
			o.Problem("typefaces", "style.many", "are more than %d", MaxFaces)
			break
		}
		if face, ok := readFace(o, i, v); ok && !s.hasFace(face.Key) {
			s.Faces = append(s.Faces, face)
		}
	}
}

// readLooks reads the looks, which name the house's colours.
func (s *Style) readLooks(o *fields.Object) {
	t := none()
	for _, l := range few(o, "looks", MaxLooks) {
		var one Look
		one.Key, one.Name = named(l, "look", t.keys, t.names)
		v, _ := l.Any("look")
		if v == nil {
			v = map[string]any{}
		}
		one.Wear = v
		look.Read(fields.Open(s.Resolve(v), l.At("look"), l.Problems()))
		l.Close()
		s.Looks = append(s.Looks, one)
	}
}

func (s *Style) readMedia(o *fields.Object) {
	t := none()
	for _, m := range few(o, "media", MaxMedia) {
		one := place.ReadMedium(m)
		if t.keys[one.Key] || t.names[strings.ToLower(one.Name)] {
			m.Problem("name", "style.twice", "is taken: there is already a medium called %s", one.Name)
		}
		if t.keys[one.Key], t.names[strings.ToLower(one.Name)] = true, true; !place.Own(one.Key) && m.Sound("key") {
			m.Problem("key", "style.key", "is %q; that of a medium of your own begins with %s", one.Key, place.OwnKey)
		}
		s.Media = append(s.Media, one)
	}
}

func (s *Style) readLinks(o *fields.Object) {
	t := none()
	for _, l := range few(o, "links", MaxLinks) {
		var one pattern.Pattern
		one.Key, one.Name = named(l, "link pattern", t.keys, t.names)
		if one.Address = strings.TrimSpace(l.String("address")); l.Sound("address") {
			if wrong := pattern.Check(one.Address); wrong != "" {
				l.Problem("address", "pattern.address", "%s", wrong)
			}
		}
		l.Close()
		s.Links = append(s.Links, one)
	}
}

// MarshalJSON writes the form that Read reads, defaults left out.
func (s *Style) MarshalJSON() ([]byte, error) {
	out := map[string]any{"version": 1}
	if s.Name != "" {
		out["name"] = s.Name
	}
	if s.Locked {
		out["locked"] = true
	}
	list := func(key string, n int, of func(i int) any) {
		var all []any
		for i := range n {
			all = append(all, of(i))
		}
		if n > 0 {
			out[key] = all
		}
	}
	list("colours", len(s.Colours), func(i int) any {
		c := s.Colours[i]
		c.Value.Style = ""
		return map[string]any{"key": c.Key, "name": c.Name, "value": c.Value}
	})
	list("marks", len(s.Marks), func(i int) any {
		m := s.Marks[i]
		return map[string]any{"key": m.Key, "name": m.Name, "source": m.Source, "clear": m.Clear}
	})
	list("typefaces", len(s.Faces), func(i int) any { return s.Faces[i].json() })
	list("looks", len(s.Looks), func(i int) any {
		l := s.Looks[i]
		return map[string]any{"key": l.Key, "name": l.Name, "look": l.Wear}
	})
	list("media", len(s.Media), func(i int) any { return s.Media[i] })
	list("links", len(s.Links), func(i int) any {
		l := s.Links[i]
		return map[string]any{"key": l.Key, "name": l.Name, "address": l.Address}
	})
	if s.Names != "" {
		out["file_names"] = string(s.Names)
	}
	if s.Rules != (Rules{}) {
		rules := map[string]any{}
		if s.Rules.Contrast > 0 {
			rules["contrast"] = s.Rules.Contrast
		}
		if s.Rules.Grade != "" {
			rules["grade"] = s.Rules.Grade
		}
		out["rules"] = rules
	}
	return json.Marshal(out)
}

// Medium finds a medium, one that comes along or one of the house.
func (s *Style) Medium(key string) (place.Medium, bool) {
	if s != nil {
		if i := slices.IndexFunc(s.Media, func(m place.Medium) bool { return m.Key == key }); i >= 0 {
			return s.Media[i], true
		}
	}
	return place.MediumOf(key)
}

// AllMedia are the house's own media and those that come along.
func (s *Style) AllMedia() []place.Medium {
	if s == nil {
		return place.Media
	}
	return append(slices.Clone(s.Media), place.Media...)
}

// Link finds a link pattern by its key.
func (s *Style) Link(key string) (pattern.Pattern, bool) {
	if s != nil {
		if i := slices.IndexFunc(s.Links, func(l pattern.Pattern) bool { return l.Key == key }); i >= 0 {
			return s.Links[i], true
		}
	}
	return pattern.Pattern{}, false
}

// FileNames is how files are called here.
func (s *Style) FileNames() export.Names {
	if s == nil {
		return ""
	}
	return s.Names
}

// Colour finds a colour by its key.
func (s *Style) Colour(key string) (Colour, bool) {
	if s != nil {
		if i := slices.IndexFunc(s.Colours, func(c Colour) bool { return c.Key == key }); i >= 0 {
			return s.Colours[i], true
		}
	}
	return Colour{}, false
}

// Typed takes the name of a colour of the house, as a person types it, for a reference to it; any other text stays.
func (s *Style) Typed(text string) string {
	if s != nil {
		for _, c := range s.Colours {
			if name := strings.TrimSpace(text); strings.EqualFold(name, c.Name) || strings.EqualFold(name, c.Key) {
				return ink.House + c.Key
			}
		}
	}
	return text
}

// Called is Typed the other way round: a reference to a colour of the house by its name; any other text stays.
func (s *Style) Called(text string) string {
	if key, ok := strings.CutPrefix(text, ink.House); ok {
		if c, ok := s.Colour(key); ok {
			return c.Name
		}
	}
	return text
}

// Look finds a look by its key.
func (s *Style) Look(key string) (Look, bool) {
	if s != nil {
		if i := slices.IndexFunc(s.Looks, func(l Look) bool { return l.Key == key }); i >= 0 {
			return s.Looks[i], true
		}
	}
	return Look{}, false
}

// Resolve gives decoded JSON in which every colour of the house, {"style": "pine"}, has its value beside its key. One that
// the house does not have keeps what it brought. v is not changed.
func (s *Style) Resolve(v any) any {
	if s == nil || len(s.Colours) == 0 {
		return v
	}
	switch v := v.(type) {
	case map[string]any:
		if key, is := v["style"].(string); is {
			if c, ok := s.Colour(key); ok {
				return valueOf(c.Value)
			}
		}
		out := make(map[string]any, len(v))
		for k, x := range v {
			out[k] = s.Resolve(x)
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i, x := range v {
			out[i] = s.Resolve(x)
		}
		return out
	}
	return v
}

// valueOf is a colour as decoded JSON.
func valueOf(c ink.Colour) any {
	b, err := json.Marshal(c)
	if err == nil {
		var v any
		if v, err = fields.Decode(b); err == nil {
			return v
		}
	}
	panic(err) // every colour marshals
}

// Job resolves the look and the grounds of a decoded job.
func (s *Style) Job(v any) any {
	m, ok := v.(map[string]any)
	if !ok || s == nil || len(s.Colours) == 0 {
		return v
	}
	out := make(map[string]any, len(m))
	for k, x := range m {
		if k == "look" || k == "placements" {
			x = s.Resolve(x)
		}
		out[k] = x
	}
	return out
}

// Uses says whether decoded JSON names a colour of the house.
func Uses(v any, key string) bool {
	switch v := v.(type) {
	case map[string]any:
		if v["style"] == key {
			return true
		}
		for _, x := range v {
			if Uses(x, key) {
				return true
			}
		}
	case []any:
		return slices.ContainsFunc(v, func(x any) bool { return Uses(x, key) })
	}
	return false
}
