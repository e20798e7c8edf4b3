package batch

import (
	"context"
	"fmt"
	"io"
	"math"
	"runtime"
	"sync"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/glyph"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
	"sodrik/internal/core/typeface"
)

// Of the line that is printed under a label.
const (
	linePoints = 7.0
	lineLeast  = 4.0 // points; what does not fit then ends in three dots
	lineAbove  = 0.8 // mm between the code and the line
)

// lineOf sets the line under a label in at most so much width.
func lineOf(text string, width float64, fill ink.Colour) (items []scene.Item, wide, high float64) {
	if text == "" {
		return nil, 0, 0
	}
	set := func(text string) typeface.Line {
		for _, face := range typeface.Faces {
			if l := face.Set(text); len(l.Missing) == 0 {
				return l
			}
		}
		return typeface.Faces[0].Set(text)
	}
	l := set(text)
	em := linePoints * glyph.Point
	if l.Width*em > width {
		em = max(lineLeast*glyph.Point, width/l.Width)
	}
	for r := []rune(text); l.Width*em > width && len(r) > 1; {
		r = r[:len(r)-1]
		l = set(string(r) + " …")
	}
	items = append(items, scene.Item{Name: "line", Path: l.Path, Letters: l.Letters, Fill: fill, At: scene.At(em, 0,
		lineAbove+em)})
	return items, l.Width * em, lineAbove + em*1.3
}

// Label is the label of a row: its code at its first place, the line under it. A drawing that does not fit the label is a
// problem of its width, with the width that fits.
func Label(r *Row, s impose.Setting) (impose.Label, problem.List) {
	m := r.Rendition
	var problems problem.List
	p := m.Place(min(0, len(m.Job.Placements)-1))
	room, tall := s.Room()
	l := impose.Label{Drawing: m.Scene(p)}
	if !m.Job.Look.Paper.None {
		l.Paper = &m.Job.Look.Paper.Colour
	}
	l.Line, l.LineW, l.LineH = lineOf(r.Line, room, m.Job.Look.Ink)
	const slack = 1e-6
	if k := min(room/l.Drawing.Width, (tall-l.LineH)/l.Drawing.Height); k < 1-slack {
		width := float64(m.Modules())
		if p != nil {
			width = float64(p.Width)
		}
		problems.Add(
			"/placements/0/width_mm",
			"sheet.fits",
			"makes the code %s × %s mm with all around it, and the label has room "+
				"for %s × %s mm; take %s mm",
			measure.Number(l.Drawing.Width, 1),
			measure.Number(l.Drawing.Height, 1),
			measure.Number(room, 1),
			measure.Number(tall-l.LineH, 1),
			measure.Number(Fitting(width, k), 1),
		)
	}
	return l, problems
}

// Fit is the width at which a row's code is as large as a label of a sheet allows, in mm; ok is false where it has no width of
// its own.
func Fit(r *Row, s impose.Setting) (width float64, ok bool) {
	m := r.Rendition
	if len(m.Job.Placements) == 0 {
		return 0, false
	}
	p := m.Place(0)
	l := Loose(r)
	room, tall := s.Room()
	_, _, high := lineOf(r.Line, room, m.Job.Look.Ink)
	return Fitting(float64(p.Width), min(room/l.Drawing.Width, (tall-high)/l.Drawing.Height)), true
}

// Fitting is a width that a code has to have to be k times as large, to a tenth of a millimetre.
func Fitting(width, k float64) float64 { return math.Floor(width*k*10+1e-6) / 10 }

// Sheets are labels to be written as one PDF.
type Sheets struct {
	Setting impose.Setting
	Pages   bool                              // each label is a page as large as itself; Setting is not used
	N       int                               // labels
	Label   func(i int) (impose.Label, error) // of label i, from 0; called by several at once
	Press   *press.Condition                  // of a PDF/X; nil is RGB
	Over    bool                              // black overprints
	Paper   *ink.Colour                       // under labels without any
	Done    func(labels int)                  // how many are on sheets, nil for nobody who asks
}

// Room is the width that a line under a label has; 0 is that of its drawing.
func (w *Sheets) Room() float64 {
	if w.Pages {
		return 0
	}
	room, _ := w.Setting.Room()
	return room
}

// sheets is how many there are.
func (w *Sheets) sheets() int {
	if w.Pages {
		return w.N
	}
	return w.Setting.Sheets(w.N)
}

// on are the labels of a sheet.
func (w *Sheets) on(sheet int) []int {
	if w.Pages {
		return []int{sheet}
	}
	return w.Setting.On(sheet, w.N)
}

// sheetOf draws one sheet.
func (w *Sheets) sheetOf(sheet int) (*scene.Scene, *separation.Sheet, error) {
	s := w.Setting
	if w.Pages {
		l, err := w.Label(sheet)
		if err != nil {
			return nil, nil, err
		}
		s = pageOf(l)
		return w.separated(&scene.Scene{Width: s.Width, Height: s.Height, Items: s.Lay(l, impose.Spot{})})
	}
	out := &scene.Scene{Width: s.Width, Height: s.Height}
	for _, i := range s.On(sheet, w.N) {
		l, err := w.Label(i)
		if err != nil {
			return nil, nil, err
		}
		out.Items = append(out.Items, s.Lay(l, s.At(i, w.N))...)
	}
	if s.Marks {
		out.Items = append(out.Items, s.CropMarks()...)
	}
	return w.separated(out)
}

// separated is a drawing with its plates where it is for a press.
func (w *Sheets) separated(s *scene.Scene) (*scene.Scene, *separation.Sheet, error) {
	if w.Press == nil {
		return s, nil, nil
	}
	plates, err := separation.Separate(s, w.Press, w.Paper)
	return s, plates, err
}

// pageOf is a sheet as large as one label.
func pageOf(l impose.Label) impose.Setting {
	wide, high := max(l.Drawing.Width, l.LineW), l.Drawing.Height+l.LineH
	return impose.Setting{Sheet: impose.Sheet{Width: wide, Height: high, Across: 1, Down: 1, LabelWidth: wide, LabelHeight: high},
		Order: impose.ByRow, Start: 1}
}

// Loose is the label of a row where no sheet bounds it.
func Loose(r *Row) impose.Label {
	l := impose.Label{Drawing: r.Rendition.Scene(r.Rendition.Place(min(0, len(r.Rendition.Job.Placements)-1)))}
	l.Line, l.LineW, l.LineH = lineOf(r.Line, l.Drawing.Width, r.Rendition.Job.Look.Ink)
	return l
}

// Write writes the PDF, a sheet a page, in flat memory. The error is that of the writer, of a label, or of ctx.
func (w *Sheets) Write(ctx context.Context, out io.Writer, meta export.Meta) error {
	var d *pdf.Document
	if w.Press == nil {
		d = pdf.NewDocument(out, meta)
	} else {
		var err error
		if d, err = pdf.NewDocumentX(out, meta); err != nil {
			return err
		}
	}
	done := 0
	err := InOrder(ctx, w.sheets(), func(sheet int) (*pdf.Page, error) {
		s, plates, err := w.sheetOf(sheet)
		switch {
		case err != nil:
			return nil, err
		case plates != nil:
			return d.MakeX(plates, pdf.Press{Overprint: w.Over}), nil
		}
		return d.Make(s), nil
	}, func(sheet int, page *pdf.Page) error {
		if done += len(w.on(sheet)); w.Done != nil {
			w.Done(done)
		}
		return d.Put(page)
	})
	if err != nil {
		return err
	}
	return d.Close()
}

// InOrder makes n things, from 0, by several at once and takes them in their order, holding no more than a few. The first error
// of either ends it; a panic of produce is one.
func InOrder[T any](ctx context.Context, n int, produce func(i int) (T, error), take func(i int, made T) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type result struct {
		made T
		err  error
	}
	width := runtime.GOMAXPROCS(0)
	slots := make([]chan result, 2*width)
	for i := range slots {
		slots[i] = make(chan result, 1)
	}
	next := make(chan int)
	var all sync.WaitGroup
	for range width {
		all.Go(func() {
			for i := range next {
				made, err := caught.Made(func() (T, error) { return produce(i) })
				slots[i%len(slots)] <- result{made, err}
			}
		})
	}
	free := make(chan struct{}, len(slots))
	go func() {
		defer close(next)
		for i := range n {
			select {
			case free <- struct{}{}:
			case <-ctx.Done():
				return
			}
			select {
			case next <- i:
			case <-ctx.Done():
				return
			}
		}
	}()
	defer all.Wait()
	defer cancel()
	for i := range n {
		select {
		case r := <-slots[i%len(slots)]:
			<-free
			if r.err != nil {
				return fmt.Errorf("%w", r.err)
			}
			if err := take(i, r.made); err != nil {
				return err
			}
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return ctx.Err()
}
