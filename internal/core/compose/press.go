package compose

import (
	"errors"
	"fmt"
	"math"
	"time"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/bitmap"
	"sodrik/internal/core/export/eps"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
)

// MetaOf is what a file of a kind says of itself: files for a press hold the date of their version, others are the same
// whenever they are made.
func MetaOf(f Format, title string, at time.Time) export.Meta {
	m := export.Meta{Title: title}
	switch f.Kind {
	case "pdfx", "eps":
		m.Created = at
	}
	return m
}

// Pressed says whether the job is made for a press.
func (m *Rendition) Pressed() bool { return m.Job.Output.Colour != "rgb" }

// Condition is the printing condition of a placement: the job's, else that which its substrate is nearest to.
func (m *Rendition) Condition(p *place.Placement) *press.Condition {
	if c, ok := press.Of(m.Job.Output.Colour); ok {
		return c
	}
	if p != nil {
		switch p.Substrate {
		case "uncoated", "newsprint", "kraft", "textile":
			c, _ := press.Of("uncoated")
			return c
		}
	}
	return press.Conditions[0]
}

// printing is what a proof knows of the press, nil where the job is not made for one.
func (m *Rendition) printing(p *place.Placement) *proof.Printing {
	if !m.Pressed() {
		return nil
	}
	out := &proof.Printing{Condition: m.Condition(p)}
	if s := m.Sheet(p); s != nil && s.PDF != nil {
		out.Foreign = s.Unlike(pdf.Preflight)
	}
	for _, it := range m.Scene(p).Items {
		if it.Picture != nil && p != nil {
			dots := float64(it.Picture.Pixels.Rect.Dx()) / (it.Picture.Width * it.At.Size()) * float64(measure.Inch)
			if out.Coarse == 0 || dots < out.Coarse {
				out.Coarse = dots
			}
		}
		if p != nil && (it.Name == "frame" || it.Name == "mark") && len(it.Path.Points) <= maxMeasured {
			if thin := it.Path.Thinnest(2*proof.Hairline/it.At.Size()) * it.At.Size(); !math.IsInf(thin, 1) &&
				(out.Thin == 0 || thin < out.Thin) {
				out.Thin = thin
			}
		}
	}
	return out
}

// maxMeasured bounds the points of a drawing whose lines are measured, since every line is held against every other.
const maxMeasured = 400

// Separated is the code of a placement as plates, or the whole that it lies on.
func (m *Rendition) Separated(p *place.Placement, whole bool) (*separation.Sheet, problem.List) {
	var problems problem.List
	s := m.Scene(p)
	var paper *ink.Colour
	if !m.Job.Look.Paper.None {
		paper = &m.Job.Look.Paper.Colour
	} else if p != nil && p.Background != nil {
		paper = p.Background
	}
	if whole {
		c, ok := m.Compose(p)
		if !ok {
			problems.Add("/placements", "artwork.none",
				"have nothing that the code lies on here; give it a medium, artwork or words first")
			return nil, problems
		}
		s = c.Scene
		if paper == nil {
			paper = &ink.White
		}
	}
	out, err := separation.Separate(s, m.Condition(p), paper)
	if err != nil {
		problems.Add("/look/paper", "press.alpha", "%v", err)
	}
	return out, problems
}

// pressFile writes a file for a press.
func (m *Rendition) pressFile(format string, p *place.Placement, whole bool, meta export.Meta) ([]byte, problem.List) {
	var problems problem.List
	if whole && format == "pdfx" {
		if s := m.Sheet(p); s != nil && s.PDF != nil {
			return m.ontoPress(s.PDF, s.Page, p)
		}
	}
	s, problems := m.Separated(p, whole)
	if len(problems) > 0 {
		return nil, problems
	}
	var b []byte
	var err error
	switch format {
	case "pdfx":
		o := m.Job.Output
		b, err = pdf.EncodeX(s, pdf.Press{Bleed: o.Bleed, Marks: o.Marks, Overprint: o.Overprint, Slug: m.slug(s, meta)}, meta)
		if errors.Is(err, pdf.ErrDate) {
			problems.Add("/output", "output.pdfx", "%v", err)
			return nil, problems
		}
	case "eps":
		b = eps.Encode(s, meta)
	case "tif":
		wide := m.Across(p)
		if whole {
			wide = max(1, int(s.Width/float64(measure.Inch)*float64(m.Job.Output.DPI)))
		}
		if wide > maxSide || wide > raster.MaxPixels/max(1, int(float64(wide)*s.Height/s.Width))/len(s.Plates) {
			return nil, m.tooLarge(wide)
		}
		b, err = bitmap.TIFF(s, wide, meta)
	}
	if err != nil {
		problems.Add("/output", "output."+format, "%v", err)
	}
	return b, problems
}

// slug is the line beside the marks: what it is, how large, when, and for which paper.
func (m *Rendition) slug(s *separation.Sheet, meta export.Meta) string {
	return fmt.Sprintf("%s   %s x %s mm   %s   %s", meta.Title, measure.Number(s.Width, 2), measure.Number(s.Height, 2),
		meta.Created.UTC().Format("2006-01-02"), s.Condition.Identifier)
}

// Unfit says why a format cannot be had at a place, whatever else is asked of it; nothing where it can.
func (m *Rendition) Unfit(f Format, p *place.Placement) problem.List {
	if f.Of == Whole && f.Kind == "pdfx" {
		return m.unfitForPress(p)
	}
	return nil
}

func (m *Rendition) unfitForPress(p *place.Placement) (problems problem.List) {
	if s := m.Sheet(p); s != nil && s.PDF != nil {
		if wrong := s.Unlike(pdf.Preflight); wrong != "" {
			problems.Add("/placements/artwork/source", "artwork.pdfx",
				"is no PDF/X-1a, so the whole cannot be one: %s. Take the PDF of the whole, or ask for the artwork as PDF/X-1a",
				wrong)
		}
	}
	return problems
}

// ontoPress adds the code to PDF/X artwork in inks; what was PDF/X is so afterwards, or the problem says what is in the way.
func (m *Rendition) ontoPress(file []byte, page int, p *place.Placement) ([]byte, problem.List) {
	var problems problem.List
	if problems = m.unfitForPress(p); len(problems) > 0 {
		return nil, problems
	}
	c, _ := m.Compose(p)
	paper := ink.White
	s, err := separation.Separate(&scene.Scene{Width: c.Added.Width, Height: c.Added.Height, Items: c.Added.Items},
		m.Condition(p), &paper)
	if err != nil {
		problems.Add("/look/paper", "press.alpha", "%v", err)
		return nil, problems
	}
	b, err := pdf.OntoX(file, page, s, pdf.Spot{X: c.AddedX / c.Scale, Y: c.AddedY / c.Scale, Scale: 1 / c.Scale},
		pdf.Press{Overprint: m.Job.Output.Overprint})
	if err != nil {
		problems.Add("/placements/artwork/source", "artwork.pdfx", "%v", err)
	}
	return b, problems
}
