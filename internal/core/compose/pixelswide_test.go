package compose

import (
	"bytes"
	"image/png"
	"testing"

	"sodrik/internal/core/export"
)

// TestPixelsWide: a PNG without a place is as wide as was asked at most, in whole pixels a module: of 33 modules with the quiet
// zone 600 allow 18 each, 594 in all. A frame's modules count. With a place its resolution decides.
func TestPixelsWide(t *testing.T) {
	for _, c := range []struct {
		name, job string
		want      int
	}{
		{"as it comes", ``, 2013}, {"600", `,"output":{"pixels":600}`, 594}, {"just so many", `,"output":{"pixels":594}`, 594},
		{"one fewer", `,"output":{"pixels":593}`, 561},
		{"the least", `,"output":{"pixels":100}`, 99}, {"the most", `,"output":{"pixels":10000}`, 9999},
		// 39 modules, 15 pixels each
		{"in a frame", `,"output":{"pixels":600},"look":{"frame":{"shape":"stamp","text":"Sow with us"}}`, 585},
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
			config, err := png.DecodeConfig(bytes.NewReader(file))
			if err != nil || config.Width != c.want || m.Across(nil) != c.want {
				t.Errorf("%d pixels wide, said are %d, want %d, %v", config.Width, m.Across(nil), c.want, err)
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
