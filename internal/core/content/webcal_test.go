package content

import "testing"

func TestWebcal(t *testing.T) {
	for _, c := range []struct{ address, payload string }{
		{"marrowby.example/garden.ics", "webcal://marrowby.example/garden.ics"},
		{"https://marrowby.example/garden.ics?of=beds", "webcal://marrowby.example/garden.ics?of=beds"},
		{"WebCal://Marrowby.example/garden.ics", "webcal://marrowby.example/garden.ics"},
	} {
		t.Run(c.address, func(t *testing.T) {
			got, at := readAt(t, `{"kind":"webcal","address":"`+c.address+`"}`)
			if len(at) > 0 || got.Payload() != c.payload {
				t.Fatalf("%q %v, want %q", got.Payload(), at, c.payload)
			}
			roundTrip(t, got)
			jsonSame(t, got)
			if o := got.Phone(); o.Action != "Follows the calendar at" || o.Strong != "marrowby.example" {
				t.Errorf("a phone offers %+v", o)
			}
		})
	}
	for _, address := range []string{"", "ftp://marrowby.example/a.ics", "marrowby", "file:///garden.ics"} {
		t.Run(address, func(t *testing.T) {
			if _, at := readAt(t, `{"kind":"webcal","address":"`+address+`"}`); len(at) != 1 || at[0] != "address" {
				t.Errorf("%q: problems at %v", address, at)
			}
		})
	}
	if c, _ := readAt(t, `{"kind":"webcal","address":"192.168.1.4/a.ics"}`); len(c.(Careful).Cautions()) != 1 {
		t.Error("a calendar at home is not noticed")
	}
}
