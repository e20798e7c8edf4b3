// Package proof tells before printing whether a code will scan: what readers make of the pixels, under which conditions,
// what was found, and the verdict. Readers are given to it; it runs none of its own.
//
// This first part covers the files as they would be handed over and the view from the placement's distance, in its light, printed as its
// substrate lets ink spread. Tilt, uneven light and wear can be looked at (See) and do not count yet, and no parameter of ISO/IEC 15415 is
// graded.
package proof

import (
	"context"
	"image"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Reader is one engine that finds symbols in a picture.
type Reader interface {
	Name() string   // "zbar"
	Family() string // engines of one lineage share a family; agreement counts families
	// Read gives the payloads found. No symbol is an empty list, not an error; an error says that the engine could not work.
	Read(ctx context.Context, img *image.Gray) ([]string, error)
}

// Panel is the readers asked, and the families that ought to be among them.
type Panel struct {
	Readers  []Reader
	Families []string
}

// Input is all that a proof is made from.
type Input struct {
	Payload   string
	Content   content.Content
	Symbol    *symbol.Symbol
	Look      look.Look
	Mark      *layout.Marked // nil for none
	QuietZone int
	Scene     *scene.Scene     // at the size of the placement, or 1 mm a module
	File      *image.Gray      // the pixels of the very PNG that would be handed over
	Placement *place.Placement // nil: no place given
	Index     int              // of the placement in the job
}

// Verdict sums up a proof.
type Verdict string

// Verdicts, and what they are called.
const (
	Safe Verdict = "safe"
	Care Verdict = "care"
	Stop Verdict = "stop"
	Flat Verdict = "flat" // read as a picture; no place was given to prove it for
)

// Words is what a person reads.
func (v Verdict) Words() string {
	return map[Verdict]string{Safe: "Safe to print", Care: "Print with care", Stop: "Do not print", Flat: "Reads flat"}[v]
}

// Severity of a finding.
type Severity string

// Severities, worst first.
const (
	SeverityStop Severity = "stop"
	SeverityCare Severity = "care"
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

// Reading is one reader's result under one condition.
type Reading struct {
	Reader    string  `json:"reader"`
	Family    string  `json:"family"`
	Condition string  `json:"condition"`
	Read      bool    `json:"read"`
	Payload   string  `json:"payload,omitempty"` // only where it is not the intended one
	Error     string  `json:"error,omitempty"`   // the engine could not work
	MS        float64 `json:"ms"`
}

// Proof is the result.
type Proof struct {
	Verdict  Verdict        `json:"verdict"`
	Where    string         `json:"where,omitempty"` // the place it holds for
	Reserve  float64        `json:"reserve"`         // share of error correction unspent, worst block
	Range    [2]float64     `json:"range_mm"`        // nearest and farthest distance at which a phone reads it
	Contrast float64        `json:"contrast"`        // luminance of the ground less that of the ink
	Grades   map[string]any `json:"grades"`          // empty until parameters are graded
	Readings []Reading      `json:"readings"`
	Findings []Finding      `json:"findings"` // worst first
}

// Prove reads the code with every reader under every condition and weighs what it finds. now gives the time, for the
// milliseconds of each reading. Leaving through ctx gives the error of ctx.
func Prove(ctx context.Context, in Input, panel Panel, now func() time.Time) (*Proof, error) {
	p := &Proof{Reserve: reserve(in), Grades: map[string]any{}, Readings: []Reading{}, Findings: []Finding{}}
	p.Contrast = contrast(in)
	p.Range = reach(in)
	frames, err := conditions(in)
	if err != nil {
		return nil, err
	}
	for _, f := range frames {
		read, err := ask(ctx, in, panel, f, now)
		if err != nil {
			return nil, err
		}
		p.Readings = append(p.Readings, read...)
	}
	p.Findings = findings(in, p, panel)
	p.Verdict = verdict(in, p)
	if in.Placement != nil {
		p.Where = in.Placement.Where()
	}
	return p, nil
}

// ask shows one picture to every reader. Leaving through ctx gives the error of ctx.
func ask(ctx context.Context, in Input, panel Panel, f frame, now func() time.Time) (out []Reading, err error) {
	for _, r := range panel.Readers {
		start := now()
		found, err := r.Read(ctx, f.image)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		reading := Reading{Reader: r.Name(), Family: r.Family(), Condition: f.name, MS: float64(now().Sub(start).Microseconds()) / 1000}
		switch {
		case err != nil:
			reading.Error = err.Error()
		case len(found) == 1 && found[0] == in.Payload:
			reading.Read = true
		case len(found) > 0:
			reading.Payload = found[0]
		}
		out = append(out, reading)
	}
	return out, nil
}

func verdict(in Input, p *Proof) Verdict {
	worst := Safe
	for _, f := range p.Findings {
		if f.Severity == SeverityStop {
			return Stop
		}
		worst = Care
	}
	if in.Placement == nil {
		return Flat
	}
	return worst
}
