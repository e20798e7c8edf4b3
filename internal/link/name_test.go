package link

import (
	"strings"
	"testing"

	"sodrik/internal/code"
)

// TestCalled: a code that is led through a link is called by what it does, as before, and keeps a name that somebody gave it.
func TestCalled(t *testing.T) {
	t.Parallel()
	s := open(t)
	for job, want := range map[string]string{
		`{"content":{"kind":"contact","given":"Ines","family":"Okafor-Lindqvist"}}`:            "Ines Okafor-Lindqvist",
		`{"content":{"kind":"url","url":"marrowby.example/fair"}}`:                             "marrowby.example/fair",
		`{"name":"Gate","content":{"kind":"url","url":"marrowby.example/gate"}}`:               "Gate",
		`{"content":{"kind":"event","title":"Bulb fair","start":"2027-03-20","all_day":true}}`: "Bulb fair",
	} {
		t.Run(want, func(t *testing.T) {
			if c := turn(t, s, create(t, s, job)); !strings.HasPrefix(c.Name(), want) {
				t.Errorf("it is called %q, want %q", c.Name(), want)
			}
		})
	}
	long := "x" + strings.Repeat("ü", 100) // of two bytes each, so that the 80th is the first of one
	if c := turn(t, s, create(t, s, `{"content":{"kind":"contact","given":"`+long+`"}}`)); len(c.Name()) != 79+len("…") ||
		!strings.HasPrefix(long, strings.TrimSuffix(c.Name(), "…")) {
		t.Errorf("it is called %q, %d bytes", c.Name(), len(c.Name()))
	}
}

// TestDestinationWritten: a destination may be typed as people write it, and is one.
func TestDestinationWritten(t *testing.T) {
	for text, want := range map[string]string{"Text SOW to +44 113 496 0123": "sms", "Our guide: https://marrowby.example/guide": "url",
		"Wifi: Shed\nPassword: sow;thin": "wifi", "20 % off, code: SPRING20": "text", "Sold out!": "text", "Sow\nthin": "text"} {
		if values, bad := Destination(text, "GB"); bad != nil || values["kind"] != want {
			t.Errorf("%q: %v, %v", text, values, bad)
		}
	}
	for text, code := range map[string]string{"marrowby.example/a\nmarrowby.example/b": "lead.several",
		"marrowby.example spring": "url.host", "Sale: kale": "url.scheme"} {
		if values, bad := Destination(text, "GB"); bad == nil || bad.Code != code {
			t.Errorf("%q: %v, %v", text, values, bad)
		}
	}
}

// TestNoName: a code whose name was taken away is in lists by its link, and any other by none, since what it says is sealed.
func TestNoName(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	issue(t, s, id)
	if _, err := s.Codes.Edit(t.Context(), ws, id, code.Edit{Path: "/name", Text: "", Base: -1}); err != nil {
		t.Fatal(err)
	}
	list, err := s.Live(t.Context(), ws)
	if err != nil || len(list) == 0 || !strings.HasPrefix(list[0].Code, "go.marrowby.example/") {
		t.Errorf("%+v, %v", list, err)
	}
	plain := create(t, s, `{"content":{"kind":"text","text":"The key lies under the pot."}}`)
	name := "?"
	if err := s.Codes.DB.Pool.QueryRow(t.Context(), `SELECT name FROM codes WHERE id = $1`, plain).Scan(&name); err != nil ||
		name != "" {
		t.Errorf("what a code says stands unsealed: %q, %v", name, err)
	}
}
