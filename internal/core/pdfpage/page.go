// Package pdfpage opens one page of a PDF that came in (ISO 32000-1): how large it is, how it is turned, and what is needed
// to add to it. It draws nothing: pictures of pages are made by a program of its own process.
package pdfpage

import (
	"bytes"
	"errors"
	"fmt"
	"math"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// MaxPages bounds a file.
const MaxPages = 200

// point is a point in millimetres.
const point = 25.4 / 72

// Errors say what is wrong with a file, as a sentence without its subject.
var (
	ErrEncrypted = errors.New("is encrypted; save it without a password")
	ErrDamaged   = errors.New("is a PDF that cannot be read: it is damaged or cut off")
)

// Page is one page. It is not safe for concurrent use.
type Page struct {
	Number, Count int
	Trim          Box  // what is left of it after trimming: TrimBox, else CropBox, else MediaBox
	Media         Box  // the whole
	Turned        int  // degrees clockwise at which it is shown: 0, 90, 180 or 270
	Signed        bool // the file holds a signature

	unit float64 // of user space, in points
	ctx  *model.Context
	dict types.Dict
	ref  types.IndirectRef
	res  types.Dict
}

// Box is a rectangle in user space.
type Box struct{ X0, Y0, X1, Y1 float64 }

func init() { model.ConfigPath = "disable" } // it would write into the home of whoever runs it

// Is says whether a file calls itself a PDF.
func Is(data []byte) bool { return bytes.Contains(data[:min(len(data), 1024)], []byte("%PDF-")) }

// Open opens a page, the first being 1.
func Open(data []byte, number int) (p *Page, err error) {
	defer func() {
		if recover() != nil { // what the parser did not foresee
			p, err = nil, ErrDamaged
		}
	}()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	if bytes.Contains(data, []byte("/Encrypt")) && encrypted(data, conf) {
		return nil, ErrEncrypted
	}
	ctx, err := pdfcpu.Read(bytes.NewReader(data), conf)
	if err != nil {
		return nil, ErrDamaged
	}
	if err := ctx.EnsurePageCount(); err != nil || ctx.PageCount < 1 {
		return nil, ErrDamaged
	}
	switch {
	case ctx.PageCount > MaxPages:
		return nil, fmt.Errorf("has %d pages; at most %d are opened: save the page alone", ctx.PageCount, MaxPages)
	case number < 1 || number > ctx.PageCount:
		return nil, fmt.Errorf("has %d pages, and no page %d", ctx.PageCount, number)
	}
	dict, ref, inherited, err := ctx.PageDict(number, false)
	if err != nil || dict == nil || ref == nil {
		return nil, ErrDamaged
	}
	p = &Page{Number: number, Count: ctx.PageCount, unit: 1, ctx: ctx, dict: dict, ref: *ref, res: inherited.Resources}
	if inherited.MediaBox == nil {
		return nil, ErrDamaged
	}
	p.Media = boxOf(inherited.MediaBox)
	p.Trim = p.Media
	if c := inherited.CropBox; c != nil {
		p.Trim = p.Media.and(boxOf(c))
	}
	if o, ok := dict.Find("TrimBox"); ok {
		if a, err := ctx.DereferenceArray(o); err == nil && len(a) == 4 {
			var b [4]float64
			for i := range a {
				if b[i], err = ctx.DereferenceNumber(a[i]); err != nil {
					return nil, ErrDamaged
				}
			}
			p.Trim = p.Media.and(Box{min(b[0], b[2]), min(b[1], b[3]), max(b[0], b[2]), max(b[1], b[3])})
		}
	}
	if o, ok := dict.Find("UserUnit"); ok {
		if u, err := ctx.DereferenceNumber(o); err == nil && u > 0 {
			p.unit = u
		}
	}
	p.Turned = ((inherited.Rotate%360 + 360) % 360) / 90 * 90
	if p.Trim.X1-p.Trim.X0 < 1e-6 || p.Trim.Y1-p.Trim.Y0 < 1e-6 {
		return nil, ErrDamaged
	}
	p.Signed = p.signed()
	return p, nil
}

// encrypted says whether the trailer names an encryption dictionary; the word alone may stand anywhere.
func encrypted(data []byte, conf *model.Configuration) bool {
	ctx, err := pdfcpu.Read(bytes.NewReader(data), conf)
	return err != nil || ctx.Encrypt != nil || ctx.E != nil
}

func (p *Page) signed() bool {
	root, err := p.ctx.Catalog()
	if err != nil {
		return false
	}
	o, ok := root.Find("AcroForm")
	if !ok {
		return false
	}
	form, err := p.ctx.DereferenceDict(o)
	if err != nil || form == nil {
		return false
	}
	flags := form.IntEntry("SigFlags")
	return flags != nil && *flags&1 != 0
}

func boxOf(r *types.Rectangle) Box {
	return Box{min(r.LL.X, r.UR.X), min(r.LL.Y, r.UR.Y), max(r.LL.X, r.UR.X), max(r.LL.Y, r.UR.Y)}
}

func (b Box) and(c Box) Box {
	return Box{max(b.X0, c.X0), max(b.Y0, c.Y0), min(b.X1, c.X1), min(b.Y1, c.Y1)}
}

// Shown is a box as it is shown: wide and high, in millimetres.
func (p *Page) Shown(b Box) (width, height float64) {
	w, h := (b.X1-b.X0)*p.unit*point, (b.Y1-b.Y0)*p.unit*point
	if p.Turned%180 == 90 {
		return h, w
	}
	return w, h
}

// Within says where the trimmed page lies in the whole as it is shown, in shares of its width and height from the left top.
func (p *Page) Within() (x0, y0, x1, y1 float64) {
	m, t := p.Media, p.Trim
	w, h := m.X1-m.X0, m.Y1-m.Y0
	l, r, b, u := (t.X0-m.X0)/w, (t.X1-m.X0)/w, (t.Y0-m.Y0)/h, (t.Y1-m.Y0)/h
	switch p.Turned {
	case 90:
		return b, l, u, r
	case 180:
		return 1 - r, b, 1 - l, u
	case 270:
		return 1 - u, 1 - r, 1 - b, 1 - l
	}
	return l, 1 - u, r, 1 - b
}

// Matrix takes points of a drawing that is w by h points, its origin at its left foot and y pointing up, to user space, where
// its left top lies x, y millimetres from that of the trimmed page as shown, and a millimetre of it is scale of the page's.
func (p *Page) Matrix(x, y, h, scale float64) [6]float64 {
	k := scale / p.unit
	u, v, t := x/point/p.unit, y/point/p.unit, p.Trim
	h *= k
	switch p.Turned {
	case 90:
		return [6]float64{0, k, -k, 0, t.X0 + v + h, t.Y0 + u}
	case 180:
		return [6]float64{-k, 0, 0, -k, t.X1 - u, t.Y0 + v + h}
	case 270:
		return [6]float64{0, -k, k, 0, t.X1 - v - h, t.Y1 - u}
	}
	return [6]float64{k, 0, 0, k, t.X0 + u, t.Y1 - v - h}
}

// Dots is how many dots an inch a picture of the whole page may have so that it is no more than most pixels in all, at most 300.
func (p *Page) Dots(most float64) float64 {
	w, h := p.Shown(p.Media)
	return min(300, math.Sqrt(most/(w/25.4*h/25.4)))
}
