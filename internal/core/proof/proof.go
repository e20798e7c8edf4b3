// Package proof tells before printing whether a code will scan: what readers make of the pixels, under which conditions,
// what was found, and the verdict. Readers are given to it; it runs none of its own.
//
// Every condition is drawn several times through the model of package optics. The rule of the verdict stands in docs/proof.md.
package proof

import (
	"context"
	"image"
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Input is all that a proof is made from.
type Input struct {
	Payload   string
	Content   content.Content
	Symbol    *symbol.Symbol
	Look      look.Look
	Mark      *layout.Marked // nil for none
	QuietZone int
	Scene     *scene.Scene // at the size of the placement, or 1 mm a module
	Framed    *scene.Scene // with its frame; nil for none
	Words     float64      // size of the type on it in points, 0 for none
	// how much of what lies around the code readers are shown, as a share of its side; 0: as package optics has it
	Around    float64
	File      *image.Gray         // the pixels of the PNG, of which posters are drawn no finer than readers need
	Placement *place.Placement    // nil: no place given
	Press     *Printing           // what it is printed by; nil where it is not made for a press
	Surface   *Surface            // what it lies on there; nil where nothing is said of it
	Index     int                 // of the placement in the job
	Brief     bool                // two draws of each condition in place of five: for tests of what goes on around a proof
	Tune      func(*optics.Setup) // changes the model, to see how far verdicts depend on its constants; nil otherwise
	Thinner   func() *Fix         // the change that saves most modules; nil, or giving nil, where there is none
}

// Verdict sums up a proof.
type Verdict string

// Verdicts, and what they are called.
const (
	Safe Verdict = "safe"
	Care Verdict = "care"
	Stop Verdict = "stop"
	Flat Verdict = "flat" // read as a picture; no place was given to prove it for

	// Unknown is none: a reader could not work, or is not there, which says nothing of the code. It is never kept, and asked
	// for again.
	Unknown Verdict = "unknown"
)

// Words is what a person reads.
func (v Verdict) Words() string {
	return map[Verdict]string{Safe: "Safe to print", Care: "Print with care", Stop: "Do not print", Flat: "Reads flat",
		Unknown: "Not proved yet"}[v]
}

// Worse says that a verdict is worse than another: what is not known is worse than what is safe, and better than care.
func (v Verdict) Worse(than Verdict) bool {
	order := map[Verdict]int{Safe: 1, Flat: 2, Unknown: 3, "": 3, Care: 4, Stop: 5}
	return order[v] > order[than]
}

// Severity of a finding.
type Severity string

// Severities, worst first.
const (
	SeverityStop Severity = "stop"
	SeverityCare Severity = "care"
	SeverityNote Severity = "note" // worth knowing; it does not change the verdict
)

// Fix is a change of the job that removes a finding.
type Fix struct {
	Label string      `json:"label"` // what it will do: "Print 28 mm wide"
	Patch patch.Patch `json:"patch"` // RFC 6902, on the job
}

// Finding is one thing the proof noticed.
type Finding struct {
	Code     string   `json:"code"`
	Severity Severity `json:"severity"`
	Message  string   `json:"message"` // what, where, why it matters; one or two sentences
	Fix      *Fix     `json:"fix,omitempty"`
}

// Proof is the result.
type Proof struct {
	Verdict  Verdict    `json:"verdict"`
	Where    string     `json:"where,omitempty"`            // the place it holds for
	Screen   bool       `json:"screen,omitempty"`           // which is a screen
	Reserve  float64    `json:"reserve"`                    // share of error correction unspent by the look, worst block
	Measured *float64   `json:"reserve_measured,omitempty"` // and left when read from its distance
	Range    [2]float64 `json:"range_mm"`                   // nearest and farthest distance at which a phone reads it
	Contrast float64    `json:"contrast"`                   // luminance of the ground less that of the ink
	Grades   *Grades    `json:"grades,omitempty"`
	Stages   []Stage    `json:"sets"` // what has been looked at so far
	Readings []Reading  `json:"readings"`
	Outcomes []Outcome  `json:"conditions"`
	Ladder   []Rung     `json:"ladder,omitempty"` // what the range was measured from
	Poor     float64    `json:"poor_range_mm,omitempty" doc:"Farthest distance at which a poor phone reads it."`
	Margin   *Margin    `json:"margin,omitempty"`
	Findings []Finding  `json:"findings"`          // worst first
	Broken   []string   `json:"broken,omitempty"`  // readers that could not work, timed out or crashed: ask again
	Missing  []string   `json:"missing,omitempty"` // families of readers that are not there
}

// Whole says whether every reader that ought to has worked: only then is the proof about the code alone, and worth keeping.
func (p *Proof) Whole() bool { return len(p.Broken) == 0 && len(p.Missing) == 0 }

// Has says whether a set has been looked at.
func (p *Proof) Has(s Stage) bool { return slices.Contains(p.Stages, s) }

// Outcome gives that of a condition.
func (p *Proof) Outcome(key string) (o Outcome, ok bool) {
	for _, o := range p.Outcomes {
		if o.Condition == key {
			return o, true
		}
	}
	return o, false
}

// Of gives the outcomes of a set.
func (p *Proof) Of(s Stage) (out []Outcome) {
	for _, o := range p.Outcomes {
		if o.Stage == s {
			out = append(out, o)
		}
	}
	return out
}

// Prove makes a proof with the sets asked for, or all of them.
func Prove(ctx context.Context, in Input, panel Panel, sets ...Stage) (*Proof, error) {
	if len(sets) == 0 {
		sets = Stages
	}
	var p *Proof
	for _, s := range sets {
		var err error
		if p, err = Extend(ctx, in, panel, p, s); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// Extend looks at one more set, or at the first where p is nil, and gives a new proof. Leaving through ctx gives its error.
func Extend(ctx context.Context, in Input, panel Panel, p *Proof, set Stage) (*Proof, error) {
	var out Proof
	if p == nil {
		out = Proof{Reserve: reserve(in), Contrast: contrast(in), Range: reach(in), Readings: []Reading{}, Outcomes: []Outcome{}}
	} else {
		out = *p
		out.Stages, out.Readings, out.Outcomes = slices.Clone(p.Stages), slices.Clone(p.Readings), slices.Clone(p.Outcomes)
	}
	if out.Has(set) {
		return &out, nil
	}
	out.Stages = append(out.Stages, set)
	film := newFilm(in)
	look := func(list []Condition) error {
		readings, outcomes, err := ask(ctx, in, panel, list, film.takeFor(ctx, panel, list))
		out.Readings, out.Outcomes = append(out.Readings, readings...), append(out.Outcomes, outcomes...)
		return err
	}
	switch set {
	case Range:
		if err := measureRange(ctx, in, panel, &out); err != nil {
			return nil, err
		}
	case Margins:
		if err := measureMargin(ctx, in, panel, &out); err != nil {
			return nil, err
		}
	default:
		var list []Condition
		for _, c := range Conditions(in) {
			if c.Stage == set {
				list = append(list, c)
			}
		}
		if err := look(list); err != nil {
			return nil, err
		}
		if good, ok := ConditionOf(in, goodPhone); set == Ordinary && ok && losing(out.Of(Ordinary)) {
			if err := look([]Condition{good}); err != nil {
				return nil, err
			}
		}
		if o, ok := out.Outcome("distance"); ok {
			out.Measured = o.Reserve
		}
	}
	// no verdict but that of the trade waits for them
	if out.Grades == nil && (set != Ordinary || in.Placement == nil || in.Placement.Use != "") {
		var err error
		if out.Grades, err = Forecast(in); err != nil {
			return nil, err
		}
	}
	out.Broken, out.Missing = absent(&out, panel)
	out.Findings = findings(in, &out, panel)
	out.Verdict = verdict(in, &out)
	if in.Placement != nil {
		out.Where = in.Placement.Where()
		s, _ := place.SubstrateOf(in.Placement.Substrate)
		out.Screen = s.Screen
	}
	return &out, nil
}

// verdict is the worst that was found: what is wrong enough to stop, or to take care, is a finding, so that every verdict has
// its reason. Where readers could not work, what others did not read is no reason either; only what is wrong with the code
// whoever reads it stops a print then.
func verdict(in Input, p *Proof) Verdict {
	worst := Safe
	for _, f := range p.Findings {
		if !p.Whole() && strings.HasPrefix(f.Code, "unread.") {
			continue
		}
		switch f.Severity {
		case SeverityStop:
			return Stop
		case SeverityCare:
			worst = Care
		}
	}
	if !p.Whole() {
		return Unknown
	}
	if in.Placement == nil && !(worst == Care && p.fails()) {
		return Flat
	}
	return worst
}

// fails says that a reader does not read the files themselves, or a relative of it does not.
func (p *Proof) fails() bool {
	return slices.ContainsFunc(p.Findings, func(f Finding) bool {
		return f.Severity != SeverityNote && (strings.HasPrefix(f.Code, "unread.") || f.Code == "reader.strict")
	})
}

// Headline is what a person reads first: the verdict, in the words of screens where it is for one; or without a place that files
// fail, since no verdict for print is given then.
func (p *Proof) Headline() string {
	if p.Verdict == Care && p.Where == "" {
		return "Some phones cannot read it"
	}
	if words, ok := onScreens[p.Verdict]; ok && p.Screen {
		return words
	}
	return p.Verdict.Words()
}

// onScreens are the verdicts in the words of what is not printed.
var onScreens = map[Verdict]string{Safe: "Safe on screens", Care: "Show with care", Stop: "Do not show"}
