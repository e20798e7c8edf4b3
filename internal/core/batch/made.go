package batch

import (
	"context"
	"fmt"
	"image"
	"io"
	"time"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/table"
)

// Made are the rows of a batch, made once: what is known of the good ones, the bad ones with their problems, and the maker
// that makes any of them again in the version that all have. Drawings are not kept.
type Made struct {
	Maker *Maker
	Find  compose.Assets
	Good  []*Row // without renditions
	Bad   []*Row
	Names []string // of the files of the good ones
	first *compose.Rendition
	from  []Source // of the good ones
}

// MakeAll makes all rows. Where the plan asks for it, all get the version of the largest.
func MakeAll(ctx context.Context, m *Maker, sources []Source, find compose.Assets) (*Made, error) {
	out := &Made{Maker: m, Find: find}
	keys, names, most := Keys{}, Names{}, 0
	err := Each(ctx, sources, func(s Source) *Row { return m.Make(s, find) }, func(r *Row) error {
		if m.Key >= 0 {
			if bad := keys.Check(r.Key, r.N); bad != nil {
				r.Problems, r.Rendition = append(r.Problems, *bad), nil
			}
		}
		if !r.Good() {
			out.Bad = append(out.Bad, r)
			return nil
		}
		if out.first == nil {
			out.first = r.Rendition
		}
		most = max(most, r.Rendition.For(r.Rendition.Place(min(0, len(r.Rendition.Job.Placements)-1))).Symbol.Version)
		out.Names = append(out.Names, names.Once(r.File))
		kept := *r
		kept.Rendition, kept.Draft, kept.Texts = nil, nil, nil
		out.Good, out.from = append(out.Good, &kept), append(out.from, sources[r.N-sources[0].N])
		return nil
	})
	if m.Plan.Same && most > 0 {
		out.Maker = m.AtLeast(most)
	}
	return out, err
}

// Make makes good row i, from 0, again.
func (b *Made) Make(i int) *Row { return b.Maker.Make(b.from[i], b.Find) }

// Sheets are the labels of the good rows on the sheets of a setting; without one each is a page as large as its code.
func (b *Made) Sheets(s *impose.Setting) (*Sheets, error) {
	if b.first == nil {
		return nil, fmt.Errorf("no row can be made")
	}
	w := &Sheets{N: len(b.Good), Pages: s == nil, Paper: &ink.White}
	if s != nil {
		w.Setting = *s
	}
	if b.first.Pressed() {
		w.Press = b.first.Condition(b.first.Place(min(0, len(b.first.Job.Placements)-1)))
		w.Over = b.first.Job.Output.Overprint
	}
	w.Label = func(i int) (impose.Label, error) {
		r := b.Make(i)
		if !r.Good() {
			return impose.Label{}, fmt.Errorf("row %d: %w", r.N, r.Problems)
		}
		if w.Pages {
			return Loose(r), nil
		}
		l, problems := Label(r, w.Setting)
		if len(problems) > 0 {
			return l, fmt.Errorf("row %d: %w", r.N, problems)
		}
		return l, nil
	}
	return w, nil
}

// List writes the listing of all rows, the bad ones with their problems, in the order of the rows.
func (b *Made) List(ctx context.Context, out io.Writer, ending string) error {
	w := table.NewCSV(out)
	w.Head(Listing...)
	bad := b.Bad
	err := InOrder(ctx, len(b.Good), func(i int) (*Row, error) { return b.Make(i), nil }, func(i int, r *Row) error {
		for len(bad) > 0 && bad[0].N < r.N {
			if err := List(w, bad[0], "", "", ""); err != nil {
				return err
			}
			bad = bad[1:]
		}
		return List(w, r, "", b.Names[i]+"."+ending, "")
	})
	for _, r := range bad {
		if err == nil {
			err = List(w, r, "", "", "")
		}
	}
	if err != nil {
		return err
	}
	return w.End()
}

// ReadBack reads the labels of a written file back. draw draws one of its sheets, read looks for codes.
func (b *Made) ReadBack(ctx context.Context, w *Sheets, took time.Duration,
	draw func(ctx context.Context, sheet int, dpi float64) (image.Image, error),
	read func(ctx context.Context, pictures []*image.Gray) ([][]string, error)) (Back, error) {
	return Reading{Setting: w.Setting, Pages: w.Pages, N: w.N, Took: took, Draw: draw, Read: read,
		Says: func(i int) Said { return Says(b.Make(i), w.Room()) }}.ReadBack(ctx)
}
