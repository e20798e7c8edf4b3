package job

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// field is one path that a person edits by typing: how its text becomes a value, and what it is called.
type field struct {
	path   *regexp.Regexp
	words  string
	value  func(path, text string) (any, *problem.Problem)
	unset  bool // empty text takes the key away
	secret bool // its value is never shown in words
}

func text(_, s string) (any, *problem.Problem) { return s, nil }

func trimmed(_, s string) (any, *problem.Problem) { return strings.TrimSpace(s), nil }

// lines is text of several lines, as a browser sends it, with plain line ends.
func lines(_, s string) (any, *problem.Problem) { return strings.ReplaceAll(s, "\r\n", "\n"), nil }

func flag(path, s string) (any, *problem.Problem) {
	if s == "yes" || s == "true" {
		return true, nil
	}
	return nil, &problem.Problem{Field: path, Code: "flag", Message: "is either yes or empty"}
}

// amount takes a comma for the point that it is in most of Europe, and blanks between thousands.
func amount(_, s string) (any, *problem.Problem) {
	s = strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == '\u00a0' || r == '\u2009' || r == '’' }), "")
	if whole, rest, ok := strings.Cut(s, ","); ok && len(rest) <= 2 && !strings.Contains(whole, ".") {
		s = whole + "." + rest
	}
	return s, nil
}

func length(path, s string) (any, *problem.Problem) {
	l, ok := measure.ParseLength(s, measure.Millimetre)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "length", Message: fmt.Sprintf("%q is not a length; write a number with a unit, such as 160 mm or 6.3 in", s)}
	}
	return float64(l), nil
}

// flatOr is a radius; nothing is flat, whatever the medium's habit.
func flatOr(path, s string) (any, *problem.Problem) {
	if s = strings.TrimSpace(s); s == "" || s == "flat" {
		return 0.0, nil
	}
	return length(path, s)
}

// yesNo is a flag that a medium may bring, so that no is said too.
func yesNo(path, s string) (any, *problem.Problem) {
	if s == "" {
		return false, nil
	}
	return flag(path, s)
}

// pixels is a width typed in pixels: "1890 px", or "600 px at 96 dpi".
var pixels = regexp.MustCompile(`^([\d.,]+)\s*px(?:\s*(?:at|@)\s*([\d.,]+)\s*dpi)?$`)

// width takes pixels too, at 300 an inch where nothing else is said.
func width(path, s string) (any, *problem.Problem) {
	m := pixels.FindStringSubmatch(strings.ToLower(strings.TrimSpace(s)))
	if m == nil {
		return length(path, s)
	}
	n, ok := measure.ParseDecimal(strings.ReplaceAll(m[1], ",", ""))
	dpi, sound := 300.0, true
	if m[2] != "" {
		dpi, sound = measure.ParseDecimal(m[2])
	}
	if !ok || !sound || dpi <= 0 {
		return nil, &problem.Problem{Field: path, Code: "length", Message: fmt.Sprintf("%q is not a width; write such as 1890 px, or 600 px at 96 dpi", s)}
	}
	return math.Round(n/dpi*float64(measure.Inch)*1000) / 1000, nil
}

func whole(path, s string) (any, *problem.Problem) {
	f, ok := measure.ParseDecimal(s)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "number", Message: fmt.Sprintf("%q is not a number", s)}
	}
	return f, nil
}

// colour takes a colour as people write it. What is none stays as typed, for the look's own rules to refuse; so does "none".
func colour(_, s string) (any, *problem.Problem) {
	if key, house := strings.CutPrefix(strings.TrimSpace(s), ink.House); house {
		return map[string]any{"style": strings.TrimSpace(key)}, nil
	}
	c, ok := ink.Typed(s)
	switch {
	case !ok:
		return strings.TrimSpace(s), nil
	case c.Separated:
		return map[string]any{"cmyk": []any{c.Inks[0], c.Inks[1], c.Inks[2], c.Inks[3]}}, nil
	}
	return c.String(), nil
}

// portion takes percent, with or without the sign, for a share.
func portion(path, s string) (any, *problem.Problem) {
	f, bad := whole(path, strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(s), "%")))
	if bad != nil {
		bad.Message = fmt.Sprintf("%q is not a share; write percent, such as 22 %%", s)
		return nil, bad
	}
	return math.Round(f.(float64)*1e4) / 1e6, nil
}

// MarkPlace is the path under which the middle of a mark is typed as one, in percent from the left and from the top.
const MarkPlace = "/look/mark/place"

func markPlace(path, s string) (any, *problem.Problem) {
	part := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(", ;%", r) })
	var at [2]float64
	ok := len(part) == 2
	for i := 0; ok && i < 2; i++ {
		var f float64
		f, ok = measure.ParseDecimal(part[i])
		at[i] = math.Round(f*1e4) / 1e6
	}
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "mark.place", Message: fmt.Sprintf("%q is no place; write percent from the left and from the top, such as 50, 50", s)}
	}
	return at, nil
}

// corners sets all four at once.
func corners(path, s string) (any, *problem.Problem) {
	f, bad := whole(path, s)
	return []any{f, f, f, f}, bad
}

func mask(path, s string) (any, *problem.Problem) {
	if s == "auto" {
		return s, nil
	}
	return whole(path, s)
}

var editable = []field{
	{path: regexp.MustCompile(`^/name$`), words: "name", value: text},
	{path: regexp.MustCompile(`^/content/url$`), words: "address", value: text},
	{path: regexp.MustCompile(`^/content/purpose$`), words: "purpose", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/tags/(source|medium|campaign|term|content)$`), words: "campaign tag", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/text$`), words: "text", value: lines},
	{path: regexp.MustCompile(`^/content/ssid$`), words: "network", value: text},
	{path: regexp.MustCompile(`^/content/security$`), words: "security", value: text},
	{path: regexp.MustCompile(`^/content/password$`), words: "password", value: text, unset: true, secret: true},
	{path: regexp.MustCompile(`^/content/(hidden|all_day|capitals)$`), words: "setting", value: flag, unset: true},
	{path: regexp.MustCompile(`^/content/eap/(method|identity|anonymous|phase2)$`), words: "sign-in", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/region$`), words: "country", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/number$`), words: "number", value: text},
	{path: regexp.MustCompile(`^/content/body$`), words: "text", value: lines, unset: true},
	{path: regexp.MustCompile(`^/content/form$`), words: "form", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/(to|cc|bcc)/\d+$`), words: "e-mail address", value: text},
	{path: regexp.MustCompile(`^/content/subject$`), words: "subject", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/format$`), words: "format", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/(given|family)$`), words: "name", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/(prefix|suffix|organisation|birthday|location|timezone|label|pattern)$`), value: text, unset: true},
	{path: regexp.MustCompile(`^/content/title$`), words: "title", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/note$`), words: "note", value: lines, unset: true},
	{path: regexp.MustCompile(`^/content/description$`), words: "description", value: lines, unset: true},
	{path: regexp.MustCompile(`^/content/address/(street|city|region|postcode|country)$`), words: "address", value: lines, unset: true},
	{path: regexp.MustCompile(`^/content/phones/\d+/(number|type)$`), words: "number", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/emails/\d+/(address|type)$`), words: "e-mail address", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/urls/\d+$`), words: "web address", value: text},
	{path: regexp.MustCompile(`^/content/socials/\d+/(service|url)$`), words: "profile", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/(start|end)$`), words: "time", value: moment, unset: true},
	{path: regexp.MustCompile(`^/content/alarm_minutes$`), words: "reminder", value: whole, unset: true},
	{path: regexp.MustCompile(`^/content/repeat/every$`), words: "repetition", value: text, unset: true},
	{path: regexp.MustCompile(`^/content/repeat/(interval|count)$`), words: "repetition", value: whole, unset: true},
	{path: regexp.MustCompile(`^/content/repeat/until$`), words: "end of the repetition", value: moment, unset: true},
	{path: regexp.MustCompile(`^/content/(name|reference|information|merchant|payee|target|account|receiver|mcc|country|city|postcode|currency|initiation|billing|domain)$`), value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/message$`), words: "message", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/iban$`), words: "IBAN", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/bic$`), words: "BIC", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/address$`), words: "address", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/amount$`), words: "amount", value: amount, unset: true},
	{path: regexp.MustCompile(`^/content/version$`), words: "version", value: whole, unset: true},
	{path: regexp.MustCompile(`^/content/reference_type$`), words: "sort of reference", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/(creditor|debtor)/(name|street|house|postcode|city|country)$`), words: "address", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/procedures/\d+$`), words: "procedure", value: trimmed},
	{path: regexp.MustCompile(`^/content/accounts/\d+/(id|value|guid|values/\d\d)$`), words: "account", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/tip/(kind|value)$`), words: "tip", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/additional/[a-z]+$`), words: "reference", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/local/(language|merchant|city)$`), words: "local name", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/gtin$`), words: "GTIN", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/(cpv|lot|serial)$`), value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/content/elements$`), words: "elements", value: trimmed},
	{path: regexp.MustCompile(`^/content/(attributes|elements)/(1[1-7]|4326|7006)$`), words: "date", value: shortDate, unset: true},
	{path: regexp.MustCompile(`^/content/(attributes|elements)/\d{2,4}$`), words: "attribute", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^` + Position + `$`), words: "position", value: position},
	{path: regexp.MustCompile(`^/look/ink/kind$`), words: "ink", value: text},
	{path: regexp.MustCompile(`^/look/ink/angle$`), words: "angle of the ink", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/ink/stops/[0-7]/colour$`), words: "ink", value: colour},
	{path: regexp.MustCompile(`^/look/ink/stops/[0-7]/at$`), words: "place of the ink", value: whole},
	{path: regexp.MustCompile(`^/look/ink$`), words: "ink", value: colour, unset: true},
	{path: regexp.MustCompile(`^/look/paper$`), words: "paper", value: colour, unset: true},
	{path: regexp.MustCompile(`^/look/modules/(join|motif)$`), words: "form of the modules", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/modules/path$`), words: "custom form", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/look/modules/(corner|scale)$`), words: "modules", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/eyes/(facing|alignment)$`), words: "eyes", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/eyes/(each/[0-2]/)?(ring/texture|core/motif)$`), words: "eyes", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/eyes/(each/[0-2]/)?(ring|core)/ink$`), words: "ink of the eyes", value: colour, unset: true},
	{path: regexp.MustCompile(`^/look/eyes/(each/[0-2]/)?core/scale$`), words: "eye core", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/eyes/(each/[0-2]/)?(ring|core)/corner$`), words: "corners of the eyes", value: corners},
	{path: regexp.MustCompile(`^/look/eyes/(each/[0-2]/)?(ring|core)/corners/[0-3]$`), words: "corner of the eyes", value: whole},
	{path: regexp.MustCompile(`^/look/mark/source$`), words: "mark", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/look/mark/width$`), words: "width of the mark", value: portion, unset: true},
	{path: regexp.MustCompile(`^/look/mark/reserve$`), words: "reserve", value: portion, unset: true},
	{path: regexp.MustCompile(`^/look/mark/pad$`), words: "room around the mark", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/mark/(clear|crop|ground)$`), words: "mark", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/mark/ink$`), words: "ink of the mark", value: colour, unset: true},
	{path: regexp.MustCompile(`^/look/caption/text$`), words: "caption", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/look/caption/(side|font)$`), words: "caption", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/outline$`), words: "outline", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/backdrop/source$`), words: "backdrop", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/look/backdrop/mode$`), words: "backdrop", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/backdrop/strength$`), words: "strength of the backdrop", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/frame/shape$`), words: "frame", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/frame/text$`), words: "words on the frame", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/look/frame/font$`), words: "typeface", value: text, unset: true},
	{path: regexp.MustCompile(`^/look/frame/size$`), words: "size of the words", value: whole, unset: true},
	{path: regexp.MustCompile(`^/look/frame/(ink|text_ink)$`), words: "ink of the frame", value: colour, unset: true},
	{path: regexp.MustCompile(`^` + MarkPlace + `$`), words: "place of the mark", value: markPlace},
	{path: regexp.MustCompile(`^/placements/\d+/name$`), words: "name of the place", value: text},
	{path: regexp.MustCompile(`^/placements/\d+/medium$`), words: "medium", value: text, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/substrate$`), words: "substrate", value: text},
	{path: regexp.MustCompile(`^/placements/\d+/light$`), words: "light", value: text},
	{path: regexp.MustCompile(`^/placements/\d+/background$`), words: "ground", value: colour, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/readable$`), words: "figures beneath", value: flag, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/use$`), words: "use", value: text, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/clear_mm$`), words: "free space", value: length, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/radius_mm$`), words: "curve", value: flatOr},
	{path: regexp.MustCompile(`^/placements/\d+/behind_glass$`), words: "glass", value: yesNo},
	{path: regexp.MustCompile(`^/placements/\d+/moving$`), words: "movement", value: yesNo},
	{path: regexp.MustCompile(`^/placements/\d+/pixels$`), words: "pixels of the screen", value: whole, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/keyword$`), words: "keyword", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/width_mm$`), words: "width", value: width},
	{path: regexp.MustCompile(`^/placements/\d+/distance_mm$`), words: "distance", value: length},
	{path: regexp.MustCompile(`^/symbol/level$`), words: "level", value: text},
	{path: regexp.MustCompile(`^/symbol/mask$`), words: "mask", value: mask},
	{path: regexp.MustCompile(`^/symbol/(min|max)_version$`), words: "version", value: whole},
	{path: regexp.MustCompile(`^/symbol/quiet_zone$`), words: "quiet zone", value: whole},
	{path: regexp.MustCompile(`^/output/dpi$`), words: "resolution", value: whole},
	{path: regexp.MustCompile(`^/output/colour$`), words: "printing condition", value: text},
	{path: regexp.MustCompile(`^/output/bleed_mm$`), words: "bleed", value: length, unset: true},
	{path: regexp.MustCompile(`^/output/reduction_mm$`), words: "bar width reduction", value: length, unset: true},
	{path: regexp.MustCompile(`^/output/(marks|overprint)$`), words: "press marks", value: flag, unset: true},
	{path: regexp.MustCompile(`^/output/quality$`), words: "quality of the JPEG", value: whole, unset: true},
	{path: regexp.MustCompile(`^/output/printer_dpi$`), words: "dots of the printer", value: whole, unset: true},
	{path: regexp.MustCompile(`^/output/thinner_dots$`), words: "thinner dots", value: whole, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/artwork/source$`), words: "artwork", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/artwork/(width_mm|height_mm)$`), words: "size of the artwork", value: length, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/artwork/(x_mm|y_mm)$`), words: "place on the artwork", value: length, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/artwork/(colour|panel)$`), words: "what lies under it", value: colour, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/headline$`), words: "headline", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/help$`), words: "help line", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/address$`), words: "short address", value: trimmed, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/(side|font)$`), words: "words beside it", value: text, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/size$`), words: "size of the words", value: whole, unset: true},
	{path: regexp.MustCompile(`^/placements/\d+/words/ink$`), words: "ink of the words", value: colour, unset: true},
}

func fieldOf(path string) (field, bool) {
	for _, f := range editable {
		if f.path.MatchString(path) {
			if f.words == "" {
				f.words = path[strings.LastIndexByte(path, '/')+1:]
			}
			return f, true
		}
	}
	return field{}, false
}

// Editable says whether a path is one that a person edits by typing.
func Editable(path string) bool { _, ok := fieldOf(path); return ok }

// Called is what a field is called in a sentence: "the password". It is its pointer, dotted, where it has no name.
func Called(path string) string {
	if f, ok := fieldOf(path); ok {
		return "the " + f.words
	}
	return problem.Problem{Field: path}.Dotted()
}

// Secret says whether what is typed at a path must not be shown again in words.
func Secret(path string) bool { f, ok := fieldOf(path); return ok && f.secret }

// Unparsed gives the problem with text that no value of the field can hold, or nil.
func Unparsed(path, text string) *problem.Problem {
	f, ok := fieldOf(path)
	if !ok {
		return &problem.Problem{Field: path, Code: "field", Message: "is not a field that can be edited"}
	}
	if f.unset && strings.TrimSpace(text) == "" {
		return nil
	}
	_, p := f.value(path, text)
	return p
}

// Edit makes the patch that puts typed text into a draft, objects above it made where they are missing. A changed medium
// brings the habits of its kind. It returns the problem where the draft cannot hold the text; the patch is then nil.
func Edit(draft any, path, typed string) (patch.Patch, *problem.Problem) {
	f, ok := fieldOf(path)
	if !ok || !f.unset || strings.TrimSpace(typed) != "" {
		if p := Unparsed(path, typed); p != nil {
			return nil, p
		}
	}
	_, there := patch.Get(draft, path)
	if f.unset && strings.TrimSpace(typed) == "" {
		if !there {
			return patch.Patch{}, nil
		}
		gone := path
		switch path {
		case "/content/repeat/every":
			gone = "/content/repeat"
		case "/look/mark/source":
			gone = "/look/mark"
		case "/look/backdrop/source":
			gone = "/look/backdrop"
		case "/look/caption/text":
			gone = "/look/caption"
		case "/look/frame/shape":
			gone = "/look/frame"
		}
		return append(unsettled(draft, path), patch.Op{Op: "remove", Path: gone}), nil
	}
	value, _ := f.value(path, typed)
	if path == Position {
		p := value.([2]float64)
		return patch.Patch{{Op: "add", Path: "/content/lat", Value: p[0]}, {Op: "add", Path: "/content/lon", Value: p[1]}}, nil
	}
	if path == MarkPlace {
		p := value.([2]float64)
		return append(above(draft, "/look/mark/x"), patch.Op{Op: "add", Path: "/look/mark/x", Value: p[0]}, patch.Op{Op: "add", Path: "/look/mark/y", Value: p[1]}), nil
	}
	if path == "/look/ink/kind" {
		return inkKind(draft, typed), nil
	}
	if base, all := strings.CutSuffix(path, "/corner"); all && strings.HasPrefix(path, "/look/eyes/") {
		path = base + "/corners"
	} else if at := strings.LastIndex(path, "/corners/"); at >= 0 { // one of four: the others stay as they are, or square
		list := []any{0.0, 0.0, 0.0, 0.0}
		if old, ok := patch.Get(draft, path[:at+len("/corners")]); ok {
			if l, isList := old.([]any); isList && len(l) == 4 {
				copy(list, l)
			}
		}
		list[path[len(path)-1]-'0'] = value
		path, value = path[:at+len("/corners")], list
	}
	ops := above(draft, path)
	put := patch.Op{Op: "add", Path: path, Value: value}
	if _, inList := parent(draft, path).([]any); inList && there {
		put.Op = "replace"
	}
	return append(append(ops, put), habits(draft, path, typed)...), nil
}

func parent(draft any, path string) any {
	v, _ := patch.Get(draft, path[:strings.LastIndexByte(path, '/')])
	return v
}

// lists are the parts of a job that are lists; others with figures below them are objects with such keys.
var lists = map[string]bool{"placements": true, "phones": true, "emails": true, "urls": true, "socials": true, "to": true, "cc": true, "bcc": true, "accounts": true, "procedures": true, "stops": true, "each": true}

// above makes the objects and lists that must be there before a value can be put at path.
func above(draft any, path string) (ops patch.Patch) {
	for i := 1; i < len(path); i++ {
		if path[i] != '/' {
			continue
		}
		if _, ok := patch.Get(draft, path[:i]); !ok {
			var empty any = map[string]any{}
			if lists[path[strings.LastIndexByte(path[:i], '/')+1:i]] {
				empty = []any{}
			}
			ops = append(ops, missing(draft, path[:i])...)
			ops = append(ops, patch.Op{Op: "add", Path: path[:i], Value: empty})
		}
	}
	return ops
}

// missing makes the entries of a list that have to be there before one at path can be: the eyes before the third.
func missing(draft any, path string) (ops patch.Patch) {
	at := strings.LastIndexByte(path, '/')
	up, key := path[:at], path[at+1:]
	if up != "/look/eyes/each" {
		return nil
	}
	have := 0
	if l, ok := parent(draft, path).([]any); ok {
		have = len(l)
	}
	for i := have; i < int(key[0]-'0'); i++ {
		ops = append(ops, patch.Op{Op: "add", Path: fmt.Sprintf("%s/%d", up, i), Value: map[string]any{}})
	}
	return ops
}

// Complete puts in front of a patch what its adds need above them, so that a finding's fix can be applied to a draft that
// leaves out defaults.
func Complete(draft any, p patch.Patch) patch.Patch {
	var ops patch.Patch
	made := map[string]bool{}
	for _, op := range p {
		if op.Op == "add" {
			for _, a := range above(draft, op.Path) {
				if !made[a.Path] {
					ops, made[a.Path] = append(ops, a), true
				}
			}
		}
		ops = append(ops, op)
	}
	return ops
}

// Words says what an edit did, for undo: "ink to #12594a".
func Words(path, typed string) string {
	f, ok := fieldOf(path)
	if !ok {
		return "a change"
	}
	if f.secret && typed != "" {
		return f.words + " changed"
	}
	typed = strings.TrimSpace(typed)
	switch {
	case (path == "/look/mark/source" || path == "/look/backdrop/source") && typed != "":
		typed = look.MarkName(typed)
	case path == "/look/mark/width" && typed != "", path == "/look/mark/reserve" && typed != "":
		typed = strings.TrimRight(typed, " %") + " %"
	}
	if key, house := strings.CutPrefix(typed, "style:"); house {
		typed = "the house's " + key
	}
	if r := []rune(typed); len(r) > 40 {
		typed = string(r[:39]) + "…"
	}
	if typed == "" {
		return f.words + " taken away"
	}
	return f.words + " to " + typed
}
