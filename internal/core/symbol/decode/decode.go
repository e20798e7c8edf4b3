// Package decode reads the matrix of a QR Code symbol (ISO/IEC 18004:2015, clause 11): format and version information,
// unmasking, error correction with the standard's misdecode protection, segments. It shares no code path with the encoder
// beyond the tables of the standard, and it says how many codewords it had to correct, which other readers do not.
//
// It does not find a symbol in a picture: a detector hands it a sampled matrix.
package decode

import (
	"errors"
	"fmt"
	"math/bits"

	"sodrik/internal/core/symbol"
)

// Result is what a matrix says.
type Result struct {
	Version   int
	Level     symbol.Level
	Mask      int
	Segments  []symbol.Segment
	Payload   string
	Corrected int   // codewords corrected in all blocks
	ByBlock   []int // and in each
	Mirrored  bool  // the matrix was read with rows and columns exchanged
}

// Errors that Matrix returns, possibly wrapped.
var (
	ErrSize    = errors.New("decode: the matrix is not the size of any version")
	ErrFormat  = errors.New("decode: the format information cannot be corrected")
	ErrVersion = errors.New("decode: the version information does not fit the size")
	ErrDamage  = errors.New("decode: a block has more damaged codewords than can be corrected")
	ErrStream  = errors.New("decode: the bit stream is not a valid sequence of segments")
)

// Matrix reads a symbol of size by size modules, 21 to 177, without quiet zone; dark tells the colour of the module in
// column x and row y. A mirrored symbol is tried second.
func Matrix(size int, dark func(x, y int) bool) (*Result, error) {
	r, err := matrix(size, dark)
	if err == nil || errors.Is(err, ErrSize) {
		return r, err
	}
	if m, again := matrix(size, func(x, y int) bool { return dark(y, x) }); again == nil {
		m.Mirrored = true
		return m, nil
	}
	return nil, err
}

func matrix(size int, dark func(x, y int) bool) (*Result, error) {
	v := (size - 17) / 4
	if size < 21 || size > 177 || size != symbol.SizeOf(v) {
		return nil, fmt.Errorf("%w: %d", ErrSize, size)
	}
	r := &Result{Version: v}
	if err := r.format(size, dark); err != nil {
		return nil, err
	}
	if v >= 7 && !versionMatches(v, size, dark) {
		return nil, ErrVersion
	}
	data, err := r.codewords(size, dark)
	if err != nil {
		return nil, err
	}
	if err := r.segments(data); err != nil {
		return nil, err
	}
	return r, nil
}

// format reads both copies of the format information and takes the nearest of the 32 words, up to three bits away.
func (r *Result) format(n int, dark func(x, y int) bool) error {
	var first, second uint
	bit := func(x, y int) uint {
		if dark(x, y) {
			return 1
		}
		return 0
	}
	for i := range 15 { // i counts from the least significant bit
		switch {
		case i < 6:
			first |= bit(8, i) << i
		case i < 8:
			first |= bit(8, i+1) << i
		case i == 8:
			first |= bit(7, 8) << i
		default:
			first |= bit(14-i, 8) << i
		}
		if i < 8 {
			second |= bit(n-1-i, 8) << i
		} else {
			second |= bit(8, n-15+i) << i
		}
	}
	best := 4
	for word := range uint(32) {
		level, mask := symbol.LevelOfIndicator(word>>3), int(word&7)
		want := symbol.FormatInfo(level, mask)
		for _, got := range [2]uint{first, second} {
			if d := bits.OnesCount(want ^ got); d < best {
				best, r.Level, r.Mask = d, level, mask
			}
		}
	}
	if best > 3 {
		return ErrFormat
	}
	return nil
}

// versionMatches says whether one of the copies of the version information lies within three bits of v's.
func versionMatches(v, n int, dark func(x, y int) bool) bool {
	var a, b uint
	for i := range 18 {
		if dark(n-11+i%3, i/3) {
			a |= 1 << i
		}
		if dark(i/3, n-11+i%3) {
			b |= 1 << i
		}
	}
	want := symbol.VersionInfo(v)
	return min(bits.OnesCount(a^want), bits.OnesCount(b^want)) <= 3
}

// functionModule says whether a module carries no codeword (clause 5.3), worked out from the geometry.
func functionModule(v, x, y int, centres []int) bool {
	n := symbol.SizeOf(v)
	switch {
	case x == 6 || y == 6, x < 9 && y < 9, x >= n-8 && y < 9, x < 9 && y >= n-8:
		return true
	case v >= 7 && (x >= n-11 && y < 6 || y >= n-11 && x < 6):
		return true
	}
	near := func(c int) (int, bool) {
		for _, a := range centres {
			if c >= a-2 && c <= a+2 {
				return a, true
			}
		}
		return 0, false
	}
	ax, okX := near(x)
	ay, okY := near(y)
	corner := ax == 6 && ay == 6 || ax == 6 && ay == n-7 || ax == n-7 && ay == 6
	return okX && okY && !corner
}

// alignmentCentres is annex E, table E.1, as first centre, last centre and even steps from the far end.
func alignmentCentres(v int) []int {
	if v == 1 {
		return nil
	}
	count, last := v/7+2, symbol.SizeOf(v)-7
	step := (last - 6 + count - 2) / (count - 1) // rounded up,
	step += step & 1                             // then to even
	if v == 32 {
		step = 26
	}
	centres := []int{6}
	for i := count - 2; i >= 0; i-- {
		centres = append(centres, last-i*step)
	}
	return centres
}

// codewords unmasks, undoes the interleaving and corrects each block; it returns the data codewords in order.
func (r *Result) codewords(n int, dark func(x, y int) bool) ([]byte, error) {
	var stream []byte
	var acc, count int
	upward, centres := true, alignmentCentres(r.Version)
	for right := n - 1; right > 0; right -= 2 {
		if right == 6 {
			right--
		}
		for i := range n {
			y := i
			if upward {
				y = n - 1 - i
			}
			for _, x := range [2]int{right, right - 1} {
				if functionModule(r.Version, x, y, centres) {
					continue
				}
				acc <<= 1
				if dark(x, y) != symbol.MaskBit(r.Mask, x, y) {
					acc |= 1
				}
				if count++; count == 8 {
					stream = append(stream, byte(acc))
					acc, count = 0, 0
				}
			}
		}
		upward = !upward
	}
	b := symbol.BlocksOf(r.Version, r.Level)
	blocks := make([][]byte, b.Count)
	i := 0
	take := func(k int) {
		blocks[k] = append(blocks[k], stream[i])
		i++
	}
	for range b.Short {
		for k := range blocks {
			take(k)
		}
	}
	for k := b.Count - b.Long; k < b.Count; k++ {
		take(k)
	}
	for range b.EC {
		for k := range blocks {
			take(k)
		}
	}
	var data []byte
	for k, block := range blocks {
		fixed, ok := correct(block, b.EC)
		if !ok || fixed > b.Correct {
			return nil, fmt.Errorf("%w: block %d of %d", ErrDamage, k+1, b.Count)
		}
		r.Corrected += fixed
		r.ByBlock = append(r.ByBlock, fixed)
		data = append(data, block[:len(block)-b.EC]...)
	}
	return data, nil
}
