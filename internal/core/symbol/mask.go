package symbol

import "math/bits"

// maskBit is the data mask condition k (table 10): true where the module is reversed. x is the column j, y the row i.
func maskBit(k, x, y int) bool {
	switch k {
	case 0:
		return (y+x)%2 == 0
	case 1:
		return y%2 == 0
	case 2:
		return x%3 == 0
	case 3:
		return (y+x)%3 == 0
	case 4:
		return (y/2+x/3)%2 == 0
	case 5:
		return y*x%2+y*x%3 == 0
	case 6:
		return (y*x%2+y*x%3)%2 == 0
	default:
		return ((y+x)%2+y*x%3)%2 == 0
	}
}

// MaskBit says whether data mask pattern k (0 to 7) reverses the module in column x, row y (table 10).
func MaskBit(k, x, y int) bool { return maskBit(k, x, y) }

// Weights of the features in the penalty score (clause 7.8.3.1, table 11); that of runs is part of runPoints.
const (
	weightBlocks = 3
	weightFinder = 40
	weightShare  = 10
)

// overlay is what turns unmasked data into a finished symbol: pattern k over the encoding region and the format
// information of its level, which stands where the data has zeros. One exclusive or does both.
type overlay struct{ rows, columns [8][]uint64 }

// overlay gives the overlays of a level, made when first used.
func (p *plan) overlay(l Level) *overlay {
	if o := p.overlays[l].Load(); o != nil {
		return o
	}
	o, n := new(overlay), p.size
	for k := range 8 {
		rows, columns := make([]uint64, n*p.stride), make([]uint64, n*p.stride)
		for y := range n {
			for x := range n {
				if !p.roles[y*n+x].Function() && maskBit(k, x, y) {
					a := p.address(x, y)
					rows[a>>6] |= 1 << (a & 63)
				}
			}
		}
		info := formatInfo(l, k)
		for i := range 15 {
			first, second := formatPlaces(n, i)
			for _, at := range [2][2]int{first, second} {
				a := p.address(at[0], at[1])
				rows[a>>6] |= uint64(info>>i&1) << (a & 63)
			}
		}
		transpose(columns, rows, n, p.stride)
		o.rows[k], o.columns[k] = rows, columns
	}
	p.overlays[l].Store(o)
	return o
}

// penalty scores a masked symbol, given with its transpose, by the four features of clause 7.8.3.1. It stops early, with
// some value above limit, once the score exceeds limit. Features, and how the open points of the text are read here:
//
//   - runs of five or more modules of one colour in a row or column: 3, and 1 for each further module;
//   - 2 by 2 blocks of one colour, overlapping: 3 each;
//   - 1:1:3:1:1 with four light modules before or after, the quiet zone counting as light: 40 each, once a pattern;
//   - share of dark modules: 10 for each full step of 5 % away from half.
//
// The masked symbol is data ^ mask, its transpose dataT ^ maskT.
func (p *plan) penalty(data, mask, dataT, maskT []uint64, limit int) int {
	var t tally
	if p.stride == 1 {
		t.narrow(data, mask, dataT, maskT, p.size, limit)
	} else {
		t.wide(p, data, mask, dataT, maskT, limit)
	}
	total := p.size * p.size
	return t.score() + abs(t.dark*20-total*10)/total*weightShare
}

// tally counts the features of one masked symbol; runs is already in points.
type tally struct{ runs, blocks, finders, dark int }

func (t *tally) score() int { return t.runs + t.blocks*weightBlocks + t.finders*weightFinder }

// finderStarts marks where the seven modules dark, light, three dark, light, dark begin. next is the word after r.
func finderStarts(r, next uint64) uint64 {
	return r & (r>>2 | next<<62) & (r>>3 | next<<61) & (r>>4 | next<<60) & (r>>6 | next<<58) &^ (r>>1 |
		next<<63) &^ (r>>5 | next<<59)
}

// runPoints scores the runs of one word of equal pairs. A run of k ≥ 4 pairs leaves k − 3 bits in long; its penalty k − 1
// is those bits and two more a run. carry says whether the word before ended within a long run.
func runPoints(long, carry uint64) int {
	return bits.OnesCount64(long) + 2*bits.OnesCount64(long&^(long<<1|carry))
}

// narrow counts a symbol whose rows fit one word: versions 1 to 11.
func (t *tally) narrow(data, mask, dataT, maskT []uint64, n, limit int) {
	pairs := uint64(1)<<(n-1) - 1
	data, mask, dataT, maskT = data[:n], mask[:n], dataT[:n], maskT[:n]
	var runs, blocks, finders, dark int
	var prev, prevSame uint64
	for y, w := range data {
		w ^= mask[y]
		same := ^(w ^ w>>1) & pairs
		long := same & (same >> 1)
		if long &= long >> 2; long != 0 {
			runs += runPoints(long, 0)
		}
		if f := finderStarts(w, 0); f != 0 {
			finders += bits.OnesCount64(f &^ ((w>>7 | w>>8 | w>>9 | w>>10) & (w<<1 | w<<2 | w<<3 | w<<4)))
		}
		blocks += bits.OnesCount64(same & prevSame &^ (w ^ prev))
		dark += bits.OnesCount64(w)
		prev, prevSame = w, same
	}
	*t = tally{runs, blocks, finders, dark}
	if t.score() > limit {
		return
	}
	for x, w := range dataT {
		w ^= maskT[x]
		same := ^(w ^ w>>1) & pairs
		long := same & (same >> 1)
		if long &= long >> 2; long != 0 {
			runs += runPoints(long, 0)
		}
		if f := finderStarts(w, 0); f != 0 {
			finders += bits.OnesCount64(f &^ ((w>>7 | w>>8 | w>>9 | w>>10) & (w<<1 | w<<2 | w<<3 | w<<4)))
		}
	}
	t.runs, t.finders = runs, finders
}

// wideLine is one row or column of up to three words, with an empty word after it.
type wideLine [4]uint64

// line counts runs and finder-like patterns of a row or column of stride words, and marks its equal pairs in same. last
// masks the pairs that start in the last word.
func (t *tally) line(a, same *wideLine, stride int, last uint64) {
	for i := range stride {
		same[i] = ^(a[i] ^ (a[i]>>1 | a[(i+1)&3]<<63))
	}
	same[stride-1] &= last
	var carry, before uint64
	for i := range stride {
		s, u := same[i], same[(i+1)&3]
		long := s & (s>>1 | u<<63) & (s>>2 | u<<62) & (s>>3 | u<<61)
		if long != 0 {
			t.runs += runPoints(long, carry)
		}
		carry = long >> 63
		w, next := a[i], a[(i+1)&3]
		if f := finderStarts(w, next); f != 0 {
			after := w>>7 | w>>8 | w>>9 | w>>10 | next<<57 | next<<56 | next<<55 | next<<54
			ahead := w<<1 | w<<2 | w<<3 | w<<4 | before>>63 | before>>62 | before>>61 | before>>60
			t.finders += bits.OnesCount64(f &^ (after & ahead))
		}
		before = w
	}
}

// wide counts a symbol whose rows take two or three words: versions 12 to 40.
func (t *tally) wide(p *plan, data, mask, dataT, maskT []uint64, limit int) {
	n, stride := p.size, p.stride
	last := uint64(1)<<((n-1)&63) - 1
	var row, prev, same, was wideLine
	for y := range n {
		for i := range stride {
			row[i] = data[y*stride+i] ^ mask[y*stride+i]
			t.dark += bits.OnesCount64(row[i])
		}
		t.line(&row, &same, stride, last)
		for i := range stride {
			t.blocks += bits.OnesCount64(same[i] & was[i] &^ (row[i] ^ prev[i]))
		}
		was, prev = same, row
		if y&31 == 31 && t.score() > limit {
			return
		}
	}
	for x := range n {
		for i := range stride {
			row[i] = dataT[x*stride+i] ^ maskT[x*stride+i]
		}
		t.line(&row, &same, stride, last)
		if x&31 == 31 && t.score() > limit {
			return
		}
	}
}
