package symbol

// Level is an error correction level (clause 7.5.1). The zero value, LevelAuto, starts from M.
type Level uint8

const (
	LevelAuto Level = iota
	L               // about 7 % of codewords
	M               // about 15 %
	Q               // about 25 %
	H               // about 30 %
)

func (l Level) String() string {
	if l > H {
		return "?"
	}
	return [...]string{"auto", "L", "M", "Q", "H"}[l]
}

// ParseLevel reads "L", "M", "Q", "H" or "auto".
func ParseLevel(s string) (Level, bool) {
	for l := LevelAuto; l <= H; l++ {
		if l.String() == s {
			return l, true
		}
	}
	return LevelAuto, false
}

// indicator is the two-bit value in the format information (table 12).
func (l Level) indicator() uint { return [...]uint{0, 1, 0, 3, 2}[l] }

// LevelOfIndicator is the level for the two-bit value of the format information (table 12).
func LevelOfIndicator(bits uint) Level { return [...]Level{M, L, H, Q}[bits&3] }
