package batch

import (
	"context"
	"fmt"
	"image"
	"image/color"
	"math"
	"slices"
	"time"

	xdraw "golang.org/x/image/draw"

	"sodrik/internal/core/impose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/symbol/decode"
)

// Labels are read back from the file itself, drawn by a program that is not ours: all of them where that takes no longer than
// drawing did, else at least sampled of them, on whole sheets, the first and the last among them. Readers are shown the first and
// the last label of every sheet; of the others the matrix is taken from the picture where it should lie and decoded, which takes
// a thousandth of the time, and readers are shown what does not say what it should.
const sampled = 200

// Bounds of a sheet that is drawn for reading.
const (
	backModule = 5    // pixels a module
	backPage   = 40e6 // pixels of a sheet
)

// Back says what was read back of a file of sheets.
type Back struct {
	Labels int   // in the file
	Read   int   // of which were read and say what they should
	Looked int   // that were looked at
	Sheets []int // that were looked at, from 0
	Unread []int // labels that say nothing, or something else, from 0
}

// String says it in words.
func (b Back) String() string {
	switch {
	case len(b.Unread) > 0:
		return fmt.Sprintf(
			"%s of %s labels do not read back from the file",
			measure.Count(len(b.Unread)),
			measure.Count(b.Looked),
		)
	case b.Looked == b.Labels:
		return fmt.Sprintf("All %s read back from the file", measure.Plural(b.Labels, "label"))
	}
	return fmt.Sprintf("%s of %s labels read back from the file, on sheet %s", measure.Count(b.Looked), measure.Count(b.Labels),
		sheetsIn(b.Sheets))
}

// sheetsIn names sheets, from 0, for a sentence.
func sheetsIn(sheets []int) string {
	out := ""
	for i, s := range sheets {
		switch {
		case i == 0:
		case i == len(sheets)-1:
			out += " and "
		default:
			out += ", "
		}
		out += measure.Count(s + 1)
	}
	return out
}

// Reading is what reading labels back needs.
type Reading struct {
	Setting impose.Setting
	Pages   bool // each label is a page
	N       int
	Took    time.Duration // that drawing took
	// Draw draws a sheet of the file, from 0.
	Draw func(ctx context.Context, sheet int, dpi float64) (image.Image, error)
	// Read gives what is found in each picture.
	Read func(ctx context.Context, pictures []*image.Gray) (texts [][]string, err error)
	// Says is what a label should say, and where its code lies on it.
	Says func(label int) Said
	Done func(labels int) // nil for nobody who asks
}

// ReadBack reads labels back.
func (r Reading) ReadBack(ctx context.Context) (b Back, err error) {
	b.Labels = r.N
	sheets, each := r.N, 1
	if !r.Pages {
		sheets, each = r.Setting.Sheets(r.N), r.Setting.Cells()
	}
	var order []int
	for i := range sheets {
		order = append(order, i)
	}
	chosen := spread(sheets, max(2, (sampled+each-1)/each+1))
	start := time.Now()
	for k, sheet := range append(chosen, slices.DeleteFunc(order, func(i int) bool { return slices.Contains(chosen, i) })...) {
		if took := time.Since(start); k >= len(chosen) && took+took/time.Duration(k) > max(r.Took, time.Second) {
			break
		}
		if err := r.sheet(ctx, sheet, &b); err != nil {
			return b, err
		}
		if r.Done != nil {
			r.Done(b.Looked)
		}
	}
	slices.Sort(b.Sheets)
	slices.Sort(b.Unread)
	return b, nil
}

// spread are at most so many of n, evenly, the first and the last among them.
func spread(n, most int) (out []int) {
	if n <= most {
		most = n
	}
	for i := range most {
		at := 0
		if most > 1 {
			at = i * (n - 1) / (most - 1)
		}
		out = append(out, at)
	}
	return slices.Compact(out)
}

func (r Reading) sheet(ctx context.Context, sheet int, b *Back) error {
	labels, wide, high := []int{sheet}, 0.0, 0.0
	if !r.Pages {
		labels, wide, high = r.Setting.On(sheet, r.N), r.Setting.Width, r.Setting.Height
	}
	if len(labels) == 0 {
		return nil
	}
	dpi := 0.0
	said := make([]Said, len(labels))
	for k, i := range labels {
		said[k] = r.Says(i)
		dpi = max(dpi, backModule*float64(said[k].Modules)/(said[k].Side/float64(measure.Inch)))
		if r.Pages {
			wide, high = said[k].Wide, said[k].High
		}
	}
	inch := float64(measure.Inch)
	dpi = min(dpi, math.Sqrt(backPage/(wide/inch*high/inch)), 1200)
	img, err := r.Draw(ctx, sheet, dpi)
	if err != nil {
		return err
	}
	var pictures []*image.Gray // of labels that are shown to readers: the first and the last, and what is not read otherwise
	var of []int
	for k, i := range labels {
		x, y := 0.0, 0.0
		if !r.Pages {
			at := r.Setting.At(i, r.N)
			x, y = at.X+(r.Setting.LabelWidth-said[k].Wide)/2, at.Y+(r.Setting.LabelHeight-said[k].High)/2
		}
		if k > 0 && k < len(labels)-1 && said[k].sampled(img, x, y, float64(img.Bounds().Dx())/wide) {
			continue
		}
		part := img.Bounds()
		if !r.Pages {
			part = within(part, r.Setting, r.Setting.At(i, r.N))
		}
		pictures, of = append(pictures, cut(img, part)), append(of, i)
	}
	texts, err := r.Read(ctx, pictures)
	if err != nil {
		return err
	}
	b.Looked += len(labels)
	for k, i := range of {
		if !slices.Contains(texts[k], said[slices.Index(labels, i)].Payload) {
			b.Unread = append(b.Unread, i)
		}
	}
	b.Read = b.Looked - len(b.Unread)
	b.Sheets = append(b.Sheets, sheet)
	return nil
}

// within is where a label lies on a picture of its sheet.
func within(b image.Rectangle, s impose.Setting, at impose.Spot) image.Rectangle {
	kx, ky := float64(b.Dx())/s.Width, float64(b.Dy())/s.Height
	right, bottom := int(math.Ceil((at.X+s.LabelWidth)*kx)), int(math.Ceil((at.Y+s.LabelHeight)*ky))
	return image.Rect(int(at.X*kx), int(at.Y*ky), right, bottom).Add(b.Min)
}

// cut is a part of a picture, on white.
func cut(img image.Image, at image.Rectangle) *image.Gray {
	r := at.Intersect(img.Bounds())
	if r.Empty() {
		return image.NewGray(image.Rect(0, 0, 1, 1))
	}
	const border = 8
	out := image.NewGray(image.Rect(0, 0, r.Dx()+2*border, r.Dy()+2*border))
	xdraw.Draw(out, out.Rect, image.NewUniform(color.White), image.Point{}, xdraw.Src)
	xdraw.Draw(out, image.Rect(border, border, border+r.Dx(), border+r.Dy()), img, r.Min, xdraw.Over)
	return out
}

// Said is what a label should say, and where its code lies on it, in mm.
type Said struct {
	Payload    string
	Modules    int // along a side, quiet zone included
	Quiet      int
	Side       float64 // of the code, quiet zone included
	X, Y       float64 // of the code, from the left top of the drawing
	Wide, High float64 // of the drawing with the line under it, in the middle of its label
}

// Says is that of a row; room is the width that its line has, 0 for that of the drawing.
func Says(r *Row, room float64) Said {
	m := r.Rendition
	p := m.Place(min(0, len(m.Job.Placements)-1))
	framed, at := m.Framed(p), m.For(p)
	if room == 0 {
		room = framed.Scene.Width
	}
	_, line, high := lineOf(r.Line, room, m.Job.Look.Ink)
	s := Said{Payload: at.Payload, Modules: at.Modules(), Quiet: at.Job.Symbol.QuietZone, Side: float64(at.Modules()),
		X: framed.Left,
		Y: framed.Top, Wide: framed.Scene.Width, High: framed.Scene.Height + high}
	if p != nil {
		s.Side = float64(p.Width)
	}
	if line > s.Wide { // the drawing lies in the middle of the line
		s.X += (line - s.Wide) / 2
		s.Wide = line
	}
	return s
}

// sampled takes the middle of every module of a code for dark or light, on a picture of its sheet with so many pixels a
// millimetre on which its drawing lies at x, y, and says whether that reads as it should. Light codes on dark are told by their
// eyes: the middle of an eye is dark by definition, its surroundings are light.
func (s Said) sampled(img image.Image, x, y, scale float64) bool {
	unit := s.Side / float64(s.Modules)
	luma := func(mx, my float64) float64 {
		px := int((x + s.X + mx*unit) * scale)
		py := int((y + s.Y + my*unit) * scale)
		return float64(color.GrayModel.Convert(img.At(img.Bounds().Min.X+px, img.Bounds().Min.Y+py)).(color.Gray).Y)
	}
	quiet := float64(s.Quiet)
	dark, light := luma(quiet+3.5, quiet+3.5), luma(quiet+1.5, quiet+3.5)
	if math.Abs(dark-light) < 40 {
		return false
	}
	found, err := decode.Matrix(s.Modules-2*s.Quiet, func(mx, my int) bool {
		l := luma(quiet+float64(mx)+0.5, quiet+float64(my)+0.5)
		return math.Abs(l-dark) < math.Abs(l-light)
	})
	return err == nil && found.Payload == s.Payload
}
