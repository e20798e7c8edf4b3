package leads

import (
	"testing"
	"time"
)

func TestHanging(t *testing.T) {
	h, problems := (&Hanging{}).WithTyped(map[string]string{"spot": " left of the desk ", "hangs_from": "1 March 2027",
		"hangs_until": "2027-03-28", "prints": "4000", "cost": "320,50", "note": "Ask the parish."})
	if len(problems) > 0 ||
		*h != (Hanging{Spot: "left of the desk", Note: "Ask the parish.", From: "2027-03-01", Until: "2027-03-28",
			Prints: 4000, Cost: "320.50"}) {
		t.Fatalf("%+v %v", h, problems)
	}
	if again, problems := h.WithTyped(map[string]string{"note": "", "prints": ""}); len(problems) > 0 || again.Note != "" ||
		again.Prints != 0 ||
		again.Spot != h.Spot {
		t.Errorf("%+v %v", again, problems)
	}
	for key, text := range map[string]string{"hangs_from": "soon", "hangs_until": "28 February 2027", "prints": "many",
		"cost": "a lot", "colour": "blue"} {
		t.Run(key, func(t *testing.T) {
			if _, problems := h.WithTyped(map[string]string{key: text}); len(problems) != 1 || problems[0].Field != "/"+key {
				t.Errorf("%s %q: %v", key, text, problems)
			}
		})
	}
	from := time.Date(2027, 2, 22, 0, 0, 0, 0, time.FixedZone("there", 3600))
	for _, c := range []struct {
		from, until  string
		days         int
		first, after int
	}{{"", "", 28, 0, 28}, {"2027-03-01", "", 28, 7, 28}, {"2027-03-01", "2027-03-07", 28, 7, 14},
		{"2027-01-01", "2027-02-22", 28, 0, 1},
		{"2027-01-01", "2027-02-21", 28, 0, 0}, {"2027-04-01", "", 28, 28, 28}, {"2027-04-01", "2027-05-01", 28, 28, 28}} {
		t.Run(c.from, func(t *testing.T) {
			first, after := (&Hanging{From: c.from, Until: c.until}).Within(from, c.days)
			if first != c.first || after != c.after {
				t.Errorf("%+v: days %d to %d", c, first, after)
			}
		})
	}
}
