package grade

import "sodrik/internal/core/symbol"

// module is a place of the symbol.
type module struct{ x, y int }

// segment is a part of the fixed patterns that is graded by itself (ISO/IEC 18004:2015, annex G.2).
type segment struct {
	modules []module
	limits  [4]float64 // damaged modules, or their share where share is set, for the grades 4, 3, 2, 1
	share   bool
}

var (
	finderLimits    = [4]float64{0, 1, 2, 3}
	timingLimits    = [4]float64{0, 0.07, 0.11, 0.14}
	alignmentLimits = [4]float64{0, 0.10, 0.20, 0.30}
	copyLimits      = [4]float64{0, 1, 2, 3}
	averageLimits   = [4]float64{4, 3.5, 3, 2.5}
)

// segments are the three finder patterns with their separators, the two timing patterns, and the alignment patterns.
func segments(s *symbol.Symbol) (out []segment) {
	n := s.Size
	for _, c := range [3][2]int{{0, 0}, {n - 8, 0}, {0, n - 8}} {
		a := segment{limits: finderLimits}
		for y := range 8 {
			for x := range 8 {
				a.modules = append(a.modules, module{c[0] + x, c[1] + y})
			}
		}
		out = append(out, a)
	}
	across, down := segment{limits: timingLimits, share: true}, segment{limits: timingLimits, share: true}
	for i := 8; i < n-8; i++ {
		across.modules, down.modules = append(across.modules, module{i, 6}), append(down.modules, module{6, i})
	}
	out = append(out, across, down)
	c := segment{limits: alignmentLimits, share: true}
	for _, at := range symbol.Alignments(s.Version) {
		for dy := -2; dy <= 2; dy++ {
			for dx := -2; dx <= 2; dx++ {
				c.modules = append(c.modules, module{at[0] + dx, at[1] + dy})
			}
		}
	}
	if len(c.modules) > 0 {
		out = append(out, c)
	}
	return out
}

// fixed grades the fixed patterns: for each grade, modules whose margin lies below it count as damaged; a segment has the
// best grade that holds so, the whole the least of its segments and of their average.
func (g *grid) fixed() Grade {
	worst, sum, n := Grade(4), 0.0, 0.0
	for _, s := range segments(g.in.Symbol) {
		grade := g.damage(s)
		worst = min(worst, grade)
		sum, n = sum+float64(grade), n+1
	}
	return min(worst, least(sum/n, averageLimits))
}

// damage grades one segment.
func (g *grid) damage(s segment) (best Grade) {
	for level := Grade(4); level > 0; level-- {
		lost := 0.0
		for _, m := range s.modules {
			if least(g.margin(m.x, m.y), modulationLimits) < level {
				lost++
			}
		}
		if s.share {
			lost /= float64(len(s.modules))
		}
		best = max(best, min(level, most(lost, s.limits)))
	}
	return best
}

// copies grades information that stands twice: the mean of both copies, rounded up (annex G.3).
func (g *grid) copies(list [2][]module) Grade {
	a, b := g.damage(segment{modules: list[0], limits: copyLimits}), g.damage(segment{modules: list[1], limits: copyLimits})
	return (a + b + 1) / 2
}

// formatCopies are the fifteen modules around the top left finder pattern, and those beside the two others.
func formatCopies(n int) (out [2][]module) {
	for i := range 9 {
		if i != 6 {
			out[0] = append(out[0], module{8, i})
			if i != 8 {
				out[0] = append(out[0], module{i, 8})
			}
		}
	}
	for i := range 8 {
		out[1] = append(out[1], module{n - 1 - i, 8})
		if i < 7 {
			out[1] = append(out[1], module{8, n - 1 - i})
		}
	}
	return out
}

// versionCopies are the two blocks of three by six.
func versionCopies(n int) (out [2][]module) {
	for i := range 18 {
		out[0], out[1] = append(out[0], module{n - 11 + i%3, i / 3}), append(out[1], module{i / 3, n - 11 + i%3})
	}
	return out
}
