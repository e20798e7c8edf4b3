package proof

import (
	"fmt"
	"math"

	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// minPoints is the least size of type that print holds and people read at arm's length: the trade's rule of thumb.
const minPoints = 5.0

// frameRule holds the words on a frame against what can be read.
func frameRule(in Input, _ *Proof, _ Panel) (out []Finding) {
	if f := in.Look.Frame; !f.None() && f.Text == "" {
		found := Finding{Code: "frame.empty", Severity: SeverityNote,
			Message: "The frame has no words. Say on it what a scan brings."}
		if words := content.CallFor(in.Content); words != "" {
			found.Fix = &Fix{"Use “" + words + "”", patch.Set("/look/frame/text", words)}
		}
		out = append(out, found)
	}
	if in.Framed == nil || in.Words == 0 || in.Placement == nil {
		return out
	}
	if in.Words < minPoints-1e-9 {
		f := Finding{Code: "frame.small", Severity: SeverityCare,
			Message: fmt.Sprintf("The words on the frame have %s points. Below %s they are lost in print.",
				measure.Number(in.Words, 1), measure.Number(minPoints, 0))}
		if w := math.Ceil(in.Scene.Width * minPoints / in.Words); w <= place.MaxWidth {
			f.Fix = setWidth(in, w)
		}
		out = append(out, f)
	}
	f := in.Look.Frame
	words, ground := in.Look.Ink, paperOf(in)
	if f.Inked {
		words = f.Ink
	}
	if c := math.Abs(ink.Contrast(words, ground)); c < contrastLeast && !f.TextInked {
		out = append(out, Finding{Code: "frame.pale", Severity: SeverityNote,
			Message: fmt.Sprintf("The frame and its ground differ by only %s, so its words are hard to read.",
				measure.Number(c*100, 0)+" %")})
	}
	return out
}
