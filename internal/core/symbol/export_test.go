package symbol

import "math"

// PenaltyOf is the penalty by which masks are chosen, of any square of modules as large as a version.
func PenaltyOf(v int, dark func(x, y int) bool) int {
	p := planOf(v)
	rows, columns := make([]uint64, p.size*p.stride), make([]uint64, p.size*p.stride)
	for y := range p.size {
		for x := range p.size {
			if dark(x, y) {
				a, b := p.address(x, y), p.address(y, x)
				rows[a>>6] |= 1 << (a & 63)
				columns[b>>6] |= 1 << (b & 63)
			}
		}
	}
	none := make([]uint64, p.size*p.stride)
	return p.penalty(rows, none, columns, none, math.MaxInt)
}
