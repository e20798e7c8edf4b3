package layout

import (
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Beside is what stands beside a code: set and broken into lines.
type Beside struct {
	Items               []scene.Item
	X, Y, Width, Height float64 // of the block, mm, from the left top of what it stands beside
	Least               float64 // the smallest type of it, mm
}

// Part is one of the texts beside a code, with its size against the width of the code.
type Part struct {
	Text string
	Size float64
}

// Sizes of the words beside a code against its width, where they are of their usual size.
const (
	HeadlineSize = 0.13
	HelpSize     = 0.075
	AddressSize  = 0.075
)

// besideGap is between the code and its words, against its width.
const besideGap = 0.08

// Wording is texts to be set: size against the usual one, face and ink.
type Wording struct {
	Parts []Part
	Size  float64
	Face  *typeface.Face
	Fill  ink.Colour
}

// Neighbour is what texts are set beside, all in mm: a thing Width by Height whose code is Code wide. Side is one of
// place.Sides; Room is how wide the lines may be at most beside it.
type Neighbour struct {
	Side                      string
	Width, Height, Code, Room float64
}

// SetBeside sets texts in lines beside something.
func SetBeside(t Wording, by Neighbour) Beside {
	w, h, code, side, face := by.Width, by.Height, by.Code, by.Side, t.Face
	wide := min(code*1.9, by.Room)
	if side == "below" || side == "above" {
		wide = w
	}
	wide = max(wide, code*0.4)
	type line struct {
		typeface.Line
		em, y float64
	}
	var lines []line
	var out Beside
	y := 0.0
	for _, p := range t.Parts {
		if p.Text == "" {
			continue
		}
		em := p.Size * t.Size * code
		for _, word := range strings.Fields(p.Text) { // smaller, where one word alone is wider than the room
			if width := face.Set(word).Width; width*em > wide {
				em = wide / width
			}
		}
		if len(lines) > 0 {
			y += em * 0.45
		}
		for _, text := range broken(face, p.Text, wide/em) {
			set := face.Set(text)
			lines = append(lines, line{set, em, y + em*0.95})
			y += em * 1.25
			out.Width = max(out.Width, set.Width*em)
		}
		if out.Least == 0 || em < out.Least {
			out.Least = em
		}
	}
	out.Height = y
	gap := besideGap * code
	switch side {
	case "left":
		out.X, out.Y = -gap-out.Width, (h-y)/2
	case "below":
		out.X, out.Y = (w-out.Width)/2, h+gap
	case "above":
		out.X, out.Y = (w-out.Width)/2, -gap-y
	default:
		out.X, out.Y = w+gap, (h-y)/2
	}
	for _, l := range lines {
		x := out.X
		switch side { // towards the code
		case "left":
			x += out.Width - l.Width*l.em
		case "below", "above":
			x += (out.Width - l.Width*l.em) / 2
		}
		out.Items = append(out.Items, scene.Item{Name: "words", Path: l.Path, Letters: l.Letters, Fill: t.Fill,
			At: scene.At(l.em, x, out.Y+l.y)})
	}
	return out
}

// broken breaks a text into lines no wider than so many ems.
func broken(face *typeface.Face, text string, wide float64) (out []string) {
	now := ""
	for _, word := range strings.Fields(text) {
		if next := strings.TrimSpace(now + " " + word); now == "" || face.Set(next).Width <= wide+1e-9 {
			now = next
			continue
		}
		out = append(out, now)
		now = word
	}
	if now != "" {
		out = append(out, now)
	}
	return out
}
