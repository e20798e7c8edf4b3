package proof

import (
	"fmt"
	"math"
	"slices"

	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// Printing is what a proof knows of the press.
type Printing struct {
	Condition *press.Condition
	Foreign   string  // why the artwork is no PDF/X, "" where it is or where there is none
	Coarse    float64 // dots an inch of the coarsest picture in print; 0 for none
	Thin      float64 // mm that the thinnest line of frame and mark is wide; 0 for none
}

// Limits of the press; our working figures but for total ink, which is the condition's.
const (
	coarsest     = 150.0         // dots an inch
	Hairline     = 25.4 / 72 / 4 // mm, a quarter of a point, below which lines break up
	reversedType = 7.0           // points, light type on several inks
	richBlack    = 30.0          // percent of other inks under black, from which it counts as rich
)

// pressRule says what a press makes hard, for jobs that are made for one.
func pressRule(in Input, _ *Proof, _ Panel) (out []Finding) {
	if in.Press == nil {
		return nil
	}
	add := func(code string, severity Severity, fix *Fix, format string, args ...any) {
		out = append(out, Finding{Code: code, Severity: severity, Message: fmt.Sprintf(format, args...), Fix: fix})
	}
	c := in.Press.Condition
	black := &Fix{"Print in black alone",
		patch.Patch{{Op: "add", Path: "/look/ink", Value: map[string]any{"cmyk": []any{0.0, 0.0, 0.0, 100.0}}}}}
	parts := in.Look.Parts()
	if !in.Look.Paper.None {
		parts = append(parts, look.Part{Path: "/look/paper", Words: "The paper colour", Colour: in.Look.Paper.Colour})
	}
	var told []string
	for _, part := range parts {
		if slices.Contains(told, part.Words) {
			continue
		}
		told = append(told, part.Words)
		inks := c.Separate(part.Colour)
		if part.Colour.Spot != "" {
			continue
		}
		if inks.Total() > c.Limit+1e-9 {
			add("press.total", SeverityCare, black, "%s takes %s %% of ink. On %s more than %s %% does not dry.", part.Words,
				measure.Number(inks.Total(), 0), c.Name, measure.Number(c.Limit, 0))
		}
		others := inks.CMYK[0] + inks.CMYK[1] + inks.CMYK[2]
		if part.Path == "/look/ink" && inks.CMYK[3] >= 95 && others >= richBlack {
			add("press.rich", SeverityNote, black,
				"The ink is a black over %s %% of other inks. Where their plates lie off one another, every module has a "+
					"coloured edge.", measure.Number(others, 0))
		}
		if inks.Off >= press.Seen {
			add("press.gamut", SeverityNote, ownInks(part.Path, inks),
				"%s cannot be had in these four inks on %s: what comes nearest is off by ΔE %s, and looks like %s.", part.Words,
				c.Name, measure.Number(inks.Off, 1), c.Shown(inks.CMYK))
		}
	}
	if in.Press.Foreign != "" {
		add("press.artwork", SeverityNote, nil,
			"The artwork is no PDF/X-1a: %s. The code can be had for the press, the whole cannot.", in.Press.Foreign)
	}
	if d := in.Press.Coarse; d > 0 && d < coarsest {
		add("press.coarse", SeverityNote, nil, "A picture in it has %s dots an inch in print. Below %s its dots are seen.",
			measure.Number(d, 0), measure.Number(coarsest, 0))
	}
	if thin := in.Press.Thin; thin > 0 && thin < Hairline-1e-9 {
		var fix *Fix
		if w := math.Ceil(in.Scene.Width * Hairline / thin); w <= min(place.MaxWidth, 3*in.Scene.Width) {
			fix = setWidth(in, w)
		}
		add("press.hairline", SeverityNote, fix,
			"The thinnest line of it is %s mm wide. Below %s mm, a quarter of a point, lines break up in print.",
			measure.Number(thin, 3), measure.Number(Hairline, 3))
	}
	if words := in.Words; words > 0 && words < reversedType && in.Placement != nil {
		if f := in.Look.Frame; f.Text != "" && slices.Contains([]string{"packet", "flag", "ribbon", "circle"}, f.Shape) {
			if n := platesOf(in); n > 1 {
				add("press.reversed", SeverityNote, nil,
					"Its words are %s points large and left free of %d inks. Below %s they close up where plates do not meet.",
					measure.Number(words, 1), n, measure.Number(reversedType, 0))
			}
		}
	}
	if s, _ := place.SubstrateOf(substrateOf(in)); s.Screen {
		add("press.screen", SeverityNote, &Fix{"Make it for screens", patch.Set("/output/colour", "rgb")},
			"It is shown on a screen, which knows no printing condition.")
	}
	return out
}

func substrateOf(in Input) string {
	if in.Placement == nil {
		return ""
	}
	return in.Placement.Substrate
}

// ownInks gives a colour the inks that come nearest, so that it is no surprise in print.
func ownInks(path string, inks press.Inks) *Fix {
	v := inks.CMYK
	return &Fix{fmt.Sprintf("Take %s, %s, %s, %s for it", measure.Number(v[0], 0), measure.Number(v[1], 0),
		measure.Number(v[2], 0), measure.Number(v[3], 0)),
		patch.Patch{{Op: "add", Path: path, Value: map[string]any{"cmyk": []any{v[0], v[1], v[2], v[3]}}}}}
}
