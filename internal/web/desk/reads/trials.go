package reads

import (
	"fmt"
	"strings"

	"sodrik/internal/records"
)

// TrialLine is one trial in words.
type TrialLine struct {
	Words, When string
	Read        bool
	Older       bool // of another state of the code
}

func TrialLines(list []records.Trial) (out []TrialLine) {
	for _, t := range list {
		l := TrialLine{
			Words: t.Phone + ": " + records.ResultWords(t.Result),
			When:  t.At.Format("2 Jan 2006"),
			Read:  t.Result != "not",
			Older: !t.Current,
		}
		if t.Place != "" {
			l.Words += ", at " + t.Place
		}
		if t.Note != "" {
			l.Words += ". " + strings.TrimSuffix(t.Note, ".") + "."
		}
		if t.Version > 0 {
			l.When += fmt.Sprintf(", version %d", t.Version)
		} else {
			l.When += ", a draft"
		}
		if t.Who != "" {
			l.When += ", " + t.Who
		}
		out = append(out, l)
	}
	return out
}
