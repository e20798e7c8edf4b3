package drawn

import (
	"fmt"
	"html/template"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// thumbSide is how many pixels of a picture a thumbnail holds at most.
const thumbSide = 96

// Thumb draws art small, in the colour of the text around it where it has none of its own.
func Thumb(a *artwork.Art) template.HTML {
	if a == nil {
		return ""
	}
	s := &scene.Scene{Width: a.Width, Height: a.Height, Items: a.Items}
	return template.HTML(svg.Inline(s.Reduced(thumbSide), "", `aria-hidden="true"`))
}

// Drawdown shows ink on paper as a printer's drawdown.
func Drawdown(c ink.Colour, none bool, paper ink.Colour) template.HTML {
	fill := paper.String()
	if none {
		fill = "none"
	}
	return template.HTML(
		fmt.Sprintf(
			`<svg class="inline-block align-[-3px] mr-1.5" width="22" height="14" viewBox="0 0 22 14" aria-hidden="true"><rect x=".5" y=".5" width="21" height="13" fill="%s" stroke="#6F7B73"/><rect x="4" y="3" width="14" height="8" fill="%s"/></svg>`,
			fill,
			c,
		),
	)
}

// sampleSide is how many modules of the person's own symbol a choice shows.
const sampleSide = 5

// Sample draws modules of the symbol in a form.
func Sample(m *compose.Rendition, form look.Modules) template.HTML {
	s := &scene.Scene{Width: sampleSide, Height: sampleSide}
	s.Items = []scene.Item{{Path: layout.Sample(m.Symbol, form, 9, 9, sampleSide), At: scene.Unit, Fill: ink.Black}}
	return template.HTML(svg.Inline(s, "", `aria-hidden="true"`))
}

// Eye draws an eye in black.
func Eye(l look.Look) template.HTML {
	l.Ink = ink.Black
	s := &scene.Scene{Width: 7, Height: 7, Items: layout.EyeSample(l)}
	return template.HTML(svg.Inline(s, "", `aria-hidden="true"`))
}
