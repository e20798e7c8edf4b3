// Package proofsheet draws one page for whoever has to agree before something is printed: the code at true size for each of
// its places, what it says, the verdict with its reasons, what readers read, the forecast of grades, the files, and a line to
// sign. A4, all text as outlines.
package proofsheet

import (
	"fmt"
	"strings"

	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/onpage"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/scene"
)

// Size of the page and of its parts, in millimetres.
const (
	Width, Height = 210.0, 297.0
	margin        = 16.0
	column        = 100.0 // where words begin beside a code
	bottom        = 262.0 // where signing begins
)

// Sheet is what stands on the page.
type Sheet struct {
	Name, State string // "Gate poster", "Version 2"
	Date        string
	Says        string // "Opens"
	Payload     string // as it may be shown
	Symbol      string // "33 × 33 modules, version 4, level Q, mask 3"
	Places      []Place
	Files       []string
	Readers     []string
	Forecast    string // of grades: edition and light
}

// Place is the code at one place.
type Place struct {
	Code  *scene.Scene // in millimetres of the placement
	Proof *proof.Proof
	// Checked says what was measured of its print, "" where none was.
	Checked string
}

// graphite is the second ink.
var graphite = onpage.Graphite

type page struct{ *onpage.Page }

func (p *page) rule(y float64) { p.Rule(margin, y, Width-2*margin) }

// maxCodes are how wide a code may be drawn, tried in turn until all places have room. A wider one is drawn smaller, which is
// said.
var maxCodes = []float64{76, 60, 48, 38, 30}

// Draw sets the page. left is how many places there was no room for, even with their codes drawn smaller.
func Draw(s Sheet) (out *scene.Scene, left int) {
	for _, most := range maxCodes {
		if out, left = draw(s, most); left == 0 {
			break
		}
	}
	return out, left
}

func draw(s Sheet, most float64) (out *scene.Scene, left int) {
	p := &page{onpage.New(Width, Height)}
	wide := Width - 2*margin
	y := p.Line(glyph.Regular, "Proof sheet", 9, margin, margin, graphite)
	right := s.State + ", " + s.Date
	p.Line(glyph.Regular, right, 9, Width-margin-glyph.Regular.Width(right, 9), margin, graphite)
	y = p.Words(onpage.Set(glyph.Bold, 18, ink.Black), s.Name, margin, y+1, wide, 2)
	y = p.Words(onpage.Set(glyph.Regular, 10, ink.Black), strings.TrimSpace(s.Says+" "+s.Payload), margin, y+0.5, wide, 4)
	y = p.Words(onpage.Set(glyph.Regular, 9, graphite), s.Symbol, margin, y+0.5, wide, 2) + 3
	for i, place := range s.Places {
		p.rule(y)
		end, ok := p.place(place, y+4, most)
		if !ok && i > 0 {
			p.Items = p.Items[:len(p.Items)-1]
			left = len(s.Places) - i
			word := map[bool]string{true: "place", false: "places"}[left == 1]
			p.Line(glyph.Regular, fmt.Sprintf("And %d more %s, for which there is no room on this page.", left, word), 9, margin,
				y, graphite)
			break
		}
		y = end + 4
	}
	p.sign(s)
	return p.Scene, left
}

// place draws one place from y; ok is false, and nothing drawn, where it would run into the line to sign.
func (p *page) place(place Place, y, most float64) (end float64, ok bool) {
	before := len(p.Items)
	scale := 1.0
	if place.Code.Width > most {
		scale = most / place.Code.Width
	}
	side := place.Code.Width * scale
	for _, i := range place.Code.Items {
		i.At = i.At.Then(scene.At(scale, margin, y))
		p.Items = append(p.Items, i)
	}
	size := fmt.Sprintf("True size, %s mm wide.", measure.Number(place.Code.Width, 1))
	if scale < 1 {
		size = fmt.Sprintf("Drawn at %s %%; printed %s mm wide.", measure.Number(scale*100, 0),
			measure.Number(place.Code.Width, 1))
	}
	below := p.Line(glyph.Regular, size, 8, margin, y+side+1, graphite)

	x, wide := column, Width-margin-column
	p.Fill(sign(place.Proof.Verdict, x, y+0.6), ink.Black)
	at := p.Line(glyph.Bold, place.Proof.Headline(), 13, x+6.5, y, ink.Black)
	at = p.Words(onpage.Set(glyph.Regular, 9, graphite), place.Proof.Where, x, at+0.5, wide, 2) + 1
	shown := 0
	for _, f := range place.Proof.Findings {
		if shown == 4 {
			at = p.Line(glyph.Regular, fmt.Sprintf("And %d more remarks.", len(place.Proof.Findings)-shown), 9, x, at, graphite)
			break
		}
		p.Fill(sign(proof.Verdict(f.Severity), x, at+0.4).Scaled(0.72, x, at+0.4), ink.Black)
		at = p.Words(onpage.Set(glyph.Regular, 9, ink.Black), f.Message, x+5, at, wide-5, 4) + 1
		shown++
	}
	if shown == 0 {
		at = p.Line(glyph.Regular, "Nothing was found against it.", 9, x, at, ink.Black) + 1
	}
	told := facts(place.Proof)
	if place.Checked != "" {
		told = append([]string{place.Checked}, told...)
	}
	for _, fact := range told {
		at = p.Words(onpage.Set(glyph.Regular, 8.5, graphite), fact, x, at, wide, 3) + 0.5
	}
	end = max(at, below)
	if end > bottom-14 {
		p.Items = p.Items[:before]
		return y, false
	}
	return end, true
}

// facts are the figures of a proof, a line each.
func facts(p *proof.Proof) (out []string) {
	for _, set := range []struct {
		set  proof.Stage
		name string
	}{{proof.Ordinary, "Ordinary"}, {proof.Hard, "hard"}, {proof.Abuse, "abuse"}} {
		met, all := 0, p.Of(set.set)
		for _, o := range all {
			if o.Passes() {
				met++
			}
		}
		if len(all) > 0 {
			out = append(out, fmt.Sprintf("%s %d of %d", set.name, met, len(all)))
		}
	}
	out = []string{"Conditions met: " + strings.Join(out, ", ") + "."}
	if p.Has(proof.Range) && p.Range[1] > 0 {
		out = append(out, fmt.Sprintf("Range %s to %s m, measured. Contrast %s %%, reserve %s %%.",
			measure.Number(p.Range[0]/1000, 2), measure.Number(p.Range[1]/1000, 2), measure.Number(p.Contrast*100, 0),
			measure.Number(p.Reserve*100, 0)))
	}
	if p.Margin != nil {
		out = append(out, p.Margin.Words())
	}
	if g := p.Grades; g != nil {
		overall := g.Overall[0]
		if g.Overall[1] != overall {
			overall += " to " + g.Overall[1]
		}
		if reason := g.Reason(); reason != "" {
			out = append(out, reason)
		}
		out = append(out, fmt.Sprintf("Forecast of the grade after %s: %s, aperture %s mm.", g.Edition, overall,
			measure.Number(g.Aperture, 2)))
	}
	return out
}

// sign is the sign of a verdict, four millimetres a side: a full square with a clipped corner, a square half hatched, an
// empty one with a bar, a dotted outline; a note is a short upright.
func sign(v proof.Verdict, x, y float64) (p scene.Path) {
	const side, thick = 4.0, 0.45
	frame := func() {
		p.Rectangle(x, y, side, thick)
		p.Rectangle(x, y+side-thick, side, thick)
		p.Rectangle(x, y+thick, thick, side-2*thick)
		p.Rectangle(x+side-thick, y+thick, thick, side-2*thick)
	}
	switch v {
	case proof.Safe:
		p.MoveTo(x, y)
		p.LineTo(x+side*0.65, y)
		p.LineTo(x+side, y+side*0.35)
		p.LineTo(x+side, y+side)
		p.LineTo(x, y+side)
		p.Close()
	case proof.Care:
		frame()
		for _, a := range []float64{0.25, 0.5, 0.75, 1} { // slants within the lower right half
			p.MoveTo(x+side*a, y+side)
			p.LineTo(x+side, y+side*a)
			p.LineTo(x+side, y+side*a+thick)
			p.LineTo(x+side*a+thick, y+side)
			p.Close()
		}
	case proof.Stop:
		frame()
		p.Rectangle(x+1, y+side/2-0.35, side-2, 0.7)
	case proof.Flat:
		for i := range 4 {
			d := float64(i) * 1.15
			p.Rectangle(x+d, y, 0.55, thick)
			p.Rectangle(x+d, y+side-thick, 0.55, thick)
			p.Rectangle(x, y+d, thick, 0.55)
			p.Rectangle(x+side-thick, y+d, thick, 0.55)
		}
	default:
		p.Rectangle(x+1.8, y+1.6, 0.6, 2.4)
		p.Rectangle(x+1.8, y+0.4, 0.6, 0.7)
	}
	return p
}

// sign at the foot: files and readers, and where to put a name.
func (p *page) sign(s Sheet) {
	y := bottom - 12
	p.rule(y)
	p.Words(onpage.Set(glyph.Regular, 8, graphite),
		"Files, as SVG, PDF and PNG: "+strings.Join(s.Files, ", ")+". Read by "+strings.Join(s.Readers, ", ")+". "+s.Forecast,
		margin, y+2, Width-2*margin, 3)
	y = bottom + 10
	for _, f := range []struct {
		word    string
		x, wide float64
	}{{"Agreed, name", margin, 70}, {"Signature", margin + 76, 62}, {"Date", margin + 144, Width - 2*margin - 144}} {
		p.Fill(scene.Rectangle(f.x, y, f.wide, 0.25), ink.Black)
		p.Line(glyph.Regular, f.word, 8, f.x, y+1, graphite)
	}
	p.Line(glyph.Regular, "A forecast from the file, made before anything was printed.", 7.5, margin, Height-12, graphite)
}
