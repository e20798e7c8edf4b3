package symbol

import (
	"fmt"
	"unicode/utf8"
)

// Segment is a run of characters in one mode. Text of a byte segment is its bytes; of a kanji segment, UTF-8 of characters
// that Shift JIS has; of an ECI segment it is empty and ECI is the assignment number, 0 to 999999.
type Segment struct {
	Mode Mode
	Text string
	ECI  int
}

// ECIUTF8 is the assignment number of UTF-8.
const ECIUTF8 = 26

// bits is the length of the segment in version group g, header included, or an error if it cannot be written at all.
func (s Segment) bits(g int) (int, error) {
	n := len(s.Text)
	switch s.Mode {
	case ModeNumeric:
		for i := range n {
			if s.Text[i] < '0' || s.Text[i] > '9' {
				return 0, fmt.Errorf("symbol: numeric mode holds digits only, not %q", s.Text[i])
			}
		}
		return s.header(g, n, (10*n+2)/3)
	case ModeAlphanumeric:
		for i := range n {
			if alphaValue[s.Text[i]] == 255 && s.Text[i] != groupSeparator {
				return 0, fmt.Errorf("symbol: alphanumeric mode does not hold %q", s.Text[i])
			}
		}
		return s.header(g, n, (11*n+1)/2)
	case ModeByte:
		return s.header(g, n, 8*n)
	case ModeKanji:
		for _, r := range s.Text {
			if _, ok := kanjiValue(r); !ok {
				return 0, fmt.Errorf("symbol: kanji mode does not hold %q", r)
			}
		}
		n = utf8.RuneCountInString(s.Text)
		return s.header(g, n, 13*n)
	case ModeECI:
		switch {
		case s.ECI < 0 || s.ECI > 999999:
			return 0, fmt.Errorf("symbol: ECI assignment %d is not between 0 and 999999", s.ECI)
		case s.ECI < 128:
			return 12, nil
		case s.ECI < 16384:
			return 20, nil
		}
		return 28, nil
	case ModeFNC1:
		return 4, nil
	}
	return 0, fmt.Errorf("symbol: no mode %d", s.Mode)
}

func (s Segment) header(g, count, bits int) (int, error) {
	w := countBits[s.Mode][g]
	if count >= 1<<w {
		return 0, errCount
	}
	return 4 + w + bits, nil
}

var errCount = fmt.Errorf("symbol: more characters than the count field holds")

// sixths: the cost of one character in sixths of a bit, so that thirds and halves add up exactly.
const (
	numericCost = 20 // 10 bits for three
	alphaCost   = 33 // 11 bits for two
	byteCost    = 48
	kanjiCost   = 78
	never       = 1 << 29
)

// scratch holds what one encoding needs and the next may use again.
type scratch struct {
	trace         []uint8
	unit          []unit
	segs          []Segment
	stream, mixed []byte
	data, dataT   [maxWords]uint64
}

// ceil6 rounds a cost in sixths up to whole bits: a segment ends on a whole bit.
func ceil6(c int32) int32 { return int32((uint32(c) + 5) / 6 * 6) }

// segmentBytes finds the cheapest division of text into numeric, alphanumeric and byte segments for version group g, by
// dynamic programming over the characters with one state a mode. It is exact: within a mode a cost lower now stays lower,
// since rounding up at a segment's end is monotone. Segments are appended to segs; their length in bits is returned.
func (w *scratch) segmentBytes(text string, g int, fnc1 bool, segs []Segment) ([]Segment, int) {
	if cap(w.trace) < len(text) {
		w.trace = make([]uint8, len(text)+256)
	}
	trace := w.trace[:len(text)]
	headN, headA, headB := int32(4+countBits[0][g])*6, int32(4+countBits[1][g])*6, int32(4+countBits[2][g])*6
	n, a, b := int32(never), int32(never), int32(never) // cheapest cost ending in each mode
	end, from := int32(0), uint8(ModeByte)              // cheapest cost ending on a whole bit, and in which mode
	for i := range len(text) {
		ch := text[i]
		var step uint8 // two bits a mode: 0 stay, else 1 + the mode before
		cost := b
		if sw := end + headB; sw < cost {
			cost, step = sw, (from+1)<<4
		}
		b = cost + byteCost
		switch {
		case alphaValue[ch] < 10:
			cost = n
			if sw := end + headN; sw < cost {
				cost, step = sw, step|(from+1)
			}
			n = cost + numericCost
			fallthrough
		case alphaValue[ch] != 255 && !(fnc1 && ch == '%') || fnc1 && ch == groupSeparator:
			if alphaValue[ch] >= 10 {
				n = never
			}
			cost = a
			if sw := end + headA; sw < cost {
				cost, step = sw, step|(from+1)<<2
			}
			a = cost + alphaCost
		default:
			n, a = never, never
		}
		trace[i] = step
		end, from = b, uint8(ModeByte)
		if a < never {
			if e := ceil6(a); e < end {
				end, from = e, uint8(ModeAlphanumeric)
			}
			if n < never {
				if e := ceil6(n); e < end {
					end, from = e, uint8(ModeNumeric)
				}
			}
		}
	}
	first := len(segs)
	mode, stop := Mode(from), len(text)
	for i := len(text) - 1; i >= 0; i-- {
		if prev := trace[i] >> (2 * mode) & 3; prev != 0 || i == 0 {
			segs = append(segs, Segment{Mode: mode, Text: text[i:stop]})
			stop, mode = i, Mode(prev-1)
		}
	}
	for i, j := first, len(segs)-1; i < j; i, j = i+1, j-1 {
		segs[i], segs[j] = segs[j], segs[i]
	}
	return segs, int(end) / 6
}

// unit is one character for segmentation with kanji.
type unit struct {
	at, size int
	kanji    bool
}

// segmentKanji is segmentBytes with kanji as a fourth mode. Characters beyond ASCII can stand in kanji segments only, so
// that the symbol needs no ECI; ok is false where one of them is not in Shift JIS.
func (w *scratch) segmentKanji(text string, g int, segs []Segment) (_ []Segment, bits int, ok bool) {
	w.unit = w.unit[:0]
	for i, r := range text {
		_, kanji := kanjiValue(r)
		if r >= 0x80 && !kanji {
			return segs, 0, false
		}
		w.unit = append(w.unit, unit{i, utf8.RuneLen(r), kanji})
	}
	type back [4]uint8
	trace := make([]back, len(w.unit))
	cost := [4]int32{never, never, never, never}
	end, from := int32(0), uint8(ModeByte)
	for i, u := range w.unit {
		ch := text[u.at]
		price := [4]int32{never, never, byteCost, never}
		switch {
		case u.kanji:
			price = [4]int32{never, never, never, kanjiCost}
		case alphaValue[ch] < 10:
			price[ModeNumeric], price[ModeAlphanumeric] = numericCost, alphaCost
		case alphaValue[ch] != 255:
			price[ModeAlphanumeric] = alphaCost
		}
		var next [4]int32
		for m := range next {
			next[m] = never
			if price[m] == never {
				continue
			}
			next[m] = cost[m] + price[m]
			if sw := end + int32(4+countBits[m][g])*6 + price[m]; sw < next[m] {
				next[m], trace[i][m] = sw, from+1
			}
		}
		cost, end = next, never
		for m, c := range cost {
			if c < never {
				if e := ceil6(c); e < end {
					end, from = e, uint8(m)
				}
			}
		}
	}
	first, mode, stop := len(segs), Mode(from), len(text)
	for i := len(w.unit) - 1; i >= 0; i-- {
		if prev := trace[i][mode]; prev != 0 || i == 0 {
			segs = append(segs, Segment{Mode: mode, Text: text[w.unit[i].at:stop]})
			stop, mode = w.unit[i].at, Mode(prev-1)
		}
	}
	for i, j := first, len(segs)-1; i < j; i, j = i+1, j-1 {
		segs[i], segs[j] = segs[j], segs[i]
	}
	return segs, int(end) / 6, true
}
