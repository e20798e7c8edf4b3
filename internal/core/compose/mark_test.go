package compose

import (
	"bytes"
	"encoding/base64"
	"flag"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/makiuchi-d/gozxing/common/reedsolomon"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/bitmap"
	"sodrik/internal/core/look"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

func marked(t *testing.T, mark, symbolText string) (*Rendition, string) {
	t.Helper()
	if symbolText == "" {
		symbolText = "{}"
	}
	m,
		problems := Parse([]byte(
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"symbol":`+symbolText+`,"look":{"mark":`+mark+`}}`), nil)
	if len(problems) > 0 {
		return nil, problems.Error()
	}
	return m, ""
}

// TestKept: the reserve that is asked for is kept, by enlarging, then by shrinking, and it is said; what cannot be kept is a
// problem.
func TestKept(t *testing.T) {
	for _, c := range []struct{ mark, symbol, says string }{
		{`{"source":"icon:sprout","width":0.12}`, "", "-"},
		{`{"source":"icon:sprout","width":0.12}`, `{"min_version":4}`, ""},
		{`{"source":"icon:sprout"}`, `{"max_version":3}`, "Mark shrunk from 22 %"},
		{`{"source":"icon:sprout","width":0.3}`, "", "Grew from"},
		{`{"source":"icon:sprout","width":0.5,"reserve":0.6}`, "", "Mark shrunk from 50 %"},
		{`{"source":"icon:sprout","width":0.3,"reserve":0}`, `{"min_version":6,"level":"H"}`, ""},
		{`{"source":"icon:sprout","x":0.05,"y":0.05}`, "", "problem: lies on an eye"},
		{`{"source":"icon:sprout","reserve":0.9,"pad":1}`, `{"max_version":3}`, "problem: leaves less than 90 %"},
		{`{"source":"icon:sproud"}`, "", "problem: there is no icon called"},
		{`{"source":"asset:sha256-00"}`, "", "problem: is not among the uploads"},
		{`{"source":"data:image/png;base64,AAAA"}`, "", "problem: is none of"},
		{`{"source":"data:text/plain,hello"}`, "", "problem: is no data: address in base64"},
	} {
		t.Run(c.mark, func(t *testing.T) {
			m, problems := marked(t, c.mark, c.symbol)
			if want, bad := strings.CutPrefix(c.says, "problem: "); bad || m == nil {
				if m != nil || !strings.Contains(problems, want) {
					t.Errorf("%s: %s, want %q", c.mark, problems, c.says)
				}
				return
			}
			if c.says != "-" && (c.says == "" && m.Kept != "" || !strings.Contains(m.Kept, c.says)) {
				t.Errorf("%s %s: %q, want %q", c.mark, c.symbol, m.Kept, c.says)
			}
			if r := m.Mark.Damage.Reserve; r < m.Job.Look.Mark.Reserve-1e-9 || m.Mark.Damage.Protected {
				t.Errorf("%s: %.2f left", c.mark, r)
			}
		})
	}
}

// TestReserveIsExact: the codewords that a mark is said to take, turned to the worst they can be, are corrected by a Reed–Solomon
// decoder of others' making as long as they are no more than can be corrected; one more in any block, and it is not.
func TestReserveIsExact(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	decoder := reedsolomon.NewReedSolomonDecoder(reedsolomon.GenericGF_QR_CODE_FIELD_256)
	for _, c := range []struct {
		mark    string
		version int
		level   string
	}{{`{"source":"icon:sprout","width":0.3,"reserve":0}`, 6, "H"},
		{`{"source":"icon:leaf","width":0.25,"clear":"outline","reserve":0}`, 9, "Q"},
		{`{"source":"icon:store","width":0.2,"clear":"disc","reserve":0}`, 4, "M"},
		{`{"source":"icon:flower-2","width":0.2,"clear":"none","reserve":0}`, 12, "L"},
		{`{"source":"icon:bean","width":0.14,"reserve":0}`, 1, "Q"}} {
		t.Run(c.mark, func(t *testing.T) {
			text := fmt.Sprintf(
				`{"content":{"kind":"text","text":"Bulbs"},"symbol":{"level":%q,"boost":false,"min_version":%d,"max_version":%d},"look":{"mark":%s}}`, c.level, c.version, c.version, c.mark)
			m, problems := Parse([]byte(text), nil)
			if len(problems) > 0 {
				t.Errorf("%s: %v", text, problems)
				return
			}
			b := symbol.BlocksOf(m.Symbol.Version, m.Symbol.Level)
			blocks, lost := make([][]int, b.Count), make([][]int, b.Count) // codewords by index; indexes lost
			for _, w := range m.Symbol.Codewords() {
				v, hit := 0, false
				for _, i := range w.Modules {
					x, y := i%m.Symbol.Size, i/m.Symbol.Size
					v <<= 1
					if m.Symbol.Dark(x, y) != symbol.MaskBit(m.Symbol.Mask, x, y) {
						v |= 1
					}
					hit = hit || m.Mark.Lost(x, y)
				}
				for len(blocks[w.Block]) <= w.Index {
					blocks[w.Block] = append(blocks[w.Block], 0)
				}
				blocks[w.Block][w.Index] = v
				if hit {
					lost[w.Block] = append(lost[w.Block], w.Index)
				}
			}
			for k, block := range blocks {
				d := m.Mark.Damage.Blocks[k]
				if d.Lost != len(lost[k]) || d.Correct != b.Correct {
					t.Fatalf("%s, block %d: said %+v, counted %d of %d", text, k, d, len(lost[k]), b.Correct)
				}
				if d.Lost > d.Correct {
					t.Fatalf("%s: block %d is lost, with a reserve of %.2f", text, k, m.Mark.Damage.Reserve)
				}
				// All that is left of the reserve is damaged too: it still reads. What is correctable without misdecode
				// protection is the decoder's own limit; one beyond it, and it fails.
				for _, more := range []struct {
					n    int
					read bool
				}{{d.Correct - d.Lost, true}, {b.EC/2 - d.Lost + 1, false}} {
					damaged := append([]int(nil), block...)
					at := map[int]bool{}
					for _, i := range lost[k] {
						at[i] = true
					}
					for len(at) < d.Lost+more.n {
						at[rng.IntN(len(block))] = true
					}
					for i := range at {
						damaged[i] ^= 1 + rng.IntN(255)
					}
					err := decoder.Decode(damaged, b.EC)
					same := err == nil
					for i := range block {
						same = same && damaged[i] == block[i]
					}
					if same != more.read {
						t.Errorf("%s: block %d with %d of %d damaged: reads %v", text, k, len(at), b.Correct, same)
					}
				}
			}
		})
	}
}

// logo is a raster mark with soft edges: a green disc with a light leaf.
func logo() string {
	img := image.NewNRGBA(image.Rect(0, 0, 400, 300))
	for y := range 300 {
		for x := range 400 {
			dx, dy := float64(x-200)/200, float64(y-150)/150
			d := dx*dx + dy*dy
			if d < 1 {
				img.SetNRGBA(x, y, color.NRGBA{18, uint8(60 + 60*d), 74, uint8(255 * min(1, (1-d)*8))})
			}
		}
	}
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())
}

const vectorLogo = `data:image/svg+xml;base64,`

func svgLogo() string {
	return vectorLogo + base64.StdEncoding.EncodeToString(
		[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 30"><defs><linearGradient id="g"><stop offset="0" stop-color="#12352b"/><stop offset="1" stop-color="#5a2d0c"/></linearGradient></defs><rect width="40" height="30" rx="6" fill="url(#g)"/><circle cx="20" cy="15" r="9" fill="#fff" opacity=".8"/><path d="M12 22C12 10 24 20 26 8" fill="none" stroke="#a8321f" stroke-width="3"/></svg>`))
}

// TestMarksAgree: marks of pixels and of outlines, cropped, faded and shaded, look the same in the three formats.
func TestMarksAgree(t *testing.T) {
	for name, mark := range map[string]string{
		"pixels":   fmt.Sprintf(`{"source":%q,"width":0.3}`, logo()),
		"round":    fmt.Sprintf(`{"source":%q,"width":0.25,"crop":"round"}`, logo()),
		"outlines": fmt.Sprintf(`{"source":%q,"width":0.3}`, svgLogo()),
		"cropped":  fmt.Sprintf(`{"source":%q,"width":0.25,"crop":"round","clear":"disc"}`, svgLogo()),
		"icon":     `{"source":"icon:sprout","width":0.25,"clear":"outline"}`,
	} {
		t.Run(name, func(t *testing.T) {
			m,
				problems := Parse([]byte(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":{"kind":"linear","angle":60,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#1f3a5a"}]},"modules":{"corner":0.6},"mark":`+mark+`}}`), nil)
			if len(problems) > 0 {
				t.Fatal(name, problems)
			}
			pictures := drawnOutside(t, m, name)
			for _, other := range []string{"svg", "pdf"} {
				mean, far := apart(pictures["png"], pictures[other])
				t.Logf("%s in %s: %.2f of 255 apart in the mean, %.2f %% far", name, other, mean, far*100)
				if mean > 0.8 || far > 0.002 {
					t.Errorf("%s in %s: %.2f of 255 apart in the mean, %.2f %% far", name, other, mean, far*100)
				}
			}
		})
	}
}

// randomLook is a look of any sort, its mark among icons.
func randomLook(rng *rand.Rand) string {
	c := func() float64 { return rng.Float64() }
	motifs := look.Motifs()
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	ink := pick(`"#12352b"`, `{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5a2d0c"}]}`,
		`{"kind":"radial","stops":[{"at":0,"colour":"#000000"},{"at":0.7,"colour":"#1f3a5a"},{"at":1,"colour":"#5b1f33"}]}`)
	mark := ""
	if rng.IntN(2) == 0 {
		mark = fmt.Sprintf(`,"mark":{"source":%q,"clear":%q,"width":%.3f,"pad":%.2f}`,
			pick("icon:sprout", "icon:leaf", "icon:store", "icon:gift"), pick(look.Clears...), 0.1+0.2*c(), 2*c())
	}
	switch rng.IntN(5) { // behind and around it
	case 0:
		mark += `,"outline":"round"`
	case 1:
		mark += fmt.Sprintf(`,"outline":"round","backdrop":{"source":"icon:flower","mode":"halftone","strength":%.2f}`, c())
	case 2:
		mark += fmt.Sprintf(`,"backdrop":{"source":"icon:leaf","mode":%q,"strength":%.2f}`, pick(look.BackdropModes...), c())
	}
	eyes := func() string {
		return fmt.Sprintf(
			`"ring":{"corners":[%.2f,%.2f,%.2f,%.2f],"texture":%q},"core":{"corners":[%.2f,%.2f,%.2f,%.2f],"motif":%q,"scale":%.2f}`, c(), c(), c(), c(), pick("solid", "solid", "modules"), c(), c(), c(), c(), pick(motifs...), 0.8+0.4*c())
	}
	return fmt.Sprintf(
		`{"ink":%s,"modules":{"join":%q,"corner":%.2f,"scale":%.2f,"motif":%q},"eyes":{%s,"facing":%q,"alignment":%q,"each":[{},{%s}]}%s}`, ink, pick(look.Joins...), c(), 0.5+0.5*c(), pick(motifs...), eyes(), pick(look.Facings...), pick("modules", "eyes"), eyes(), mark)
}

var manyLooks = flag.Int("looks", 120, "how many looks TestAnyLook draws; all of 3,000 held when it was written")

// TestAnyLook: whatever is worn, outlines are closed, do not overlap, lie in the symbol, and the patterns that readers
// measure by keep their middles, but for what makes room for the mark.
func TestAnyLook(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	const per = 8
	for i := range *manyLooks {
		text := randomLook(rng)
		m, problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":`+text+`}`), nil)
		if len(problems) > 0 {
			t.Fatalf("%s: %v", text, problems)
		}
		drawn := m.Unframed(nil) // what fills a disc out has a test of its own
		var outlines []scene.Polygon
		var dark scene.Scene
		for _, it := range drawn.Items {
			if it.Name == "paper" || it.Name == "mark" || it.Name == "backdrop" {
				continue
			}
			open := false
			for _, op := range it.Path.Ops {
				if open == (op == scene.Move) {
					t.Fatalf("%s: %s is not closed", text, it.Name)
				}
				open = op != scene.Close
			}
			for _, p := range it.Path.Points {
				if p.X < -1e-9 || p.Y < -1e-9 || p.X > float64(m.Symbol.Size)+1e-9 || p.Y > float64(m.Symbol.Size)+1e-9 {
					t.Fatalf("%s: %s leaves the symbol at %v", text, it.Name, p)
				}
			}
			outlines = append(outlines, it.Path.Polygons(8)...)
			dark.Items = append(dark.Items, it)
		}
		dark.Width, dark.Height = drawn.Width, drawn.Height
		img, err := raster.Draw(&dark, raster.Fit(&dark, per*m.Modules()))
		if err != nil {
			t.Fatal(err)
		}
		covered := 0.0
		for k := 3; k < len(img.Pix); k += 4 {
			covered += float64(img.Pix[k]) / 255 / (per * per)
		}
		sum := scene.Area(outlines)
		for range 100 { // nothing is covered twice, holes run the other way
			x, y := rng.Float64()*float64(m.Symbol.Size), rng.Float64()*float64(m.Symbol.Size)
			if n := scene.Turns(outlines, x, y); n != 0 && n != 1 {
				t.Fatalf("look %d %s: %g, %g is covered %d times", i, text, x, y, n)
			}
		}
		if math.Abs(covered-sum) > 0.025*sum { // at eight pixels a module slanted edges count for up to 2 % too much
			t.Errorf("look %d %s: outlines hold %.2f modules, they cover %.2f", i, text, sum, covered)
		}
		n := m.Symbol.Size
		ink := func(x, y int) bool { return img.NRGBAAt((x+4)*per+per/2, (y+4)*per+per/2).A > 127 }
		for x := 8; x < n-8; x++ { // timing, both ways
			if !m.Mark.Cleared(x, 6) && ink(x, 6) != m.Symbol.Dark(x, 6) || !m.Mark.Cleared(6, x) &&
				ink(6, x) != m.Symbol.Dark(6, x) {
				t.Errorf("look %d %s: timing is broken at %d", i, text, x)
			}
		}
		for _, c := range symbol.Alignments(m.Symbol.Version) {
			if !m.Mark.Cleared(c[0], c[1]) && !ink(c[0], c[1]) {
				t.Errorf("look %d %s: the alignment pattern at %v lost its middle", i, text, c)
			}
		}
		for _, e := range [][2]int{{3, 3}, {n - 4, 3}, {3, n - 4}} {
			if !ink(e[0], e[1]) || !ink(e[0]-3, e[1]) || !ink(e[0]+3, e[1]) || !ink(e[0], e[1]-3) || !ink(e[0], e[1]+3) ||
				ink(e[0]-2, e[1]) || ink(e[0], e[1]+2) {
				t.Errorf("look %d %s: the eye at %v lost its middle lines", i, text, e)
			}
		}
		if t.Failed() {
			return
		}
	}
}

// TestAnyLookAgrees: random looks are the same picture in the three formats.
func TestAnyLookAgrees(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 22))
	for range 6 {
		text := randomLook(rng)
		m := parse(t, `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":`+text+`}`)
		pictures := drawnOutside(t, m, text)
		for _, other := range []string{"svg", "pdf"} {
			t.Run(other, func(t *testing.T) {
				// poppler fattens what is a fraction of a pixel
				if mean, far := apart(pictures["png"], pictures[other]); mean > 2.5 || far > 0.05 {
					t.Errorf("%s in %s: %.2f of 255 apart in the mean, %.2f %% far", text, other, mean, far*100)
				}
			})
		}
	}
}

// BenchmarkDressed draws all of a look together, a mark of pixels included, for a symbol of 41 by 41.
func BenchmarkDressed(b *testing.B) {
	m,
		problems := Parse([]byte(
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"symbol":{"min_version":6,"max_version":6},"look":{"ink":{"kind":"radial","stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#1f3a5a"}]},"modules":{"corner":0.8},"eyes":{"ring":{"corners":[0.6,0.6,0.6,0.6],"ink":"#5b1f33"},"core":{"motif":"disc"}},"outline":"round","backdrop":{"source":"icon:leaf","mode":"halftone"},"mark":`+fmt.Sprintf(`{"source":%q,"width":0.25}`, logo())+`}}`), nil)
	if len(problems) > 0 || m.Symbol.Size != 41 {
		b.Fatal(problems, m)
	}
	b.Run("svg", func(b *testing.B) {
		for b.Loop() {
			m.File(MustFormat("svg"), nil, export.Meta{})
		}
	})
	b.Run("png", func(b *testing.B) {
		s := m.Scene(nil)
		for b.Loop() {
			if _, err := raster.Draw(s, raster.Fit(s, 1200)); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("png file", func(b *testing.B) {
		s := m.Scene(nil)
		for b.Loop() {
			if _, err := bitmap.PNG(s, 1200, export.Meta{}); err != nil {
				b.Fatal(err)
			}
		}
	})
}
