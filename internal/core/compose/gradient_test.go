package compose

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/bitmap"
	"sodrik/internal/core/place"
)

// TestGradients: the PNG, the SVG drawn by rsvg-convert and the PDF drawn by pdftoppm show the same colours, and every reader's
// black stays where it is. Pixels on edges differ by how each smooths them, so that the mean and the inside of modules are held.
func TestGradients(t *testing.T) {
	for name, lookText := range map[string]string{
		"linear":  `{"ink":{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#b3472f"}]}}`,
		"radial":  `{"ink":{"kind":"radial","stops":[{"at":0.1,"colour":"#000000"},{"at":0.5,"colour":"#1f3a5a"},{"at":0.9,"colour":"#5b1f33"}]}}`,
		"dressed": `{"ink":{"kind":"linear","angle":135,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#1f3a5a"}]},"modules":{"corner":0.7},"eyes":{"ring":{"corners":[1,1,1,1],"ink":"#5a2d0c"},"core":{"motif":"disc"}}}`,
	} {
		t.Run(name, func(t *testing.T) {
			m := parse(t, `{"content":{"kind":"url","url":"marrowby.example/fair"},"look":`+lookText+`}`)
			pictures := drawnOutside(t, m, name)
			ours := pictures["png"]
			for _, format := range []string{"svg", "pdf"} {
				other := pictures[format]
				sum, worst := 0, 0
				n := m.Modules()
				for y := range n {
					for x := range n { // the middle of each module
						a := at(ours, (2*x+1)*ours.Bounds().Dx()/(2*n), (2*y+1)*ours.Bounds().Dy()/(2*n))
						b := at(other, (2*x+1)*other.Bounds().Dx()/(2*n), (2*y+1)*other.Bounds().Dy()/(2*n))
						d := max(diff(a.R, b.R), diff(a.G, b.G), diff(a.B, b.B))
						sum += d
						worst = max(worst, d)
					}
				}
				// a round form may have an edge in the middle of a module
				if mean := float64(sum) / float64(n*n); mean > 1.5 || worst > 6 && name != "dressed" {
					t.Errorf("%s as %s: colours differ by %.2f in the mean, %d at most", name, format, mean, worst)
				}
			}
		})
	}
}

// drawnOutside is what each format shows: ours of the PNG, rsvg-convert of the SVG, pdftoppm of the PDF, all as large as the PNG.
func drawnOutside(t *testing.T, m *Rendition, name string) map[string]image.Image {
	t.Helper()
	dir := t.TempDir()
	width := m.Modules() * 20
	pictures := map[string]image.Image{}
	var p *place.Placement
	if len(m.Job.Placements) > 0 {
		p = m.Place(0)
	}
	for _, format := range []string{"svg", "pdf", "png"} {
		b, problems := m.File(MustFormat(format), p, export.Meta{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		if format == "png" { // as large as the others are drawn
			var err error
			if b, err = bitmap.PNG(m.Scene(p), width, export.Meta{}); err != nil {
				t.Fatal(err)
			}
		}
		file, picture := filepath.Join(dir, "a."+format), filepath.Join(dir, format+"-drawn.png")
		if err := os.WriteFile(file, b, 0o600); err != nil {
			t.Fatal(err)
		}
		switch format {
		case "svg":
			tool(t, "rsvg-convert", "--width", itoa(width), "-o", picture, file)
		case "pdf":
			tool(t, "qpdf", "--check", file)
			tool(t, "pdftoppm", "-scale-to", itoa(width), "-png", "-singlefile", file, strings.TrimSuffix(picture, ".png"))
		case "png":
			picture = file
		}
		data, err := os.ReadFile(picture)
		if err != nil {
			t.Fatal(err)
		}
		if pictures[format], err = png.Decode(bytes.NewReader(data)); err != nil {
			t.Fatal(name, err)
		}
	}
	return pictures
}

// apart is by how much two pictures differ, of 255 in the mean, and the share of pixels that differ by more than 40.
func apart(a, b image.Image) (mean, far float64) {
	r := a.Bounds()
	for y := range r.Dy() {
		for x := range r.Dx() {
			p, q := at(a, x, y), at(b, x, y)
			d := max(diff(p.R, q.R), diff(p.G, q.G), diff(p.B, q.B))
			mean += float64(d)
			if d > 40 {
				far++
			}
		}
	}
	n := float64(r.Dx() * r.Dy())
	return mean / n, far / n
}

func at(img image.Image, x, y int) color.NRGBA {
	c := color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)
	// on white paper, as pages are drawn
	on := func(v uint8) uint8 { return uint8((int(v)*int(c.A) + 255*(255-int(c.A)) + 127) / 255) }
	return color.NRGBA{R: on(c.R), G: on(c.G), B: on(c.B), A: 255}
}

func diff(a, b uint8) int { return max(int(a)-int(b), int(b)-int(a)) }

func itoa(n int) string {
	var b []byte
	for ; n > 0; n /= 10 {
		b = append([]byte{byte('0' + n%10)}, b...)
	}
	return string(b)
}
