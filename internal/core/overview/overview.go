// Package overview draws one page of what hangs where since when, what it says and how it does, for whoever paid for it. A4, all
// text as outlines.
package overview

import (
	"fmt"

	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/onpage"
	"sodrik/internal/core/scene"
)

// Size of the page and of its parts, in millimetres.
const (
	Width, Height = 210.0, 297.0
	margin        = 16.0
	tallest       = 22.0 // a row at most
	bottom        = 272.0
	words         = 20.0 // where words begin beside a code, from the margin
	bars          = 96.0 // where bars begin
	barsWide      = 62.0
	figures       = 162.0 // where figures begin
)

// Overview is what stands on the page.
type Overview struct {
	House, Title string
	Sentence     string
	Span         string // "1 to 28 March 2027, days in London time"
	Rows         []Row
	More         int // rows for which there was no room before
	Method       string
}

// Row is a printed place.
type Row struct {
	Code              *scene.Scene // in millimetres of its place; nil for none
	Name, Of          string       // "gate", "Spring fair"
	Says, Hangs       string       // "Opens marrowby.example/fair", "since 27 February, 4,000 printed"
	Bars              []int
	Total, Rate, Goes string
}

// Most is how many rows the page has room for.
const Most = 22

// Draw sets the page; rows that it has no room for are counted on it.
func Draw(o Overview) *scene.Scene {
	p := onpage.New(Width, Height)
	wide := Width - 2*margin
	y := p.Line(glyph.Regular, o.House, 9, margin, margin, onpage.Graphite)
	y = p.Words(onpage.Set(glyph.Bold, 18, ink.Black), o.Title, margin, y+1, wide, 2)
	y = p.Words(onpage.Set(glyph.Regular, 11, ink.Black), o.Sentence, margin, y+1, wide, 3)
	y = p.Line(glyph.Regular, o.Span, 9, margin, y+0.5, onpage.Graphite) + 3
	rows, more := o.Rows, o.More
	if len(rows) > Most {
		more += len(rows) - Most
		rows = rows[:Most]
	}
	high := tallest
	if n := len(rows); n > 0 {
		high = min(tallest, (bottom-y)/float64(n))
	}
	most := 1
	for _, r := range rows {
		for _, n := range r.Bars {
			most = max(most, n)
		}
	}
	for _, r := range rows {
		p.Rule(margin, y, wide)
		row(p, r, y, high, most)
		y += high
	}
	p.Rule(margin, y, wide)
	if more > 0 {
		p.Line(glyph.Regular, fmt.Sprintf("And %d more, for which there is no room on this page.", more), 9, margin, y+2,
			onpage.Graphite)
	}
	p.Words(onpage.Set(glyph.Regular, 8, onpage.Graphite), o.Method, margin, Height-margin-6, wide, 2)
	return p.Scene
}

// row draws one place between y and high below it.
func row(p *onpage.Page, r Row, y, high float64, most int) {
	const pad = 1.2
	if c := r.Code; c != nil {
		side := min(high-2*pad, words-3)
		k := side / max(c.Width, c.Height)
		p.Items = append(p.Items, scene.Transformed(c.Items, scene.At(k, margin, y+pad))...)
	}
	left, wide := margin+words, bars-words-margin-3
	top := p.Words(onpage.Set(glyph.Bold, 9, ink.Black), r.Name, left, y+pad, wide, 1)
	small := onpage.Set(glyph.Regular, 7.5, onpage.Graphite)
	for _, line := range []string{r.Of, r.Says, r.Hangs} {
		if line != "" && top+small.Points*glyph.Point*1.2 < y+high {
			top = p.Words(small, line, left, top, wide, 1)
		}
	}
	base := y + high - pad
	if n := len(r.Bars); n > 0 {
		step := barsWide / float64(n)
		for i, c := range r.Bars {
			if tall := (high - 2*pad) * float64(c) / float64(most); c > 0 {
				p.Fill(scene.Rectangle(bars+float64(i)*step, base-tall, step*0.85, tall), onpage.Graphite)
			}
		}
		p.Rule(bars, base, barsWide)
	}
	top = p.Line(glyph.Bold, r.Total, 10, figures, y+pad, ink.Black)
	for _, line := range []string{r.Rate, r.Goes} {
		if top+small.Points*glyph.Point*1.2 < y+high {
			top = p.Words(small, line, figures, top, Width-margin-figures, 1)
		}
	}
}
