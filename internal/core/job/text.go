package job

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// Position is the path under which latitude and longitude are typed as one, in any usual notation.
const Position = "/content/position"

// Text writes a draft's value the way it is typed.
func Text(draft any, path string) string {
	if path == Position {
		lat, lon := Text(draft, "/content/lat"), Text(draft, "/content/lon")
		if lat == "" && lon == "" {
			return ""
		}
		return lat + ", " + lon
	}
	if base, all := strings.CutSuffix(path, "/corner"); all && strings.HasPrefix(path, "/look/eyes/") { // one figure where the four are alike
		first := Text(draft, base+"/corners/0")
		for _, i := range []string{"1", "2", "3"} {
			if Text(draft, base+"/corners/"+i) != first {
				return ""
			}
		}
		return first
	}
	if path == MarkPlace {
		if _, ok := patch.Get(draft, "/look/mark"); !ok {
			return ""
		}
		return orElse(percentAt(draft, "/look/mark/x"), "50") + ", " + orElse(percentAt(draft, "/look/mark/y"), "50")
	}
	v, ok := patch.Get(draft, path)
	if !ok || v == nil {
		return ""
	}
	if m, isObject := v.(map[string]any); isObject {
		if c, ok := separated(m); ok {
			return c.Words()
		}
		if path == "/look/ink" || m["stops"] != nil { // a gradient
			return ""
		}
	}
	if path == "/look/mark/width" || path == "/look/mark/reserve" {
		return percentAt(draft, path)
	}
	switch v := v.(type) {
	case string:
		return v
	case bool:
		return map[bool]string{true: "yes"}[v]
	case json.Number:
		f, err := v.Float64()
		if err != nil {
			return v.String()
		}
		return numberText(path, f)
	case float64:
		return numberText(path, v)
	}
	b, _ := json.Marshal(v)
	return string(b)
}

// percentAt is a share as percent, without the sign; text that is none stays as it is.
func percentAt(draft any, path string) string {
	v, ok := patch.Get(draft, path)
	if !ok {
		return ""
	}
	f, number := fields.Float(v)
	if !number {
		return fmt.Sprint(v)
	}
	return measure.Number(f*100, 3)
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
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

func numberText(path string, f float64) string {
	switch {
	case strings.HasSuffix(path, "_mm"):
		return measure.Number(f, 2) + " mm"
	case path == "/content/lat", path == "/content/lon":
		return strconv.FormatFloat(f, 'f', -1, 64)
	}
	return measure.Number(f, 4)
}

func position(path, s string) (any, *problem.Problem) {
	lat, lon, ok := content.ParsePosition(s)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "place.position", Message: "is no point that is known; write it like 52.0871, -1.9432 or 52° 5′ 13.6″ N, 1° 56′ 35.5″ W, or paste a link to a map"}
	}
	return [2]float64{lat, lon}, nil
}

// Ways of writing a day, day before month as in Britain, and an hour.
var (
	dayForms  = []string{"2006-01-02", "2 January 2006", "2 Jan 2006", "2/1/2006", "2.1.2006", "January 2 2006", "Jan 2 2006"}
	hourForms = []string{"15:04", "15.04", "3:04pm", "3.04pm", "3pm", "15h"}
	weekday   = regexp.MustCompile(`(?i)^\s*(mon|tues?|wed(nes)?|thu(rs)?|fri|sat(ur)?|sun)(day)?\s*,?\s+`)
	ordinal   = regexp.MustCompile(`(\d)(st|nd|rd|th)\b`)
	hourPart  = regexp.MustCompile(`(?i)(?:^|[\sT,])(?:at\s+)?(\d{1,2}(?:[:.]\d{2}(?::\d{2})?)?\s?(?:am|pm|h)|\d{1,2}:\d{2}(?::\d{2})?)\s*$`)
)

// moment reads a day, and an hour where there is one, into ISO 8601; what it does not know stays as it was typed, for the
// content to refuse.
func moment(_, typed string) (any, *problem.Problem) {
	s := strings.TrimSpace(typed)
	if _, err := time.Parse("2006-01-02T15:04", s); err == nil {
		return s, nil
	}
	rest, hour := weekday.ReplaceAllString(s, ""), ""
	if m := hourPart.FindStringSubmatchIndex(rest); m != nil {
		hour = strings.ToLower(strings.ReplaceAll(rest[m[2]:m[3]], " ", ""))
		rest = rest[:m[0]]
	}
	rest = ordinal.ReplaceAllString(strings.Join(strings.Fields(strings.ReplaceAll(rest, ",", " ")), " "), "$1")
	for _, form := range dayForms {
		day, err := time.Parse(form, rest)
		if err != nil {
			continue
		}
		out := day.Format("2006-01-02")
		if hour == "" {
			return out, nil
		}
		for _, form := range hourForms {
			if t, err := time.Parse(form, hour); err == nil {
				return out + t.Format("T15:04"), nil
			}
		}
	}
	return s, nil
}

// shortDate takes a date for the six digits of GS1, year, month, day, or leaves six digits as they are.
func shortDate(path, typed string) (any, *problem.Problem) {
	v, bad := moment(path, typed)
	if s, _ := v.(string); bad == nil {
		if t, err := time.Parse("2006-01-02", s); err == nil {
			return t.Format("060102"), nil
		}
	}
	return strings.TrimSpace(typed), bad
}
