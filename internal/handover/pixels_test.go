package handover_test

import (
	"bytes"
	"image/png"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/handover"
)

// TestPixelsAreNoVersion: how many pixels a PNG without a place has makes no other version, and the file of the same one has as
// many as are asked for last.
func TestPixelsAreNoVersion(t *testing.T) {
	h := open(t)
	for _, wide := range []string{"1000", "333", "1000"} {
		if _, err := h.Codes.Edit(t.Context(), owner, h.id, code.Edit{Path: "/output/pixels", Text: wide, Base: -1}); err != nil {
			t.Fatal(err)
		}
		p, err := h.Give(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"png"}, Places: []string{"-1"}})
		if err != nil || p.N != 1 || !p.Issued.AsIssued() {
			t.Fatalf("%+v, %v", p, err)
		}
		config, err := png.DecodeConfig(bytes.NewReader(p.Files[0].Data))
		if err != nil || config.Width != map[string]int{"1000": 1000, "333": 333}[wide] || config.Height != config.Width {
			t.Errorf("%s were asked for; it is %d by %d, %v", wide, config.Width, config.Height, err)
		}
	}
	if _, err := h.Codes.Edit(t.Context(), owner, h.id, code.Edit{Path: "/output/dpi", Text: "600", Base: -1}); err != nil {
		t.Fatal(err)
	}
	if p, err := h.Give(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"png"}}); err != nil || p.N != 2 {
		t.Errorf("another resolution is version %d, %v", p.N, err)
	}
}
