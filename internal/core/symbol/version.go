package symbol

// MinVersion and MaxVersion bound a QR Code symbol; a side of version v has 17 + 4v modules (clause 5.3.1).
const (
	MinVersion = 1
	MaxVersion = 40
)

// SizeOf is the number of modules along one side of version v, without quiet zone.
func SizeOf(v int) int { return 17 + 4*v }

// ecPerBlock and blockCount are columns of table 9: error correction codewords a block, and blocks, by level and version.
var ecPerBlock = [5][41]uint8{
	L: {0, 7, 10, 15, 20, 26, 18, 20, 24, 30, 18, 20, 24, 26, 30, 22, 24, 28, 30, 28, 28, 28, 28, 30, 30, 26, 28, 30, 30, 30, 30,
		30, 30, 30, 30, 30, 30, 30, 30, 30, 30},
	M: {0, 10, 16, 26, 18, 24, 16, 18, 22, 22, 26, 30, 22, 22, 24, 24, 28, 28, 26, 26, 26, 26, 28, 28, 28, 28, 28, 28, 28, 28, 28,
		28, 28, 28, 28, 28, 28, 28, 28, 28, 28},
	Q: {0, 13, 22, 18, 26, 18, 24, 18, 22, 20, 24, 28, 26, 24, 20, 30, 24, 28, 28, 26, 30, 28, 30, 30, 30, 30, 28, 30, 30, 30, 30,
		30, 30, 30, 30, 30, 30, 30, 30, 30, 30},
	H: {0, 17, 28, 22, 16, 22, 28, 26, 26, 24, 28, 24, 28, 22, 24, 24, 30, 28, 28, 26, 28, 30, 24, 30, 30, 30, 30, 30, 30, 30, 30,
		30, 30, 30, 30, 30, 30, 30, 30, 30, 30},
}

var blockCount = [5][41]uint8{
	L: {0, 1, 1, 1, 1, 1, 2, 2, 2, 2, 4, 4, 4, 4, 4, 6, 6, 6, 6, 7, 8, 8, 9, 9, 10, 12, 12, 12, 13, 14, 15, 16, 17, 18, 19, 19,
		20, 21, 22, 24, 25},
	M: {0, 1, 1, 1, 2, 2, 4, 4, 4, 5, 5, 5, 8, 9, 9, 10, 10, 11, 13, 14, 16, 17, 17, 18, 20, 21, 23, 25, 26, 28, 29, 31, 33, 35,
		37, 38, 40, 43, 45, 47, 49},
	Q: {0, 1, 1, 2, 2, 4, 4, 6, 6, 8, 8, 8, 10, 12, 16, 12, 17, 16, 18, 21, 20, 23, 23, 25, 27, 29, 34, 34, 35, 38, 40, 43, 45,
		48, 51, 53, 56, 59, 62, 65, 68},
	H: {0, 1, 1, 2, 4, 4, 4, 5, 6, 8, 8, 11, 11, 16, 16, 18, 16, 19, 21, 25, 25, 25, 34, 30, 32, 35, 37, 40, 42, 45, 48, 51, 54,
		57, 60, 63, 66, 70, 74, 77, 81},
}

// totalCodewords is the number of codewords of version v, data and error correction together (table 1).
func totalCodewords(v int) int {
	bits := (16*v+128)*v + 64
	if v >= 2 {
		align := v/7 + 2
		bits -= (25*align-10)*align - 55
		if v >= 7 {
			bits -= 36
		}
	}
	return bits / 8
}

// Blocks says how the codewords of a version and level are divided (table 9).
type Blocks struct {
	Count   int // blocks
	EC      int // error correction codewords in each
	Short   int // data codewords of a short block; the last Long blocks have one more
	Long    int // how many blocks are long
	Correct int // codewords that can be corrected in each block: floor((EC − p) / 2), p the misdecode protection
}

// BlocksOf gives the division for version v (1 to 40) and level l (L to H).
func BlocksOf(v int, l Level) Blocks {
	n, ec := int(blockCount[l][v]), int(ecPerBlock[l][v])
	data := totalCodewords(v) - n*ec
	return Blocks{Count: n, EC: ec, Short: data / n, Long: data % n, Correct: (ec - misdecodeProtection(v, l)) / 2}
}

// misdecodeProtection is p of clause 7.5.1: codewords kept back from correction in small symbols, so that damage is
// noticed rather than turned into another payload.
func misdecodeProtection(v int, l Level) int {
	switch {
	case v == 1 && l == L:
		return 3
	case v == 1 && l == M, v == 2 && l == L:
		return 2
	case v == 1, v == 3 && l == L:
		return 1
	}
	return 0
}

// capacity[l][v] is the number of data codewords, filled once.
var capacity = func() (c [5][41]int) {
	for l := L; l <= H; l++ {
		for v := MinVersion; v <= MaxVersion; v++ {
			c[l][v] = totalCodewords(v) - int(blockCount[l][v])*int(ecPerBlock[l][v])
		}
	}
	return c
}()

// DataCodewords is how many data codewords version v holds at level l.
func DataCodewords(v int, l Level) int { return capacity[l][v] }

// Alignments gives the centre of each alignment pattern, column and row (annex E).
func Alignments(v int) (out [][2]int) {
	centres := alignment(v)
	last := len(centres) - 1
	for i, y := range centres {
		for j, x := range centres {
			if !(i == 0 && j == 0 || i == 0 && j == last || i == last && j == 0) {
				out = append(out, [2]int{x, y})
			}
		}
	}
	return out
}

// alignment gives the centre coordinates of the alignment patterns along one axis (annex E).
func alignment(v int) []int {
	if v == 1 {
		return nil
	}
	n := v/7 + 2
	step := (v*4 + n*2 + 1) / (n*2 - 2) * 2
	if v == 32 {
		step = 26
	}
	at := make([]int, n)
	at[0] = 6
	for i, pos := n-1, SizeOf(v)-7; i > 0; i, pos = i-1, pos-step {
		at[i] = pos
	}
	return at
}
