package schema

import (
	"regexp"
	"strings"
	"time"
)

// Ways of writing a day, day before month as in Britain, and an hour.
var (
	dayForms  = []string{"2006-01-02", "2 January 2006", "2 Jan 2006", "2/1/2006", "2.1.2006", "January 2 2006", "Jan 2 2006"}
	hourForms = []string{"15:04", "15.04", "3:04pm", "3.04pm", "3pm", "15h"}
	weekday   = regexp.MustCompile(`(?i)^\s*(mon|tues?|wed(nes)?|thu(rs)?|fri|sat(ur)?|sun)(day)?\s*,?\s+`)
	ordinal   = regexp.MustCompile(`(\d)(st|nd|rd|th)\b`)
	hourPart  = regexp.MustCompile(
		`(?i)(?:^|[\sT,])(?:at\s+)?(\d{1,2}(?:[:.]\d{2}(?::\d{2})?)?\s?(?:am|pm|h)|\d{1,2}:\d{2}(?::\d{2})?)\s*$`)
)

// ParseMoment reads a day, and an hour where there is one, into ISO 8601; what it does not know stays as it was typed, for
// the content to refuse.
func ParseMoment(typed string) string {
	s := strings.TrimSpace(typed)
	if _, err := time.Parse("2006-01-02T15:04", s); err == nil {
		return s
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
			return out
		}
		for _, form := range hourForms {
			if t, err := time.Parse(form, hour); err == nil {
				return out + t.Format("T15:04")
			}
		}
	}
	return s
}

// ParseHour reads an hour alone, such as 12:00, 4 pm or 16.30, as 15:04; ok is false for anything else.
func ParseHour(typed string) (hour string, ok bool) {
	s := strings.ToLower(strings.Join(strings.Fields(typed), ""))
	for _, form := range hourForms {
		if t, err := time.Parse(form, s); err == nil {
			return t.Format("15:04"), true
		}
	}
	return "", false
}

// parseShortDate takes a date for the six digits of GS1, year, month, day, or leaves six digits as they are.
func parseShortDate(typed string) any {
	if t, err := time.Parse("2006-01-02", ParseMoment(typed)); err == nil {
		return t.Format("060102")
	}
	return strings.TrimSpace(typed)
}
