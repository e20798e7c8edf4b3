package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/content"
)

// parsedByOthers has an outside parser of both formats read payloads.
func parsedByOthers(t *testing.T, payloads []string) (out []map[string]any) {
	t.Helper()
	if _, err := os.Stat("../assets/node_modules/ical.js"); err != nil {
		t.Fatal("the outside parser is not here; run assets/build once")
	}
	in, err := json.Marshal(payloads)
	if err != nil {
		t.Fatal(err)
	}
	cmd := node(t, "ical.mjs")
	cmd.Stdin = bytes.NewReader(in)
	var failed bytes.Buffer
	cmd.Stderr = &failed
	b, err := cmd.Output()
	if err != nil {
		t.Fatalf("%v: %s", err, failed.String())
	}
	if err := json.Unmarshal(b, &out); err != nil || len(out) != len(payloads) {
		t.Fatalf("%v: %s", err, b)
	}
	return out
}

// hostile are texts that have to be escaped.
var hostile = []string{"plain", `a,b;c:d"e\f`, "two\nlines", `ends in \`, `\n is not a line end`, "Σπόροι, 種; بذور 🌱", "a;;b,,c",
	`";:,`, strings.Repeat("long line ", 20) + "end"}

func TestOthersReadContacts(t *testing.T) {
	var payloads, want []string
	for _, format := range []string{"vcard3", "vcard4"} {
		for _, s := range hostile {
			// The outside parser takes \\; for an escaped semicolon: no part of a compound value may end in a backslash here.
			one := strings.ReplaceAll(s, "\n", " ") + "."
			s := s + "."
			c, problems := content.New(map[string]any{"kind": "contact", "format": format, "given": one,
				"family": "Ashdown; Penn, " + one, "organisation": one, "title": one,
				"phones":  []any{map[string]any{"number": "+441134960123", "type": "mobile"}},
				"emails":  []any{map[string]any{"address": "tamsin@marrowby.example"}},
				"urls":    []any{"https://marrowby.example/a;b,c"},
				"address": map[string]any{"street": s, "city": one, "postcode": "MB1 2AA"}, "birthday": "1984-03-27", "note": s})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			payloads = append(payloads, c.Payload())
			want = append(want, fmt.Sprint(map[string]any{"n": []any{[]any{"Ashdown; Penn, " + one, one, "", "", ""}},
				"fn": []any{c.(*content.Contact).Name()}, "org": []any{one}, "title": []any{one}, "tel": []any{"+441134960123"},
				"email": []any{"tamsin@marrowby.example"}, "url": []any{"https://marrowby.example/a;b,c"},
				"adr": []any{[]any{"", "", s, one, "", "MB1 2AA", ""}}, "bday": []any{"1984-03-27"}, "note": []any{s}}))
		}
	}
	for i, got := range parsedByOthers(t, payloads) {
		// it leaves \; in a text as it is, which RFC 2426, clause 4, has it unescape
		if strings.Contains(payloads[i], "VERSION:3.0") {
			for _, key := range []string{"fn", "title", "note"} {
				got[key].([]any)[0] = strings.ReplaceAll(got[key].([]any)[0].(string), `\;`, ";")
			}
		}
		if fmt.Sprint(got) != want[i] {
			t.Errorf("%q is read as\n%v, want\n%v", payloads[i], got, want[i])
		}
	}
}

func TestOthersReadDates(t *testing.T) {
	type expected struct {
		start, end  string
		occurrences []string
	}
	var payloads, texts []string
	var want []expected
	add := func(text, job string, e expected) {
		var v map[string]any
		if err := json.Unmarshal([]byte(job), &v); err != nil {
			t.Fatal(err)
		}
		v["kind"], v["title"], v["location"], v["description"], v["url"], v["alarm_minutes"] = "event",
			strings.ReplaceAll(text, "\n", " "), strings.ReplaceAll(text, "\n", " "), text, "https://marrowby.example/a;b,c", 90
		c, problems := content.New(v)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		payloads, texts, want = append(payloads, c.Payload()), append(texts, text), append(want, e)
	}
	for _, s := range hostile {
		add(s, `{"start":"2027-07-20T10:00","end":"2027-07-20T16:00","timezone":"Europe/London"}`,
			expected{"2027-07-20T09:00:00.000Z", "2027-07-20T15:00:00.000Z", nil})
	}
	add("x", `{"start":"2027-03-20","end":"2027-03-21","all_day":true}`, expected{"2027-03-20", "2027-03-22", nil})
	add("x", `{"start":"2027-03-20T10:00"}`, expected{"2027-03-20T10:00:00", "", nil})
	// Across both changes of the clocks, in zones of the north and the south, and one that has none.
	for _, zone := range []string{"Europe/London", "America/New_York", "Australia/Sydney", "Asia/Tokyo", "America/Sao_Paulo"} {
		l, err := time.LoadLocation(zone)
		if err != nil {
			t.Fatal(err)
		}
		var occurrences []string
		for n := range 40 {
			occurrences = append(occurrences, time.Date(2027, 3, 6+7*n, 10, 0, 0, 0, l).UTC().Format("2006-01-02T15:04:05.000Z"))
		}
		add("x", `{"start":"2027-03-06T10:00","end":"2027-03-06T12:00","timezone":"`+zone+`","repeat":{"every":"week"}}`,
			expected{occurrences[0], time.Date(2027, 3, 6, 12, 0, 0, 0, l).UTC().Format("2006-01-02T15:04:05.000Z"), occurrences})
	}
	for i, got := range parsedByOthers(t, payloads) {
		one := strings.ReplaceAll(texts[i], "\n", " ")
		for key, value := range map[string]string{"summary": one, "location": one, "description": texts[i],
			"url": "https://marrowby.example/a;b,c"} {
			if fmt.Sprint(got[key]) != fmt.Sprint([]any{value}) {
				t.Errorf("%s is read as %q, want %q", key, got[key], value)
			}
		}
		if got["start"] != want[i].start || want[i].end != "" && got["end"] != want[i].end || got["alarm"] != float64(-90*60) ||
			len(got["uid"].([]any)) != 1 || len(got["dtstamp"].([]any)) != 1 {
			t.Errorf("%s\nis read as %v, want %+v", payloads[i], got, want[i])
		}
		if want[i].occurrences != nil {
			var all []string
			for _, o := range got["occurrences"].([]any) {
				all = append(all, o.(string))
			}
			if strings.Join(all, " ") != strings.Join(want[i].occurrences, " ") {
				t.Errorf("%s\ncomes at %v, want %v", payloads[i], all, want[i].occurrences)
			}
		}
	}
}
