package reads

import (
	"fmt"
	"html/template"

	"sodrik/internal/code"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/desk/drawn"
)

// Evidence is every condition with what the camera saw.
type Evidence struct {
	CodeID string
	Place  int
	Groups []EvidenceGroup
}

// EvidenceGroup is one set of conditions.
type EvidenceGroup struct {
	Title, Words string
	Cards        []EvidenceCard
}

// EvidenceCard is one condition.
type EvidenceCard struct {
	Key, Words string
	Picture    template.URL
	Hits       []FamilyHits
}

// FamilyHits is how many draws a family read.
type FamilyHits struct {
	Family, Count string
	Enough        bool // for the condition
}

// Witness is one picture at large.
type Witness struct {
	Seen
	CodeID, Key, Title string
	Place              int
	Draws              []WitnessDraw
}

// WitnessDraw leads to another draw of the same condition.
type WitnessDraw struct {
	Index   int
	Name    string
	Current bool
}

// groupWords says what each set is.
var groupWords = map[proof.Stage][2]string{
	proof.Ordinary: {"Ordinary", "All of this counts for the verdict."},
	proof.Better:   {"With a good phone", "An ordinary phone loses the code. It is not to be printed where a good one does too."},
	proof.Hard:     {"Harder", "It happens, not to everybody. It does not change the verdict."},
	proof.Abuse:    {"Wear and damage", "Few codes survive this."},
}

// familyNames are what families are called.
var familyNames = map[string]string{"zbar": "zbar", "zxing": "zxing", "sodrik": "our own"}

// familyName is what a family is called.
func familyName(key string) string {
	if n := familyNames[key]; n != "" {
		return n
	}
	return key
}

// EvidenceOf lays a proof beside its pictures.
func EvidenceOf(c *code.Code, p *proof.Proof, album []proof.Shot, place int) (*Evidence, error) {
	out := &Evidence{CodeID: c.ID, Place: place}
	for _, set := range []proof.Stage{proof.Ordinary, proof.Better, proof.Hard, proof.Abuse} {
		if set == proof.Better && len(p.Of(set)) == 0 { // nobody had to ask
			continue
		}
		g := EvidenceGroup{Title: groupWords[set][0], Words: groupWords[set][1]}
		for _, page := range album {
			if page.Stage != set {
				continue
			}
			picture, err := drawn.PNG(drawn.Contact(page.Image))
			if err != nil {
				return nil, err
			}
			card := EvidenceCard{Key: page.Key, Words: UpperFirst(page.Words), Picture: picture}
			if o, ok := p.Outcome(page.Key); ok {
				card.Hits = hitsOf(o)
			}
			g.Cards = append(g.Cards, card)
		}
		if len(g.Cards) > 0 {
			out.Groups = append(out.Groups, g)
		}
	}
	return out, nil
}

func hitsOf(o proof.Outcome) (out []FamilyHits) {
	for _, family := range []string{"zbar", "zxing", "sodrik"} {
		if n, ok := o.Hits[family]; ok {
			out = append(out, FamilyHits{familyName(family), fmt.Sprintf("%d/%d", n, o.Draws), o.Meets(family)})
		}
	}
	return out
}
