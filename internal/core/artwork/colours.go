package artwork

import (
	"cmp"
	"image"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Of the colours that a drawing is printed in.
const (
	lookedAt = 200  // pixels of the longer side
	alike    = 48.0 // distance in sRGB, 0 to 441, below which two are one, as along soft edges and in gradients
	leastOf  = 0.02 // share of what can be seen
	whitest  = 0.9  // luminance from which a colour is paper
)

// Colours are the colours that most of the art is drawn in, the most frequent first, at most so many. Paper white is none of
// them.
func (a *Art) Colours(most int) []ink.Colour {
	s := &scene.Scene{Width: a.Width, Height: a.Height, Items: a.Items}
	width := lookedAt
	if a.Height > a.Width {
		width = max(1, int(lookedAt*a.Width/a.Height))
	}
	img, err := raster.Draw(s, raster.Fit(s, width))
	if err != nil {
		return nil
	}
	kinds := counted(img)
	var out []ink.Colour
	all := 0
	for _, k := range kinds {
		all += k.n
	}
	for _, k := range grouped(kinds) {
		if len(out) < most && float64(k.n) >= leastOf*float64(all) && k.colour.Luminance() < whitest {
			out = append(out, k.colour)
		}
	}
	return out
}

type frequent struct {
	colour ink.Colour
	n      int
}

// counted are the colours of the pixels through which nothing shows, the most frequent first.
func counted(img *image.NRGBA) (out []frequent) {
	n := map[ink.Colour]int{}
	for i := 0; i < len(img.Pix); i += 4 {
		if img.Pix[i+3] == 255 {
			n[ink.Colour{R: img.Pix[i], G: img.Pix[i+1], B: img.Pix[i+2]}]++
		}
	}
	for c, n := range n {
		out = append(out, frequent{c, n})
	}
	slices.SortFunc(out, func(a, b frequent) int {
		return cmp.Or(b.n-a.n, int(a.colour.R)-int(b.colour.R), int(a.colour.G)-int(b.colour.G), int(a.colour.B)-int(b.colour.B))
	})
	return out
}

// grouped adds each colour to the first more frequent one that looks like it.
func grouped(kinds []frequent) (out []frequent) {
	for _, k := range kinds {
		i := slices.IndexFunc(out, func(o frequent) bool {
			r, g, b := float64(o.colour.R)-float64(k.colour.R), float64(o.colour.G)-float64(k.colour.G),
				float64(o.colour.B)-float64(k.colour.B)
			return r*r+g*g+b*b < alike*alike
		})
		if i < 0 {
			out = append(out, k)
		} else {
			out[i].n += k.n
		}
	}
	slices.SortStableFunc(out, func(a, b frequent) int { return b.n - a.n })
	return out
}
