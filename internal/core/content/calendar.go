package content

import (
	"encoding/json"
	"regexp"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/content/line"
)

// takeCalendar reads the first event of a text.
func takeCalendar(text string) (map[string]any, bool) {
	events := Events(text)
	if len(events) == 0 {
		return nil, false
	}
	return events[0], true
}

// Events takes each VEVENT of a text, such as an .ics file, for the fields of an event. What has no field is left out; a
// rule of repetition that has none is kept as it is written, so that reading the fields names it.
func Events(text string) (out []map[string]any) {
	var e map[string]any
	var inside []string
	var began, ended line.Line
	lasts := ""
	for _, l := range line.Parse(text) {
		if l.Name == "BEGIN" {
			inside = append(inside, strings.ToUpper(l.Value))
			if inside[len(inside)-1] == "VEVENT" {
				e, began, ended, lasts = map[string]any{"kind": "event"}, line.Line{}, line.Line{}, ""
			}
			continue
		}
		if len(inside) == 0 {
			continue
		}
		switch at := inside[len(inside)-1]; {
		case l.Name == "END":
			inside = inside[:len(inside)-1]
			if at == "VEVENT" && e != nil {
				timed(e, began, ended, lasts)
				out = append(out, e)
				e = nil
			}
		case at == "VALARM" && e != nil && l.Name == "TRIGGER":
			if m, ok := minutesBefore(l.Value); ok && e["alarm_minutes"] == nil {
				e["alarm_minutes"] = json.Number(strconv.Itoa(m))
			}
		case at != "VEVENT" || e == nil:
		case l.Name == "DTSTART":
			began = l
		case l.Name == "DTEND":
			ended = l
		case l.Name == "DURATION":
			lasts = l.Value
		case l.Name == "RRULE":
			e["repeat"] = repeatOf(l.Value)
		default:
			key := map[string]string{"SUMMARY": "title", "LOCATION": "location", "DESCRIPTION": "description", "UID": "uid",
				"URL": "url"}[l.Name]
			if key == "url" {
				put(e, key, l.Value)
			} else if key != "" {
				put(e, key, line.Unescape(l.Value))
			}
		}
	}
	return out
}

// timed turns DTSTART with DTEND or DURATION into start, end and zone; a UID that would be derived anyway goes.
func timed(e map[string]any, began, ended line.Line, lasts string) {
	start, zone, allDay := stampOf(began)
	put(e, "start", start)
	put(e, "timezone", zone)
	if allDay {
		e["all_day"] = true
	}
	if until, ok := e["repeat"].(map[string]any); ok {
		if s, _ := until["until"].(string); s != "" {
			until["until"] = untilDay(s, zone)
		}
	}
	end := ""
	if ended.Name != "" {
		end, _, _ = stampIn(ended, zone)
	} else if d, ok := duration(lasts); ok {
		if t, err := time.Parse(minuteForm, start); err == nil {
			end = t.Add(d).Format(minuteForm)
		} else if t, err := time.Parse(dateForm, start); err == nil {
			end = t.Add(d).Format(dateForm)
		}
	}
	if allDay {
		if t, err := time.Parse(dateForm, end); err == nil {
			end = t.AddDate(0, 0, -1).Format(dateForm)
		}
		if end == start || end < start {
			end = ""
		}
	}
	if end != start {
		put(e, "end", end)
	}
	if uid, ok := e["uid"]; ok { // one that would be derived anyway is not kept
		delete(e, "uid")
		if c, _ := New(e); c.(*Event).id() != uid {
			e["uid"] = uid
		}
	}
}

// stampOf reads a date or a date and time with its zone.
func stampOf(l line.Line) (text, zone string, day bool) {
	zone = l.Param("TZID")
	if strings.HasSuffix(l.Value, "Z") {
		zone = "UTC"
	}
	if i := strings.LastIndex(zone, "/"); i > 0 { // some programs put a path in front of the name
		if j := strings.LastIndex(zone[:i], "/"); j >= 0 {
			if _, ok := zoneOf(zone); !ok {
				zone = zone[j+1:]
			}
		}
	}
	text, day = plainStamp(l.Value)
	if day {
		zone = ""
	}
	return text, zone, day
}

// stampIn reads a stamp on the clocks of a zone, where its own is another.
func stampIn(l line.Line, zone string) (text, own string, day bool) {
	text, own, day = stampOf(l)
	from, known := zoneOf(own)
	to, wanted := zoneOf(zone)
	if day || own == zone || !known || !wanted {
		return text, own, day
	}
	if t, err := time.ParseInLocation(minuteForm, text, from); err == nil {
		text = t.In(to).Format(minuteForm)
	}
	return text, zone, day
}

// plainStamp brings 20270320T100000Z into the form of the job; what is no date stays as it is.
func plainStamp(s string) (text string, day bool) {
	s = strings.TrimSuffix(strings.TrimSpace(s), "Z")
	if t, err := time.Parse(floatForm, s); err == nil {
		if t.Second() != 0 {
			return t.Format(minuteForm + ":05"), false
		}
		return t.Format(minuteForm), false
	}
	if t, err := time.Parse(dayForm, s); err == nil {
		return t.Format(dateForm), true
	}
	return s, false
}

// untilDay is the day on the clocks of the zone that an UNTIL falls on.
func untilDay(s, zone string) string {
	if t, err := time.Parse(utcForm, s); err == nil {
		if l, ok := zoneOf(zone); ok {
			t = t.In(l)
		}
		return t.Format(dateForm)
	}
	text, _ := plainStamp(s)
	day, _, _ := strings.Cut(text, "T")
	return day
}

var durationForm = regexp.MustCompile(
	`^([+-])?P(?:(\d{1,4})W)?(?:(\d{1,5})D)?(?:T(?:(\d{1,5})H)?(?:(\d{1,6})M)?(?:(\d{1,6})S)?)?$`)

// duration reads RFC 5545, clause 3.3.6.
func duration(s string) (time.Duration, bool) {
	m := durationForm.FindStringSubmatch(s)
	if m == nil {
		return 0, false
	}
	var d time.Duration
	for i, unit := range []time.Duration{7 * 24 * time.Hour, 24 * time.Hour, time.Hour, time.Minute, time.Second} {
		n, _ := strconv.Atoi(m[i+2])
		d += time.Duration(n) * unit
	}
	if m[1] == "-" {
		d = -d
	}
	return d, true
}

func minutesBefore(s string) (int, bool) {
	d, ok := duration(s)
	if !ok || d > 0 {
		return 0, false
	}
	return int(-d / time.Minute), true
}

// repeatOf takes an RRULE apart. Parts beyond frequency, interval, count and end are kept under their name, which reading
// the fields refuses.
func repeatOf(rule string) map[string]any {
	out := map[string]any{}
	for _, part := range strings.Split(rule, ";") {
		key, value, _ := strings.Cut(part, "=")
		switch strings.ToUpper(key) {
		case "FREQ":
			every := map[string]string{"DAILY": "day", "WEEKLY": "week", "MONTHLY": "month",
				"YEARLY": "year"}[strings.ToUpper(value)]
			if every == "" {
				every = strings.ToLower(value)
			}
			out["every"] = every
		case "INTERVAL", "COUNT":
			if n, err := strconv.Atoi(value); err == nil && !(strings.EqualFold(key, "INTERVAL") && n == 1) {
				out[strings.ToLower(key)] = json.Number(strconv.Itoa(n))
			}
		case "UNTIL":
			out["until"] = value
		case "WKST":
		default:
			out[strings.ToLower(key)] = value
		}
	}
	return out
}
