// Package tally says what counts of scans allow to be said: how often a place is scanned, with an interval; whether one place
// beats another; whether it rises, is steady or fell silent. Counts come in days. It is pure, and its methods are named in
// docs/figures.md.
package tally

import (
	"math"

	"gonum.org/v1/gonum/mathext"
)

// Interval is where a figure lies, as far as the counts tell.
type Interval struct{ Low, High float64 }

// Level is the share of intervals that hold the true figure.
const Level = 0.95

// Least is how many scans there have to be before an interval is given: below, it would say nothing.
const Least = 5

// Days are counts, one a day on which a place hung, in order.
type Days []int

// Sum is all of them.
func (d Days) Sum() (n int) {
	for _, c := range d {
		n += c
	}
	return n
}

// Spread is how many times as wide as Poisson's counts lie, by their variance: the statistic of Pearson over its degrees of
// freedom, raised to what it may well be with so few days (its upper limit at one in four), and at least 1. Scans come in
// bunches: a mail-out, a coach of visitors.
func (d Days) Spread() float64 {
	mean := float64(d.Sum()) / float64(len(d))
	if len(d) < 3 || mean == 0 {
		return 1
	}
	x := 0.0
	for _, c := range d {
		x += (float64(c) - mean) * (float64(c) - mean) / mean
	}
	return raised(x, len(d)-1)
}

// raised is a statistic of Pearson over its degrees of freedom, raised.
func raised(x float64, free int) float64 {
	return max(1, x/(2*mathext.GammaIncRegInv(float64(free)/2, spreadAt)))
}

// apart is how many times as wide as chance the share of the first of two places lies from day to day, of the days that both
// have.
// What both have in common, such as Saturdays, a fair or rain, is none of it. known is false below three days on which anything
// was scanned: how wide they lie apart by chance is then anybody's guess.
func apart(a, b Days) (phi float64, known bool) {
	n := min(len(a), len(b))
	a, b = a[len(a)-n:], b[len(b)-n:]
	p := float64(a.Sum()) / float64(a.Sum()+b.Sum())
	x, free, scanned := 0.0, -1, 0
	for i := range n {
		if a[i]+b[i] > 0 {
			scanned++
		}
		if all := float64(a[i] + b[i]); all > 0 && p > 0 && p < 1 {
			off := float64(a[i]) - all*p
			x += off * off / (all * p * (1 - p))
			free++
		}
	}
	if free < 2 {
		return math.Max(a.Spread(), b.Spread()), scanned >= 3 // one of them has none at all
	}
	return raised(x, free), true
}

// spreadAt is the quantile of the chi-squared distribution by which a spread is raised.
const spreadAt = 0.25

// Rate is how many scans there are a day, and where that lies: Garwood's exact interval for the mean of a Poisson count, with
// counts in units of their spread. ok is false below Least.
func (d Days) Rate() (perDay float64, in Interval, ok bool) {
	n, days := float64(d.Sum()), float64(len(d))
	if days == 0 {
		return 0, in, false
	}
	perDay = n / days
	if n < Least {
		return perDay, in, false
	}
	phi := d.Spread()
	tail := (1 - Level) / 2
	in.Low = phi * mathext.GammaIncRegInv(n/phi, tail) / days
	in.High = phi * mathext.GammaIncRegInv(n/phi+1, 1-tail) / days
	return perDay, in, true
}

// Ratio is how many times as often one place is scanned as another, each for what it is counted by (days, prints, cost), and
// where that lies. The interval holds however often somebody looks (a mixture of likelihoods, Robbins 1970): who looks daily
// until something shows is not misled. of is how many comparisons stand side by side; the level is shared among them
// (Bonferroni). ok is false where there are too few scans, or too few days to know how they spread.
func Ratio(a, b Days, forA, forB float64, of int) (ratio float64, in Interval, ok bool) {
	if forA <= 0 || forB <= 0 || of < 1 {
		return 0, in, false
	}
	na, nb := float64(a.Sum()), float64(b.Sum())
	phi, known := apart(a, b)
	scale := forB / forA
	if nb > 0 {
		ratio = na / nb * scale
	} else {
		ratio = math.Inf(1)
	}
	if na+nb < 2*Least || !known {
		return ratio, in, false
	}
	low, high := share(na/phi, nb/phi, (1-Level)/float64(of))
	return ratio, Interval{low / (1 - low) * scale, odds(high) * scale}, true
}

func odds(p float64) float64 {
	if p >= 1 {
		return math.Inf(1)
	}
	return p / (1 - p)
}

// share is where the share of the first of two counts lies at any time: every p whose likelihood, against the mixture of all
// shares under Jeffreys' prior, is at least alpha.
func share(x, y, alpha float64) (low, high float64) {
	const half = 0.5
	mixture := lbeta(x+half, y+half) - lbeta(half, half)
	inside := func(p float64) bool {
		like := 0.0
		if x > 0 {
			like += x * math.Log(p)
		}
		if y > 0 {
			like += y * math.Log(1-p)
		}
		return mixture-like <= -math.Log(alpha)
	}
	best := x / (x + y)
	low, high = 0, 1
	if x > 0 {
		low = edge(0, best, inside)
	}
	if y > 0 {
		high = edge(1, best, inside)
	}
	return low, high
}

// edge is where inside begins between a point without and one within.
func edge(without, within float64, inside func(float64) bool) float64 {
	for range 60 {
		mid := (without + within) / 2
		if inside(mid) {
			within = mid
		} else {
			without = mid
		}
	}
	return within
}

func lbeta(a, b float64) float64 {
	la, _ := math.Lgamma(a)
	lb, _ := math.Lgamma(b)
	lab, _ := math.Lgamma(a + b)
	return la + lb - lab
}

// Until is in how many days more of the same two places can be told apart, at the rates that they have; 0 is now, ok false where
// that takes longer than most days.
func Until(a, b Days, of int, most int) (days int, ok bool) {
	na, nb := float64(a.Sum()), float64(b.Sum())
	if len(a) == 0 || len(b) == 0 || na+nb == 0 {
		return 0, false
	}
	phi, known := apart(a, b)
	told := func(more int) bool {
		x, y := na*(1+float64(more)/float64(len(a))), nb*(1+float64(more)/float64(len(b)))
		if x+y < 2*Least || !known && min(len(a), len(b))+more < 3 {
			return false
		}
		low, high := share(x/phi, y/phi, (1-Level)/float64(of))
		even := float64(len(a)+more) / float64(len(a)+len(b)+2*more)
		return low > even || high < even
	}
	if !told(most) {
		return 0, false
	}
	from, to := 0, most
	for from < to {
		if mid := (from + to) / 2; told(mid) {
			to = mid
		} else {
			from = mid + 1
		}
	}
	return from, true
}
