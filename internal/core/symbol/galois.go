package symbol

import (
	"encoding/binary"
	"sync/atomic"
)

// The field GF(2^8) with the primitive polynomial x^8 + x^4 + x^3 + x^2 + 1 (clause 7.5.2).
var gfExp, gfLog = func() (exp [510]uint8, log [256]uint8) {
	x := 1
	for i := range 255 {
		exp[i], exp[i+255] = uint8(x), uint8(x)
		log[x] = uint8(i)
		if x <<= 1; x > 255 {
			x ^= 0x11D
		}
	}
	return exp, log
}()

func gfMul(a, b uint8) uint8 {
	if a == 0 || b == 0 {
		return 0
	}
	return gfExp[int(gfLog[a])+int(gfLog[b])]
}

// rsRow is up to 32 remainder bytes in words, the leading byte in the highest bits of the first.
type rsRow [4]uint64

// rsTable holds, for every value of the byte leaving the register, what it adds to the remainder.
type rsTable [256]rsRow

// rsTables are built when a degree is first used; the largest degree of the standard's blocks is 30.
var rsTables [32]atomic.Pointer[rsTable]

// generator gives the coefficients of the generator polynomial of a degree, without the leading one (annex A).
func generator(degree int) []uint8 {
	g := make([]uint8, degree)
	g[degree-1] = 1
	root := uint8(1)
	for range degree {
		for j := range g {
			g[j] = gfMul(g[j], root)
			if j+1 < degree {
				g[j] ^= g[j+1]
			}
		}
		root = gfMul(root, 2)
	}
	return g
}

func tableOf(degree int) *rsTable {
	if t := rsTables[degree].Load(); t != nil {
		return t
	}
	t, g := new(rsTable), generator(degree)
	for f := 1; f < 256; f++ {
		var b [32]byte
		for i, c := range g {
			b[i] = gfMul(c, uint8(f))
		}
		for i := range t[f] {
			t[f][i] = binary.BigEndian.Uint64(b[8*i:])
		}
	}
	rsTables[degree].Store(t)
	return t
}

// rsEncode writes the error correction codewords of data, len(ec) of them, into ec (clause 7.5.2). The register is kept in
// words and moved a byte at a time, which costs four shifts instead of thirty byte moves.
func rsEncode(data, ec []byte) {
	t := tableOf(len(ec))
	var a, b, c, d uint64
	if len(ec) <= 16 {
		for _, x := range data {
			row := &t[x^byte(a>>56)]
			a, b = (a<<8|b>>56)^row[0], b<<8^row[1]
		}
	} else {
		for _, x := range data {
			row := &t[x^byte(a>>56)]
			a, b, c, d = (a<<8|b>>56)^row[0], (b<<8|c>>56)^row[1], (c<<8|d>>56)^row[2], d<<8^row[3]
		}
	}
	var out [32]byte
	binary.BigEndian.PutUint64(out[0:], a)
	binary.BigEndian.PutUint64(out[8:], b)
	binary.BigEndian.PutUint64(out[16:], c)
	binary.BigEndian.PutUint64(out[24:], d)
	copy(ec, out[:])
}
