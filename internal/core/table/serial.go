package table

import (
	"context"
	"encoding/xml"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
)

// shown is what a cell shows of its number.
type shown int

const (
	asNumber shown = iota
	asDate         // a day, a time, or both
	asPassed       // hours, minutes or seconds that have passed
)

// readStyles finds which styles of cells show a date or a time (ECMA-376, 18.8).
func (b *book) readStyles(ctx context.Context, name string) error {
	custom := map[string]string{}
	within := false
	return b.walk(ctx, name, func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "numFmt":
				custom[attr(t, "numFmtId")] = attr(t, "formatCode")
			case "cellXfs":
				within = true
			case "xf":
				if within {
					id := attr(t, "numFmtId")
					format, own := custom[id]
					n, _ := strconv.Atoi(id)
					if !own {
						b.shows = append(b.shows, formatShows(n))
					} else {
						b.shows = append(b.shows, codeShows(format))
					}
				}
			}
		case xml.EndElement:
			if t.Name.Local == "cellXfs" {
				within = false
			}
		}
		return nil
	})
}

// formatShows is what the formats without a code of their own show (ECMA-376, 18.8.30): those of all languages, and those of East
// Asian ones and of Thai.
func formatShows(id int) shown {
	switch {
	case id == 46:
		return asPassed
	case id >= 14 && id <= 22, id >= 27 && id <= 36, id >= 45 && id <= 47, id >= 50 && id <= 58, id >= 71 && id <= 81:
		return asDate
	}
	return asNumber
}

// codeShows is what the code of a format shows, beside what stands in it word for word: quoted, after a stroke, a low line or a
// star, or in brackets, where only what has passed is a time: [h].
func codeShows(format string) shown {
	for i := 0; i < len(format); i++ {
		switch c := format[i] | 0x20; {
		case format[i] == ';':
			return asNumber // how negative numbers look
		case format[i] == '"':
			end := strings.IndexByte(format[i+1:], '"')
			if end < 0 {
				return asNumber
			}
			i += end + 1
		case format[i] == '\\', format[i] == '_', format[i] == '*':
			i++
		case format[i] == '[':
			end := strings.IndexByte(format[i:], ']')
			if end < 0 {
				return asNumber
			}
			if in := strings.ToLower(format[i+1 : i+end]); in != "" && (strings.Trim(in, "h") == "" || strings.Trim(in,
				"m") == "" ||
				strings.Trim(in, "s") == "") {
				return asPassed
			}
			i += end
		case c == 'y', c == 'm', c == 'd', c == 'h', c == 's':
			return asDate
		}
	}
	return asNumber
}

// dateOf writes a number of days as ISO 8601: a day, a day with the time, or below one day a time alone, to the second; what has
// passed as hours and minutes, 30:15. ok is false for what is no such number, or shown as none.
func dateOf(value string, as shown, from04 bool) (text string, ok bool) {
	if as == asNumber {
		return "", false
	}
	days, err := strconv.ParseFloat(value, 64)
	const last = 2_958_465 // 31 December 9999
	if err != nil || !(days >= 0 && days < last+1) {
		return "", false
	}
	seconds := int64(math.Round(days * 86_400))
	day, clock := seconds/86_400, seconds%86_400
	at := time.Unix(clock, 0).UTC()
	hours := at.Format("15:04:05")
	hours = strings.TrimSuffix(hours, ":00")
	if as == asPassed {
		return fmt.Sprintf("%02d", seconds/3600) + hours[2:], true
	}
	epoch := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	switch {
	case day == 0 && !from04:
		return hours, true
	case day == 60 && !from04:
		return "1900-02-29", true // a day that there was not, and that spreadsheets count (ECMA-376, 18.17.4.1)
	case day < 60 && !from04:
		epoch = epoch.AddDate(0, 0, 1)
	case from04:
		epoch = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	date := epoch.AddDate(0, 0, int(day)).Format("2006-01-02")
	if clock == 0 {
		return date, true
	}
	return date + "T" + hours, true
}

// numberOf writes a number in full: digits as they were saved, anything else without an exponent and with no more digits than
// tell it from its neighbours.
func numberOf(value string) string {
	if strings.Trim(value, "0123456789") == "" {
		return value
	}
	n, err := strconv.ParseFloat(value, 64)
	if err != nil || math.Abs(n) >= 1e21 || n != 0 && math.Abs(n) < 1e-9 {
		return value
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}
