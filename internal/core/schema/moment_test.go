package schema

import (
	"strings"
	"testing"
	"time"
)

func TestMoments(t *testing.T) {
	for text, want := range map[string]string{
		"2027-03-20T10:00": "2027-03-20T10:00", "2027-03-20": "2027-03-20", "20/3/2027": "2027-03-20",
		"20.3.2027 18:30": "2027-03-20T18:30", "20 Mar 2027 6pm": "2027-03-20T18:00",
		"Sat, 20 March 2027, 6.15 pm": "2027-03-20T18:15",
		"March 20, 2027 10:00":        "2027-03-20T10:00", "1st June 2027": "2027-06-01", "2027-03-20 10:00": "2027-03-20T10:00",
		"2027-03-20T10:00:00": "2027-03-20T10:00:00", "tomorrow": "tomorrow", "31 February 2027": "31 February 2027",
		"20 March 2027 25:00": "20 March 2027 25:00", "": "",
	} {
		t.Run(text, func(t *testing.T) {
			if got := ParseMoment(text); got != want {
				t.Errorf("%q: %q, want %q", text, got, want)
			}
		})
	}
}

// FuzzMoment: what is understood as a date is one, as the job writes it, and is understood again; all else stays as typed.
func FuzzMoment(f *testing.F) {
	for _, s := range []string{"20 Mar 2027 6pm", "20.3.2027 18:30", "Sat, 20 March 2027, 6.15 pm", "2027-03-20T10:00:00",
		"tomorrow", "31 February 2027", "12am 1/1/1", "12:00 pm 29 Feb 2028"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		got := ParseMoment(s)
		if got == s {
			return
		}
		if again := ParseMoment(got); again != got {
			t.Errorf("%q: %q, then %q", s, got, again)
		}
		for _, form := range []string{"2006-01-02", "2006-01-02T15:04", "2006-01-02T15:04:05"} {
			if at, err := time.Parse(form, got); err == nil && at.Format(form) == got {
				return
			}
		}
		if got != strings.TrimSpace(s) {
			t.Errorf("%q: %q is no date of the job file", s, got)
		}
	})
}
