// Package reads is the stub of whether a code will scan: gauges, verdict and remarks, what readers read, the evidence, the
// handset.
package reads

import (
	"fmt"
	"math"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/symbol"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// rangeWords keeps two figures.
func rangeWords(r [2]float64) string {
	places := 1
	if r[1] < 1000 {
		places = 2
	}
	return fmt.Sprintf("%s–%s m", measure.Number(r[0]/1000, places), measure.Number(r[1]/1000, places))
}

// Gauge is one figure under the sheet and what it is made of.
type Gauge struct {
	Label, Figure string
	Opened        string
	Fields        []forms.Field
}

func levelLine(m *compose.Rendition) string {
	asked := m.Job.Symbol.Level
	if asked == symbol.LevelAuto {
		asked = symbol.M
	}
	if asked == m.Symbol.Level {
		return fmt.Sprintf("level %v", asked)
	}
	if asked > m.Symbol.Level {
		return fmt.Sprintf("level %v, as prescribed", m.Symbol.Level)
	}
	return fmt.Sprintf("level %v raised to %v", asked, m.Symbol.Level)
}

// Reads is the stub.
type Reads struct {
	Gauges   []Gauge
	Contrast string   // as its gauge has it
	Sliders  []Slider // of the camera
	Phones   []Phone
	Proof    *Remarks // nil while the readers are at it
}

// Of is the stub before its proof; shape are the fields at the first gauge.
func Of(b bound.Code, shape []forms.Field) Reads {
	i := b.Place
	p := b.C.Rendition.Place(i)
	m := b.C.Rendition.For(p)
	s := m.Symbol
	module, why := "–", "Say where it will hang, and a module has a size."
	if p != nil {
		l := measure.Length(float64(p.Width) / float64(m.Modules()))
		sub, _ := place.SubstrateOf(p.Substrate)
		module = measure.Number(float64(l), 2) + " mm"
		why = fmt.Sprintf(
			"%s across %d modules, border included. On %s a module needs %s mm at least: %s.",
			p.Width,
			m.Modules(),
			sub.Name,
			measure.Number(sub.MinXDimension, 2),
			sub.Spread,
		)
	}
	figures := b.C.Rendition.Figures(i)
	reach := figures.Range
	far := "–"
	if p != nil {
		far = "about " + measure.Length(reach[1]).Rounded().Spoken() // reckoned; measured, it says from where to where
	}
	contrast := measure.Number(math.Abs(figures.Contrast)*100, 0) + " %"
	gauges := []Gauge{
		{
			"Symbol",
			fmt.Sprintf("%d × %d %v", s.Size, s.Size, s.Level),
			fmt.Sprintf(
				"Version %d, %s, mask %d. %d of %d bytes of room are used.",
				s.Version,
				levelLine(m),
				s.Mask,
				used(m),
				symbol.DataCodewords(s.Version, s.Level),
			),
			shape,
		},
		{"Module", module, why, nil},
		{"Contrast", contrast, contrastWords(m) + " 70 % is good; phones need 40 %.", nil},
		{
			"Reserve",
			measure.Number(figures.Reserve*100, 0) + " %",
			"Error correction left for dirt and scratches, where the look takes most. The view “damage” shows where.",
			nil,
		},
		{"Range", far, reachWords(p), nil},
		{"Margin", "–", marginWords(p), nil},
	}
	return Reads{Gauges: gauges, Contrast: contrast, Sliders: Sliders, Phones: Phones}
}

// contrastWords say what the contrast was measured between.
func contrastWords(m *compose.Rendition) string {
	if g := m.Ground; g != nil && g.Look.Mode == "under" {
		return "By how much the ink and the picture behind it differ in brightness, at the module where they differ least."
	}
	return "By how much ground and ink differ in brightness, where they differ least."
}

// reachWords says what the range is, before it is measured.
func reachWords(p *place.Placement) string {
	if p == nil {
		return "Say where it will hang, and the range is measured."
	}
	return "Nearest: the code fills a phone's picture. Farthest: a module still takes two pixels of it. Measuring…"
}

// marginWords says what the margin is, before it is measured.
func marginWords(p *place.Placement) string {
	if p == nil {
		return "Say where it will hang, and how much worse it may get is measured."
	}
	return "How much farther, softer, darker or more worn it may get before some phones fail. Measuring…"
}

// used is the number of data codewords that the segments take.
func used(m *compose.Rendition) int {
	return min(m.Symbol.Used(), symbol.DataCodewords(m.Symbol.Version, m.Symbol.Level))
}
