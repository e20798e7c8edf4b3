package scanned

import (
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/tally"
	"sodrik/internal/scans"
)

// Sizes of the drawings, in pixels.
const (
	ruleWidth, ruleHeight = 392, 26
	barsHeight            = 34
)

// rule is the common time rule: a tick a day where there is room, and four dates.
func rule(s scans.Span) template.HTML {
	n := s.Days()
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="rule" viewBox="0 0 %d %d" width="%d" height="%d" aria-hidden="true">`,
		ruleWidth,
		ruleHeight,
		ruleWidth,
		ruleHeight,
	)
	step := max(1, (n+3)/4)
	for i := 0; i < n; i += step {
		x := float64(i) * ruleWidth / float64(n)
		fmt.Fprintf(
			&b,
			`<path d="M%.1f 16v10"/><text x="%.1f" y="11">%s</text>`,
			x+0.5,
			x,
			s.From.AddDate(0, 0, i).Format("2 Jan"),
		)
	}
	if n <= 90 {
		for i := range n {
			fmt.Fprintf(&b, `<path d="M%.1f 22v4"/>`, float64(i)*ruleWidth/float64(n)+0.5)
		}
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// Above barsAtMost days a bar is a week.
const barsAtMost, aWeek = 130, 7

// step is how many days a bar stands for.
func step(days int) int {
	if days > barsAtMost {
		return aWeek
	}
	return 1
}

// grouped adds up counts by so many days; the first group may have fewer.
func grouped(days []int, by int) []int {
	if by == 1 || days == nil {
		return days
	}
	out := make([]int, (len(days)+by-1)/by)
	for i, n := range days {
		out[len(out)-1-(len(days)-1-i)/by] += n
	}
	return out
}

// bars are the counts of a place by days or weeks, and behind them those of the span before, in outline. One path holds all bars.
func bars(days, before []int, most int) template.HTML {
	n := len(days)
	width := float64(ruleWidth) / float64(n)
	gap := 1.0
	if width < 3 {
		gap = 0
	}
	scale := float64(barsHeight-2) / float64(most)
	var now, then strings.Builder
	for i, c := range days {
		h := float64(c) * scale
		if c > most { // cut off, with a slit near its top
			h = barsHeight - 1
			fmt.Fprintf(&now, "M%.1f 0h%.1fv4h-%.1fz", float64(i)*width, width-gap, width-gap)
			h -= 6
		}
		if c > 0 {
			fmt.Fprintf(&now, "M%.1f %.1fh%.1fv%.1fh-%.1fz", float64(i)*width, barsHeight-1-h, width-gap, h, width-gap)
		}
	}
	for i, c := range before {
		if i < n && c > 0 && c <= most {
			fmt.Fprintf(&then, "M%.1f %.1fh%.1f", float64(i)*width, barsHeight-1-float64(c)*scale, width-gap)
		}
	}
	return template.HTML(fmt.Sprintf(`<svg class="bars" viewBox="0 0 %d %d" width="%d" height="%d" preserveAspectRatio="none" aria-hidden="true">`+
		`<path d="%s"/><path class="then" d="%s"/><path class="base" d="M0 %.1fh%d"/></svg>`,
		ruleWidth, barsHeight, ruleWidth, barsHeight, now.String(), then.String(), barsHeight-0.5, ruleWidth))
}

// usualMost is how high the bars of a place usually are at most: an opening day must not flatten all others.
func usualMost(days []int) int {
	some := slices.DeleteFunc(slices.Clone(days), func(n int) bool { return n == 0 })
	if len(some) == 0 {
		return 0
	}
	slices.Sort(some)
	return min(some[len(some)-1], 1+some[len(some)*9/10]*5/4)
}

// ratioDrawing draws an interval of a ratio on a rule from a quarter to four times.
func ratioDrawing(c tally.Compared) template.HTML {
	if !c.Given {
		return ""
	}
	at := func(r float64) float64 { return 108 + 108*min(1, max(-1, math.Log(r)/math.Log(4))) }
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="ratio" viewBox="0 0 216 34" width="216" height="34" aria-hidden="true"><path class="rule" d="M0 9.5h216"/>`+
			`<path class="even" d="M108.5 0v19"/><path class="in" d="M%.1f 9.500H%.1f"/><path class="best" d="M%.1f 5h9v9h-9z"/>`,
		at(c.In.Low),
		at(c.In.High),
		at(c.Ratio)-4.5,
	)
	for _, r := range []struct {
		x     int
		words string
	}{{0, "0.25 ×"}, {108, "as often"}, {216, "4 ×"}} {
		anchor := map[int]string{0: "start", 108: "middle", 216: "end"}[r.x]
		fmt.Fprintf(&b, `<text x="%d" y="31" text-anchor="%s">%s</text>`, r.x, anchor, r.words)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// Of the drawing of hours, in pixels.
const hourWidth, hourHeight = 9, 48

// hours are the scans of each hour of the day, midnight first.
func hours(w scans.Week) template.HTML {
	var by [24]int
	most, busiest := 1, 0
	for _, day := range w {
		for i, n := range day {
			by[i] += n
		}
	}
	for i, n := range by {
		if n > by[busiest] {
			busiest = i
		}
		most = max(most, n)
	}
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="hours" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="By the hour; most from %d to %d o'clock">`,
		24*hourWidth,
		hourHeight+14,
		24*hourWidth,
		hourHeight+14,
		busiest,
		busiest+1,
	)
	for i, n := range by {
		if h := float64(n) * hourHeight / float64(most); n > 0 {
			fmt.Fprintf(
				&b,
				`<path d="M%d %.1fh%dV%dh-%dz"><title>%d:00, %d</title></path>`,
				i*hourWidth,
				hourHeight-h,
				hourWidth-1,
				hourHeight,
				hourWidth-1,
				i,
				n,
			)
		}
	}
	fmt.Fprintf(&b, `<path class="base" d="M0 %.1fh%d"/>`, hourHeight+0.5, 24*hourWidth)
	for _, i := range []int{0, 6, 12, 18} {
		fmt.Fprintf(&b, `<text x="%d" y="%d">%d</text>`, i*hourWidth, hourHeight+13, i)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// Of the drawing of hours by weekday, in pixels.
const cell, weekLeft = 12, 40

// week draws the scans of each hour of each weekday, Monday first, as squares whose areas are as their counts.
func week(w scans.Week) template.HTML {
	most, at, hour := 0, 0, 0
	for d, day := range w {
		for i, n := range day {
			if n > most {
				most, at, hour = n, d, i
			}
		}
	}
	if most == 0 {
		return ""
	}
	var b strings.Builder
	width, height := weekLeft+24*cell, 7*cell+16
	fmt.Fprintf(&b, `<svg class="week" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="By weekday and hour; most on %s from %d to %d o'clock">`,
		width, height, width, height, weekdays[at], hour, hour+1)
	for k := range 7 {
		d := (k + 1) % 7
		fmt.Fprintf(&b, `<text x="0" y="%d">%s</text>`, k*cell+10, weekdays[d][:3])
		for i, n := range w[d] {
			if n > 0 {
				side := max(1, (cell-1)*math.Sqrt(float64(n)/float64(most)))
				fmt.Fprintf(&b, `<path d="M%.1f %.1fh%.1fv%.1fh-%.1fz"><title>%s, %d:00, %d</title></path>`,
					weekLeft+(float64(i)+0.5)*cell-side/2, (float64(k)+0.5)*cell-side/2, side, side, side, weekdays[d], i, n)
			}
		}
	}
	for _, i := range []int{0, 6, 12, 18} {
		fmt.Fprintf(&b, `<text x="%d" y="%d">%d</text>`, weekLeft+i*cell, height-2, i)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}
