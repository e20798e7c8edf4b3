package artwork

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"math"
	"sync"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// Sheet is a thing that a code lies on: all of it, blank margins too, in millimetres. It is immutable.
type Sheet struct {
	Width, Height float64
	Said          bool // the file says how large it is; else it is taken as 300 dots an inch, or 96 where it is drawn
	Items         []scene.Item
	Left          []string // what of the file was left out, and what was changed, in words

	PDF         []byte // the file where it is one: Items hold a picture of the page
	Page, Pages int

	free   free
	once   sync.Once
	unlike string

	onceBorne sync.Once
	borne     []Borne
}

// Unlike is the first thing that check finds against the file, "" for nothing. The file is checked once.
func (s *Sheet) Unlike(check func(file []byte) []string) string {
	s.once.Do(func() {
		if wrong := check(s.PDF); len(wrong) > 0 {
			s.unlike = wrong[0]
		}
	})
	return s.unlike
}

// Limits of sheets.
const (
	MinSheet   = 10        // millimetres a side
	MaxSheet   = 20_000    // millimetres a side
	MaxSheetPx = 9_000_000 // pixels of a page's picture: A4 at 300 dots an inch
)

var errSheet = errors.New("is none of PDF, SVG, PNG, JPEG and WebP")

// ReadSheet takes in artwork that is no PDF: SVG, PNG, JPEG or WebP. The error says what is wrong with it, as a sentence
// without its subject.
func ReadSheet(data []byte) (*Sheet, error) {
	switch {
	case len(data) == 0:
		return nil, fmt.Errorf("is empty, 0 bytes; choose a PDF, SVG, PNG, JPEG or WebP file")
	case len(data) > MaxBytes:
		return nil, fmt.Errorf("is %.1f MB large; at most %d MB are taken", float64(len(data))/(1<<20), MaxBytes>>20)
	case isPixels(data):
		return sheetOfPixels(data)
	case looksLikeSVG(data):
		return sheetOfDrawing(data)
	}
	return nil, errSheet
}

func sized(s *Sheet) (*Sheet, error) {
	for _, side := range [2]float64{s.Width, s.Height} {
		if !(side >= MinSheet && side <= MaxSheet) {
			return nil, fmt.Errorf("is %s × %s mm; artwork lies between %d mm and %d m a side", measure.Number(s.Width, 1),
				measure.Number(s.Height, 1), MinSheet, MaxSheet/1000)
		}
	}
	return s, nil
}

func sheetOfPixels(data []byte) (*Sheet, error) {
	pixels, left, err := decodePixels(data, 0, NewBudget())
	if err != nil {
		return nil, err
	}
	perMM, said := resolution(data)
	if !said {
		perMM = 300 / 25.4
	}
	p := scene.NewPicture(pixels)
	p.Width, p.Height = float64(pixels.Rect.Dx())/perMM, float64(pixels.Rect.Dy())/perMM
	return sized(&Sheet{Width: p.Width, Height: p.Height, Said: said, Left: left,
		Items: []scene.Item{{Name: "artwork", Picture: p, At: scene.Unit}}})
}

func sheetOfDrawing(data []byte) (*Sheet, error) {
	s, err := ReadDrawn(data)
	if err != nil {
		return nil, err
	}
	return sized(s)
}

// ReadDrawn reads an SVG of any size.
func ReadDrawn(data []byte) (*Sheet, error) {
	d, frame, err := draftOf(data, NewBudget())
	if err != nil {
		return nil, err
	}
	if math.IsInf(frame.x0, 0) {
		return nil,
			fmt.Errorf(
				"says neither how large it is nor what part of it is the sheet: it has no width and height, and no viewBox")
	}
	w, h := frame.x1-frame.x0, frame.y1-frame.y0
	s := &Sheet{Width: w * 25.4 / 96, Height: h * 25.4 / 96, Left: d.left}
	if pw, ph := length(d.root.attr["width"], 0), length(d.root.attr["height"], 0); pw > 0 && ph > 0 {
		s.Width, s.Height, s.Said = pw*25.4/96, ph*25.4/96, true
	}
	k := min(s.Width/w, s.Height/h) // whole, in the middle (SVG 2, clause 8.2)
	m := matrix{k, 0, 0, k, (s.Width-w*k)/2 - frame.x0*k, (s.Height-h*k)/2 - frame.y0*k}
	for _, it := range d.items {
		b := boxOf(it)
		if b.and(frame).empty() {
			continue
		}
		it = moved(it, m)
		if it.Current {
			it.Fill, it.Current = ink.Black, false
		}
		if it.Clip == nil && !frame.holds(b) {
			clip := scene.Rectangle(0, 0, s.Width, s.Height)
			it.Clip = &clip
		}
		s.Items = append(s.Items, it)
	}
	return s, nil
}

// ReadPage takes in a page of a PDF with a picture of the whole page, which another program made.
func ReadPage(file []byte, page int, picture []byte) (*Sheet, error) {
	p, err := pdfpage.Open(file, page)
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(bytes.NewReader(picture))
	if err != nil {
		return nil, fmt.Errorf("cannot be shown: the picture of the page is damaged")
	}
	x0, y0, x1, y1 := p.Within()
	w, h := float64(img.Bounds().Dx()), float64(img.Bounds().Dy())
	r := image.Rect(int(math.Round(x0*w)), int(math.Round(y0*h)), int(math.Round(x1*w)), int(math.Round(y1*h))).
		Intersect(image.Rect(0, 0, img.Bounds().Dx(), img.Bounds().Dy()))
	if r.Empty() {
		return nil, fmt.Errorf("shows nothing: its trimmed page is smaller than a dot")
	}
	paper := image.NewRGBA(image.Rect(0, 0, r.Dx(), r.Dy())) // onto which package draw knows fast ways
	draw.Draw(paper, paper.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(paper, paper.Rect, img, img.Bounds().Min.Add(r.Min), draw.Over)
	pixels := &image.NRGBA{Pix: paper.Pix, Stride: paper.Stride, Rect: paper.Rect} // opaque, so the bytes are the same
	s := &Sheet{Said: true, PDF: file, Page: page, Pages: p.Count}
	s.Width, s.Height = p.Shown(p.Trim)
	if p.Signed {
		s.Left = append(s.Left, "It is signed. The signature goes on holding for the artwork, not for the code that is added.")
	}
	pic := scene.NewPicture(pixels)
	pic.Width, pic.Height = s.Width, s.Height
	s.Items = []scene.Item{{Name: "artwork", Picture: pic, At: scene.Unit}}
	return sized(s)
}

// resolution is how many pixels a millimetre a file says it has: the pHYs chunk of a PNG (ISO/IEC 15948, 11.3.5.3), or the
// density in the JFIF segment of a JPEG (ISO/IEC 10918-5, 10.1). One that both ways differ is none.
func resolution(data []byte) (perMM float64, ok bool) {
	sound := func(x, y, unit float64) (float64, bool) {
		if x != y || x <= 0 || x*unit > 1000 || x*unit < 0.1 {
			return 0, false
		}
		return x * unit, true
	}
	if kindOf(data) == "PNG" {
		for at := 8; at+12 <= len(data); {
			n, kind := int(binary.BigEndian.Uint32(data[at:])), string(data[at+4:at+8])
			if n < 0 || at+12+n > len(data) || kind == "IDAT" {
				return 0, false
			}
			if kind == "pHYs" && n == 9 && data[at+16] == 1 {
				return sound(float64(binary.BigEndian.Uint32(data[at+8:])), float64(binary.BigEndian.Uint32(data[at+12:])), 1e-3)
			}
			at += 12 + n
		}
	}
	if kindOf(data) == "JPEG" && len(data) > 18 && string(data[6:11]) == "JFIF\x00" {
		x, y := float64(binary.BigEndian.Uint16(data[14:])), float64(binary.BigEndian.Uint16(data[16:]))
		switch data[13] {
		case 1:
			return sound(x, y, 1/25.4)
		case 2:
			return sound(x, y, 1.0/10)
		}
	}
	return 0, false
}
