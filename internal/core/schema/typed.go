package schema

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
)

// Parse makes the value of what people type into a field at a path, or says why no value can hold it. Whether the value is
// right is for reading.
func (f *Field) Parse(path, typed string) (any, *problem.Problem) {
	switch f.Type {
	case Line:
		return strings.TrimSpace(typed), nil
	case Lines:
		return strings.ReplaceAll(typed, "\r\n", "\n"), nil
	case Flag:
		return f.parseFlag(path, typed)
	case Whole, Number:
		v, bad := parseNumber(path, typed)
		if bad != nil && slices.Contains(f.Values(), typed) { // "auto"
			return typed, nil
		}
		return v, bad
	case Share:
		return parseShare(path, typed)
	case Length:
		return f.parseLength(path, typed)
	case Colour, Ink:
		return parseColour(typed), nil
	case Amount:
		return parseAmount(typed), nil
	case Moment:
		return ParseMoment(typed), nil
	case ShortDate:
		return parseShortDate(typed), nil
	}
	return typed, nil
}

// Unsets says that typed text takes the key away.
func (f *Field) Unsets(typed string) bool {
	return !f.Keep && !f.Flat && f.Put == nil && strings.TrimSpace(typed) == ""
}

func (f *Field) parseFlag(path, typed string) (any, *problem.Problem) {
	switch {
	case typed == "" && f.Keep:
		return false, nil
	case typed == "yes" || typed == "true":
		return true, nil
	}
	return nil, &problem.Problem{Field: path, Code: "flag", Message: "is either yes or empty"}
}

func parseNumber(path, typed string) (any, *problem.Problem) {
	f, ok := measure.ParseDecimal(typed)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "number", Message: fmt.Sprintf("%q is not a number", typed)}
	}
	return f, nil
}

// parseShare takes percent, with or without the sign.
func parseShare(path, typed string) (any, *problem.Problem) {
	s := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(typed), "%"))
	f, ok := measure.ParseDecimal(s)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "number",
			Message: fmt.Sprintf("%q is not a share; write percent, such as 22 %%", s)}
	}
	return math.Round(f*1e4) / 1e6, nil
}

// pixelForm is a width in pixels: "1890 px", or "600 px at 96 dpi".
var pixelForm = regexp.MustCompile(`^([\d.,]+)\s*px(?:\s*(?:at|@)\s*([\d.,]+)\s*dpi)?$`)

func (f *Field) parseLength(path, typed string) (any, *problem.Problem) {
	s := strings.TrimSpace(typed)
	if f.Flat && (s == "" || s == "flat") {
		return 0.0, nil
	}
	if m := pixelForm.FindStringSubmatch(strings.ToLower(s)); m != nil && f.Pixels {
		n, ok := measure.ParseDecimal(strings.ReplaceAll(m[1], ",", ""))
		dpi, sound := 300.0, true
		if m[2] != "" {
			dpi, sound = measure.ParseDecimal(m[2])
		}
		if !ok || !sound || dpi <= 0 {
			return nil, &problem.Problem{Field: path, Code: "length",
				Message: fmt.Sprintf("%q is not a width; write such as 1890 px, or 600 px at 96 dpi", typed)}
		}
		return math.Round(n/dpi*float64(measure.Inch)*1000) / 1000, nil
	}
	l, ok := measure.ParseLength(typed, measure.Millimetre)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "length",
			Message: fmt.Sprintf("%q is not a length; write a number with a unit, such as 160 mm or 6.3 in", typed)}
	}
	return float64(l), nil
}

// parseColour takes a colour as people write it. What is none stays as typed, for the part's own rules to refuse; so does "none".
func parseColour(typed string) any {
	s := strings.TrimSpace(typed)
	if key, house := strings.CutPrefix(s, ink.House); house {
		return map[string]any{"style": strings.TrimSpace(key)}
	}
	c, ok := ink.Typed(typed)
	switch {
	case !ok:
		return s
	case c.Separated:
		return map[string]any{"cmyk": []any{c.Inks[0], c.Inks[1], c.Inks[2], c.Inks[3]}}
	}
	return c.String()
}

// parseAmount takes a comma for the point that it is in most of Europe, and blanks between thousands.
func parseAmount(typed string) any {
	s := strings.Join(strings.FieldsFunc(typed, func(r rune) bool {
		return r == ' ' || r == '\u00a0' || r == '\u2009' || r == '’'
	}), "")
	if whole, rest, ok := strings.Cut(s, ","); ok && len(rest) <= 2 && !strings.Contains(whole, ".") {
		s = whole + "." + rest
	}
	return s
}

// Format writes a value of a draft the way it is typed.
func (f *Field) Format(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return ""
	case map[string]any:
		if c, ok := separated(v); ok {
			return c.Words()
		}
		if f.Type == Ink || v["stops"] != nil { // a gradient
			return ""
		}
	case json.Number:
		n, err := v.Float64()
		if err != nil {
			return v.String()
		}
		return f.figure(n)
	case float64:
		return f.figure(v)
	}
	b, _ := json.Marshal(v)
	return string(b)
}

func (f *Field) figure(n float64) string {
	switch {
	case f.Type == Share:
		return measure.Number(n*100, 3)
	case f.Type == Length:
		return measure.Number(n, 2) + " mm"
	case f.Digits < 0:
		return strconv.FormatFloat(n, 'f', -1, 64)
	}
	return measure.Number(n, 4)
}

// Sentence writes a value of a draft for a sentence: "18 %", "160 mm", an upload by what it is.
func (f *Field) Sentence(v any) string {
	s := fmt.Sprint(v)
	n, isNumber := fields.Float(v)
	switch {
	case f.Say != nil:
		return f.Say(s)
	case f.Type == Share && isNumber:
		return measure.Number(n*100, 1) + " %"
	case f.Type == Length && isNumber:
		return measure.Number(n, 2) + " mm"
	}
	return s
}

// Spoken writes typed text for a sentence.
func (f *Field) Spoken(typed string) string {
	typed = strings.TrimSpace(typed)
	switch {
	case typed == "":
		return ""
	case f.Say != nil:
		typed = f.Say(typed)
	case f.Type == Share:
		typed = strings.TrimRight(typed, " %") + " %"
	}
	if key, house := strings.CutPrefix(typed, "style:"); house {
		typed = "the house's " + key
	}
	if r := []rune(typed); len(r) > 40 {
		typed = string(r[:39]) + "…"
	}
	return typed
}

// separated is a colour that is an object: given by its inks, or of the house style.
func separated(m map[string]any) (c ink.Colour, ok bool) {
	if style, is := m["style"].(string); is {
		return ink.Colour{Style: style}, true
	}
	if m["cmyk"] == nil && m["screen"] == nil {
		return c, false
	}
	var problems problem.List
	return ink.Read(fields.Open(map[string]any{"c": m}, "", &problems), "c", "")
}
