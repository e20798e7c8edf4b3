package symbol

import "golang.org/x/text/encoding/japanese"

// Mode is how a segment's characters become bits (clause 7.4).
type Mode uint8

const (
	ModeNumeric      Mode = iota // 10 bits for three digits
	ModeAlphanumeric             // 11 bits for two of 45 characters
	ModeByte                     // 8 bits a byte
	ModeKanji                    // 13 bits a character of Shift JIS
	ModeECI                      // says how following bytes are to be read; no characters of its own
	ModeFNC1                     // FNC1 in first position; no characters of its own
)

func (m Mode) String() string {
	return [...]string{"numeric", "alphanumeric", "byte", "kanji", "eci", "fnc1"}[m]
}

// indicator is the four-bit mode indicator (table 2).
func (m Mode) indicator() uint64 { return [...]uint64{1, 2, 4, 8, 7, 5}[m] }

// group is 0 for versions 1–9, 1 for 10–26, 2 for 27–40: the ranges with one width of character count (table 3).
func group(v int) int {
	switch {
	case v < 10:
		return 0
	case v < 27:
		return 1
	}
	return 2
}

var groupFirst, groupLast = [3]int{1, 10, 27}, [3]int{9, 26, 40}

// countBits is the width of the character count indicator (table 3).
var countBits = [4][3]int{{10, 12, 14}, {9, 11, 13}, {8, 16, 16}, {8, 10, 12}}

// alphanumericSet is table 5, in the order of the values.
const alphanumericSet = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ $%*+-./:"

// alphaValue is the value in alphanumeric mode, or 255.
var alphaValue = func() (t [256]uint8) {
	for i := range t {
		t[i] = 255
	}
	for i := range alphanumericSet {
		t[alphanumericSet[i]] = uint8(i)
	}
	return t
}()

// groupSeparator stands for FNC1 used as a separator; in alphanumeric mode it is written as % (clause 7.4.8.2).
const groupSeparator = 0x1D

// kanjiValue is the 13-bit value of a character in kanji mode (clause 7.4.6), if it has one.
func kanjiValue(r rune) (uint64, bool) {
	if r < 0x80 {
		return 0, false
	}
	b, err := japanese.ShiftJIS.NewEncoder().Bytes([]byte(string(r)))
	if err != nil || len(b) != 2 {
		return 0, false
	}
	c := uint64(b[0])<<8 | uint64(b[1])
	switch {
	case c >= 0x8140 && c <= 0x9FFC:
		c -= 0x8140
	case c >= 0xE040 && c <= 0xEBBF:
		c -= 0xC140
	default:
		return 0, false
	}
	return c>>8*0xC0 + c&0xFF, true
}
