// Package glyph turns text into outlines, so that files need no font. The faces are Liberation Sans, which the Swiss
// guidelines name among the permitted ones (SIL Open Font Licence).
package glyph

import (
	"strings"
	"sync"

	"codeberg.org/go-fonts/liberation/liberationsansbold"
	"codeberg.org/go-fonts/liberation/liberationsansregular"
	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"sodrik/internal/core/scene"
)

// Point is a typographic point in millimetres.
const Point = 25.4 / 72

// Face is one cut of the typeface, safe for concurrent use.
type Face struct {
	once sync.Once
	data []byte
	mu   sync.Mutex
	font *sfnt.Font
	buf  sfnt.Buffer
	unit fixed.Int26_6 // an em
}

// Regular and Bold are the two cuts.
var (
	Regular = &Face{data: liberationsansregular.TTF}
	Bold    = &Face{data: liberationsansbold.TTF}
)

func (f *Face) load() {
	f.once.Do(func() {
		parsed, err := sfnt.Parse(f.data)
		if err != nil {
			panic(err) // it is part of the program
		}
		f.font, f.unit = parsed, fixed.I(int(parsed.UnitsPerEm()))
	})
}

// Has says whether the face has every character of a text.
func (f *Face) Has(text string) bool {
	f.load()
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, r := range text {
		if i, err := f.font.GlyphIndex(&f.buf, r); err != nil || i == 0 {
			return false
		}
	}
	return true
}

// Width is the length of a text of so many points, in millimetres.
func (f *Face) Width(text string, points float64) float64 {
	w, _ := f.Outline(text, points, 0, 0)
	return w
}

// Outline is a text of so many points with its baseline from x, y, in millimetres. A character that the face has not is drawn
// as its empty box. It gives the length too.
func (f *Face) Outline(text string, points, x, y float64) (width float64, path scene.Path) {
	f.load()
	f.mu.Lock()
	defer f.mu.Unlock()
	scale := points * Point / (float64(f.unit) / 64) / 64
	at := func(p fixed.Point26_6) (float64, float64) { return x + float64(p.X)*scale, y + float64(p.Y)*scale }
	var before sfnt.GlyphIndex
	for _, r := range text {
		i, err := f.font.GlyphIndex(&f.buf, r)
		if err != nil {
			continue
		}
		if before != 0 {
			if kern, err := f.font.Kern(&f.buf, before, i, f.unit, font.HintingNone); err == nil {
				x += float64(kern) * scale
				width += float64(kern) * scale
			}
		}
		segments, err := f.font.LoadGlyph(&f.buf, i, f.unit, nil)
		if err == nil {
			var fromX, fromY float64
			open := false
			for _, s := range segments {
				x1, y1 := at(s.Args[0])
				switch s.Op {
				case sfnt.SegmentOpMoveTo:
					if open {
						path.Close()
					}
					path.MoveTo(x1, y1)
					open = true
				case sfnt.SegmentOpLineTo:
					path.LineTo(x1, y1)
				case sfnt.SegmentOpQuadTo: // raised to the third degree
					x2, y2 := at(s.Args[1])
					path.CubicTo(fromX+2*(x1-fromX)/3, fromY+2*(y1-fromY)/3, x2+2*(x1-x2)/3, y2+2*(y1-y2)/3, x2, y2)
					x1, y1 = x2, y2
				case sfnt.SegmentOpCubeTo:
					x2, y2 := at(s.Args[1])
					x3, y3 := at(s.Args[2])
					path.CubicTo(x1, y1, x2, y2, x3, y3)
					x1, y1 = x3, y3
				}
				fromX, fromY = x1, y1
			}
			if open {
				path.Close()
			}
		}
		advance, err := f.font.GlyphAdvance(&f.buf, i, f.unit, font.HintingNone)
		if err == nil {
			x += float64(advance) * scale
			width += float64(advance) * scale
		}
		before = i
	}
	return width, path
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
