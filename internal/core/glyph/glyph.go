// Package glyph sets plain lines of text as outlines, in points and millimetres, so that files need no font. The faces are
// Liberation Sans, which the Swiss guidelines name among the permitted ones (SIL Open Font Licence); what sets them is
// package typeface.
package glyph

import (
	"strings"
	"sync"

	"codeberg.org/go-fonts/liberation/liberationsansbold"
	"codeberg.org/go-fonts/liberation/liberationsansregular"

	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Point is a typographic point in millimetres.
const Point = 25.4 / 72

// Face is one cut of the typeface, safe for concurrent use.
type Face struct{ face func() *typeface.Face }

// Regular and Bold are the two cuts.
var (
	Regular = &Face{cut(liberationsansregular.TTF)}
	Bold    = &Face{cut(liberationsansbold.TTF)}
)

func cut(data []byte) func() *typeface.Face {
	return sync.OnceValue(func() *typeface.Face {
		f, err := typeface.Parse(data)
		if err != nil {
			panic(err) // it is part of the program
		}
		return f
	})
}

// Has says whether the face has every character of a text.
func (f *Face) Has(text string) bool { return len(f.face().Set(text).Missing) == 0 }

// Width is the length of a text of so many points, in millimetres.
func (f *Face) Width(text string, points float64) float64 {
	return f.face().Set(text).Width * points * Point
}

// Outline is a text of so many points with its baseline from x, y, in millimetres. A character that the face has not is drawn
// as its empty box. It gives the length too.
func (f *Face) Outline(text string, points, x, y float64) (width float64, path scene.Path) {
	line, em := f.face().Set(text), points*Point
	for i, p := range line.Path.Points {
		line.Path.Points[i] = scene.Point{X: x + p.X*em, Y: y + p.Y*em}
	}
	return line.Width * em, line.Path
}

// Wrap breaks a text into lines of at most width millimetres, between words, and within a word that is longer than a line.
func (f *Face) Wrap(text string, points, width float64) (lines []string) {
	line := ""
	for _, word := range strings.Fields(text) {
		for try := strings.TrimSpace(line + " " + word); ; try = word {
			if f.Width(try, points) <= width {
				line = try
				break
			}
			if line != "" {
				lines, line = append(lines, line), ""
				continue
			}
			cut := 1
			runes := []rune(word)
			for cut < len(runes) && f.Width(string(runes[:cut+1]), points) <= width {
				cut++
			}
			lines, word = append(lines, string(runes[:cut])), string(runes[cut:])
			if word == "" {
				break
			}
		}
	}
	if line != "" {
		lines = append(lines, line)
	}
	return lines
}
