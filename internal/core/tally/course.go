package tally

import "math"

// Course is what becomes of a place, in one word.
type Course string

// Courses.
const (
	TooFew     Course = "too few"
	Steady     Course = "steady"
	Rising     Course = "rising"
	Falling    Course = "falling"
	FellSilent Course = "fell silent"
)

// rare is how unlikely silence has to be by chance before it is one.
const rare = 1.0 / 1000

// leastDays is of how many whole days it is said that a place fell silent: with fewer, nobody knows what is usual there.
const leastDays = 28

// Silence is for how many days, the last ones, nobody scanned what was scanned before, and how likely that is by chance. The days
// are whole ones that are over: one that still runs may yet bring what is usual. ok is false where it may well be chance, nothing
// was ever scanned, or there are fewer days than leastDays.
func (d Days) Silence() (days int, chance float64, ok bool) {
	for days < len(d) && d[len(d)-1-days] == 0 {
		days++
	}
	before := d[:len(d)-days]
	if days == 0 || len(d) < leastDays || before.Sum() < Least {
		return days, 1, false
	}
	mean := float64(before.Sum()) / float64(len(before))
	chance = math.Exp(-mean * float64(days) / before.Spread())
	return days, chance, chance < rare
}

// Course says what becomes of a place: it fell silent, or its second half differs from its first by more than chance.
func (d Days) Course() Course {
	if _, _, silent := d.Silence(); silent {
		return FellSilent
	}
	half := len(d) / 2
	first, second := d[:half], d[len(d)-half:]
	if half < 3 || d.Sum() < 2*Least {
		return TooFew
	}
	_, in, ok := Ratio(second, first, 1, 1, 1)
	switch {
	case !ok:
		return TooFew
	case in.Low > 1:
		return Rising
	case in.High < 1:
		return Falling
	}
	return Steady
}

// Verdict is what a comparison of two places comes to.
type Verdict string

// Verdicts: the first beats the second, the second the first, or too few to tell.
const (
	First  Verdict = "first"
	Second Verdict = "second"
	NotYet Verdict = "too few to tell"
)

// Compared is two places side by side.
type Compared struct {
	Verdict Verdict
	Ratio   float64  // of the first to the second
	In      Interval // of that
	Given   bool     // the interval is one: there are enough scans for it
	Until   int      // days after which it can be told, at this rate; 0 where it can now, or not within a year
}

// Compare compares two places by what each is counted by, which is days where forA and forB are their lengths; of is how many
// comparisons stand side by side.
func Compare(a, b Days, forA, forB float64, of int) (c Compared) {
	c.Verdict = NotYet
	c.Ratio, c.In, c.Given = Ratio(a, b, forA, forB, of)
	switch {
	case c.Given && c.In.Low > 1:
		c.Verdict = First
	case c.Given && c.In.High < 1:
		c.Verdict = Second
	default:
		if days, ok := Until(a, b, of, 365); ok {
			c.Until = days
		}
	}
	return c
}

// Weekday is the day of the week, 0 for Sunday, that carries the largest part of counts, given the weekday of the first; ok
// is false where no day stands out (a share of a third, in two weeks or more with 30 scans).
func (d Days) Weekday(first int) (day int, share float64, ok bool) {
	var sums [7]int
	for i, n := range d {
		sums[(first+i)%7] += n
	}
	for k, n := range sums {
		if n > sums[day] {
			day = k
		}
	}
	all := d.Sum()
	if len(d) < 14 || all < 30 {
		return day, 0, false
	}
	share = float64(sums[day]) / float64(all)
	return day, share, share >= 1.0/3
}
