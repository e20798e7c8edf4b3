package inspect

import "math"

// equations are n of them in n unknowns, all nought; the last column is what they come to.
func equations(n int) [][]float64 {
	m := make([][]float64, n)
	for i := range m {
		m[i] = make([]float64, n+1)
	}
	return m
}

// solve is the answer to as many equations as there are unknowns, by Gauss's elimination, which it spends; ok is false where
// there is none.
func solve(m [][]float64) (out []float64, ok bool) {
	n := len(m)
	for c := range n {
		best := c
		for r := c; r < n; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[best][c]) {
				best = r
			}
		}
		if math.Abs(m[best][c]) < 1e-9 {
			return nil, false
		}
		m[c], m[best] = m[best], m[c]
		for r := range n {
			if r == c {
				continue
			}
			k := m[r][c] / m[c][c]
			for j := c; j <= n; j++ {
				m[r][j] -= k * m[c][j]
			}
		}
	}
	out = make([]float64, n)
	for i := range out {
		out[i] = m[i][n] / m[i][i]
	}
	return out, true
}
