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

	"sodrik/internal/core/compose"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/measure"
)

// Labels are read back from the file itself, drawn by a program that is not ours: all of them where that takes no longer than
// drawing did, else at least sampled of them, on whole sheets, the first and the last among them.
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
		return fmt.Sprintf("all %s read back from the file", measure.Plural(b.Labels, "label"))
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
	// Says is what a label should say, its modules along a side and its width in mm.
	Says func(label int) (payload string, modules int, width float64)
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
	for _, i := range labels {
		_, modules, width := r.Says(i)
		dpi = max(dpi, backModule*float64(modules)/(width/float64(measure.Inch)))
		wide, high = max(wide, width), max(high, width)
	}
	inch := float64(measure.Inch)
	dpi = min(dpi, math.Sqrt(backPage/(wide/inch*high/inch)), 1200)
	img, err := r.Draw(ctx, sheet, dpi)
	if err != nil {
		return err
	}
	var pictures []*image.Gray
	for _, i := range labels {
		at := image.Rectangle{Max: image.Pt(math.MaxInt32, math.MaxInt32)}
		if !r.Pages {
			at = within(img.Bounds(), r.Setting, r.Setting.At(i, r.N))
		}
		pictures = append(pictures, cut(img, at))
	}
	texts, err := r.Read(ctx, pictures)
	if err != nil {
		return err
	}
	for k, i := range labels {
		b.Looked++
		if want, _, _ := r.Says(i); slices.Contains(texts[k], want) {
			b.Read++
		} else {
			b.Unread = append(b.Unread, i)
		}
	}
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

// Says is what a row's label should say, its modules along a side and its width in mm.
func Says(m *compose.Rendition) (payload string, modules int, width float64) {
	p := m.Place(min(0, len(m.Job.Placements)-1))
	at := m.For(p)
	width = float64(at.Modules())
	if p != nil {
		width = float64(p.Width)
	}
	return at.Payload, at.Modules(), width
}
