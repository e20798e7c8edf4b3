package look

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Backdrop is a picture behind the modules. The zero value is none.
type Backdrop struct {
	Source   string  // as that of a mark
	Mode     string  // one of BackdropModes
	Strength float64 // 0 nothing of it to 1 all of it
	Scale    float64 // 1: it just covers the symbol; up to MaxScale times as large
	// the point of the picture that lies in the middle, as shares of its sides; as far as it still covers the symbol
	X, Y float64
}

// BackdropModes are the values of "mode": the picture lies under the modules; or each module keeps the middle ninth of its
// area, and what is around it follows the picture, in the one ink.
var (
	backdropModes = schema.Words("under", "under the modules", "halftone", "around their middles, in one ink")
	BackdropModes = schema.Values(backdropModes)
)

// DefaultStrength is how strong a backdrop is unless it says so.
const DefaultStrength = 0.6

// MaxScale is how many times as large as it need be a backdrop can be.
const MaxScale = 4

// BackdropPlace is the path under which the point of a backdrop that lies in the middle is typed as one, in percent from its
// left and from its top.
const BackdropPlace = "/look/backdrop/place"

// None says that there is no backdrop.
func (b Backdrop) None() bool { return b.Source == "" }

var backdropFields = schema.Part{
	Fields: []schema.Field{
		sourceField("backdrop", "Picture", func(b *Backdrop) any { return &b.Source }),
		{Key: "mode", At: schema.In(func(b *Backdrop) any { return &b.Mode }), Choices: backdropModes, Called: "backdrop",
			Label: "Kind",
			About: "halftone: each module keeps its middle, and what is around it follows the picture, in the one ink."},
		sliding("strength", 0, 1, 0.05, schema.Field{Called: "strength of the backdrop", Label: "Strength",
			Hint: "The stronger it is, the nearer a phone has to come; the proof says how near."},
			schema.In(func(b *Backdrop) any { return &b.Strength })),
		sliding("scale", 1, MaxScale, 0.05, schema.Field{Called: "size of the backdrop", Label: "Size", Unit: " ×",
			About: "1: the picture just covers the symbol."}, schema.In(func(b *Backdrop) any { return &b.Scale })),
		placeField("backdrop", BackdropPlace, "What of the picture is in the middle, in percent. Or drag it on the sheet."),
		shareField("x", 0, 1, 0, schema.Field{Fixed: true, Off: true, Called: "place of the backdrop"}, func(b *Backdrop) any {
			return &b.X
		}),
		shareField("y", 0, 1, 0, schema.Field{Fixed: true, Off: true, Called: "place of the backdrop"}, func(b *Backdrop) any {
			return &b.Y
		}),
	},
	New:   func() any { return &Backdrop{Mode: "under", Strength: DefaultStrength, Scale: 1, X: 0.5, Y: 0.5} },
	About: "A picture behind the modules.",
}

// checkSource notes a source that names no drawing.
func checkSource(o *fields.Object, source string) {
	switch scheme, rest, _ := strings.Cut(source, ":"); {
	case source == "" && o.Sound("source"):
		o.Problem("source", "mark.source",
			"is missing; it names a drawing, such as icon:sprout, asset:sha256-… of an upload, or data:image/png;base64,…")
	case scheme != "icon" && scheme != "asset" && scheme != "data" || rest == "":
		o.Problem("source", "mark.source",
			"%.40q names no drawing; write icon: and a name, such as icon:sprout, asset: and the digest of an upload, or a "+
				"data: address", source)
	}
}
