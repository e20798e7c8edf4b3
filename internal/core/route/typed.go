package route

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// SpanKeys are the names of the fields of a form for the nth span, from 0 on: "from" and "until", then "from-2" …
func SpanKeys(n int) (from, until string) {
	if n == 0 {
		return "from", "until"
	}
	return fmt.Sprintf("from-%d", n+1), fmt.Sprintf("until-%d", n+1)
}

// Shown is a field of a rule as a form shows it, by its name there.
func (r *Rule) Shown(key string) string {
	for n := range MaxSpans {
		from, until := SpanKeys(n)
		if n < len(r.Spans) && key == from {
			return shownMoment(r.Spans[n].From)
		}
		if n < len(r.Spans) && key == until {
			return shownMoment(r.Spans[n].Until)
		}
	}
	f := Fields.Field(key)
	if f == nil {
		return ""
	}
	v, ok := Fields.Write(r, nil).Map()[key]
	if !ok {
		return ""
	}
	list, is := v.([]string)
	switch {
	case f.Type == schema.Share:
		return f.Format(v) + " %"
	case !is:
		return f.Format(v)
	case key == "languages":
		return strings.Join(each(list, LanguageName), ", ")
	case key == "where":
		return strings.Join(each(list, func(name string) string {
			if len(name) == 2 {
				return countryName(name)
			}
			return name
		}), ", ")
	}
	return strings.Join(list, ", ")
}

// shownMoment is a moment as somebody would type it.
func shownMoment(text string) string {
	if t, err := time.Parse("2006-01-02T15:04", text); err == nil {
		return t.Format("2 January 2006, 15:04")
	}
	return text
}

// Typed changes the JSON of a rule by fields as a form has them; a list is typed with commas between, or sent as several. What
// cannot be read is a problem below at.
func Typed(doc map[string]any, edits map[string][]string, at string) (problems problem.List) {
	for n := range MaxSpans {
		from, until := SpanKeys(n)
		typedSpan(doc, n, "from", edits[from])
		typedSpan(doc, n, "until", edits[until])
	}
	if list, is := doc["spans"].([]any); is {
		list = slices.DeleteFunc(list, func(s any) bool { m, is := s.(map[string]any); return is && len(m) == 0 })
		if doc["spans"] = list; len(list) == 0 {
			delete(doc, "spans")
		}
	}
	for i := range Fields.Fields {
		f := &Fields.Fields[i]
		values, is := edits[f.Key]
		if !is || f.Key == "spans" || f.Fixed {
			continue
		}
		text := strings.Join(values, "")
		switch {
		case f.Type == schema.List:
			var list []any
			for _, v := range values {
				for _, one := range parts(f.Key, v) {
					list = append(list, one)
				}
			}
			if doc[f.Key] = list; len(list) == 0 {
				delete(doc, f.Key)
			}
		case f.Unsets(text):
			delete(doc, f.Key)
		default:
			v, bad := f.Parse(at+"/"+f.Key, text)
			if bad != nil {
				problems = append(problems, *bad)
				continue
			}
			doc[f.Key] = v
		}
	}
	return problems
}

// parts takes a typed list apart; names of printed places may hold commas, and are sent one by one.
func parts(key, text string) (out []string) {
	split := func(r rune) bool { return r == ',' || r == ';' || r == '\n' }
	if key == "places" {
		split = func(rune) bool { return false }
	}
	for _, one := range strings.FieldsFunc(text, split) {
		if one = strings.TrimSpace(one); one != "" {
			out = append(out, one)
		}
	}
	return out
}

// typedSpan changes an end of the nth span. A day alone is all of it.
func typedSpan(doc map[string]any, n int, end string, values []string) {
	if values == nil {
		return
	}
	list, _ := doc["spans"].([]any)
	for len(list) <= n {
		list = append(list, map[string]any{})
	}
	span, _ := list[n].(map[string]any)
	delete(span, end)
	if text := strings.TrimSpace(strings.Join(values, "")); text != "" {
		moment := schema.ParseMoment(text)
		if day, err := time.Parse("2006-01-02", moment); err == nil {
			if end == "until" {
				day = day.AddDate(0, 0, 1)
			}
			moment = day.Format("2006-01-02T15:04")
		}
		span[end] = moment
	}
	doc["spans"] = list
}
