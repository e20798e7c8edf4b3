package symbol_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

// pictures of the function patterns (ISO/IEC 18004:2015, figures 4 and 8), # for dark.
var (
	finderPicture = []string{
		"#######..", "#.....#..", "#.###.#..", "#.###.#..", "#.###.#..", "#.....#..", "#######..", ".........", ".........",
	}
	alignmentPicture = []string{"#####", "#...#", "#.#.#", "#...#", "#####"}
)

// centresOf are rows and columns of the centres of alignment patterns, from table E.1.
var centresOf = map[int][]int{
	1: nil, 2: {6, 18}, 6: {6, 34}, 7: {6, 22, 38}, 13: {6, 34, 62}, 14: {6, 26, 46, 66}, 15: {6, 26, 48, 70},
	21: {6, 28, 50, 72, 94}, 27: {6, 34, 62, 90, 118},
	28: {6, 26, 50, 74, 98, 122}, 32: {6, 34, 60, 86, 112, 138}, 36: {6, 24, 50, 76, 102, 128, 154},
	39: {6, 26, 54, 82, 110, 138, 166}, 40: {6, 30, 58, 86, 114, 142, 170},
}

// TestFunctionPatterns lays the figures of the standard over symbols: every module of a function pattern is as drawn there
// and has its role, and no other module has it.
func TestFunctionPatterns(t *testing.T) {
	for v, centres := range centresOf {
		t.Run(fmt.Sprint(v), func(t *testing.T) {
			s, err := symbol.Encode("1", symbol.Options{MinVersion: v, MaxVersion: v})
			if err != nil {
				t.Fatal(err)
			}
			n := 17 + 4*v
			if s.Size != n {
				t.Fatalf("version %d is %d modules wide", v, s.Size)
			}
			type module struct {
				role symbol.Role
				dark bool
			}
			want := map[[2]int]module{}
			for i := 8; i < n-8; i++ {
				want[[2]int{i, 6}], want[[2]int{6, i}] = module{symbol.RoleTiming, i%2 == 0}, module{symbol.RoleTiming, i%2 == 0}
			}
			for y := range 7 {
				for x := range 7 {
					m := module{symbol.RoleFinder, finderPicture[y][x] == '#'}
					want[[2]int{x, y}], want[[2]int{n - 7 + x, y}], want[[2]int{x, n - 7 + y}] = m, m, m
				}
			}
			light := module{symbol.RoleSeparator, false}
			for i := range 8 {
				for _, at := range [][2]int{{7, i}, {i, 7}, {n - 8, i}, {n - 8 + i, 7}, {7, n - 8 + i}, {i, n - 8}} {
					want[at] = light
				}
			}
			var list [][2]int
			for i, cy := range centres {
				for j, cx := range centres {
					// a finder pattern is there
					if i == 0 && j == 0 || i == 0 && j == len(centres)-1 || j == 0 && i == len(centres)-1 {
						continue
					}
					list = append(list, [2]int{cx, cy})
					for dy, line := range alignmentPicture {
						for dx, sign := range line {
							want[[2]int{cx - 2 + dx, cy - 2 + dy}] = module{symbol.RoleAlignment, sign == '#'}
						}
					}
				}
			}
			want[[2]int{8, 4*v + 9}] = module{symbol.RoleDark, true}
			if got := symbol.Alignments(v); !slices.Equal(got, list) {
				t.Errorf("version %d has alignment patterns at %v, want %v", v, got, list)
			}
			for y := range n {
				for x := range n {
					m, fixed := want[[2]int{x, y}]
					role := s.Role(x, y)
					switch {
					case fixed && (role != m.role || s.Dark(x, y) != m.dark):
						t.Fatalf("version %d: module %d, %d is %v, dark %v; the standard has %v, dark %v", v, x, y, role,
							s.Dark(x, y), m.role, m.dark)
					case !fixed && slices.Contains([]symbol.Role{symbol.RoleTiming, symbol.RoleFinder, symbol.RoleSeparator,
						symbol.RoleAlignment, symbol.RoleDark}, role):
						t.Fatalf("version %d: module %d, %d is %v", v, x, y, role)
					}
				}
			}
			for _, at := range [][2]int{{-1, 0}, {0, -1}, {n, 0}, {0, n}} {
				if s.Dark(at[0], at[1]) {
					t.Errorf("version %d: %v, outside of it, is dark", v, at)
				}
			}
		})
	}
}

// TestMasks: the first twelve rows of each mask, written out by hand from table 10.
func TestMasks(t *testing.T) {
	for k, rows := range [8][]string{
		{"#.#.#.#.#.#.", ".#.#.#.#.#.#"},
		{"############", "............"},
		{"#..#..#..#.."},
		{"#..#..#..#..", "..#..#..#..#", ".#..#..#..#."},
		{"###...###...", "###...###...", "...###...###", "...###...###"},
		{"############", "#.....#.....", "#..#..#..#..", "#.#.#.#.#.#.", "#..#..#..#..", "#.....#....."},
		{"############", "###...###...", "##.##.##.##.", "#.#.#.#.#.#.", "#.##.##.##.#", "#...###...##"},
		{"#.#.#.#.#.#.", "...###...###", "#...###...##", ".#.#.#.#.#.#", "###...###...", ".###...###.."},
	} {
		for y := range 12 {
			for x := range 12 {
				if want := rows[y%len(rows)][x] == '#'; symbol.MaskBit(k, x, y) != want {
					t.Fatalf("mask %03b reverses column %d, row %d: %v", k, x, y, !want)
				}
			}
		}
	}
}

// TestSegmentsAsGiven: what segments take, in codewords counted from clause 7.4, and that a reader gets them back.
func TestSegmentsAsGiven(t *testing.T) {
	seg := func(m symbol.Mode, text string) symbol.Segment { return symbol.Segment{Mode: m, Text: text} }
	for _, c := range []struct {
		name string
		segs []symbol.Segment
		bits int // in versions 1 to 9
	}{
		{"no digit", []symbol.Segment{seg(symbol.ModeNumeric, "")}, 14},
		{"one digit takes 4 bits", []symbol.Segment{seg(symbol.ModeNumeric, "0")}, 18},
		{"two take 7", []symbol.Segment{seg(symbol.ModeNumeric, "09")}, 21},
		{"three take 10", []symbol.Segment{seg(symbol.ModeNumeric, "909")}, 24},
		{"eight take 27", []symbol.Segment{seg(symbol.ModeNumeric, "01234567")}, 41},
		{"one letter takes 6 bits", []symbol.Segment{seg(symbol.ModeAlphanumeric, "A")}, 19},
		{"two take 11", []symbol.Segment{seg(symbol.ModeAlphanumeric, "AC")}, 24},
		{"five take 28", []symbol.Segment{seg(symbol.ModeAlphanumeric, "AC-42")}, 41},
		{"bytes take 8", []symbol.Segment{seg(symbol.ModeByte, "seed")}, 44},
		{"kanji take 13", []symbol.Segment{seg(symbol.ModeKanji, "点茗")}, 38},
		{"an assignment below 128", []symbol.Segment{{Mode: symbol.ModeECI, ECI: 127}, seg(symbol.ModeByte, "a")}, 12 + 20},
		{"of 128", []symbol.Segment{{Mode: symbol.ModeECI, ECI: 128}, seg(symbol.ModeByte, "a")}, 20 + 20},
		{"of 16383", []symbol.Segment{{Mode: symbol.ModeECI, ECI: 16383}, seg(symbol.ModeByte, "a")}, 20 + 20},
		{"of 16384", []symbol.Segment{{Mode: symbol.ModeECI, ECI: 16384}, seg(symbol.ModeByte, "a")}, 28 + 20},
		{"the last assignment", []symbol.Segment{{Mode: symbol.ModeECI, ECI: 999999}, seg(symbol.ModeByte, "a")}, 28 + 20},
	} {
		t.Run(c.name, func(t *testing.T) {
			s, err := symbol.EncodeSegments(c.segs, symbol.Options{Level: symbol.L, NoBoost: true})
			if err != nil {
				t.Fatal(err)
			}
			if want := (c.bits + 7) / 8; s.Used() != want {
				t.Errorf("%d codewords, want %d", s.Used(), want)
			}
			r, err := decode.Matrix(s.Size, s.Dark)
			if err != nil {
				t.Fatal(err)
			}
			got := r.Segments
			if len(got) != len(c.segs) {
				t.Fatalf("read back %v", got)
			}
			for i, g := range got {
				if g.Mode != c.segs[i].Mode || g.Mode == symbol.ModeECI && g.ECI != c.segs[i].ECI {
					t.Errorf("segment %d is read back %+v", i, g)
				}
			}
		})
	}
}

// TestCountFields: a segment of more characters than its count field holds makes the symbol larger, where the field is wider
// (table 3).
func TestCountFields(t *testing.T) {
	for _, c := range []struct {
		mode  symbol.Mode
		sign  string
		count int
		least int // version
	}{{symbol.ModeNumeric, "7", 552, 9}, {symbol.ModeByte, "a", 230, 9}, {symbol.ModeByte, "a", 231, 10}} {
		t.Run(fmt.Sprint(c.mode), func(t *testing.T) {
			s, err := symbol.EncodeSegments([]symbol.Segment{{Mode: c.mode, Text: strings.Repeat(c.sign, c.count)}},
				symbol.Options{Level: symbol.L, NoBoost: true})
			if err != nil || s.Version != c.least {
				t.Errorf("%d of %q: version %v, want %d (%v)", c.count, c.sign, s, c.least, err)
			}
		})
	}
	// 256 bytes do not fit a count of eight bits.
	if s, err := symbol.EncodeSegments([]symbol.Segment{{Mode: symbol.ModeByte, Text: strings.Repeat("a", 256)}},
		symbol.Options{Level: symbol.L, NoBoost: true, MaxVersion: 9}); err == nil {
		t.Errorf("256 bytes fit version %d", s.Version)
	}
}

// TestLevels: letters of the levels, both ways.
func TestLevels(t *testing.T) {
	for text, want := range map[string]symbol.Level{"auto": symbol.LevelAuto, "L": symbol.L, "M": symbol.M, "Q": symbol.Q,
		"H": symbol.H} {
		t.Run(text, func(t *testing.T) {
			if got, ok := symbol.ParseLevel(text); !ok || got != want || got.String() != text {
				t.Errorf("%s is %v, %v", text, got, ok)
			}
		})
	}
	if _, ok := symbol.ParseLevel("X"); ok || symbol.Level(5).String() != "?" {
		t.Error("there is a level X")
	}
}

// TestKanjiCorners: the first and last characters that kanji mode holds (clause 7.4.6): Shift JIS 8140 to 9FFC and E040 to EBBF.
func TestKanjiCorners(t *testing.T) {
	for _, text := range []string{"\u3000", "滌", "漾"} {
		t.Run(text, func(t *testing.T) { // 8140, 9FFC, E040
			s, err := symbol.EncodeSegments([]symbol.Segment{{Mode: symbol.ModeKanji, Text: text}}, symbol.Options{})
			if err != nil {
				t.Errorf("%q: %v", text, err)
				return
			}
			if r, err := decode.Matrix(s.Size, s.Dark); err != nil || r.Payload != text {
				t.Errorf("%q is read back %v, %v", text, r, err)
			}
		})
	}
}
