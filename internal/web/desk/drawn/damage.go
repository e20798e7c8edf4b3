package drawn

import (
	"fmt"
	"html/template"
	"slices"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/symbol"
)

// Damage is every module by codeword and block, and what the mark takes of each block.
type Damage struct {
	Picture template.HTML
	Words   string
	Blocks  []DamagedBlock
}

// DamagedBlock is one row.
type DamagedBlock struct {
	N, Lost, Correct int
	Left             string
	Fill             string // of its data codewords
	Worst            bool
}

// hatch is the pattern over what is lost.
const hatch = `<defs><pattern id="lost" width=".5" height=".5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width=".22" height=".5" fill="#A8321F"/></pattern></defs>`

// DamageOf draws the damage of a made code.
func DamageOf(m *compose.Rendition) Damage {
	s := m.Symbol
	b := symbol.BlocksOf(s.Version, s.Level)
	var picture strings.Builder
	fmt.Fprintf(
		&picture,
		`<svg viewBox="-1 -1 %d %d" role="img" aria-label="Modules by block and codeword">%s`,
		s.Size+2,
		s.Size+2,
		hatch,
	)
	drawPatterns(&picture, s)
	drawCodewords(&picture, s, b.Count)
	d := Damage{
		Words: "Each colour is a block of error correction; the paler codewords are its checks. Grey are the patterns that " +
			"readers find and measure the code by.",
	}
	if m.Mark != nil {
		drawLost(&picture, m)
		d.Words = "Hatched is what the mark takes, at worst; edged in brick are the codewords that this costs. " + d.Words
		if n := m.Mark.Damage.Alignments; n > 0 {
			d.Words += fmt.Sprintf(
				" It lies on %s, by which readers straighten the code.",
				measure.Plural(n, "alignment pattern"),
			)
		}
	}
	picture.WriteString(`</svg>`)
	d.Picture = template.HTML(picture.String())
	for k := range b.Count {
		row := DamagedBlock{N: k + 1, Correct: b.Correct, Fill: blockFill(k, b.Count, 34)}
		left := 1.0
		if m.Mark != nil {
			row.Lost = m.Mark.Damage.Blocks[k].Lost
			left -= float64(row.Lost) / float64(row.Correct)
			row.Worst = left <= m.Mark.Damage.Reserve
		}
		row.Left = measure.Number(left*100, 0) + " %"
		d.Blocks = append(d.Blocks, row)
	}
	return d
}

// blockFill is the colour of block k of so many, of a lightness in percent.
func blockFill(k, count, lightness int) string {
	return fmt.Sprintf("hsl(%.0f 45%% %d%%)", float64(k)*360/float64(count)+160, lightness)
}

// square adds module i of a symbol to a path.
func square(path *strings.Builder, s *symbol.Symbol, i int) {
	fmt.Fprintf(path, "M%d %dh1v1h-1z", i%s.Size, i/s.Size)
}

// drawPatterns draws the patterns by which a symbol is found and measured.
func drawPatterns(picture *strings.Builder, s *symbol.Symbol) {
	var dark, light strings.Builder
	for i := range s.Size * s.Size {
		switch x, y := i%s.Size, i/s.Size; {
		case !s.Role(x, y).Function():
		case s.Dark(x, y):
			square(&dark, s, i)
		default:
			square(&light, s, i)
		}
	}
	fmt.Fprintf(
		picture,
		`<path fill="#fff" d="M0 0h%dv%dh-%dz"/><path fill="#E6E9E4" d="%s"/><path fill="#6F7B73" d="%s"/>`,
		s.Size,
		s.Size,
		s.Size,
		light.String(),
		dark.String(),
	)
}

// drawCodewords draws the modules of data in the colours of their blocks, those of error correction paler.
func drawCodewords(picture *strings.Builder, s *symbol.Symbol, count int) {
	type key struct {
		block    int
		ec, dark bool
	}
	paths := map[key]*strings.Builder{}
	for _, w := range s.Codewords() {
		for _, i := range w.Modules {
			k := key{w.Block, w.EC, s.Dark(i%s.Size, i/s.Size)}
			if paths[k] == nil {
				paths[k] = &strings.Builder{}
			}
			square(paths[k], s, i)
		}
	}
	for k := range count {
		for _, shade := range []struct {
			ec, dark  bool
			lightness int
		}{{false, false, 80}, {false, true, 34}, {true, false, 90}, {true, true, 55}} {
			if p := paths[key{k, shade.ec, shade.dark}]; p != nil {
				fmt.Fprintf(picture, `<path fill="%s" d="%s"/>`, blockFill(k, count, shade.lightness), p.String())
			}
		}
	}
}

// drawLost hatches the modules that a mark takes, and edges the codewords that this costs, whole or in part.
func drawLost(picture *strings.Builder, m *compose.Rendition) {
	s := m.Symbol
	lost := func(i int) bool { return m.Mark.Lost(i%s.Size, i/s.Size) }
	var edges, taken strings.Builder
	for _, w := range s.Codewords() {
		if !slices.ContainsFunc(w.Modules[:], lost) {
			continue
		}
		for _, i := range w.Modules {
			for _, side := range [4]struct {
				step int
				d    string
			}{{-s.Size, "M%d %dh1"}, {1, "M%d %dm1 0v1"}, {s.Size, "M%d %dm0 1h1"}, {-1, "M%d %dv1"}} {
				if !slices.Contains(w.Modules[:], i+side.step) {
					fmt.Fprintf(&edges, side.d, i%s.Size, i/s.Size)
				}
			}
		}
	}
	for i := range s.Size * s.Size {
		if lost(i) {
			square(&taken, s, i)
		}
	}
	fmt.Fprintf(
		picture,
		`<path fill="url(#lost)" d="%s"/><path stroke="#A8321F" stroke-width=".14" stroke-linecap="square" fill="none" d="%s"/>`,
		taken.String(),
		edges.String(),
	)
}
