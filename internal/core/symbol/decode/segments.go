package decode

import (
	"fmt"
	"strings"

	"golang.org/x/text/encoding/japanese"

	"sodrik/internal/core/symbol"
)

// reader takes bits from codewords, most significant first; it is sticky once it has run dry.
type reader struct {
	data []byte
	at   int
	dry  bool
}

func (r *reader) left() int { return len(r.data)*8 - r.at }

func (r *reader) take(n int) int {
	if n > r.left() {
		r.dry, r.at = true, len(r.data)*8
		return 0
	}
	v := 0
	for range n {
		v = v<<1 | int(r.data[r.at>>3]>>(7-r.at&7)&1)
		r.at++
	}
	return v
}

const alphanumeric = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ $%*+-./:"

// segments reads the bit stream (clause 7.4) and puts the payload together. Bytes are kept as they are: an ECI is
// reported, and only where it is 26, or none and the bytes are ASCII, is the payload known to be UTF-8.
func (r *Result) segments(data []byte) error {
	width := func(small, middle, large int) int {
		switch {
		case r.Version < 10:
			return small
		case r.Version < 27:
			return middle
		}
		return large
	}
	in := &reader{data: data}
	var payload strings.Builder
	fnc1 := false
	for in.left() >= 4 {
		s := symbol.Segment{}
		mode := in.take(4)
		switch mode {
		case 0:
			r.Payload = payload.String()
			return nil
		case 1:
			s.Mode, s.Text = symbol.ModeNumeric, numeric(in, in.take(width(10, 12, 14)))
		case 2:
			s.Mode = symbol.ModeAlphanumeric
			s.Text = letters(in, in.take(width(9, 11, 13)))
			if fnc1 { // clause 7.4.8.2: a lone % is the separator, a doubled one itself
				s.Text = strings.ReplaceAll(s.Text, "%%", "\x00")
				s.Text = strings.ReplaceAll(s.Text, "%", "\x1d")
				s.Text = strings.ReplaceAll(s.Text, "\x00", "%")
			}
		case 4:
			n := in.take(width(8, 16, 16))
			b := make([]byte, 0, min(n, len(data)))
			for range n {
				b = append(b, byte(in.take(8)))
				if in.dry {
					break
				}
			}
			s.Mode, s.Text = symbol.ModeByte, string(b)
		case 8:
			s.Mode = symbol.ModeKanji
			text, err := kanji(in, in.take(width(8, 10, 12)))
			if err != nil {
				return err
			}
			s.Text = text
		case 7:
			s.Mode = symbol.ModeECI
			switch lead := in.take(8); {
			case lead < 0x80:
				s.ECI = lead
			case lead < 0xC0:
				s.ECI = lead&0x3F<<8 | in.take(8)
			case lead < 0xE0:
				s.ECI = lead&0x1F<<16 | in.take(16)
			default:
				return fmt.Errorf("%w: no such ECI designator", ErrStream)
			}
		case 5:
			s.Mode, fnc1 = symbol.ModeFNC1, true
		default:
			return fmt.Errorf("%w: mode %04b is not read here", ErrStream, mode)
		}
		if in.dry {
			return fmt.Errorf("%w: it ends within a segment", ErrStream)
		}
		r.Segments = append(r.Segments, s)
		payload.WriteString(s.Text)
	}
	r.Payload = payload.String()
	return nil
}

func numeric(in *reader, n int) string {
	var b strings.Builder
	for ; n > 0 && !in.dry; n -= 3 {
		digits := min(n, 3)
		fmt.Fprintf(&b, "%0*d", digits, in.take([]int{0, 4, 7, 10}[digits]))
	}
	return b.String()
}

func letters(in *reader, n int) string {
	var b strings.Builder
	for ; n > 1 && !in.dry; n -= 2 {
		v := in.take(11)
		if v >= 45*45 {
			in.dry = true
			return ""
		}
		b.WriteByte(alphanumeric[v/45])
		b.WriteByte(alphanumeric[v%45])
	}
	if n == 1 && !in.dry {
		v := in.take(6)
		if v >= 45 {
			in.dry = true
			return ""
		}
		b.WriteByte(alphanumeric[v])
	}
	return b.String()
}

func kanji(in *reader, n int) (string, error) {
	var b []byte
	for ; n > 0 && !in.dry; n-- {
		v := in.take(13)
		c := v/0xC0<<8 | v%0xC0
		if c += 0x8140; c > 0x9FFC {
			c += 0xC140 - 0x8140
		}
		b = append(b, byte(c>>8), byte(c))
	}
	out, err := japanese.ShiftJIS.NewDecoder().Bytes(b)
	if err != nil {
		return "", fmt.Errorf("%w: not Shift JIS", ErrStream)
	}
	return string(out), nil
}
