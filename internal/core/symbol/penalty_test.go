package symbol_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"sodrik/internal/core/symbol"
)

// score is the penalty of clause 7.8.3.1, counted module by module from its words and table 11.
func score(n int, module func(x, y int) bool) int {
	total, dark := 0, 0
	at := func(line, i int, columns bool) bool {
		if i < 0 || i >= n {
			return false // the quiet zone is light
		}
		if columns {
			return module(line, i)
		}
		return module(i, line)
	}
	for _, columns := range []bool{false, true} {
		for line := range n {
			for i := 0; i < n; {
				k := 1
				for i+k < n && at(line, i+k, columns) == at(line, i, columns) {
					k++
				}
				if k >= 5 {
					total += 3 + k - 5
				}
				i += k
			}
			for i := range n {
				if !at(line, i, columns) {
					continue
				}
				seven := true
				for k, c := range "1011101" {
					seven = seven && at(line, i+k, columns) == (c == '1')
				}
				before, after := true, true
				for k := 1; k <= 4; k++ {
					before = before && !at(line, i-k, columns)
					after = after && !at(line, i+6+k, columns)
				}
				if seven && (before || after) {
					total += 40
				}
			}
		}
	}
	for y := range n {
		for x := range n {
			d := module(x, y)
			if d {
				dark++
			}
			if x+1 < n && y+1 < n && module(x+1, y) == d && module(x, y+1) == d && module(x+1, y+1) == d {
				total += 3
			}
		}
	}
	share := 100 * float64(dark) / float64(n*n)
	for step := 5.0; step <= share-50 || step <= 50-share; step += 5 {
		total += 10
	}
	return total
}

// TestPenalty: the penalty of squares of modules, drawn so that each feature is frequent, across the ends of words of 64 too,
// is that which a count module by module comes to.
func TestPenalty(t *testing.T) {
	r := rand.New(rand.NewPCG(18004, 8))
	for _, v := range []int{1, 3, 11, 12, 13, 27, 28, 40} {
		n := symbol.SizeOf(v)
		for round := range 12 {
			cells := make([]bool, n*n)
			for i := range cells {
				cells[i] = r.IntN(8) < 2+round%5
			}
			for range n * n / 40 { // stretches that nearly are finder patterns, at any place, in rows and columns
				stretch := []string{"10111010000", "00001011101", "1011101", "100010111010001", "00001011101000", "10111010001",
					"11111", "000000", "11011101"}[r.IntN(9)]
				x, y := r.IntN(n), r.IntN(n)
				for k, c := range stretch {
					if at := x + k; at < n && round%2 == 0 {
						cells[y*n+at] = c == '1'
					} else if at < n {
						cells[at*n+y] = c == '1'
					}
				}
			}
			dark := func(x, y int) bool { return cells[y*n+x] }
			if got, want := symbol.PenaltyOf(v, dark), score(n, dark); got != want {
				t.Errorf("version %d, square %d: %d, want %d", v, round, got, want)
			}
		}
	}
}

// TestMaskChoice: of the eight masks the one with the least penalty is taken, the first of several, in symbols of one, two
// and three words a row.
func TestMaskChoice(t *testing.T) {
	r := rand.New(rand.NewPCG(18004, 7))
	for _, v := range []int{1, 2, 7, 11, 12, 13, 19, 20, 27, 28, 33, 40} {
		for range max(2, 24/v) {
			text := make([]byte, symbol.DataCodewords(v, symbol.L)/(1+r.IntN(2))-4) // some are mostly pad codewords
			for i := range text {
				text[i] = byte('a' + r.IntN(26))
			}
			o := symbol.Options{Level: symbol.L, NoBoost: true, MinVersion: v, MaxVersion: v}
			got, err := symbol.Encode(string(text), o)
			if err != nil {
				t.Fatal(err)
			}
			least, want := 1<<30, 0
			for k := range 8 {
				o.Mask = symbol.Pattern(k)
				s, err := symbol.Encode(string(text), o)
				if err != nil {
					t.Fatal(err)
				}
				if p := score(s.Size, s.Dark); p < least {
					least, want = p, k
				}
			}
			if got.Mask != want {
				t.Errorf("version %d: mask %d is taken, %d has the least penalty", v, got.Mask, want)
			}
		}
	}
}

// TestCorrectable holds what each block can correct against table 9 of ISO/IEC 18004, which gives a block as (c, k, r):
// codewords in all, for data, and correctable; in versions 1 to 3 fewer than half, lest damage be turned into another
// payload.
func TestCorrectable(t *testing.T) {
	for _, c := range []struct {
		v             int
		l             symbol.Level
		count, c, k   int // of the short blocks
		long, correct int
	}{
		{1, symbol.L, 1, 26, 19, 0, 2}, {1, symbol.M, 1, 26, 16, 0, 4}, {1, symbol.Q, 1, 26, 13, 0, 6},
		{1, symbol.H, 1, 26, 9, 0, 8},
		{2, symbol.L, 1, 44, 34, 0, 4}, {2, symbol.M, 1, 44, 28, 0, 8}, {2, symbol.Q, 1, 44, 22, 0, 11},
		{2, symbol.H, 1, 44, 16, 0, 14},
		{3, symbol.L, 1, 70, 55, 0, 7}, {3, symbol.M, 1, 70, 44, 0, 13}, {3, symbol.Q, 2, 35, 17, 0, 9},
		{3, symbol.H, 2, 35, 13, 0, 11},
		{4, symbol.L, 1, 100, 80, 0, 10}, {4, symbol.M, 2, 50, 32, 0, 9}, {4, symbol.Q, 2, 50, 24, 0, 13},
		{4, symbol.H, 4, 25, 9, 0, 8},
		{5, symbol.L, 1, 134, 108, 0, 13}, {5, symbol.M, 2, 67, 43, 0, 12}, {5, symbol.Q, 4, 33, 15, 2, 9},
		{5, symbol.H, 4, 33, 11, 2, 11},
		{40, symbol.L, 25, 148, 118, 6, 15}, {40, symbol.M, 49, 75, 47, 31, 14}, {40, symbol.Q, 68, 54, 24, 34, 15},
		{40, symbol.H, 81, 45, 15, 61, 15},
	} {
		t.Run(fmt.Sprint(c.v), func(t *testing.T) {
			b := symbol.BlocksOf(c.v, c.l)
			if b.Count != c.count || b.Short != c.k || b.Short+b.EC != c.c || b.Long != c.long || b.Correct != c.correct {
				t.Errorf("%d-%v: %+v, want %d blocks (%d, %d, %d), of which %d have one codeword more", c.v, c.l, b, c.count, c.c,
					c.k, c.correct, c.long)
			}
		})
	}
}
