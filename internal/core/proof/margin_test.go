package proof_test

import (
	"fmt"
	"image"
	"math"
	"testing"

	"sodrik/internal/core/proof"
)

// TestMargin: what readers that look at the size of pictures alone make of it. Farther is the range in distances, rounded
// down; what changes no size holds to the end of its ladder; with a reader that sees nothing, nothing holds, and with one
// that reads three pictures of five neither.
func TestMargin(t *testing.T) {
	in := input(t, placed(`"width_mm":60,"distance_mm":400`))
	of := func(answer func(*image.Gray) ([]string, error)) *proof.Proof {
		t.Helper()
		p, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", answer}, fake{"b", "two", always(in.Payload)}),
			proof.Range, proof.Margins)
		if err != nil || p.Margin == nil {
			t.Fatal(err)
		}
		return p
	}
	p := of(large(in.Payload, 100))
	if want := math.Floor(p.Range[1]/4+1e-9) / 100; p.Margin.Farther != want || want < 1 || p.Poor != p.Range[1] ||
		p.Margin.FartherPoor != want {
		t.Errorf("%+v, range %v, with a poor phone %g", p.Margin, p.Range, p.Poor)
	}
	if m := p.Margin; m.Softer != 3 || m.Darker != 1./128 || m.Worn != 0.2 {
		t.Errorf("%+v", m)
	}
	p = of(func(*image.Gray) ([]string, error) { return nil, nil })
	if *p.Margin != (proof.Margin{}) || p.Poor != 0 {
		t.Errorf("%+v", p.Margin)
	}
	n := 0
	p = of(func(*image.Gray) ([]string, error) {
		if n++; n%5 < 2 {
			return nil, nil
		}
		return []string{in.Payload}, nil
	})
	if *p.Margin != (proof.Margin{}) {
		t.Errorf("with three of five: %+v", p.Margin)
	}
	if p := of(func(*image.Gray) ([]string, error) { // four of five
		if n++; n%5 < 1 {
			return nil, nil
		}
		return []string{in.Payload}, nil
	}); p.Margin.Softer != 3 || p.Range[1] == 0 {
		t.Errorf("with four of five: %+v", p.Margin)
	}
}

// TestRungs: readers are not shown what one of them has given up on: two distances in a row of which it reads nothing, and no
// more than the rest of four.
func TestRungs(t *testing.T) {
	in := input(t, placed(`"width_mm":60,"distance_mm":400`))
	ladder := func(side int) []proof.Rung {
		p, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", large(in.Payload, side)},
			fake{"b", "two", always(in.Payload)}), proof.Range)
		if err != nil {
			t.Fatal(err)
		}
		return p.Ladder
	}
	if all, none := len(ladder(1)), len(ladder(10000)); all != 12 || none != 4 {
		t.Errorf("%d distances where all is read, %d where nothing is; want 12 and 4", all, none)
	}
}

// TestMarginWords: every case of them, read aloud.
func TestMarginWords(t *testing.T) {
	for _, c := range []struct {
		m      proof.Margin
		words  string
		figure string
	}{
		{proof.Margin{Farther: 1.49, FartherPoor: 1.19, Softer: 1.5, Darker: 1. / 8, Worn: 0.02},
			"Reads up to 1.4 times the distance; with a poor phone 1.1. From its distance it survives 1.5 times the blur, an " +
				"eighth of the light or scratches on 2 % of it.", "1.4 ×"},
		{proof.Margin{Farther: 2, FartherPoor: 0.89, Softer: 1, Darker: 1. / 128},
			"Reads up to 2 times the distance; with a poor phone up to 0.8 of it. From its distance it survives 1/128 of the light.", "2 ×"},
		{proof.Margin{Farther: 0.9, FartherPoor: 0, Darker: 0.5},
			"No margin: some phones miss too many pictures from its distance; a poor phone does not read it. From its " +
				"distance it survives half the light.", "0.9 ×"},
		{proof.Margin{}, "No margin: some phones miss too many pictures from its distance; a poor phone does not read it.",
			"none"},
	} {
		t.Run(fmt.Sprint(c.m), func(t *testing.T) {
			if got := c.m.Words(); got != c.words {
				t.Errorf("%+v:\n%s\nwant\n%s", c.m, got, c.words)
			}
			if got := c.m.Figure(); got != c.figure {
				t.Errorf("%+v is %q, want %q", c.m, got, c.figure)
			}
		})
	}
}
