package recognise

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// months by their names in English, German, French, Spanish, Italian and Dutch, and how these are shortened.
var months = func() map[string]time.Month {
	out := map[string]time.Month{}
	for _, list := range []string{
		"january february march april may june july august september october november december",
		"jan feb mar apr may jun jul aug sep oct nov dec", "jan feb mar apr may jun jul aug sept oct nov dec",
		"januar februar märz april mai juni juli august september oktober november dezember",
		"jänner feber mär apr mai jun jul aug sep okt nov dez",
		"janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
		"janv févr mars avr mai juin juil août sept oct nov déc",
		"enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
		"gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
		"januari februari maart april mei juni juli augustus september oktober november december",
	} {
		for i, name := range strings.Fields(list) {
			out[name] = time.Month(i + 1)
		}
	}
	return out
}()

const (
	weekday = `(?:(?:on|am|le|el|il|op|at)\s+)?(?:` +
		`(?:mon|tues?|wednes|wed|thurs?|fri|satur|sat|sun)(?:day)?|montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonnabend|sonntag|` +
		`mo|di|mi|do|fr|sa|so|lundi|mardi|mercredi|jeudi|vendredi|samedi|dimanche|lunes|martes|miércoles|jueves|viernes|sábado|domingo|` +
		`lunedì|martedì|mercoledì|giovedì|venerdì|sabato|domenica|maandag|dinsdag|woensdag|donderdag|vrijdag|zaterdag|zondag)\.?,?\s+`
	before = `(?i)(?:^|[\s,;:(–—-])(?:` + weekday + `)?(?:(?:on|am|den|le|el|il|op|the)\s+)?`
	hour   = `(\d{1,2})(?:\s?[:.h]\s?(\d{2}))?\s?(am\b|pm\b|a\.m\.|p\.m\.|uhr\b|uur\b|h\b)?`
)

// days are the ways to write a date, each with its year, month and day.
var days = []struct {
	form             func() *regexp.Regexp
	year, month, day int // groups
}{
	{later(before +
		`(\d{1,2})(?:st|nd|rd|th|er|\.|º|°)?\s+(?:de\s+|of\s+)?(\p{L}{3,10})\.?,?\s+(?:de\s+|del\s+)?(\d{4})\b`), 3, 2, 1},
	{later(before + `(\p{L}{3,10})\.?\s+(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})\b`), 3, 1, 2},
	{later(before + `(\d{4})-(\d{2})-(\d{2})\b`), 1, 2, 3},
	{later(before + `(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4})\b`), 3, 2, 1},
	{later(before + `(\d{1,2})/(\d{1,2})/(\d{4})\b`), 3, 2, 1},
}

var (
	aTime = later(`(?i)^[\s,;:(–—-]*(?:(?:von|from|de|dalle|das|van|um|at|om|alle|ore|a las|à|ab|vanaf|dès|desde|ore)\s+)?` +
		hour + `(?:\s?(?:–|—|-|to|bis|à|a|alle|tot|until|till|y|e|en)\s?(?:las\s+)?` + hour + `)?`)
	edges = later(`(?i)(?:[\s,;:(–—-]|\b(?:on|am|le|el|il|op|at|den|uhr|uur)$)+$`)
)

// dayIn finds the first date of a text: what stands before and behind it. American slashes begin with the month.
func dayIn(s, region string) (day time.Time, ahead, behind string, ok bool) {
	for _, d := range days {
		at := d.form().FindStringSubmatchIndex(s)
		if at == nil {
			continue
		}
		group := func(i int) string { return strings.ToLower(s[at[2*i]:at[2*i+1]]) }
		year, _ := strconv.Atoi(group(d.year))
		month, _ := strconv.Atoi(group(d.month))
		if m, named := months[group(d.month)]; named {
			month = int(m)
		}
		n, _ := strconv.Atoi(group(d.day))
		if region == "US" && strings.Contains(s[at[0]:at[1]], "/") {
			month, n = n, month
		}
		day = time.Date(year, time.Month(month), n, 0, 0, 0, 0, time.UTC)
		if month < 1 || month > 12 || day.Day() != n || year < 1900 {
			continue
		}
		return day, s[:at[0]], s[at[1]:], true
	}
	return day, "", "", false
}

// clock is an hour and a minute of a match; said where something says that a number is an hour.
func clock(hours, minutes, half string) (text string, h int, said bool) {
	h, err := strconv.Atoi(hours)
	m, _ := strconv.Atoi(minutes)
	half = strings.ReplaceAll(strings.ToLower(half), ".", "")
	switch {
	case err != nil:
		return "", 0, false
	case half == "pm" && h < 12:
		h += 12
	case half == "am" && h == 12:
		h = 0
	}
	if h > 23 || m > 59 {
		return "", 0, false
	}
	return fmt.Sprintf("%02d:%02d", h, m), h, minutes != "" || half != ""
}

// Bounds of what is about one date: bytes of the text, and the first year, since older ones are history.
const (
	maxDate  = 400
	firstDay = 2000
)

// limit ends what stands before a date up to which, or from which, something holds: such a text is no appointment.
var limit = later(`(?i)(?:\b(?:until|till|by|before|since|from|as of|valid|bis|bis zum|ab|seit|vor dem|stand|gültig|hasta(?: el)?|` +
	`antes del|desde(?: el)?|jusqu'au|avant le|depuis(?: le)?|dès le|fino al|entro il|dal|prima del|tot|tot en met|voor|vanaf|sinds)|%)\s*$`)

// date reads a sentence or a few lines about something that takes place: its title ahead of the date, then the hours, then where.
// One without a year could be any.
func date(s, region string) (string, map[string]any) {
	if len(s) > maxDate {
		return "", nil
	}
	day, ahead, behind, ok := dayIn(s, region)
	if !ok || day.Year() < firstDay || limit().MatchString(ahead) {
		return "", nil
	}
	if _, _, _, again := dayIn(behind, region); again {
		return "", nil
	}
	title := edges().ReplaceAllString(strings.TrimSpace(ahead), "")
	on := day.Format("2006-01-02")
	values := map[string]any{"kind": "event", "start": on, "all_day": true}
	if at := aTime().FindStringSubmatch(behind); at != nil {
		from, h, said := clock(at[1], at[2], at[3])
		to, end, saidEnd := clock(at[4], at[5], at[6])
		if half := strings.ToLower(at[6]); at[3] == "" && strings.HasPrefix(half, "p") && h+12 < end { // 1–4pm
			from, _, _ = clock(at[1], at[2], half)
		}
		if from != "" && (said || saidEnd) {
			delete(values, "all_day")
			values["start"] = on + "T" + from
			if to != "" && to <= from { // past midnight
				on = day.AddDate(0, 0, 1).Format("2006-01-02")
			}
			if to != "" {
				values["end"] = on + "T" + to
			}
			behind = behind[len(at[0]):]
		}
	}
	where := strings.Trim(behind, " \n,;:–—-.)")
	if title == "" { // the date stands first
		title, where, _ = strings.Cut(where, "\n")
	}
	lines := strings.SplitN(title, "\n", 2)
	if len(lines) == 2 {
		describe(values, lines[1])
	}
	if title = strings.TrimSpace(lines[0]); title == "" || strings.Trim(title, "0123456789 ") == "" {
		return "", nil
	}
	values["title"] = title
	switch lines := strings.SplitN(where, "\n", 2); {
	case where == "":
	case len([]rune(where)) > 120 || inLineLink().MatchString(where):
		describe(values, where)
	case len(lines) == 2:
		values["location"] = strings.TrimSpace(lines[0])
		describe(values, lines[1])
	default:
		values["location"] = where
	}
	return "A date for the calendar", values
}

// describe adds lines to the description of an event.
func describe(values map[string]any, more string) {
	was, _ := values["description"].(string)
	values["description"] = strings.TrimSpace(was + "\n" + more)
}
