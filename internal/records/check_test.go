package records

import (
	"bytes"
	"errors"
	"fmt"
	"image/png"
	"math"
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/problem"
)

// pictured is a PNG of a print of a code at its first place, twelve pixels a module, grown by so many millimetres.
func pictured(t *testing.T, m *compose.Rendition, growth float64) []byte {
	t.Helper()
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	c := optics.Phone
	c.Lines, c.Focal = 4000, 12*1000*float64(m.Modules())/in.Scene.Width
	img, err := optics.Expose(in.Scene, 1, optics.Setup{Camera: c, Distance: 1000, Gain: growth, Around: 0.2, Seed: 3})
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestCheckPrint: the version that a picture shows is found, by what it says; what was measured is kept with it and seen in
// the ledger; another workspace sees nothing of it; what is no print of the code is a problem of the picture.
func TestCheckPrint(t *testing.T) {
	r, s, _ := open(t)
	ctx := t.Context()
	id := create(t, s, "Gate", "marrowby.example/fair")
	says := func(p Picture) string {
		_, err := r.CheckPrint(ctx, ws, id, p)
		var list problem.List
		if !errors.As(err, &list) {
			return "no problem"
		}
		return list[0].Field + " " + list[0].Message
	}
	if got := says(Picture{}); !strings.HasPrefix(got, "/picture cannot be a print of this code yet") {
		t.Error(got)
	}
	first, err := s.Issue(ctx, ws, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Edit(ctx, ws, id, code.Edit{Path: "/content/url", Text: "marrowby.example/spring", Tab: "a", Seq: 1,
		Base: -1}); err != nil {
		t.Fatal(err)
	}
	second, err := s.Issue(ctx, ws, id)
	if err != nil {
		t.Fatal(err)
	}
	for n, c := range map[int]*code.Code{1: first, 2: second} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			got, err := r.CheckPrint(ctx, as("Tamsin"), id, Picture{Data: pictured(t, c.Rendition, 0.2)})
			if err != nil || got.N != n || got.Place != "gate" || math.Abs(got.Print.Growth.Value-0.2) > 0.05 {
				t.Errorf("version %d: %+v, %v", n, got, err)
			}
		})
	}
	list, err := r.Checks(ctx, ws, id)
	if err != nil || len(list) != 2 || list[0].Who != "Tamsin" || list[0].Print.Growth == nil || len(list[0].Print.Grades) == 0 ||
		list[0].At.IsZero() {
		t.Errorf("%+v, %v", list, err)
	}
	if list, err := r.Checks(ctx, elsewhere, id); err != nil || len(list) != 0 {
		t.Errorf("another workspace sees %+v, %v", list, err)
	}
	page, err := s.Ledger(ctx, ws, code.Active, "", nil, 10)
	if err != nil || page.Lines[0].Checked != 2 {
		t.Errorf("the ledger knows of version %d, %v", page.Lines[0].Checked, err)
	}
	other, err := s.Get(ctx, ws, create(t, s, "Other", "marrowby.example/other"))
	if err != nil {
		t.Fatal(err)
	}
	for want, p := range map[string]Picture{
		"/picture is missing":           {},
		"/picture is no picture":        {Data: []byte("x")},
		"/picture shows another code":   {Data: pictured(t, other.Rendition, 0)},
		"/dpi is the resolution of the": {Data: pictured(t, first.Rendition, 0), DPI: 7},
	} {
		t.Run(want, func(t *testing.T) {
			if got := says(p); !strings.HasPrefix(got, want) {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
}
