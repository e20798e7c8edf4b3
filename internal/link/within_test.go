package link

import (
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
)

// TestWithin: a destination that is no address is changed field by field. What does not fit is kept as it was typed and taken as
// soon as it fits; another destination drops it.
func TestWithin(t *testing.T) {
	s := open(t)
	id := create(t, s, `{"name":"Fair","content":{"kind":"event","title":"Open evening","start":"2027-03-12T18:00",
		"end":"2027-03-12T20:00","timezone":"Europe/London"}}`)
	turn(t, s, id)
	edit := func(key, text string) error {
		_, err := s.Edit(t.Context(), ws, id, map[string]string{key: text}, "GB", 0)
		return err
	}
	event := func() *content.Event {
		e, is := led(t, s, id).Draft.To.(*content.Event)
		if !is {
			t.Fatalf("it leads to %+v", led(t, s, id).Draft.To)
		}
		return e
	}
	if err := edit("to/title", "Late evening"); err != nil || event().Title != "Late evening" {
		t.Fatal(err, event())
	}
	err := edit("to/start", "13 March 2027, 18:00")
	if problems, is := code.IsProblem(err); !is || problems[0].Field != "/to/start" || !strings.Contains(problems[0].Message, "“Ends” wrong, which is before the start") {
		t.Fatal(err)
	}
	if l := led(t, s, id); l.Refused["to/start"].Text != "13 March 2027, 18:00" || event().Start != "2027-03-12T18:00" {
		t.Errorf("%+v, %+v", l.Refused, event())
	}
	if _, err := s.Codes.Issue(t.Context(), ws, id); err == nil {
		t.Error("it is handed over with a start that is refused")
	}
	if err := edit("to/end", "13 March 2027, 21:00"); err != nil || event().Start != "2027-03-13T18:00" || len(led(t, s,
		id).Refused) > 0 {
		t.Fatal(err, event(), led(t, s, id).Refused)
	}
	if err := edit("to/end", "soon"); err == nil {
		t.Error("an end is soon")
	}
	if err := edit("to/title", "Open day"); err != nil || event().Title != "Open day" || led(t, s,
		id).Refused["to/end"].Text != "soon" {
		t.Error(err, event(), led(t, s, id).Refused)
	}
	if err := edit("to/colour", "pine"); !refused(err, "/to/colour") {
		t.Error(err)
	}
	if err := edit("to", "Sow under glass from March"); err != nil || len(led(t, s, id).Refused) > 0 {
		t.Fatal(err, led(t, s, id).Refused)
	}
	if err := edit("to/text", "Sold out"); err != nil {
		t.Fatal(err)
	}
	if text, is := led(t, s, id).Draft.To.(*content.Text); !is || text.Text != "Sold out" {
		t.Errorf("%+v", led(t, s, id).Draft.To)
	}
}
