package symbol

import "sync/atomic"

// maxWords is the largest number of 64-bit words in a symbol: 177 rows of three.
const maxWords = 177 * 3

// plan is all that depends on the version alone. Rows are bits in words: module x of row y is bit x&63 of word
// y*stride + x>>6, so that a run along a row is a run of bits, and a column is a row of the transposed symbol.
type plan struct {
	version, size, stride int
	base                  []uint64 // function patterns, without format information
	at                    []uint16 // bit address of each codeword bit, in the order of placement (clause 7.7.3)
	roles                 []Role   // by y*size+x; data for the whole encoding region
	overlays              [5]atomic.Pointer[overlay]
}

var plans [41]atomic.Pointer[plan]

func planOf(v int) *plan {
	if p := plans[v].Load(); p != nil {
		return p
	}
	p := newPlan(v)
	plans[v].Store(p)
	return p
}

func (p *plan) address(x, y int) int { return (y*p.stride+x>>6)<<6 | x&63 }

func newPlan(v int) *plan {
	n := SizeOf(v)
	p := &plan{version: v, size: n, stride: (n + 63) / 64, roles: make([]Role, n*n)}
	p.base = make([]uint64, n*p.stride)
	p.patterns()
	p.walk()
	return p
}

// set gives a module its role and colour; what lies beyond the symbol is left out.
func (p *plan) set(x, y int, r Role, dark bool) {
	n := p.size
	if x < 0 || y < 0 || x >= n || y >= n {
		return
	}
	p.roles[y*n+x] = r
	if a := p.address(x, y); dark {
		p.base[a>>6] |= 1 << (a & 63)
	} else {
		p.base[a>>6] &^= 1 << (a & 63)
	}
}

// patterns lays out the function patterns, format and version information (ISO/IEC 18004:2015, 6.3, 7.9, 7.10).
func (p *plan) patterns() {
	n, v := p.size, p.version
	for i := range n {
		p.set(i, 6, RoleTiming, i%2 == 0)
		p.set(6, i, RoleTiming, i%2 == 0)
	}
	for _, c := range [][2]int{{3, 3}, {n - 4, 3}, {3, n - 4}} {
		for dy := -4; dy <= 4; dy++ {
			for dx := -4; dx <= 4; dx++ {
				switch d := max(abs(dx), abs(dy)); {
				case d == 4:
					p.set(c[0]+dx, c[1]+dy, RoleSeparator, false)
				default:
					p.set(c[0]+dx, c[1]+dy, RoleFinder, d != 2)
				}
			}
		}
	}
	centres := alignment(v)
	last := len(centres) - 1
	for i, y := range centres {
		for j, x := range centres {
			if i == 0 && j == 0 || i == 0 && j == last || i == last && j == 0 {
				continue
			}
			for dy := -2; dy <= 2; dy++ {
				for dx := -2; dx <= 2; dx++ {
					p.set(x+dx, y+dy, RoleAlignment, max(abs(dx), abs(dy)) != 1)
				}
			}
		}
	}
	for i := range 15 {
		a, b := formatPlaces(n, i)
		p.set(a[0], a[1], RoleFormat, false)
		p.set(b[0], b[1], RoleFormat, false)
	}
	p.set(8, n-8, RoleDark, true)
	if v >= 7 {
		bits := versionInfo(v)
		for i := range 18 {
			dark := bits>>i&1 == 1
			p.set(n-11+i%3, i/3, RoleVersion, dark)
			p.set(i/3, n-11+i%3, RoleVersion, dark)
		}
	}
}

// walk lays the codewords in columns of two, from the right, upwards and downwards in turn (ISO/IEC 18004:2015, 7.7.3).
func (p *plan) walk() {
	n := p.size
	p.at = make([]uint16, 0, totalCodewords(p.version)*8)
	for right := n - 1; right >= 1; right -= 2 {
		if right == 6 { // the vertical timing pattern takes a whole column
			right = 5
		}
		for i := range n {
			y := i
			if (right+1)&2 == 0 {
				y = n - 1 - i
			}
			for x := right; x >= right-1; x-- {
				switch {
				case p.roles[y*n+x].Function():
				case len(p.at) < cap(p.at):
					p.at = append(p.at, uint16(p.address(x, y)))
				default:
					p.roles[y*n+x] = RoleRemainder
				}
			}
		}
	}
}

// formatPlaces gives the two places of bit i of the format information, i = 0 the least significant (figure 25).
func formatPlaces(n, i int) (first, second [2]int) {
	switch {
	case i < 6:
		first = [2]int{8, i}
	case i == 6:
		first = [2]int{8, 7}
	case i == 7:
		first = [2]int{8, 8}
	case i == 8:
		first = [2]int{7, 8}
	default:
		first = [2]int{14 - i, 8}
	}
	if i < 8 {
		return first, [2]int{n - 1 - i, 8}
	}
	return first, [2]int{8, n - 15 + i}
}

func abs(x int) int {
	if x < 0 {
		return -x
	}
	return x
}

// transpose writes into dst the n by n bit matrix src with rows and columns exchanged, 64 by 64 bits at a time (the
// recursive exchange of halves, quarters and so on).
func transpose(dst, src []uint64, n, stride int) {
	var t [64]uint64
	for by := 0; by < n; by += 64 {
		rows := min(64, n-by)
		for bx := range stride {
			for i := range rows {
				t[i] = src[(by+i)*stride+bx]
			}
			for i := rows; i < 64; i++ {
				t[i] = 0
			}
			mask := uint64(0x00000000FFFFFFFF)
			for half := 32; half > 0; half, mask = half>>1, mask^mask<<(half>>1) {
				for i := 0; i < 64; i = (i + half + 1) &^ half {
					x := (t[i]>>half ^ t[i+half]) & mask
					t[i] ^= x << half
					t[i+half] ^= x
				}
			}
			for i := range min(64, n-bx*64) {
				dst[(bx*64+i)*stride+by>>6] = t[i]
			}
		}
	}
}
