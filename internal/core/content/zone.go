package content

import (
	_ "embed"
	"fmt"
	"strings"
	"time"
	_ "time/tzdata" // the machine need not have one
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sodrik/internal/core/content/line"
)

// zoneNames is the names of the time zone database, one a line; made from its zone.tab.
//
//go:embed zones.txt
var zoneNames string

// Zones lists the time zones by name, UTC first.
func Zones() []string { return strings.Fields(zoneNames) }

// zoneOf finds a zone of the time zone database; ok is false where it has none of that name.
func zoneOf(name string) (*time.Location, bool) {
	if name == "UTC" {
		return time.UTC, true
	}
	if !strings.Contains(name, "/") {
		return nil, false
	}
	l, err := time.LoadLocation(name)
	return l, err == nil
}

// zoneNamed is the zone of a town that the time zone database names one after: "London" is Europe/London, and so is "london".
// Any other text stays.
func zoneNamed(name string) string {
	town := plainTown(name)
	if strings.Contains(name, "/") || town == "utc" || town == "" {
		return strings.TrimSpace(name)
	}
	for _, zone := range Zones() {
		if plainTown(zoneCity(zone)) == town {
			return zone
		}
	}
	return name
}

// plainTown leaves out of a town's name what people type one way or another: case, accents, blanks.
func plainTown(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, norm.NFD.String(s))
}

// zoneCity is a zone's name as people say it: "London".
func zoneCity(name string) string {
	return strings.ReplaceAll(name[strings.LastIndexByte(name, '/')+1:], "_", " ")
}

// local reads a date and time on the clocks of a zone. twice says that the clocks show it twice that night, of which the
// first is meant; message is set where they skip it.
func local(t time.Time, zone *time.Location) (out time.Time, twice bool, message string) {
	y, m, d := t.Date()
	out = time.Date(y, m, d, t.Hour(), t.Minute(), t.Second(), 0, zone)
	if out.Hour() != t.Hour() || out.Minute() != t.Minute() {
		_, change := out.Add(-24 * time.Hour).ZoneBounds()
		return out, false, fmt.Sprintf("is %s, a time that the clocks in %s skip that night: they go from %s to %s",
			t.Format("15:04"), zoneCity(zone.String()), change.In(fixed(change.Add(-time.Second))).Format("15:04"),
			change.Format("15:04"))
	}
	start, end := out.ZoneBounds()
	_, now := out.Zone()
	if !start.IsZero() { // an hour ago the clocks may have shown the same
		_, was := start.Add(-time.Second).Zone()
		if back := time.Duration(was-now) * time.Second; back > 0 && out.Sub(start) < back {
			return out.Add(-back), true, ""
		}
	}
	if !end.IsZero() {
		_, next := end.Zone()
		if back := time.Duration(now-next) * time.Second; back > 0 && end.Sub(out) <= back {
			return out, true, ""
		}
	}
	return out, false, ""
}

// fixed is the offset in force at t, as a zone of its own.
func fixed(t time.Time) *time.Location {
	name, offset := t.Zone()
	return time.FixedZone(name, offset)
}

// observance is one part of a VTIMEZONE: an offset, when it first came into force in the years described, and the rule by
// which it comes every year, "" where there is none.
type observance struct {
	daylight bool
	from, to int       // offsets in seconds
	start    time.Time // on the clocks as they were before
	rule     string
}

// timezone writes the VTIMEZONE of a zone (RFC 5545, clause 3.6.5) for the years from first on: rules by weekday where the
// zone has kept them for five years, single dates otherwise.
func timezone(w *line.Writer, zone *time.Location, first, last time.Time) {
	w.Raw("BEGIN", "VTIMEZONE")
	w.Raw("TZID", zone.String())
	for _, o := range observances(zone, first, last) {
		name := "STANDARD"
		if o.daylight {
			name = "DAYLIGHT"
		}
		w.Raw("BEGIN", name)
		w.Raw("DTSTART", o.start.Format("20060102T150405"))
		w.Raw("TZOFFSETFROM", offset(o.from))
		w.Raw("TZOFFSETTO", offset(o.to))
		w.Raw("RRULE", o.rule)
		w.Raw("END", name)
	}
	w.Raw("END", "VTIMEZONE")
}

func offset(seconds int) string {
	sign := '+'
	if seconds < 0 {
		sign, seconds = '-', -seconds
	}
	return fmt.Sprintf("%c%02d%02d", sign, seconds/3600, seconds/60%60)
}

// maxTransitions bounds how many single dates are written for a zone without rule.
const maxTransitions = 20

func observances(zone *time.Location, first, last time.Time) (out []observance) {
	begin := time.Date(first.In(zone).Year(), 1, 1, 0, 0, 0, 0, zone)
	at := begin
	start, end := at.ZoneBounds()
	_, now := at.Zone()
	was := now
	if !start.IsZero() {
		_, was = start.Add(-time.Second).Zone()
	}
	out = append(out, observance{daylight: at.IsDST(), from: was, to: now, start: begin})
	if end.IsZero() || end.After(last.AddDate(1, 0, 0)) {
		return out
	}
	out = nil
	if !start.IsZero() {
		begin = start // the change that brought the state of 1 January
	}
	for n := 0; n < maxTransitions && !begin.IsZero() && begin.Before(last.AddDate(1, 0, 0)); n++ {
		_, from := begin.Add(-time.Second).Zone()
		_, to := begin.Zone()
		o := observance{daylight: begin.IsDST(), from: from, to: to, start: begin.In(time.FixedZone("", from)),
			rule: yearly(zone, begin)}
		out = append(out, o)
		if len(out) == 2 && out[0].rule != "" && out[1].rule != "" {
			return out
		}
		_, begin = begin.ZoneBounds()
	}
	for i := range out {
		out[i].rule = "" // rules and single dates do not mix
	}
	return out
}

// yearly finds the rule by which the change at t comes again: the same weekday of the same month, counted from its beginning
// or its end, for five years.
func yearly(zone *time.Location, t time.Time) string {
	_, from := t.Add(-time.Second).Zone()
	clock := t.In(time.FixedZone("", from))
	day := strings.ToUpper(clock.Weekday().String()[:2])
	for _, nth := range []int{-1, (clock.Day()-1)/7 + 1} {
		if nth == -1 && clock.AddDate(0, 0, 7).Month() == clock.Month() {
			continue
		}
		holds := true
		for year := clock.Year() + 1; year <= clock.Year()+5; year++ {
			want := nthWeekday(year, clock.Month(), clock.Weekday(), nth)
			wall := time.Date(year, clock.Month(), want, clock.Hour(), clock.Minute(), 0, 0, time.FixedZone("", from))
			start, _ := wall.In(zone).ZoneBounds()
			holds = holds && start.Equal(wall)
		}
		if holds {
			return fmt.Sprintf("FREQ=YEARLY;BYMONTH=%d;BYDAY=%d%s", clock.Month(), nth, day)
		}
	}
	return ""
}

// nthWeekday is the day of the month that is the nth of a weekday, −1 for the last.
func nthWeekday(year int, month time.Month, day time.Weekday, nth int) int {
	if nth > 0 {
		first := time.Date(year, month, 1, 0, 0, 0, 0, time.UTC).Weekday()
		return 1 + (int(day)-int(first)+7)%7 + 7*(nth-1)
	}
	last := time.Date(year, month+1, 0, 0, 0, 0, 0, time.UTC)
	return last.Day() - (int(last.Weekday())-int(day)+7)%7
}

// MomentIn reads a date and time as a job writes it, 2006-01-02T15:04, on the clocks of a zone of the time zone database, or
// of a town that it knows. message, which goes on after what the field is called, is set where there is no such time.
func MomentIn(text, zone string) (t time.Time, message string) {
	in, ok := zoneOf(zoneNamed(zone))
	if !ok {
		return t, "has no time zone; write a large town of it, such as London"
	}
	clock, err := time.Parse(minuteForm, text)
	if err != nil {
		return t, "is " + quoted(text) + "; write a date and time, such as 20 March 2027, 10:00"
	}
	t, _, message = local(clock, in)
	return t, message
}

// ZoneNamed is the name in the time zone database of a zone, or of a town that it knows; ok is false where it knows neither.
func ZoneNamed(text string) (name string, ok bool) {
	name = zoneNamed(text)
	_, ok = zoneOf(name)
	return name, ok
}
