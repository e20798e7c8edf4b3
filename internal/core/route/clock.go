package route

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"sodrik/internal/core/content"
)

const dayMinutes = 24 * 60

// hourForm is hours of a day.
var hourForm = regexp.MustCompile(`^(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to)\s*(\d{1,2})(?:[:.](\d{2}))?$`)

// hoursNamed reads hours as somebody types them, and gives 09:00-18:00.
func hoursNamed(text string) (hours, bad string) {
	if text == "" {
		return "", ""
	}
	m := hourForm.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return "", fmt.Sprintf("is %q; write hours such as 09:00-18:00", text)
	}
	var at [2]int
	for i := range at {
		hour, _ := strconv.Atoi(m[1+2*i])
		minute, _ := strconv.Atoi(m[2+2*i])
		at[i] = hour*60 + minute
		if minute > 59 || at[i] > dayMinutes {
			return "", fmt.Sprintf("is %q; a day has hours from 00:00 to 24:00", text)
		}
	}
	if at[0] == at[1] || at[0] == dayMinutes {
		return "", fmt.Sprintf("is %q, which is no time at all; leave it out for the whole day", text)
	}
	return fmt.Sprintf("%02d:%02d-%02d:%02d", at[0]/60, at[0]%60, at[1]/60, at[1]%60), ""
}

// hours are minutes of a day; until at or before from is on the next day.
type hours struct{ from, until int }

func hoursOf(text string) hours {
	minute := func(s string) int {
		h, _ := strconv.Atoi(s[:2])
		m, _ := strconv.Atoi(s[3:])
		return h*60 + m
	}
	return hours{minute(text[:5]), minute(text[6:])}
}

func weekday(value string) int {
	for i, c := range weekdays {
		if c.Value == value {
			return i
		}
	}
	return 0
}

// window is a span: in Unix seconds, or of one that comes again each year as minutes of a year of 12 × 31 days.
type window struct {
	from, until int64
}

// 29 February and 1 March, as minutes of a year of 12 × 31 days.
const leapDay, march = int64(31+28) * dayMinutes, int64(2*31) * dayMinutes

// in is a window of a year as it lies in one that is short, or not: what lies on 29 February alone comes on 1 March in a short
// one.
func (w window) in(short bool) window {
	if !short || w.from < leapDay || w.from >= w.until || w.until > march {
		return w
	}
	w.from += march - leapDay
	if w.until == march {
		w.until += dayMinutes
	} else {
		w.until += march - leapDay
	}
	return w
}

// short says that a year has no 29 February.
func short(year int) bool { return year%4 != 0 || year%100 == 0 && year%400 != 0 }

// always is until no end.
const always = int64(1) << 62

// clock is the time question of a rule.
type clock struct {
	windows []window
	yearly  bool
	days    uint8 // from Monday on, a bit each; 0 for any
	hours   []hours
}

func clockOf(r *Rule, zone string) (c clock) {
	c.yearly = r.Yearly
	for _, s := range r.Spans {
		if r.Yearly {
			c.windows = append(c.windows, window{ofYear(s.From), ofYear(s.Until)})
			continue
		}
		w := window{-always, always}
		if s.From != "" {
			w.from, _ = moment(s.From, zone)
		}
		if s.Until != "" {
			w.until, _ = moment(s.Until, zone)
		}
		c.windows = append(c.windows, w)
	}
	for _, d := range r.Weekdays {
		c.days |= 1 << weekday(d)
	}
	for _, h := range r.Hours {
		c.hours = append(c.hours, hoursOf(h))
	}
	return c
}

// ofYear is the minute of a year in which every month has 31 days, so that dates keep their order in leap years too.
func ofYear(text string) int64 {
	t, err := time.Parse("2006-01-02T15:04", text)
	if err != nil {
		if t, err = time.Parse("2006-01-02", text); err != nil {
			return 0
		}
	}
	return minuteOfYear(t)
}

func minuteOfYear(t time.Time) int64 {
	return ((int64(t.Month())-1)*31+int64(t.Day())-1)*dayMinutes + int64(t.Hour()*60+t.Minute())
}

// local is a moment on the clocks of a zone, read once a scan.
type local struct {
	read      bool
	day       int // of the week, from Monday on
	minute    int // of the day
	yearMoves int64
	short     bool // the year has no 29 February
}

func (l *local) at(t time.Time, zone *time.Location) {
	if l.read {
		return
	}
	here := t.In(zone)
	l.short = short(here.Year())
	l.read, l.day, l.minute, l.yearMoves = true, (int(here.Weekday())+6)%7, here.Hour()*60+here.Minute(), minuteOfYear(here)
}

// spansHold says that a moment is within a window.
func (c *clock) spansHold(t time.Time, l *local, zone *time.Location) bool {
	if len(c.windows) == 0 {
		return true
	}
	if !c.yearly {
		now := t.Unix()
		for i := range c.windows {
			if now >= c.windows[i].from && now < c.windows[i].until {
				return true
			}
		}
		return false
	}
	l.at(t, zone)
	for _, w := range c.windows {
		w = w.in(l.short)
		if w.from < w.until && l.yearMoves >= w.from && l.yearMoves < w.until ||
			w.from >= w.until && (l.yearMoves >= w.from || l.yearMoves < w.until) {
			return true
		}
	}
	return false
}

// weekHolds says that a moment is on one of the days, within the hours.
func (c *clock) weekHolds(t time.Time, l *local, zone *time.Location) bool {
	if c.days == 0 && len(c.hours) == 0 {
		return true
	}
	l.at(t, zone)
	if len(c.hours) == 0 {
		return c.on(l.day)
	}
	for _, h := range c.hours {
		switch {
		case h.from < h.until:
			if l.minute >= h.from && l.minute < h.until && c.on(l.day) {
				return true
			}
		case l.minute >= h.from && c.on(l.day), l.minute < h.until && c.on((l.day+6)%7):
			return true
		}
	}
	return false
}

func (c *clock) on(day int) bool { return c.days == 0 || c.days&(1<<day) != 0 }

// zones that were looked up; making one takes long.
var zones sync.Map

// zoneNamed is a zone of the time zone database; UTC where there is none of that name.
func zoneNamed(name string) *time.Location {
	if z, ok := zones.Load(name); ok {
		return z.(*time.Location)
	}
	out := time.UTC
	if full, ok := content.ZoneNamed(name); ok && full != "" {
		if z, err := time.LoadLocation(full); err == nil {
			out = z
		}
	}
	zones.Store(name, out)
	return out
}

// changes are the moments within a span at which the answer to a time question may become another, in order, with its start.
func (s *Set) changes(from, until time.Time) (out []time.Time) {
	out = append(out, from)
	add := func(t time.Time) {
		if t.After(from) && t.Before(until) {
			out = append(out, t)
		}
	}
	first := from.In(s.zone)
	for i := range s.rules {
		c := &s.rules[i].clock
		for _, w := range c.windows {
			if !c.yearly {
				add(time.Unix(w.from, 0))
				add(time.Unix(w.until, 0))
				continue
			}
			for year := first.Year() - 1; year <= until.In(s.zone).Year(); year++ {
				in := w.in(short(year))
				add(yearMoment(year, in.from, s.zone))
				add(yearMoment(year, in.until, s.zone))
			}
		}
		if c.days == 0 && len(c.hours) == 0 {
			continue
		}
		for day := 0; ; day++ {
			midnight := time.Date(first.Year(), first.Month(), first.Day()+day, 0, 0, 0, 0, s.zone)
			if !midnight.Before(until) {
				break
			}
			add(midnight)
			for _, h := range c.hours {
				add(time.Date(first.Year(), first.Month(), first.Day()+day, 0, h.from, 0, 0, s.zone))
				add(time.Date(first.Year(), first.Month(), first.Day()+day, 0, h.until, 0, 0, s.zone))
			}
		}
	}
	slices.SortFunc(out, time.Time.Compare)
	return slices.CompactFunc(out, time.Time.Equal)
}

// yearMoment is a minute of a year of 12 × 31 days in a year; 30 and 31 February are in March.
func yearMoment(year int, minutes int64, zone *time.Location) time.Time {
	day := minutes / dayMinutes
	month, date := time.Month(day/31+1), int(day%31)+1
	if last := time.Date(year, month+1, 0, 0, 0, 0, 0, zone).Day(); date > last {
		return time.Date(year, month+1, 1, 0, 0, 0, 0, zone)
	}
	return time.Date(year, month, date, 0, int(minutes%dayMinutes), 0, 0, zone)
}
