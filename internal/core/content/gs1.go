package content

import (
	"regexp"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/gs1"
	"sodrik/internal/core/schema"
)

// GS1Link is a product, or another thing that GS1 identifies, as a web address: a GS1 Digital Link URI (GS1 Digital Link
// Standard: URI Syntax, release 1.3). Scanners take the identifiers out of it, phones open it.
type GS1Link struct {
	Domain   string // the resolver's, perhaps with a path
	Elements []gs1.Element
	byParts  bool // given as gtin, cpv, lot, serial, attributes
}

var domainForm = regexp.MustCompile(`^[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)+(:\d+)?(/[A-Za-z0-9._~/-]*)?$`)

var (
	dateAI = regexp.MustCompile(`^(1[1-7]|4326|7006)$`)
	// offered are attributes that a form has a name for; others are shown by their identifier where they are there.
	offered = []struct{ ai, words, label, sample, hint string }{
		{"17", "Use by", "Use by", "31 March 2027", ""}, {"15", "Best before", "Best before", "31 March 2027", ""},
		{"11", "Made on", "Made on", "1 October 2026", ""},
		{"3103", "Net weight", "Net weight", "000500", "Six digits, the last three grams: 000500 is 0.5 kg."},
		{"30", "Pieces in it", "Pieces", "25", ""},
		{"422", "Country of origin", "Origin", "826", ""}, {"8200", "Further address", "Address", "", ""},
	}
)

// elementOf is the field of an element by its application identifier.
func elementOf(ai string) *schema.Field {
	f := &schema.Field{Key: ai, Type: schema.Line, Called: "attribute", Label: "(" + ai + ")",
		Schema: `{"type": "string", "minLength": 1}`}
	if id, ok := gs1.Lookup(ai); ok {
		f.Hint = id.Name
	}
	for _, o := range offered {
		if o.ai == ai {
			f.Label, f.Folded, f.Example, f.Hint = o.label, o.words+", ("+ai+")", o.sample, o.hint
		}
	}
	if dateAI.MatchString(ai) {
		f.Type, f.Called = schema.ShortDate, "date"
		f.Note = func(value string, _ func(string) string) string { return gs1Day(value) }
	}
	return f
}

func offeredKeys() (out []string) {
	for _, o := range offered {
		out = append(out, o.ai)
	}
	return out
}

// byParts says that a link is given by a GTIN and its parts, not by the elements of another primary key.
func byParts(get func(string) string) bool { return get("elements") == "" }

// elementsField declares an object of elements by their identifiers.
func elementsField(key string, write func(g *GS1Link) map[string]any) schema.Field {
	return schema.Field{Key: key, Type: schema.Map, Keys: regexp.MustCompile(`^\d{2,4}$`), Entry: elementOf, Def: "elements",
		Write: func(part any) any {
			if m := write(part.(*GS1Link)); len(m) > 0 {
				return m
			}
			return nil
		}}
}

func attributes(write func(g *GS1Link) map[string]any) schema.Field {
	f := elementsField("attributes", write)
	f.Offer, f.When = offeredKeys(), byParts
	return f
}

// partField declares an element that has a key of its own. How the elements are read hangs together: check does it.
func partField(ai string, f schema.Field) schema.Field {
	f.Type, f.When = schema.Line, byParts
	f.Write = func(part any) any {
		g := part.(*GS1Link)
		if i := slices.IndexFunc(g.Elements, func(e gs1.Element) bool { return e.AI == ai }); i >= 0 && g.byParts &&
			g.Elements[i].Value != "" {
			return g.Elements[i].Value
		}
		return nil
	}
	return f
}

var gs1LinkFields = schema.Part{
	Fields: []schema.Field{
		partField(
			"01",
			schema.Field{
				Key:     "gtin",
				Heads:   "ean, upc, barcode, product number",
				Called:  "GTIN",
				Label:   "GTIN",
				Example: "9521234500018",
				Pattern: `\d`,
				Note: func(value string, _ func(string) string) string {
					if gtin, message := GTIN(value); message == "" {
						return "Check digit right. Written as " + gtin + "."
					}
					return ""
				},
			},
		),
		partField(
			"10",
			schema.Field{Key: "lot", Heads: "batch, batch number, lot number", Label: "Lot", Example: "A1209", Most: 20},
		),
		partField("21", schema.Field{Key: "serial", Heads: "serial number", Label: "Serial", Most: 20}),
		partField("22", schema.Field{Key: "cpv", Label: "Variant", Most: 20, Folded: "Variant of the packaging"}),
		attributes(func(g *GS1Link) map[string]any {
			out := map[string]any{}
			for _, e := range g.Elements {
				if g.byParts && partKeys[e.AI] == "" {
					out[e.AI] = e.Value
				}
			}
			return out
		}),
		elementsField("elements", func(g *GS1Link) map[string]any {
			out := map[string]any{}
			for _, e := range g.Elements {
				if !g.byParts {
					out[e.AI] = e.Value
				}
			}
			return out
		}),
		{Key: "domain", Type: schema.Line, At: schema.In(func(g *GS1Link) any { return &g.Domain }), Label: "Resolver",
			Example: gs1.Canonical,
			Hint:    "Your own domain answers who scans it; any scanner takes the numbers from either."},
	},
	New:   func() any { return &GS1Link{Domain: gs1.Canonical} },
	About: "GS1 Digital Link URI: a GTIN with its parts, or the elements of another primary key.",
	Rules: `"oneOf": [{"required": ["gtin"], "not": {"required": ["elements"]}}, {"required": ["elements"], "not": {"required": ["gtin"]}}]`,
}

var gs1LinkKind = Kind{Key: "gs1link", Long: "attributes", Name: "Product link, GS1 Digital Link",
	Outcome: "A product tells its story", Calls: []string{"Where it was grown", "Its story"}, Fields: &gs1LinkFields,
	Stays:   "its host's resolver leads on",
	Example: `{"kind": "gs1link", "gtin": "09521234500018", "lot": "A1209", "attributes": {"17": "270331"}}`}

// partKeys are the elements that have a key of their own.
var partKeys = map[string]string{"22": "cpv", "10": "lot", "21": "serial", "01": "gtin"}

// gs1Day spells out a date of six digits, whose day 00 is the end of the month (General Specifications, section 3.4.2).
func gs1Day(value string) string {
	if len(value) != 6 {
		return ""
	}
	if id, ok := gs1.Lookup("17"); !ok || id.Check(value) != "" {
		return ""
	}
	if value[4:] == "00" {
		return "The end of the month, 20" + value[:2] + "-" + value[2:4] + "."
	}
	return strings.TrimSuffix(SpelledOut("20"+value[:2]+"-"+value[2:4]+"-"+value[4:]), ", all day") + "."
}

func (g *GS1Link) check(o *fields.Object) {
	g.Domain = strings.TrimSuffix(strings.TrimPrefix(g.Domain, "https://"), "/")
	if g.Domain == "" {
		g.Domain = gs1.Canonical
	} else if o.Sound("domain") && !domainForm.MatchString(g.Domain) {
		o.Problem("domain", "gs1.domain", "is %s; write the host name of your resolver, such as id.marrowby.example",
			quoted(g.Domain))
	}
	if o.Has("elements") {
		g.readElements(o)
	} else {
		g.readParts(o)
	}
}

// readElements reads the elements of any primary key.
func (g *GS1Link) readElements(o *fields.Object) {
	e := o.Object("elements")
	for _, ai := range e.Keys() {
		g.Elements = append(g.Elements, gs1.Element{AI: ai, Value: strings.TrimSpace(e.String(ai))})
	}
	g.sortElements()
	for _, key := range []string{"gtin", "cpv", "lot", "serial", "attributes"} {
		if o.Has(key) {
			o.Problem(key, "gs1.both", "is set, and so is elements; give one of the two")
		}
	}
	e.Close()
	if len(g.Elements) == 0 && o.Sound("elements") {
		o.Problem("elements", "gs1.elements", "is empty; give at least a primary key, such as 414")
		return
	}
	for _, f := range gs1.Check(g.Elements) {
		e.Problem(f.AI, "gs1", "%s", f.Message)
	}
	if _, err := gs1.PrimaryKey(g.Elements); err != nil {
		o.Problem("elements", "gs1.key", "%v", err)
	}
}

// readParts reads a GTIN with its parts.
func (g *GS1Link) readParts(o *fields.Object) {
	g.byParts = true
	gtin, message := GTIN(o.String("gtin"))
	if o.Sound("gtin") && message != "" {
		o.Problem("gtin", "gs1.gtin", "%s", message)
	}
	g.Elements = []gs1.Element{{AI: "01", Value: gtin}}
	for _, q := range []string{"22", "10", "21"} {
		if v := strings.TrimSpace(o.String(partKeys[q])); v != "" {
			g.Elements = append(g.Elements, gs1.Element{AI: q, Value: v})
		}
	}
	a := o.Object("attributes")
	for _, ai := range a.Keys() {
		if v := strings.TrimSpace(a.String(ai)); v != "" {
			g.Elements = append(g.Elements, gs1.Element{AI: ai, Value: v})
		}
	}
	a.Close()
	if gtin == "" { // the rest is held against a GTIN that is still to come
		g.Elements[0].Value = "00000000000000"
	}
	for _, f := range gs1.Check(g.Elements) {
		if key := partKeys[f.AI]; key != "" && key != "gtin" {
			o.Problem(key, "gs1", "%s", f.Message)
		} else if key == "" {
			a.Problem(f.AI, "gs1", "%s", f.Message)
		}
	}
	g.Elements[0].Value = gtin
	for _, e := range g.Elements[1:] {
		if id, ok := gs1.Lookup(e.AI); ok && id.Key {
			a.Problem(e.AI, "gs1.key", "is a primary key, and so is the GTIN; a link identifies one thing")
		}
	}
}

// sortElements puts the primary key first, its qualifiers next, the rest in order.
func (g *GS1Link) sortElements() {
	key, err := gs1.PrimaryKey(g.Elements)
	if err != nil {
		return
	}
	rank := func(e gs1.Element) int {
		if e.AI == key.AI {
			return 0
		}
		for _, path := range key.Path {
			if i := slices.Index(path, e.AI); i >= 0 {
				return 1 + i
			}
		}
		return 100
	}
	slices.SortStableFunc(g.Elements, func(a, b gs1.Element) int { return rank(a) - rank(b) })
}

// GTIN reads a global trade item number of 8, 12, 13 or 14 digits, blanks and dashes left out, and fills it up to 14. message is
// "" where it is sound; where its check digit is wrong or missing, it says the right one.
func GTIN(text string) (gtin, message string) {
	s := strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' || r == '\u00a0' {
			return -1
		}
		return r
	}, text)
	switch n := len(s); {
	case s == "":
		return "", "is empty; type the number under the bar code, such as 9521234500018"
	case strings.Trim(s, "0123456789") != "":
		return "", "is " + quoted(text) + ", which is not made of digits"
	case n == 7 || n == 11:
		return "", "has " + itoa(n) + " digits; with its check digit it would be " + s + string(gs1.CheckDigit(s))
	case n != 8 && n != 12 && n != 13 && n != 14:
		return "", "has " + itoa(n) + " digits; a GTIN has 8, 12, 13 or 14"
	}
	if want := gs1.CheckDigit(s[:len(s)-1]); s[len(s)-1] != want {
		return "", "is " + s + ", whose check digit does not fit; with these digits it is " + s[:len(s)-1] + string(want)
	}
	return strings.Repeat("0", 14-len(s)) + s, ""
}

func (g *GS1Link) Kind() string { return "gs1link" }

// Prescribes plain modules, as scanners at tills expect them; the size follows from the use (package proof).
func (g *GS1Link) Prescribes() Prescription {
	return Prescription{Plain: true, Name: "a code for scanners"}
}

// Payload is the URI, "" where it has no primary key.
func (g *GS1Link) Payload() string {
	s, _ := gs1.Link(g.Domain, g.Elements)
	return s
}

// Interpretation is what people can read of it, the human-readable interpretation, a line for the key and one for the rest
// (General Specifications, section 4.14).
func (g *GS1Link) Interpretation() []string { return readable(g.Elements) }

func readable(elements []gs1.Element) (out []string) {
	if len(elements) == 0 {
		return nil
	}
	out = []string{gs1.Bracketed(elements[:1])}
	if len(elements) > 1 {
		out = append(out, gs1.Bracketed(elements[1:]))
	}
	return out
}

// Summary names the thing.
func (g *GS1Link) Summary() Summary { return Summary{"Tells about", elementWords(g.Elements)} }

func elementWords(elements []gs1.Element) string {
	if len(elements) == 0 {
		return ""
	}
	words := []string{}
	for _, e := range elements[:min(2, len(elements))] {
		name := e.AI
		if id, ok := gs1.Lookup(e.AI); ok {
			name = map[string]string{"BATCH/LOT": "lot", "SERIAL": "serial", "CPV": "variant"}[id.Name]
			if name == "" {
				name = id.Name
			}
		}
		value := e.Value
		if e.AI == "01" {
			value = strings.TrimPrefix(value, "0")
		}
		words = append(words, name+" "+value)
	}
	return strings.Join(words, ", ")
}

// Search is every value.
func (g *GS1Link) Search() string { return g.Domain + " " + valuesOf(g.Elements) }

func valuesOf(elements []gs1.Element) string {
	var out []string
	for _, e := range elements {
		out = append(out, e.Value, strings.TrimLeft(e.Value, "0"))
	}
	return strings.Join(out, " ")
}

// Phone opens the address; a scanner takes the identifiers.
func (g *GS1Link) Phone() Offer {
	o := Offer{Action: "Opens in the browser", Strong: g.Domain}
	if host, path, ok := strings.Cut(strings.TrimPrefix(g.Payload(), "https://"), "/"); ok {
		o.Strong, o.Rest = host, "/"+path
	}
	return Offer{o.Action, o.Strong, o.Rest, elementLines(g.Elements), ""}
}

func elementLines(elements []gs1.Element) (out []string) {
	for _, e := range elements {
		name := e.AI
		if id, ok := gs1.Lookup(e.AI); ok {
			name = "(" + e.AI + ") " + id.Name
		}
		out = append(out, name+" "+e.Value)
	}
	return out
}

// Savings: each attribute and qualifier, and capitals for the host.
func (g *GS1Link) Savings() (out []Saving) {
	if !g.byParts {
		return nil
	}
	for i, e := range g.Elements {
		if i == 0 {
			continue
		}
		path := map[string]string{"22": "/cpv", "10": "/lot", "21": "/serial"}[e.AI]
		if path == "" {
			path = "/attributes/" + e.AI
		}
		then := *g
		then.Elements = slices.Delete(slices.Clone(g.Elements), i, i+1)
		if len(gs1.Check(then.Elements)) == 0 {
			id, _ := gs1.Lookup(e.AI)
			out = append(out, Saving{"Leave out (" + e.AI + ") " + id.Name, "/content" + path, drop(path), &then})
		}
	}
	return out
}

// takeGS1Link reads an address that is a Digital Link URI and would be written the same way again.
func takeGS1Link(payload string) (map[string]any, bool) {
	domain, elements, others, ok := gs1.ParseLink(payload)
	if !ok || len(others) > 0 {
		return nil, false
	}
	g := &GS1Link{Domain: domain, Elements: elements, byParts: elements[0].AI == "01" &&
		!slices.ContainsFunc(elements, func(e gs1.Element) bool { return e.AI == "235" })}
	values := JSON(g)
	c, problems := New(values)
	if len(problems) > 0 || c.Payload() != payload {
		return nil, false
	}
	return values, true
}

// GS1Data is a GS1 element string: a QR code with FNC1 in first position, which scanners of the trade read and phones do not
// open (General Specifications, sections 5.8 and 7.8).
type GS1Data struct{ Elements []gs1.Element }

var gs1DataFields = schema.Part{
	Fields: []schema.Field{{Key: "elements", Type: schema.Line, Required: true, Keep: true, Called: "elements", Label: "Elements",
		Control: "area",
		Example: "(01)09521234500018(10)A1209(17)270331", Hint: "Identifiers in brackets, or as a scanner gives them.",
		Write:  func(part any) any { return gs1.Bracketed(part.(*GS1Data).Elements) },
		Schema: `{"type": "string", "minLength": 4}`,
		About:  "(01)09521234500018(10)A1209, or as a scanner gives it."}},
	New:   func() any { return &GS1Data{} },
	About: "GS1 element string, FNC1 in first position.",
}

var gs1DataKind = Kind{Key: "gs1data", Long: "elements", Name: "Element string, GS1",
	Outcome: "A scanner of the trade reads a product's data", Group: Trade, Fields: &gs1DataFields,
	Stays:   "a till reads the code itself",
	Example: `{"kind": "gs1data", "elements": "(01)09521234500018(10)A1209(17)270331"}`}

func (g *GS1Data) check(o *fields.Object) {
	text := o.String("elements")
	if !o.Sound("elements") {
		return
	}
	var err error
	if strings.HasPrefix(strings.TrimSpace(text), "(") || strings.TrimSpace(text) == "" {
		g.Elements, err = gs1.Brackets(text)
	} else {
		g.Elements, err = gs1.ParseRaw(strings.ReplaceAll(text, "␝", string(gs1.Separator)))
	}
	if err != nil {
		o.Problem("elements", "gs1.elements", "%v", err)
		return
	}
	for i, e := range g.Elements { // a GTIN is filled up to 14 digits
		if e.AI == "01" || e.AI == "02" {
			if gtin, message := GTIN(e.Value); message == "" {
				g.Elements[i].Value = gtin
			}
		}
	}
	for _, f := range gs1.Check(g.Elements) {
		o.Problem("elements", "gs1", "has a fault: %s", f)
	}
}

func (g *GS1Data) Kind() string { return "gs1data" }

// Prescribes FNC1 in first position and plain modules.
func (g *GS1Data) Prescribes() Prescription {
	return Prescription{FNC1: true, Raw: true, Plain: true, Name: "a code for scanners"}
}

// Payload is the element string with its separators, elements of known length first; FNC1 is the symbol's.
func (g *GS1Data) Payload() string { return gs1.Raw(gs1.Ordered(g.Elements)) }

// Interpretation is what people can read of it, the human-readable interpretation.
func (g *GS1Data) Interpretation() []string { return readable(g.Elements) }

// Summary names the thing.
func (g *GS1Data) Summary() Summary { return Summary{"Carries", elementWords(g.Elements)} }

// Search is every value.
func (g *GS1Data) Search() string { return valuesOf(g.Elements) }

// Phone shows the data; only a scanner of the trade knows what to do with it.
func (g *GS1Data) Phone() Offer {
	return Offer{Action: "Shows this data, for scanners of the trade", Rest: gs1.Bracketed(g.Elements),
		Lines: elementLines(g.Elements)}
}

// HumanReadable is a content that is printed with its identifiers in figures beneath.
type HumanReadable interface{ Interpretation() []string }
