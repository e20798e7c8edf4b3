package compose

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"

	"sodrik/internal/core/export"
)

// same allows one step of 255, which smooth edges differ by where sums are rounded elsewhere.
func same(a, b color.Color) bool {
	x, y := color.NRGBAModel.Convert(a).(color.NRGBA), color.NRGBAModel.Convert(b).(color.NRGBA)
	for _, d := range []int{int(x.R) - int(y.R), int(x.G) - int(y.G), int(x.B) - int(y.B), int(x.A) - int(y.A)} {
		if max(d, -d) > 1 {
			return false
		}
	}
	return true
}

// TestPixelsWide: a PNG without a place is as wide as was asked, and the code in its middle in whole pixels a module: of 33
// modules with the quiet zone 600 allow 18 each, 594 in all. A frame's modules count. With a place its resolution decides.
func TestPixelsWide(t *testing.T) {
	for _, c := range []struct {
		name, job string
		want      int // of the code
		wide      int // of the file
	}{
		{"as it comes", ``, 2013, 2013}, {"600", `,"output":{"pixels":600}`, 594, 600}, {"just so many",
			`,"output":{"pixels":594}`, 594, 594},
		{"one fewer", `,"output":{"pixels":593}`, 561, 593},
		{"the least", `,"output":{"pixels":100}`, 99, 100}, {"the most", `,"output":{"pixels":10000}`, 9999, 10000},
		// 39 modules, 15 pixels each
		{"in a frame", `,"output":{"pixels":600},"look":{"frame":{"shape":"stamp","text":"Sow with us"}}`, 585, 600},
		{"a paper of its own", `,"output":{"pixels":1000},"look":{"paper":"#eee4c8"}`, 990, 1000},
	} {
		t.Run(c.name, func(t *testing.T) {
			m, problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/a"}`+c.job+`}`), nil)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			file, problems := m.File(Format{Kind: "png"}, nil, export.Meta{})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			picture, err := png.Decode(bytes.NewReader(file))
			if err != nil {
				t.Fatal(err)
			}
			if got := picture.Bounds().Size(); got.X != c.wide || got.Y < c.wide || m.Wide(nil) != c.wide ||
				m.Across(nil) != c.want {
				t.Errorf("%v pixels, said are %d and %d; want %d and %d", got, m.Wide(nil), m.Across(nil), c.wide, c.want)
			}
			if c.wide > 2013 {
				return
			}
			m.Job.Output.Pixels = c.want
			bare, problems := m.File(Format{Kind: "png"}, nil, export.Meta{})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			inner, err := png.Decode(bytes.NewReader(bare))
			if err != nil {
				t.Fatal(err)
			}
			left := (c.wide - c.want) / 2
			if got, want := picture.Bounds().Dy(), inner.Bounds().Dy()+c.wide-c.want; got != want {
				t.Errorf("%d pixels high, want %d", got, want)
			}
			margin := inner.At(0, 0) // of the paper
			if !m.Job.Look.Frame.None() {
				margin = color.Transparent
			}
			for y := range picture.Bounds().Dy() {
				for x := range c.wide {
					want := margin
					if at := image.Pt(x-left, y-left); at.In(inner.Bounds()) {
						want = inner.At(at.X, at.Y)
					}
					if got := picture.At(x, y); !same(got, want) {
						t.Fatalf("pixel %d, %d is %v, want %v", x, y, got, want)
					}
				}
			}
		})
	}
	for _, bad := range []string{"99", "10001", "600.5"} {
		t.Run(bad, func(t *testing.T) {
			if _,
				problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/a"},"output":{"pixels":`+bad+`}}`),
				nil); len(
				problems,
			) != 1 ||
				problems[0].Field != "/output/pixels" {
				t.Errorf("%s: %v", bad, problems)
			}
		})
	}
	m, problems := Parse(
		[]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/a"},"output":{"pixels":600},"placements":[{"name":"card","width_mm":33}]}`,
		),
		nil,
	)
	if len(problems) > 0 || m.Pixels(m.Place(0)).Pixels != 396 { // 33 mm at 300 dpi are 389.8 pixels, 12 a module
		t.Errorf("%v %v", m.Pixels(m.Place(0)), problems)
	}
}
