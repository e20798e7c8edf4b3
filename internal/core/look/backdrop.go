package look

import (
	"strings"

	"sodrik/internal/core/fields"
)

// Backdrop is a picture behind the modules. The zero value is none.
type Backdrop struct {
	Source   string  // as that of a mark
	Mode     string  // one of BackdropModes
	Strength float64 // 0 nothing of it to 1 all of it
}

// BackdropModes are the values of "mode": the picture lies under the modules; or each module keeps the middle ninth of its area, and what is
// around it follows the picture, in the one ink.
var BackdropModes = []string{"under", "halftone"}

// DefaultStrength is how strong a backdrop is unless it says so.
const DefaultStrength = 0.6

// None says that there is no backdrop.
func (b Backdrop) None() bool { return b.Source == "" }

func readBackdrop(o *fields.Object) Backdrop {
	b := Backdrop{Source: strings.TrimSpace(o.String("source"))}
	checkSource(o, b.Source)
	b.Mode = o.OneOf("mode", BackdropModes...)
	b.Strength = share(o, "strength", DefaultStrength, 0, 1)
	o.Close()
	return b
}

func (b Backdrop) json() map[string]any {
	out := map[string]any{"source": b.Source}
	if b.Mode != BackdropModes[0] {
		out["mode"] = b.Mode
	}
	if b.Strength != DefaultStrength {
		out["strength"] = b.Strength
	}
	return out
}

// checkSource notes a source that names no drawing.
func checkSource(o *fields.Object, source string) {
	switch scheme, rest, _ := strings.Cut(source, ":"); {
	case source == "" && o.Sound("source"):
		o.Problem("source", "mark.source", "is missing; it names a drawing, such as icon:sprout, asset:sha256-… of an upload, or data:image/png;base64,…")
	case scheme != "icon" && scheme != "asset" && scheme != "data" || rest == "":
		o.Problem("source", "mark.source", "%.40q names no drawing; write icon: and a name, such as icon:sprout, asset: and the digest of an upload, or a data: address", source)
	}
}
