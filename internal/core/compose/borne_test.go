package compose

import (
	"encoding/base64"
	"fmt"
	"math"
	"strings"
	"testing"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol"
)

// drawnCode is a symbol as a group of an SVG whose units are millimetres: its modules from x, y on, side wide, without a quiet
// zone.
func drawnCode(t *testing.T, payload string, x, y, side, turned float64) string {
	t.Helper()
	s, err := symbol.Encode(payload, symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	k := side / float64(s.Size)
	fmt.Fprintf(&b, `<path transform="rotate(%g %g %g) translate(%g %g) scale(%g)" d="`, turned, x+side/2, y+side/2, x, y, k)
	for r := range s.Size {
		for c := range s.Size {
			if s.Dark(c, r) {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", c, r)
			}
		}
	}
	return b.String() + `"/>`
}

// findings are those of the first placement, without readers.
func findings(t *testing.T, m *Rendition) []proof.Finding {
	t.Helper()
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	p, err := proof.Prove(t.Context(), in, proof.Panel{}, proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	return p.Findings
}

// onArtwork is a code of 25 modules on a sheet of 200 × 100 mm that holds a drawing.
func onArtwork(t *testing.T, drawing, look, artwork string) *Rendition {
	t.Helper()
	svg := `<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100"><rect width="200" height="100" ` +
		`fill="#eef2e4"/>` + drawing + `</svg>`
	m, problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example"},"look":{`+look+`},"placements":[{"name":"card",`+
		`"width_mm":20,"distance_mm":300,"artwork":{"source":"data:image/svg+xml;base64,`+
		base64.StdEncoding.EncodeToString([]byte(svg))+`"`+artwork+`}}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

// TestBorne: a code that artwork bears is found, with where ours has to lie so that its modules cover those of the other: of 25
// modules in 30 mm, with four of quiet zone around them, 39.6 mm, from 4.8 mm before the other on.
func TestBorne(t *testing.T) {
	const old = "https://old.example/a"
	m := onArtwork(t, drawnCode(t, old, 120, 40, 30, 0), ``, ``)
	list := m.Borne(t.Context(), m.Place(0))
	if len(list) != 1 || list[0].Payload != old || list[0].Why != "" || list[0].Covered {
		t.Fatalf("%+v", list)
	}
	if got := m.Symbol.Size; got != 25 {
		t.Fatalf("ours has %d modules", got)
	}
	for name, c := range map[string][2]float64{"width": {float64(list[0].Width), 39.6}, "left": {float64(list[0].X), 115.2},
		"top": {float64(list[0].Y), 35.2}} {
		if math.Abs(c[0]-c[1]) > 0.1 {
			t.Errorf("%s is %.3f mm, want %.3f", name, c[0], c[1])
		}
	}
	over := onArtwork(t, drawnCode(t, old, 120, 40, 30, 0), ``, fmt.Sprintf(`,"x_mm":%g,"y_mm":%g`, list[0].X, list[0].Y))
	over.Job.Placements[0].Width = list[0].Width
	if list := over.Borne(t.Context(), over.Place(0)); len(list) != 1 || !list[0].Covered || !list[0].Hidden {
		t.Errorf("laid over it: %+v", list)
	}
	for name, c := range map[string]struct {
		m                   *Rendition
		other, fits, covers bool
	}{"beside it": {m, true, true, false}, "over it": {over, false, false, false},
		"beside one that is turned": {onArtwork(t, drawnCode(t, old, 120, 40, 30, 9), ``, ``), true, false, false},
		"half over it": {onArtwork(t, drawnCode(t, old, 120, 40, 30, 0), ``, `,"x_mm":135,"y_mm":40`), true,
			true, true},
		"over nothing": {onArtwork(t, ``, ``, ``), false, false, false}} {
		t.Run(name, func(t *testing.T) {
			in, err := c.m.Proof(0)
			if err != nil {
				t.Fatal(err)
			}
			s := in.Surface
			if s.Other != c.other || (s.Over != nil) != c.fits || s.Covers != c.covers {
				t.Errorf("%+v", s)
			}
		})
	}
	for name, c := range map[string]struct{ drawing, look, artwork, why string }{
		"nothing":          {``, ``, ``, "none"},
		"turned":           {drawnCode(t, old, 120, 40, 30, 9), ``, ``, "it is turned"},
		"turned upside":    {drawnCode(t, old, 120, 40, 30, 180), ``, ``, ""},
		"turned by two":    {drawnCode(t, old, 120, 40, 30, 2), ``, ``, ""},             // half the sine of it is 0.017
		"turned by three":  {drawnCode(t, old, 120, 40, 30, 3), ``, ``, "it is turned"}, // 0.026
		"a little turned":  {drawnCode(t, old, 120, 40, 30, 1), ``, ``, ""},
		"without paper":    {drawnCode(t, old, 120, 40, 30, 0), `"paper":"none"`, ``, "ours has no paper"},
		"paper by a panel": {drawnCode(t, old, 120, 40, 30, 0), `"paper":"none"`, `,"panel":"#ffffff"`, ""},
		"two": {drawnCode(t, old, 120, 40, 30, 0) + drawnCode(t, "https://old.example/b", 20, 20, 25, 0), ``, ``,
			"two"},
	} {
		t.Run(name, func(t *testing.T) {
			m := onArtwork(t, c.drawing, c.look, c.artwork)
			list := m.Borne(t.Context(), m.Place(0))
			switch {
			case c.why == "none" && len(list) == 0, c.why == "two" && len(list) == 2:
			case len(list) != 1 || !strings.HasPrefix(list[0].Why, c.why) || c.why == "" && list[0].Why != "":
				t.Errorf("%+v", list)
			}
		})
	}
	if list := m.Borne(t.Context(), nil); list != nil {
		t.Errorf("without a place: %+v", list)
	}
}

// TestOtherCode: a code that is seen beside ours is a remark, whose fix lays ours over it; then there is none.
func TestOtherCode(t *testing.T) {
	m := onArtwork(t, drawnCode(t, "https://old.example/a", 120, 40, 30, 0), ``, ``)
	found := func() *proof.Finding {
		for _, f := range findings(t, m) {
			if f.Code == "artwork.other" || f.Code == "artwork.covers" {
				return &f
			}
		}
		return nil
	}
	f := found()
	if f == nil || f.Code != "artwork.other" || f.Severity != proof.SeverityNote || f.Fix == nil {
		t.Fatalf("%+v", f)
	}
	text, err := m.Job.MarshalJSON()
	if err != nil {
		t.Fatal(err)
	}
	doc, err := fields.Decode(text)
	if err == nil {
		doc, _, err = f.Fix.Patch.Apply(doc)
	}
	if err != nil {
		t.Fatal(err)
	}
	var problems problem.List
	if m, _, problems = Read(doc, nil); len(problems) > 0 {
		t.Fatal(problems)
	}
	if f := found(); f != nil {
		t.Errorf("after its fix: %+v", f)
	}
}
