package route

import (
	"fmt"
	"math"
	"strings"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/schema"
)

// Sentence is what a rule asks, as it is read aloud: "Between 20 March 2027, 10:00 and 22 March 2027, 18:00 in London, whose
// phone speaks Welsh".
func (r *Rule) Sentence(zone string) string {
	var out []string
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if when := r.when(); when != "" {
		if zone != "" {
			when += " in " + town(zone)
		}
		out = append(out, when)
	}
	if len(r.Where) > 0 {
		add("in %s", or(each(r.Where, Says)))
	}
	if r.Near != "" {
		out = append(out, r.NearSays())
	}
	if len(r.Places) > 0 {
		add("scanned at %s", or(r.Places))
	}
	if len(r.Languages) > 0 {
		add("whose phone speaks %s", or(each(r.Languages, LanguageName)))
	}
	if len(r.Systems) > 0 {
		add("on %s", or(each(r.Systems, systemName)))
	}
	if r.Share > 0 {
		add("%s of scans", percent(r.Share))
	}
	if r.Stock > 0 {
		add("while %d last", r.Stock)
	}
	if len(out) == 0 {
		return "Everybody"
	}
	s := strings.Join(out, ", ")
	return strings.ToUpper(s[:1]) + s[1:]
}

func (r *Rule) when() string {
	var out []string
	if len(r.Spans) > 0 {
		words := or(each(r.Spans, func(s Span) string { return s.words(r.Yearly) }))
		if r.Yearly {
			words = "every year " + words
		}
		out = append(out, words)
	}
	if len(r.Weekdays) > 0 {
		out = append(out, "on "+days(r.Weekdays))
	}
	if len(r.Hours) > 0 {
		out = append(out, or(each(r.Hours, func(h string) string { return "from " + strings.Replace(h, "-", " to ", 1) })))
	}
	return strings.Join(out, ", ")
}

func (s Span) words(yearly bool) string {
	from, until := spelled(s.From, yearly), spelled(s.Until, yearly)
	switch {
	case s.From == "":
		return "until " + until
	case s.Until == "":
		return "from " + from
	}
	return "between " + from + " and " + until
}

// spelled is a moment as people read it; of one that comes again without its year.
func spelled(text string, yearly bool) string {
	if t, err := time.Parse("2006-01-02T15:04", text); err == nil && yearly {
		return t.Format("2 January, 15:04")
	}
	return content.SpelledOut(text)
}

// days names weekdays: "Saturdays and Sundays", "Mondays to Fridays".
func days(list []string) string {
	names := each(list, func(d string) string { return schema.WordsOf(weekdays, d) + "s" })
	if n := len(list); n > 2 && weekday(list[n-1])-weekday(list[0]) == n-1 {
		return names[0] + " to " + names[n-1]
	}
	return join(names, "and")
}

func systemName(value string) string {
	if value == "ios" {
		return "an iPhone or iPad"
	}
	return schema.WordsOf(systems, value)
}

// town is a zone as people name it.
func town(zone string) string {
	if full, ok := content.ZoneNamed(zone); ok {
		zone = full
	}
	return strings.ReplaceAll(zone[strings.LastIndexByte(zone, '/')+1:], "_", " ")
}

func percent(share float64) string { return fmt.Sprintf("%g %%", math.Round(share*1e4)/100) }

func each[T any](list []T, words func(T) string) []string {
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = words(x)
	}
	return out
}

func or(list []string) string { return join(list, "or") }

func join(list []string, word string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " " + word + " " + list[len(list)-1]
}
