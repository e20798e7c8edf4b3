package symbol

import "unicode/utf8"

// bitWriter gathers bits, most significant first, into bytes.
type bitWriter struct {
	out []byte
	acc uint64
	n   int
}

func (w *bitWriter) put(v uint64, bits int) {
	w.acc, w.n = w.acc<<bits|v, w.n+bits
	for w.n >= 8 {
		w.n -= 8
		w.out = append(w.out, byte(w.acc>>w.n))
	}
}

func (w *bitWriter) segment(s *Segment, g int) {
	w.put(s.Mode.indicator(), 4)
	text := s.Text
	switch s.Mode {
	case ModeNumeric:
		w.put(uint64(len(text)), countBits[ModeNumeric][g])
		for ; len(text) >= 3; text = text[3:] {
			w.put(uint64(text[0]-'0')*100+uint64(text[1]-'0')*10+uint64(text[2]-'0'), 10)
		}
		switch len(text) {
		case 2:
			w.put(uint64(text[0]-'0')*10+uint64(text[1]-'0'), 7)
		case 1:
			w.put(uint64(text[0]-'0'), 4)
		}
	case ModeAlphanumeric:
		w.put(uint64(len(text)), countBits[ModeAlphanumeric][g])
		for ; len(text) >= 2; text = text[2:] {
			w.put(uint64(alphaOf(text[0]))*45+uint64(alphaOf(text[1])), 11)
		}
		if len(text) == 1 {
			w.put(uint64(alphaOf(text[0])), 6)
		}
	case ModeByte:
		w.put(uint64(len(text)), countBits[ModeByte][g])
		acc, n := w.acc, w.n // n stays below 8, so each byte goes straight through
		for i := range len(text) {
			acc = acc<<8 | uint64(text[i])
			w.out = append(w.out, byte(acc>>n))
		}
		w.acc = acc
	case ModeKanji:
		w.put(uint64(utf8.RuneCountInString(text)), countBits[ModeKanji][g])
		for _, r := range text {
			v, _ := kanjiValue(r)
			w.put(v, 13)
		}
	case ModeECI:
		switch {
		case s.ECI < 128:
			w.put(uint64(s.ECI), 8)
		case s.ECI < 16384:
			w.put(2<<14|uint64(s.ECI), 16)
		default:
			w.put(6<<21|uint64(s.ECI), 24)
		}
	}
}

func alphaOf(c byte) uint8 {
	if c == groupSeparator {
		c = '%'
	}
	return alphaValue[c]
}

// close adds terminator, padding to a whole byte, and pad codewords up to n codewords (clauses 7.4.9 and 7.4.10).
func (w *bitWriter) close(n int) {
	if free := n*8 - len(w.out)*8 - w.n; free > 0 {
		w.put(0, min(4, free))
	}
	if w.n > 0 {
		w.put(0, 8-w.n)
	}
	for pad := byte(0xEC); len(w.out) < n; pad ^= 0xEC ^ 0x11 {
		w.out = append(w.out, pad)
	}
}
