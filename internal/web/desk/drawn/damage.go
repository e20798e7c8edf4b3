package drawn

import (
	"fmt"
	"html/template"
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

// DamageOf draws the damage of a made code.
func DamageOf(m *compose.Rendition) Damage {
	s := m.Symbol
	b := symbol.BlocksOf(s.Version, s.Level)
	d := Damage{Words: "Each colour is a block of error correction; the paler codewords are its checks. Grey are the patterns that readers find and measure the code by."}
	hue := func(k int) float64 { return float64(k)*360/float64(b.Count) + 160 }
	cell := func(w *strings.Builder, i int) { fmt.Fprintf(w, "M%d %dh1v1h-1z", i%s.Size, i/s.Size) }
	var picture strings.Builder
	fmt.Fprintf(&picture, `<svg viewBox="-1 -1 %d %d" role="img" aria-label="Modules by block and codeword"><defs><pattern id="lost" width=".5" height=".5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width=".22" height=".5" fill="#A8321F"/></pattern></defs>`, s.Size+2, s.Size+2)
	var dark, light strings.Builder
	for y := range s.Size {
		for x := range s.Size {
			switch {
			case !s.Role(x, y).Function():
			case s.Dark(x, y):
				cell(&dark, y*s.Size+x)
			default:
				cell(&light, y*s.Size+x)
			}
		}
	}
	fmt.Fprintf(&picture, `<path fill="#fff" d="M0 0h%dv%dh-%dz"/><path fill="#E6E9E4" d="%s"/><path fill="#6F7B73" d="%s"/>`, s.Size, s.Size, s.Size, light.String(), dark.String())
	type key struct {
		block    int
		ec, dark bool
	}
	paths := map[key]*strings.Builder{}
	var edges, taken strings.Builder
	for _, w := range s.Codewords() {
		in, lost := map[int]bool{}, false
		for _, i := range w.Modules {
			k := key{w.Block, w.EC, s.Dark(i%s.Size, i/s.Size)}
			if paths[k] == nil {
				paths[k] = &strings.Builder{}
			}
			cell(paths[k], i)
			in[i] = true
			lost = lost || m.Mark.Lost(i%s.Size, i/s.Size)
		}
		if !lost {
			continue
		}
		for i := range in { // the edge of a codeword that is lost, whole or in part
			for _, side := range [4]struct {
				step int
				d    string
			}{{-s.Size, "M%d %dh1"}, {1, "M%d %dm1 0v1"}, {s.Size, "M%d %dm0 1h1"}, {-1, "M%d %dv1"}} {
				if !in[i+side.step] {
					fmt.Fprintf(&edges, side.d, i%s.Size, i/s.Size)
				}
			}
		}
	}
	for k := range b.Count {
		for _, ec := range []bool{false, true} {
			for _, dark := range []bool{false, true} {
				if p := paths[key{k, ec, dark}]; p != nil {
					lightness := map[[2]bool]int{{false, true}: 34, {false, false}: 80, {true, true}: 55, {true, false}: 90}[[2]bool{ec, dark}]
					fmt.Fprintf(&picture, `<path fill="hsl(%.0f 45%% %d%%)" d="%s"/>`, hue(k), lightness, p.String())
				}
			}
		}
	}
	if m.Mark != nil {
		for i := range s.Size * s.Size {
			if m.Mark.Lost(i%s.Size, i/s.Size) {
				cell(&taken, i)
			}
		}
		fmt.Fprintf(&picture, `<path fill="url(#lost)" d="%s"/><path stroke="#A8321F" stroke-width=".14" stroke-linecap="square" fill="none" d="%s"/>`, taken.String(), edges.String())
		d.Words = "Hatched is what the mark takes, at worst; edged in brick are the codewords that this costs. " + d.Words
		if n := m.Mark.Damage.Alignments; n > 0 {
			d.Words += fmt.Sprintf(" It lies on %s, by which readers straighten the code.", measure.Plural(n, "alignment pattern"))
		}
	}
	picture.WriteString(`</svg>`)
	d.Picture = template.HTML(picture.String())
	worst := 1.0
	if m.Mark != nil {
		worst = m.Mark.Damage.Reserve
	}
	for k := range b.Count {
		row := DamagedBlock{N: k + 1, Correct: b.Correct, Fill: fmt.Sprintf("hsl(%.0f 45%% 34%%)", hue(k))}
		if m.Mark != nil {
			row.Lost = m.Mark.Damage.Blocks[k].Lost
		}
		left := 1 - float64(row.Lost)/float64(row.Correct)
		row.Left, row.Worst = measure.Number(left*100, 0)+" %", m.Mark != nil && left <= worst
		d.Blocks = append(d.Blocks, row)
	}
	return d
}
