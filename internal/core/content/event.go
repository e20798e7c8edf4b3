package content

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"sodrik/internal/core/content/line"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Event is a date for a calendar. The payload is an iCalendar object with one VEVENT (RFC 5545). A timed event is written in
// UTC; one that repeats is written on the clocks of its zone with a VTIMEZONE, so that it stays at its hour when they change;
// one without a zone is at that hour wherever the phone is (clause 3.3.5, form 1). An all-day event has dates alone, its
// DTEND the day after (clause 3.6.1).
//
// UID and DTSTAMP are mandatory; having no clock, the core derives both from the job: the same job is the same event.
type Event struct {
	Title, Location, Description, URL string
	Start, End, Timezone              string // as in the job
	AllDay                            bool
	Alarm                             int // minutes before the start, −1 for none
	Repeat                            Repeat
	UID                               string // of an event that came with one

	from, to time.Time      // on the clocks of the zone, or as dates; to is zero where the job has no end
	zone     *time.Location // nil for none
	until    time.Time      // a date
}

// Repeat says how an event comes again; Every is "" where it does not.
type Repeat struct {
	Every    string // one of Repeats
	Interval int
	Count    int    // 0 for no limit
	Until    string // a date, "" for no limit
}

// Repeats are the values of "every".
var Repeats = []string{"day", "week", "month", "year"}

// Forms of a date and a time in the job (ISO 8601).
const (
	dateForm   = "2006-01-02"
	minuteForm = "2006-01-02T15:04"
)

// maxAlarm is four weeks.
const maxAlarm = 4 * 7 * 24 * 60

func repeats(get func(string) string) bool { return get("every") != "" }

var repeatFields = schema.Part{
	Fields: []schema.Field{
		{Key: "every", At: schema.In(func(r *Repeat) any { return &r.Every }), Bears: true, Called: "repetition", Label: "Every",
			Choices: schema.Words("", "never", "day", "day", "week", "week", "month", "month", "year", "year"),
			Schema:  `{"enum": ["day", "week", "month", "year"]}`},
		{Key: "interval", Type: schema.Whole, At: schema.In(func(r *Repeat) any { return &r.Interval }), Least: 1, Most: 99,
			Called: "repetition", Label: "Interval", Example: "1", When: repeats},
		{Key: "count", Type: schema.Whole, At: schema.In(func(r *Repeat) any { return &r.Count }), Least: 0, Most: 999,
			Called: "repetition", Label: "Times", Example: "no end", When: repeats,
			Along: func(draft any, _, _ string) patch.Patch { return patch.Without(draft, "/content/repeat/until") }},
		{Key: "until", Type: schema.Moment, At: schema.In(func(r *Repeat) any { return &r.Until }),
			Pattern: `^\d{4}-\d{2}-\d{2}$`, Def: "date",
			Called: "end of the repetition", Label: "Until", Example: "1 June 2027", When: repeats,
			Along: func(draft any, _, _ string) patch.Patch { return patch.Without(draft, "/content/repeat/count") }},
	},
	New:   func() any { return &Repeat{Interval: 1} },
	Rules: `"required": ["every"]`,
}

var eventFields = schema.Part{
	Fields: []schema.Field{
		{
			Key:      "title",
			Heads:    "event, what",
			Type:     schema.Line,
			At:       schema.In(func(e *Event) any { return &e.Title }),
			Required: true,
			Called:   "title",
			Label:    "Title",
		},
		{Key: "all_day", Type: schema.Flag, At: schema.In(func(e *Event) any { return &e.AllDay }), Called: "setting",
			Label: "All day", Along: wholeDays},
		{
			Key:      "start",
			Heads:    "date, begins, from, when",
			Type:     schema.Moment,
			At:       schema.In(func(e *Event) any { return &e.Start }),
			Required: true,
			Called:   "time",
			Label:    "Starts",
			Hours:    hours,
			Sample: func(get func(string) string) string {
				if get("all_day") != "" {
					return "20 March 2027"
				}
				return "20 March 2027, 10:00"
			},
			Note:  spelledOut,
			About: "2027-03-20T10:00 on the clocks of the time zone; 2027-03-20 where it lasts all day.",
		},
		{
			Key:     "end",
			Heads:   "until",
			Type:    schema.Moment,
			At:      schema.In(func(e *Event) any { return &e.End }),
			Called:  "time",
			Label:   "Ends",
			Example: "open",
			Note:    spelledOut,
			Hours:   hours,
			Put:     endsOn,
			About:   "As start. The last day where it lasts all day.",
		},
		{Key: "timezone", Type: schema.Line, At: schema.In(func(e *Event) any { return &e.Timezone }), Called: "time zone",
			Label: "Time zone", Lookup: "zones", Example: "London",
			When:  func(get func(string) string) bool { return get("all_day") == "" },
			About: "A name of the time zone database, such as Europe/London. Without one the hour is that of the phone."},
		{
			Key:     "location",
			Heads:   "place, venue",
			Type:    schema.Line,
			At:      schema.In(func(e *Event) any { return &e.Location }),
			Pattern: oneLine,
			Def:     "line",
			Label:   "Where",
		},
		{Key: "description", Type: schema.Lines, At: schema.In(func(e *Event) any { return &e.Description }),
			Called: "description", Label: "Descrip\u00adtion", Folded: "Description"},
		{Key: "url", At: schema.In(func(e *Event) any { return &e.URL }), Type: schema.Line, Called: "address", Label: "Web",
			Mode: "url", Folded: "Web address"},
		{Key: "alarm_minutes", Type: schema.Whole, Read: readAlarm, Write: alarm, Least: 0, Most: maxAlarm, Called: "reminder",
			Label: "Reminder",
			Hint:  "Minutes before the start: 60 is an hour, 1440 a day.", Folded: "A reminder", About: "Before the start."},
		{Key: "repeat", Type: schema.Object, Read: readRepeat, Write: repeated, Part: &repeatFields, Folded: "Repeats"},
		{Key: "uid", At: schema.In(func(e *Event) any { return &e.UID }), Pattern: oneLine, Def: "line", Off: true,
			About: "Of an entry that came with one; derived otherwise."},
	},
	New: func() any { return &Event{Alarm: -1} },
	Rules: `"if": {"required": ["all_day"], "properties": {"all_day": {"const": true}}},
		"then": {"properties": {"start": {"$ref": "#/$defs/date"}, "end": {"$ref": "#/$defs/date"}, "timezone": {"maxLength": 0}}},
		"else": {"properties": {"start": {"pattern": "T"}}}`,
}

var eventKind = Kind{Key: "event", Long: "description", Name: "Date", Outcome: "Someone notes a date",
	Calls: []string{"Put it in your calendar", "Save the date"}, Fields: &eventFields,
	Takes:   []Taker{{"begin:vcalendar", takeCalendar}, {"begin:vevent", takeCalendar}},
	Example: `{"kind": "event", "title": "Bulb Fair", "start": "2027-03-20T10:00", "end": "2027-03-20T16:00", "timezone": "Europe/London"}`}

func hours(get func(string) string) bool { return get("all_day") == "" }

// endsOn takes an hour alone for one of the day on which the event starts.
func endsOn(draft any, path, typed string) (patch.Patch, *problem.Problem) {
	value := schema.ParseMoment(typed)
	if hour, ok := schema.ParseHour(typed); ok {
		if start, _ := patch.Get(draft, "/content/start"); start != nil {
			if day, isText := start.(string); isText && len(day) >= len(dateForm) {
				value = day[:len(dateForm)] + "T" + hour
			}
		}
	}
	if strings.TrimSpace(typed) == "" {
		return patch.Without(draft, path), nil
	}
	return patch.Set(path, value), nil
}

// spelledOut spells a time out, so that a wrong day is noticed.
func spelledOut(value string, _ func(string) string) string { return SpelledOut(value) }

// SpelledOut writes a date, or a date and time, of the job in words; "" where it is none.
func SpelledOut(value string) string {
	e := &Event{Title: "x", Start: value, AllDay: !strings.Contains(value, "T")}
	from, message := e.moment(value)
	if message != "" {
		return ""
	}
	e.from = from
	return e.When()
}

// wholeDays is what changes along with all_day: whole days have no hour and no zone, others begin and end at one.
func wholeDays(draft any, _, typed string) (ops patch.Patch) {
	if typed != "" {
		ops = patch.Without(draft, "/content/timezone")
	}
	for i, key := range []string{"/start", "/end"} {
		v, _ := patch.Get(draft, "/content"+key)
		s, _ := v.(string)
		if day, _, hour := strings.Cut(s, "T"); typed != "" && hour {
			ops = append(ops, set(key, day)...)
		} else if typed == "" && len(s) == len(dateForm) {
			ops = append(ops, set(key, s+[]string{"T10:00", "T17:00"}[i])...)
		}
	}
	return ops
}

func readAlarm(o schema.Reader, part any) {
	if o.Has("alarm_minutes") {
		part.(*Event).Alarm = o.Int("alarm_minutes", 0, 0, maxAlarm)
	}
}

func alarm(part any) any {
	if m := part.(*Event).Alarm; m >= 0 {
		return m
	}
	return nil
}

func (e *Event) check(o *fields.Object) {
	if e.Title == "" && o.Sound("title") {
		o.Problem("title", "event.title", "is empty; type what the calendar should call it")
	}
	for key, s := range map[string]string{"title": e.Title, "location": e.Location, "uid": e.UID} {
		if hasControl(s, "") {
			o.Problem(key, "event.control", "holds a line break or another control character; it is one line")
		}
	}
	if hasControl(e.Description, "\n\r\t") {
		o.Problem("description", "event.control", "holds a control character")
	}
	if e.URL != "" {
		u := &URL{Raw: e.URL}
		if code, message := u.parse(); code != "" {
			o.Problem("url", code, "%s", message)
		}
		e.URL = u.Payload()
	}
	e.when(o)
	if o.Has("repeat") {
		e.ends(o.Object("repeat"))
	}
	if n := len(e.Payload()); o.Sound("start") && o.Sound("end") && n > MaxBytes {
		o.Problem("description", "event.long",
			"makes the whole %s bytes long; no code holds more than %s, and one that people can scan rarely more than 300",
			measure.Count(n), measure.Count(MaxBytes))
	}
}

// when reads start, end and zone.
func (e *Event) when(o *fields.Object) {
	if e.Timezone != "" {
		if e.AllDay {
			o.Problem("timezone", "event.zone",
				"is set, and an all-day event has none: it lasts from midnight to midnight wherever the phone is")
			return
		}
		e.Timezone = zoneNamed(e.Timezone)
		zone, ok := zoneOf(e.Timezone)
		if !ok {
			o.Problem("timezone", "event.zone", "is %s, which is no time zone; write a large town of it, such as London",
				quoted(e.Timezone))
			return
		}
		e.zone = zone
	}
	read := func(key, s string) (time.Time, bool) {
		t, message := e.moment(s)
		if message != "" {
			o.Problem(key, "event."+key, "%s", message)
			return t, false
		}
		if e.zone != nil {
			if t, _, message = local(t, e.zone); message != "" {
				o.Problem(key, "event.skipped", "%s", message)
				return t, false
			}
		}
		return t, true
	}
	if e.Start == "" {
		if o.Sound("start") {
			o.Problem("start", "event.start", "is empty; write a date and time, such as 20 March 2027, 10:00")
		}
		return
	}
	var ok bool
	if e.from, ok = read("start", e.Start); !ok || e.End == "" {
		return
	}
	if e.to, ok = read("end", e.End); !ok {
		return
	}
	switch {
	case e.to.Before(e.from):
		o.Problem("end", "event.order", "is before the start")
	case e.to.Equal(e.from) && !e.AllDay:
		o.Problem("end", "event.order", "is the same as the start; leave it out if the end is open")
	}
}

// moment reads a date, or a date and time, of the job.
func (e *Event) moment(s string) (time.Time, string) {
	day, dayErr := time.Parse(dateForm, s)
	minute, minuteErr := time.Parse(minuteForm, s)
	if minuteErr != nil {
		minute, minuteErr = time.Parse(minuteForm+":05", s)
	}
	_, zoned := time.Parse(time.RFC3339, s)
	switch {
	case e.AllDay && dayErr == nil:
		return day, ""
	case e.AllDay && minuteErr == nil:
		return day, "has an hour, and the event lasts all day; leave one of the two out"
	case !e.AllDay && minuteErr == nil:
		return minute, ""
	case !e.AllDay && dayErr == nil:
		return day, "has no time; write one such as 12:00 behind it, or choose all day"
	case zoned == nil:
		return day, "carries a zone of its own; write the hour on the clocks there, and the zone under timezone"
	}
	return day, "is " + quoted(s) + "; write a date and time, such as 20 March 2027, 10:00"
}

func readRepeat(o schema.Reader, part any) {
	if !o.Has("repeat") {
		return
	}
	r, into := o.Object("repeat"), repeatFields.New().(*Repeat)
	repeatFields.Read(r, into)
	if into.Every == "" {
		if r.Sound("every") && (r.Has("count") || r.Has("until") || r.Has("interval")) {
			r.Problem("every", "event.every", "is missing; it is one of %s", strings.Join(Repeats, ", "))
		}
		into = &Repeat{Until: into.Until, Count: into.Count}
	}
	part.(*Event).Repeat = *into
	r.Close()
}

func repeated(part any) any {
	if r := part.(*Event).Repeat; r.Every != "" {
		return repeatFields.Write(&r, nil).Map()
	}
	return nil
}

// ends holds the end of a repetition against its start.
func (e *Event) ends(r *fields.Object) {
	if e.Repeat.Until != "" {
		until, err := time.Parse(dateForm, e.Repeat.Until)
		switch {
		case err != nil:
			r.Problem("until", "event.until", "is %s; write a date, such as 1 June 2027", quoted(e.Repeat.Until))
		case e.Repeat.Count > 0:
			r.Problem("until", "event.until", "is set, and so is count; leave one of the two out")
		case !e.from.IsZero() && until.Format(dateForm) < e.from.Format(dateForm):
			r.Problem("until", "event.until", "is before the start")
		}
		e.until = until
	}
	if e.Repeat.Every == "" {
		e.Repeat = Repeat{}
	}
}

func (e *Event) Kind() string { return "event" }

// id is derived from what the event says, so that scanning it twice adds it once.
func (e *Event) id() string {
	if e.UID != "" {
		return e.UID
	}
	sum := sha256.Sum256([]byte(strings.Join([]string{e.Title, e.from.UTC().Format(utcForm), e.Location}, "\x00")))
	return hex.EncodeToString(sum[:6])
}

const utcForm, floatForm, dayForm = "20060102T150405Z", "20060102T150405", "20060102"

// Payload is the iCalendar object.
func (e *Event) Payload() string {
	var w line.Writer
	w.Raw("BEGIN", "VCALENDAR")
	w.Raw("VERSION", "2.0")
	w.Raw("PRODID", "-//Sodrik//EN")
	zoned := e.zone != nil && e.zone != time.UTC && e.Repeat.Every != ""
	if zoned {
		last := e.from.AddDate(5, 0, 0)
		if !e.until.IsZero() {
			last = e.until
		}
		timezone(&w, e.zone, e.from, last)
	}
	w.Raw("BEGIN", "VEVENT")
	w.Text("UID", e.id())
	w.Raw("DTSTAMP", e.from.UTC().Format(utcForm))
	stamp := func(name string, t time.Time) {
		switch {
		case e.AllDay:
			w.Raw(name+";VALUE=DATE", t.Format(dayForm))
		case zoned:
			w.Raw(name+";TZID="+e.zone.String(), t.Format(floatForm))
		case e.zone != nil:
			w.Raw(name, t.UTC().Format(utcForm))
		default:
			w.Raw(name, t.Format(floatForm))
		}
	}
	stamp("DTSTART", e.from)
	if !e.to.IsZero() {
		end := e.to
		if e.AllDay {
			end = end.AddDate(0, 0, 1)
		}
		stamp("DTEND", end)
	}
	w.Text("SUMMARY", e.Title)
	w.Text("LOCATION", e.Location)
	w.Text("DESCRIPTION", e.Description)
	w.Raw("URL", e.URL)
	w.Raw("RRULE", e.rule())
	if e.Alarm >= 0 {
		w.Raw("BEGIN", "VALARM")
		w.Raw("ACTION", "DISPLAY")
		w.Text("DESCRIPTION", e.Title)
		w.Raw("TRIGGER", fmt.Sprintf("-PT%dM", e.Alarm))
		w.Raw("END", "VALARM")
	}
	w.Raw("END", "VEVENT")
	w.Raw("END", "VCALENDAR")
	return w.String()
}

// rule is the RRULE (RFC 5545, clause 3.3.10); UNTIL is of the same sort as DTSTART, in UTC where that has a zone.
func (e *Event) rule() string {
	r := e.Repeat
	if r.Every == "" {
		return ""
	}
	out := "FREQ=" + map[string]string{"day": "DAILY", "week": "WEEKLY", "month": "MONTHLY", "year": "YEARLY"}[r.Every]
	if r.Interval > 1 {
		out += fmt.Sprintf(";INTERVAL=%d", r.Interval)
	}
	switch {
	case r.Count > 0:
		out += fmt.Sprintf(";COUNT=%d", r.Count)
	case e.until.IsZero():
	case e.AllDay:
		out += ";UNTIL=" + e.until.Format(dayForm)
	case e.zone == nil:
		out += ";UNTIL=" + e.until.Format(dayForm) + "T235959"
	default:
		y, m, d := e.until.Date()
		out += ";UNTIL=" + time.Date(y, m, d, 23, 59, 59, 0, e.zone).UTC().Format(utcForm)
	}
	return out
}

// When says in words when it is: "Sat 20 March 2027, 10:00 to 16:00, London". In a zone of the phone's own the hours would
// differ; those here are the clocks of the place.
func (e *Event) When() string {
	if e.from.IsZero() {
		return ""
	}
	const day = "Mon 2 January 2006"
	out := e.from.Format(day)
	switch {
	case e.AllDay && !e.to.IsZero() && !e.to.Equal(e.from):
		out += " to " + e.to.Format(day)
	case e.AllDay:
		out += ", all day"
	default:
		out += ", " + e.from.Format("15:04")
		if !e.to.IsZero() {
			if e.to.Format(dateForm) == e.from.Format(dateForm) {
				out += " to " + e.to.Format("15:04")
			} else {
				out += " to " + e.to.Format(day+", 15:04")
			}
		}
		if e.zone != nil {
			out += ", " + zoneCity(e.zone.String())
		}
	}
	return out
}

// On gives the event on the clocks of another zone, for telling when it is.
func (e *Event) On(zone string) *Event {
	l, ok := zoneOf(zone)
	if e.zone == nil || !ok || e.AllDay {
		return e
	}
	out := *e
	out.zone, out.from = l, e.from.In(l)
	if !e.to.IsZero() {
		out.to = e.to.In(l)
	}
	return &out
}

// Again says how it repeats, "" where it does not.
func (e *Event) Again() string {
	r := e.Repeat
	if r.Every == "" {
		return ""
	}
	out := "Every " + r.Every
	if r.Interval > 1 {
		out = fmt.Sprintf("Every %d %ss", r.Interval, r.Every)
	}
	if r.Count > 0 {
		out += fmt.Sprintf(", %d times", r.Count)
	} else if !e.until.IsZero() {
		out += ", until " + e.until.Format("2 January 2006")
	}
	return out
}

// Summary gives title and day.
func (e *Event) Summary() Summary {
	object := brief(e.Title, 40)
	if !e.from.IsZero() {
		object += ", " + e.from.Format("2 January 2006")
	}
	return Summary{"Adds", object}
}

// Search is what stands in the calendar.
func (e *Event) Search() string { return strings.Join([]string{e.Title, e.When(), e.Location}, " ") }

// Phone shows the entry.
func (e *Event) Phone() Offer {
	o := Offer{Action: "Adds to the calendar", Strong: e.Title, Lines: []string{e.When()}}
	if again := e.Again(); again != "" {
		o.Lines = append(o.Lines, again)
	}
	if e.Location != "" {
		o.Lines = append(o.Lines, e.Location)
	}
	if e.Alarm >= 0 {
		o.Lines = append(o.Lines, "Reminds "+before(e.Alarm))
	}
	if e.Description != "" {
		o.Lines = append(o.Lines, strings.Split(e.Description, "\n")...)
	}
	if e.URL != "" {
		o.Lines = append(o.Lines, e.URL)
	}
	return o
}

// before says how long before the start, in the largest whole unit.
func before(minutes int) string {
	for _, unit := range []struct {
		length int
		words  string
	}{{7 * 24 * 60, "week"}, {24 * 60, "day"}, {60, "hour"}, {1, "minute"}} {
		switch n := minutes / unit.length; {
		case n == 0 || minutes%unit.length != 0:
		case n == 1:
			return "1 " + unit.words + " before"
		default:
			return itoa(n) + " " + unit.words + "s before"
		}
	}
	return "when it starts"
}

// Cautions tell of hours that are not sure.
func (e *Event) Cautions() (out []Caution) {
	if !e.AllDay && e.zone == nil && !e.from.IsZero() {
		out = append(out, Caution{Code: "event.floating", Message: "The event has no time zone: it stands at " +
			e.from.Format("15:04") + " in every phone, wherever that is set to. Name the zone of the place."})
	}
	if e.zone != nil {
		if t, _ := time.Parse(minuteForm, e.Start); !t.IsZero() {
			if _, twice, _ := local(t, e.zone); twice {
				out = append(out, Caution{Code: "event.twice", Message: "The clocks show " + t.Format("15:04") +
					" twice that night. The first is meant."})
			}
		}
	}
	return out
}

// optional parts of an event.
var eventParts = []struct {
	path, words string
	set         func(e *Event, s string)
	get         func(e *Event) string
}{
	{"/description", "the description", func(e *Event, s string) { e.Description = s }, func(e *Event) string {
		return e.Description
	}},
	{"/location", "the location", func(e *Event, s string) { e.Location = s }, func(e *Event) string { return e.Location }},
	{"/url", "the web address", func(e *Event, s string) { e.URL = s }, func(e *Event) string { return e.URL }},
}

// Savings: each part that a calendar can do without.
func (e *Event) Savings() (out []Saving) {
	cut := func(words, path string, change func(*Event)) {
		then := *e
		change(&then)
		out = append(out, Saving{"Leave out " + words, "/content" + path, drop(path), &then})
	}
	for _, p := range eventParts {
		if p.get(e) != "" {
			cut(p.words, p.path, func(e *Event) { p.set(e, "") })
		}
	}
	if e.Alarm >= 0 {
		cut("the reminder", "/alarm_minutes", func(e *Event) { e.Alarm = -1 })
	}
	if len(e.UID) > 12 { // the derived one is as long
		cut("the identifier it came with", "/uid", func(e *Event) { e.UID = "" })
	}
	return out
}

// Adding fills each empty part.
func (e *Event) Adding() (out []Saving) {
	for _, p := range eventParts {
		if p.get(e) == "" {
			then := *e
			p.set(&then, sample)
			out = append(out, Saving{Field: "/content" + p.path, Then: &then})
		}
	}
	if e.Alarm < 0 {
		then := *e
		then.Alarm = 60
		out = append(out, Saving{Field: "/content/alarm_minutes", Then: &then})
	}
	return out
}
