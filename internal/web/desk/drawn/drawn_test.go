package drawn

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
)

func parsed(t *testing.T, job string) *compose.Rendition {
	t.Helper()
	m, problems := compose.Parse([]byte(job), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

// TestSheet: what is drawn is well-formed, lies within the table, and its rulers have zero at the edge of the code.
func TestSheet(t *testing.T) {
	for _, look := range []string{"{}", `{"outline":"round"}`, `{"frame":{"shape":"rule","text":"Sow"}}`,
		`{"mark":{"source":"icon:leaf"},"backdrop":{"source":"icon:sun","mode":"under"}}`} {
		t.Run(look, func(t *testing.T) {
			m := parsed(
				t,
				`{"content":{"kind":"url","url":"marrowby.example"},"look":`+look+`,"placements":[{"name":"a","width_mm":66}]}`,
			)
			s := SheetOf(m, m.Place(0))
			if s.x < ruler || s.y < ruler || s.x+s.w > sheetWidth || s.y+s.h > sheetHeight {
				t.Errorf("%s: %.0f × %.0f at %.0f, %.0f", look, s.w, s.h, s.x, s.y)
			}
			if got := s.perUnit * 66; got < s.across-0.01 || got > s.across+0.01 {
				t.Errorf("%s: 66 mm are %.2f, the code is %.2f wide", look, got, s.across)
			}
			d := xml.NewDecoder(strings.NewReader(string(s.Draw(m, 0, nil))))
			for {
				if _, err := d.Token(); errors.Is(err, io.EOF) {
					break
				} else if err != nil {
					t.Fatalf("%s: %v", look, err)
				}
			}
			for _, p := range s.Parts(m) {
				if n := len(strings.Fields(p.Box)); n != 4 {
					t.Errorf("%s: the box of %s has %d numbers", look, p.Key, n)
				}
			}
		})
	}
}

// TestRoundStep: 1, 2, 5 and their tens.
func TestRoundStep(t *testing.T) {
	for f, want := range map[float64]float64{0.3: 0.5, 1: 1, 1.1: 2, 2.01: 5, 5.1: 10, 52: 100, 0.0011: 0.002} {
		t.Run(fmt.Sprint(f), func(t *testing.T) {
			if got := roundStep(f); got < want*0.9999 || got > want*1.0001 {
				t.Errorf("%g: %g, want %g", f, got, want)
			}
		})
	}
}

// TestSnaps: a code of 20 mm on a sheet of 100 × 60 is drawn to its edges, margins of a twentieth of the shorter side, and
// its middle.
func TestSnaps(t *testing.T) {
	c := compose.Composed{Width: 100, Height: 60}
	c.Code.W, c.Code.H = 20, 20
	s := snapsOf(nil, c)
	if !slices.Equal(s.X, []float64{0, 3, 40, 77, 80}) || !slices.Equal(s.Y, []float64{0, 3, 20, 37, 40}) {
		t.Errorf("%v %v", s.X, s.Y)
	}
	if c.Code.W = 120; snapsOf(nil, c).X != nil {
		t.Error("what is wider than the sheet is drawn to its edges")
	}
}

// TestDamage: each block of the symbol has a row, and what no mark takes is all left.
func TestDamage(t *testing.T) {
	d := DamageOf(
		parsed(t, `{"content":{"kind":"text","text":"MARROWBY"},"symbol":{"level":"H","min_version":5,"max_version":5}}`),
	)
	if len(d.Blocks) != 4 { // ISO/IEC 18004:2015, table 9: 5-H has two blocks of 33 codewords and two of 34
		t.Fatalf("%d blocks", len(d.Blocks))
	}
	for _, b := range d.Blocks {
		if b.Lost != 0 || b.Left != "100 %" || b.Correct != 11 || b.Worst {
			t.Errorf("%+v", b)
		}
	}
}
