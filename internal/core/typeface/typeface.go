// Package typeface sets words: eight families under the SIL Open Font Licence, or one that came in as a file, shaped as their
// makers meant (kerning, ligatures, joined scripts, right to left), and given as outlines, since a file for print needs no
// font. A character that a face has not is named, never drawn as an empty box.
//
// Lengths are ems: 1 is the size of the type. The baseline lies at 0, y points down.
package typeface

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"embed"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"

	"sodrik/internal/core/scene"
)

//go:embed fonts/*.ttf
var files embed.FS

// Face is one cut of a family, safe for concurrent use.
type Face struct {
	Key, Name string
	Tone      string // what it is like, for choosing; "" for one that came in

	once sync.Once
	mu   sync.Mutex // a face of the shaper keeps caches
	font *font.Face
	data []byte

	letters map[font.GID]*scene.Path // outlines of glyphs that were set, from their origin, in ems
}

// Faces are those at hand in every workspace, the first being the usual one.
var Faces = []*Face{
	{Key: "instrument-sans", Name: "Instrument Sans", Tone: "plain, friendly"},
	{Key: "archivo-narrow", Name: "Archivo Narrow", Tone: "narrow, for long words"},
	{Key: "bitter", Name: "Bitter", Tone: "sturdy, with slabs"},
	{Key: "alegreya", Name: "Alegreya", Tone: "bookish, lively"},
	{Key: "spline-sans-mono", Name: "Spline Sans Mono", Tone: "even, technical"},
	{Key: "caveat", Name: "Caveat", Tone: "handwritten"},
	{Key: "noto-sans", Name: "Noto Sans", Tone: "Latin, Greek, Cyrillic"},
	{Key: "vazirmatn", Name: "Vazirmatn", Tone: "Arabic and Latin"},
}

// Of finds a face by its key.
func Of(key string) (*Face, bool) {
	for _, f := range Faces {
		if f.Key == key {
			return f, true
		}
	}
	return nil, false
}

// MaxFile bounds a font that comes in.
const MaxFile = 5 << 20

// Errors of fonts that come in.
var (
	ErrLarge = errors.New("is larger than 5 MB; a cut for print needs less")
	ErrFont  = errors.New("is not a TrueType or OpenType font that can be read")
	ErrEmpty = errors.New("has no outlines for letters")
	ErrWeb   = errors.New("is a font for web pages (WOFF); take its TTF or OTF file")

	ErrCollection = errors.New("holds several fonts (TTC); take the TTF or OTF file of one")
)

// uploaded is the key of a typeface that came in: where its file is kept.
var uploaded = regexp.MustCompile(`^asset:sha256-[0-9a-f]{64}$`)

// Uploaded says whether a key is that of a typeface that came in.
func Uploaded(key string) bool { return uploaded.MatchString(key) }

// KeyOf is the key of a file that came in.
func KeyOf(data []byte) string {
	sum := sha256.Sum256(data)
	return "asset:sha256-" + hex.EncodeToString(sum[:])
}

// Is says whether a file calls itself a font (OpenType 1.9, font file; WOFF 1.0 and 2.0, section 3).
func Is(data []byte) bool {
	if len(data) < 4 {
		return false
	}
	switch string(data[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true", "ttcf", "wOFF", "wOF2":
		return true
	}
	return false
}

// Parse takes in a TTF or OTF file. Its name is what the font calls its family and cut.
func Parse(data []byte) (f *Face, err error) {
	if len(data) > MaxFile {
		return nil, ErrLarge
	}
	if Is(data) {
		switch string(data[:4]) {
		case "wOFF", "wOF2":
			return nil, ErrWeb
		case "ttcf":
			return nil, ErrCollection
		}
	}
	defer func() {
		if recover() != nil { // tables that point nowhere
			f, err = nil, ErrFont
		}
	}()
	if !whole(data) {
		return nil, ErrFont
	}
	parsed, err := font.ParseTTF(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("%w", ErrFont)
	}
	f = &Face{Key: KeyOf(data), Name: nameOf(parsed), font: parsed, data: data}
	f.once.Do(func() {})
	if l := f.Set("HEmno"); len(l.Missing) > 0 || len(l.Path.Ops) == 0 {
		return nil, ErrEmpty
	}
	return f, nil
}

// whole says whether every table that the directory names (OpenType 1.9, table directory) lies within the file, and that
// together they are not much more than it: the parser makes room for as many bytes as a table says it has, before it reads
// them.
func whole(data []byte) bool {
	if len(data) < 12 {
		return false
	}
	n := int(binary.BigEndian.Uint16(data[4:]))
	if 12+16*n > len(data) {
		return false
	}
	total := int64(0)
	for record := data[12:]; n > 0; n, record = n-1, record[16:] {
		offset, length := int64(binary.BigEndian.Uint32(record[8:])), int64(binary.BigEndian.Uint32(record[12:]))
		if offset+length > int64(len(data)) {
			return false
		}
		total += length
	}
	return total <= 2*int64(len(data))
}

// maxNamed bounds the name of a typeface that came in, in characters.
const maxNamed = 60

// nameOf is what a font calls itself: its family, and its cut where that is not the plain one.
func nameOf(f *font.Face) string {
	d := f.Describe()
	name := strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, strings.TrimSpace(d.Family))
	if d.Aspect.Weight >= font.WeightSemibold {
		name += " Bold"
	}
	if d.Aspect.Style == font.StyleItalic {
		name += " Italic"
	}
	if r := []rune(name); len(r) > maxNamed {
		name = string(r[:maxNamed])
	}
	return cmp.Or(strings.TrimSpace(name), "Typeface without a name")
}

// Data is the file of a typeface that came in, nil for one that comes along.
func (f *Face) Data() []byte { return f.data }

func (f *Face) load() {
	f.once.Do(func() {
		data, err := files.ReadFile("fonts/" + f.Key + ".ttf")
		if err == nil {
			f.font, err = font.ParseTTF(bytes.NewReader(data))
		}
		if err != nil {
			panic(err) // it is part of the program
		}
	})
}

// Line is a line of set words.
type Line struct {
	Path        scene.Path
	Letters     []scene.Letter // of which it is made
	Width       float64
	Top, Bottom float64 // of the ink: highest and lowest point, negative above the baseline
	Missing     []rune  // that the face has not, each once
}

// Set sets a line. Line breaks are blanks.
func (f *Face) Set(text string) Line {
	f.load()
	runes := []rune(text)
	for i, r := range runes {
		if unicode.IsSpace(r) {
			runes[i] = ' '
		}
	}
	var out Line
	if len(runes) == 0 {
		return out
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, r := range runes {
		if _, ok := f.font.NominalGlyph(r); !ok && unicode.IsGraphic(r) && !slices.Contains(out.Missing, r) {
			out.Missing = append(out.Missing, r)
		}
	}
	em := float64(f.font.Upem())
	direction := directionOf(runes)
	var segments shaping.Segmenter
	var shaper shaping.HarfbuzzShaper
	var runs []shaping.Output
	for _, in := range segments.Split(shaping.Input{Text: runes, RunEnd: len(runes), Direction: direction, Size: fixed.I(int(em)),
		Language: language.NewLanguage("en")}, one{f.font}) {
		runs = append(runs, shaper.Shape(in))
	}
	var wrapper shaping.LineWrapper
	lines, _ := wrapper.WrapParagraphF(shaping.WrapConfig{Direction: direction, DisableTrailingWhitespaceTrim: true},
		fixed.Int26_6(1<<30), runes, shaping.NewSliceIterator(runs))
	x := 0.0
	for _, line := range lines {
		ordered := slices.Clone(line)
		slices.SortStableFunc(ordered, func(a, b shaping.Output) int { return int(a.VisualIndex - b.VisualIndex) })
		for _, run := range ordered {
			for _, g := range run.Glyphs {
				dx, dy := x+float64(g.XOffset)/64/em, -float64(g.YOffset)/64/em
				f.glyph(&out.Path, g.GlyphID, dx, dy, em)
				if outline := f.letter(g.GlyphID, em); len(outline.Ops) > 0 {
					out.Letters = append(out.Letters, scene.Letter{Outline: outline, X: dx, Y: dy})
				}
				x += float64(g.Advance) / 64 / em
			}
		}
	}
	out.Width = x
	for i, p := range out.Path.Points {
		if i == 0 {
			out.Top, out.Bottom = p.Y, p.Y
		}
		out.Top, out.Bottom = min(out.Top, p.Y), max(out.Bottom, p.Y)
	}
	return out
}

// one is a map of fonts with a single one in it.
type one struct{ face *font.Face }

func (o one) ResolveFace(rune) *font.Face { return o.face }

// directionOf is that of the first letter that has one (Unicode Standard Annex 9, P2).
func directionOf(runes []rune) di.Direction {
	for _, r := range runes {
		switch {
		case unicode.In(r, unicode.Arabic, unicode.Hebrew, unicode.Syriac, unicode.Thaana, unicode.Nko):
			return di.DirectionRTL
		case unicode.IsLetter(r):
			return di.DirectionLTR
		}
	}
	return di.DirectionLTR
}

// letter is the outline of a glyph, which is the same one however often it is set.
func (f *Face) letter(id font.GID, em float64) *scene.Path {
	if p := f.letters[id]; p != nil {
		return p
	}
	p := &scene.Path{}
	f.glyph(p, id, 0, 0, em)
	if f.letters == nil {
		f.letters = map[font.GID]*scene.Path{}
	}
	f.letters[id] = p
	return p
}

// glyph adds the outline of a glyph whose origin lies at dx, dy.
func (f *Face) glyph(path *scene.Path, id font.GID, dx, dy, em float64) {
	outline, ok := f.font.GlyphDataOutline(id)
	if !ok {
		return
	}
	at := func(p opentype.SegmentPoint) (float64, float64) { return dx + float64(p.X)/em, dy - float64(p.Y)/em }
	open := false
	var px, py float64
	for _, s := range outline.Segments {
		x1, y1 := at(s.Args[0])
		switch s.Op {
		case opentype.SegmentOpMoveTo:
			if open {
				path.Close()
			}
			path.MoveTo(x1, y1)
			open = true
		case opentype.SegmentOpLineTo:
			path.LineTo(x1, y1)
		case opentype.SegmentOpQuadTo: // raised to the third degree
			x2, y2 := at(s.Args[1])
			path.CubicTo(px+2*(x1-px)/3, py+2*(y1-py)/3, x2+2*(x1-x2)/3, y2+2*(y1-y2)/3, x2, y2)
			x1, y1 = x2, y2
		case opentype.SegmentOpCubeTo:
			x2, y2 := at(s.Args[1])
			x3, y3 := at(s.Args[2])
			path.CubicTo(x1, y1, x2, y2, x3, y3)
			x1, y1 = x3, y3
		}
		px, py = x1, y1
	}
	if open {
		path.Close()
	}
}
