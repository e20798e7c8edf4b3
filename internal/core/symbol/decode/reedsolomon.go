package decode

// Logarithms of GF(2^8) with x^8 + x^4 + x^3 + x^2 + 1 (clause 7.5.2).
var exps, logs = func() (e [255]int, l [256]int) {
	for i, x := 0, 1; i < 255; i++ {
		e[i], l[x] = x, i
		if x *= 2; x >= 256 {
			x ^= 0x11D
		}
	}
	return e, l
}()

func mul(a, b int) int {
	if a == 0 || b == 0 {
		return 0
	}
	return exps[(logs[a]+logs[b])%255]
}

func inverse(a int) int { return exps[(255-logs[a])%255] }

// evaluate computes a polynomial at x, lowest coefficient first.
func evaluate(poly []int, x int) int {
	sum := 0
	for i := len(poly) - 1; i >= 0; i-- {
		sum = mul(sum, x) ^ poly[i]
	}
	return sum
}

// correct repairs block in place, its last ec bytes being error correction, and says how many codewords it changed. ok is
// false where the damage is beyond repair; the block is then as it was. Syndromes, Berlekamp–Massey, Chien, Forney.
func correct(block []byte, ec int) (fixed int, ok bool) {
	syndromes := syndromesOf(block, ec)
	if syndromes == nil {
		return 0, true
	}
	locator := berlekampMassey(syndromes)
	errors := len(locator) - 1
	if errors > ec/2 {
		return 0, false
	}
	omega := make([]int, ec)
	for i := range omega {
		for j := 0; j <= i && j < len(locator); j++ {
			omega[i] ^= mul(locator[j], syndromes[i-j])
		}
	}
	repaired := append([]byte(nil), block...)
	found := 0
	for pos := range block {
		power := len(block) - 1 - pos
		x := exps[(255-power%255)%255] // inverse of the locator of this place
		if evaluate(locator, x) != 0 {
			continue
		}
		slope := 0 // formal derivative at x: odd coefficients only
		for j := 1; j < len(locator); j += 2 {
			term := locator[j]
			for range j - 1 {
				term = mul(term, x)
			}
			slope ^= term
		}
		if slope == 0 {
			return 0, false
		}
		// The roots of the generator start at α⁰, hence one factor of the locator.
		value := mul(mul(evaluate(omega, x), inverse(slope)), exps[power%255])
		repaired[pos] ^= byte(value)
		found++
	}
	if found != errors || syndromesOf(repaired, ec) != nil {
		return 0, false
	}
	copy(block, repaired)
	return found, true
}

// syndromesOf is nil where every syndrome is zero.
func syndromesOf(block []byte, ec int) []int {
	s, wrong := make([]int, ec), false
	for i := range s {
		for _, b := range block {
			s[i] = mul(s[i], exps[i]) ^ int(b)
		}
		wrong = wrong || s[i] != 0
	}
	if !wrong {
		return nil
	}
	return s
}

func berlekampMassey(s []int) []int {
	locator, before := []int{1}, []int{1}
	length, gap, last := 0, 1, 1
	for n := range s {
		d := s[n]
		for i := 1; i <= length && i < len(locator); i++ {
			d ^= mul(locator[i], s[n-i])
		}
		if d == 0 {
			gap++
			continue
		}
		next := append([]int(nil), locator...)
		for len(next) < len(before)+gap {
			next = append(next, 0)
		}
		scale := mul(d, inverse(last))
		for i, c := range before {
			next[i+gap] ^= mul(scale, c)
		}
		if 2*length <= n {
			length, before, last, gap = n+1-length, locator, d, 1
		} else {
			gap++
		}
		locator = next
	}
	for len(locator) > 1 && locator[len(locator)-1] == 0 {
		locator = locator[:len(locator)-1]
	}
	return locator
}
