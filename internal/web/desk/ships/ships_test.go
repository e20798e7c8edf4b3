package ships

import (
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/records"
	"sodrik/internal/web/desk/bound/boundtest"
)

func of(t *testing.T, place string) Ships {
	t.Helper()
	return Of(boundtest.Of(t, `{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"a",`+place+`}]}`, nil))
}

// TestUsual: a screen gets pixels, a press inks, everything else documents.
func TestUsual(t *testing.T) {
	for place, want := range map[string]string{`"substrate":"screen","width_mm":60`: "screen",
		`"substrate":"coated","width_mm":60`: "office"} {
		t.Run(place, func(t *testing.T) {
			for _, r := range of(t, place).Whom {
				if r.Usual != (r.Key == want) {
					t.Errorf("%s: %s is usual: %v, want %s", place, r.Key, r.Usual, want)
				}
			}
		})
	}
}

// TestBefore: what went together for the medium last goes together again; otherwise it is the three that everybody can use.
func TestBefore(t *testing.T) {
	s := of(t, `"width_mm":60`)
	if s.Line != "SVG · PDF · PNG" {
		t.Errorf("at first %s", s.Line)
	}
	now := time.Date(2026, 5, 2, 12, 0, 0, 0, time.UTC)
	s.Before(
		[]string{"eps", "png"},
		[]records.HandOver{{N: 3, Files: []string{"eps", "gone"}, Recipient: "wren@printer.example",
			At: now.Add(-2 * time.Hour)}},
		false,
		now,
	)
	if on := strings.Split(s.Chosen(), ", "); len(on) != 2 || !slices.Contains(on, "EPS") || !slices.Contains(on, "PNG") {
		t.Errorf("chosen are %v", on)
	}
	if len(s.Handed) != 1 || !strings.HasPrefix(s.Handed[0], "v3: EPS to wren@printer.example, ") {
		t.Errorf("%q", s.Handed)
	}
}

// TestList: a recipient is offered what they can use, the best first, and nothing of the whole where there is none.
func TestList(t *testing.T) {
	s := of(t, `"width_mm":60`)
	for key, want := range map[string]string{"press": "pdfx eps tif pdf", "office": "pdf png svg", "screen": "png jpg webp",
		"page": "svg svg-current webp", "person": ""} {
		t.Run(key, func(t *testing.T) {
			i := slices.IndexFunc(s.Whom, func(r Recipient) bool { return r.Key == key })
			var got []string
			for _, f := range s.List(s.Whom[i], "c0de", 0, false).Files {
				got = append(got, f.Format)
				if f.ID != "c0de" || f.Size == "" {
					t.Errorf("%s: %+v", key, f)
				}
			}
			if strings.Join(got, " ") != want {
				t.Errorf("%s: %v, want %s", key, got, want)
			}
		})
	}
}
