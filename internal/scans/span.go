package scans

import (
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/tally"
)

// Span is days in a zone, the first and the day after the last.
type Span struct {
	From, To time.Time // midnights in Zone
	Zone     *time.Location
}

// Days is how many days there are in a span.
func (s Span) Days() int { return s.Day(s.To) }

// Day is the index of the day that an instant lies in: 0 is the first of the span, less comes before it. The dates say so, since
// days are not all of one length.
func (s Span) Day(t time.Time) int {
	date := func(t time.Time) time.Time {
		y, m, d := t.In(s.Zone).Date()
		return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	}
	return int(date(t).Sub(date(s.From)) / (24 * time.Hour))
}

// Before is the span of as many days that ends where this one begins.
func (s Span) Before() Span {
	return Span{s.From.AddDate(0, 0, -s.Days()), s.From, s.Zone}
}

// YearBefore is the span of the same dates a year earlier.
func (s Span) YearBefore() Span {
	return Span{s.From.AddDate(-1, 0, 0), s.To.AddDate(-1, 0, 0), s.Zone}
}

// ZoneNamed is the zone of a name of the time zone database, or of a large town of it; ok is false where there is none.
func ZoneNamed(name string) (zone *time.Location, ok bool) {
	if name == "UTC" {
		return time.UTC, true
	}
	known, ok := content.ZoneNamed(name)
	if !ok {
		return time.UTC, false
	}
	zone, err := time.LoadLocation(known)
	if err != nil {
		return time.UTC, false
	}
	return zone, true
}

// quarter is a quarter of an hour: all zones in use today lie at a multiple of it.
const quarter = 15 * time.Minute

// perDay is how many quarters of an hour a day of UTC has.
const perDay = int(24 * time.Hour / quarter)

// moment is an instant as a day of UTC and how many quarters of it have gone.
func moment(t time.Time) (day time.Time, quarters int) {
	t = t.UTC()
	day = t.Truncate(24 * time.Hour)
	return day, int(t.Sub(day) / quarter)
}

// midnights are those of a span as days of UTC see them.
type midnights struct {
	first, last time.Time // days of UTC, both included
	gone        []int     // quarters that have gone at the midnight that a day of UTC holds, by the day
	day, at     []int     // of each midnight, the first day's to that after the last: index of its day of UTC, and quarters gone
}

func (s Span) midnights() (m midnights) {
	m.first, _ = moment(s.From)
	m.last, _ = moment(s.To)
	m.gone = make([]int, int(m.last.Sub(m.first)/(24*time.Hour))+1)
	for at := s.From; !at.After(s.To); at = at.AddDate(0, 0, 1) {
		day, gone := moment(at)
		i := int(day.Sub(m.first) / (24 * time.Hour))
		m.gone[i] = gone
		m.day, m.at = append(m.day, i), append(m.at, gone)
	}
	return m
}

// days are the counts of a span by its own days: n is the count of each day of UTC, early that before the midnight it holds.
func (m midnights) days(n, early []int) tally.Days {
	before := make([]int, len(n)+1)
	for i, c := range n {
		before[i+1] = before[i] + c
	}
	until := func(k int) int {
		if m.at[k] == 0 {
			return before[m.day[k]]
		}
		return before[m.day[k]] + early[m.day[k]]
	}
	out := make(tally.Days, len(m.day)-1)
	for k := range out {
		out[k] = until(k+1) - until(k)
	}
	return out
}
