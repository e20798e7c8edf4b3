package proof

import (
	"fmt"
	"math"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
)

// farPixels is how many pixels a module takes, from one and a half times the distance, where a size is meant to do.
const farPixels = 2.0

// widePixels is how many it takes in a width that is offered, so that a poor phone reads a heavy print of it too.
const widePixels = 2.1

// minFar is how many it takes at least for the best readers with an ordinary phone; see the ladder of any proof.
const minFar = 1.5

// perFar is how many it takes now.
func perFar(in Input) float64 {
	return focalLength * in.Scene.Width / modulesOf(in) / (1.5 * float64(in.Placement.Distance))
}

// wider gives the width, in whole millimetres, at which a module takes widePixels from one and a half times the distance, or a
// fifth more than now where it does already; ok is false where no placement may be so wide.
func wider(in Input) (float64, bool) {
	w := math.Ceil(in.Scene.Width*max(widePixels/perFar(in), 1.2) - 1e-9)
	return w, w <= place.MaxWidth
}

// unplaced says of a code without a place that it is too dense for a small print: what it would need on a business card, read
// from the hand.
func unplaced(in Input, _ *Proof, _ Panel) []Finding {
	card, ok := place.MediumOf("business-card")
	if in.Placement != nil || !ok {
		return nil
	}
	s, _ := place.SubstrateOf(card.Substrate)
	n := modulesOf(in)
	need := math.Ceil(max(n*s.MinXDimension, n*farPixels*1.5*float64(card.Distance)/focalLength) - 1e-9)
	if need <= float64(card.Width) {
		return nil
	}
	return []Finding{{Code: "size.dense", Severity: SeverityNote,
		Message: fmt.Sprintf("Dense: on a business card it would need %s mm.", measure.Number(need, 0))}}
}

// distance holds the code against the nearest distance at which it fits a phone's frame and its lens is sharp, and against
// what it is asked for from afar.
func distance(in Input, p *Proof, _ Panel) []Finding {
	if in.Placement == nil {
		return nil
	}
	d := float64(in.Placement.Distance)
	near := reach(in)[0]
	switch {
	case d < closeFocus:
		return []Finding{{Code: "distance.focus", Severity: SeverityCare,
			Message: fmt.Sprintf("From %s a phone does not get sharp. It needs about %s.", in.Placement.Distance.Spoken(),
				measure.Length(closeFocus).Spoken())}}
	case d < near*0.999:
		w := math.Floor(d * fills * frameLines / focalLength)
		f := Finding{Code: "distance.near", Severity: SeverityCare,
			Message: fmt.Sprintf("From %s the code does not fit into a phone's picture. People have to step back to %s.",
				in.Placement.Distance.Spoken(), measure.Length(math.Ceil(near)).Spoken())}
		if w >= place.MinWidth {
			f.Fix = setWidth(in, w)
		}
		return []Finding{f}
	case perFar(in) < minFar*0.999:
		f := Finding{Code: "distance", Severity: SeverityCare,
			Message: fmt.Sprintf("From %s, where somebody may stand, a phone sees only %s pixels a module. It needs %s.",
				measure.Length(1.5*d).Spoken(), measure.Number(math.Floor(perFar(in)*10)/10, 1), measure.Number(minFar, 1))}
		if w, ok := wider(in); ok {
			f.Fix = setWidth(in, w)
		}
		return []Finding{f}
	}
	return nil
}
