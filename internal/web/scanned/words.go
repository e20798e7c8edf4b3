package scanned

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/tally"
	"sodrik/internal/notices"
)

// silence says that a place fell silent, and how likely that is by chance.
func silence(p place, days int, chance float64) string {
	return fmt.Sprintf("fell silent after %s. %s", p.last(days).Format("2 January"), notices.ByChance(chance))
}

// maxBeside is how many places stand side by side.
const maxBeside = 6

// beside compares the chosen places, each with the first of them; one alone with itself in the span before; without a choice,
// the two that are scanned most.
func beside(a asked, list []place, now time.Time) (out []Card) {
	var chosen []place
	for _, p := range list {
		if slices.Contains(a.with, p.Address) && len(chosen) < maxBeside {
			chosen = append(chosen, p)
		}
	}
	if len(a.with) == 0 {
		for _, p := range list {
			if p.hung.Sum() > 0 && len(chosen) < 2 {
				chosen = append(chosen, p)
			}
		}
	}
	for i := 1; i < len(chosen); i++ {
		out = append(out, cardOf(chosen[0], chosen[i], len(chosen)-1, now))
	}
	if len(a.with) == 1 && len(chosen) == 1 && len(chosen[0].hungBefore) > 0 {
		then := chosen[0]
		then.hung, then.Noted = then.hungBefore, leads.Hanging{}
		now, was := chosen[0], "the days before"
		if a.against == "year" {
			was = "a year earlier"
		}
		then.Live = &leads.Live{Place: was}
		now.Live = &leads.Live{Place: now.name() + " in these days"}
		card := cardOf(now, then, 1, a.span.To)
		card.Title = upper(chosen[0].name()) + ", these days against " + was
		out = append(out, card)
	}
	return out
}

func cardOf(x, y place, of int, now time.Time) Card {
	c := tally.Compare(x.hung, y.hung, float64(len(x.hung)), float64(len(y.hung)), of)
	card := Card{Title: fmt.Sprintf("%s against %s", upper(x.name()), y.name()), Drawing: ratioDrawing(c)}
	switch c.Verdict {
	case tally.First:
		card.Says = fmt.Sprintf("%s beats %s by %s.", upper(x.name()), y.name(), times(c.In))
	case tally.Second:
		card.Says = fmt.Sprintf(
			"%s beats %s by %s.",
			upper(y.name()),
			x.name(),
			times(tally.Interval{Low: 1 / c.In.High, High: 1 / c.In.Low}),
		)
	default:
		card.Says = "Too few to tell."
		if c.Until > 0 {
			card.Says += fmt.Sprintf(" At this rate, until about %s.", now.AddDate(0, 0, c.Until).Format("2 January"))
		}
	}
	card.More = perPrints(x, y, of) + perCost(x, y, of)
	return card
}

// perPrints says how two places compare for each print, where both runs are known.
func perPrints(x, y place, of int) string {
	if x.Noted.Prints == 0 || y.Noted.Prints == 0 {
		return ""
	}
	return per("For each 1,000 printed ", x, y, float64(x.Noted.Prints), float64(y.Noted.Prints), of)
}

// perCost says how two places compare for what they cost, where both are known.
func perCost(x, y place, of int) string {
	a, bad := strconv.ParseFloat(x.Noted.Cost, 64)
	b, worse := strconv.ParseFloat(y.Noted.Cost, 64)
	if bad != nil || worse != nil {
		return ""
	}
	return per("For what it cost ", x, y, a, b, of)
}

// unlike is how many times as much two places do from which they are too unlike for it to mean anything: a sign at the gate is
// scanned by whoever passes, a packet by who bought it.
const unlike = 100

func per(what string, x, y place, a, b float64, of int) string {
	c := tally.Compare(x.hung, y.hung, a, b, of)
	if c.In.Low > unlike || c.In.High < 1.0/unlike {
		return ""
	}
	switch c.Verdict {
	case tally.First:
		return fmt.Sprintf("%s%s does better, by %s. ", what, x.name(), times(c.In))
	case tally.Second:
		return fmt.Sprintf(
			"%s%s does better, by %s. ",
			what,
			y.name(),
			times(tally.Interval{Low: 1 / c.In.High, High: 1 / c.In.Low}),
		)
	}
	return ""
}

// times says by how many times, as far as the counts tell.
func times(in tally.Interval) string {
	if math.IsInf(in.High, 1) {
		return fmt.Sprintf("at least %s times", factor(in.Low))
	}
	return fmt.Sprintf("%s to %s times", factor(in.Low), factor(in.High))
}

// factor is a figure as exactly as anybody needs it.
func factor(x float64) string {
	if x < 10 {
		return measure.Number(x, 1)
	}
	digits := math.Pow(10, math.Floor(math.Log10(x))-1)
	return measure.Count(int(math.Round(x/digits) * digits))
}

// weekdays, Sunday first.
var weekdays = []string{"Sundays", "Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays"}

// sentence says the whole in one breath.
func sentence(a asked, p placed) string {
	all, list := p.all, p.list
	total, days := all.Sum(), a.span.Days()
	span := fmt.Sprintf("%d days", days)
	if days == 1 {
		span = "1 day"
	}
	switch {
	case p.n == 0 && a.all():
		return "Nothing to count yet. A dynamic code is counted once it hangs."
	case p.n == 0:
		return "None of this hangs: there is no short link to count."
	case total == 0:
		return fmt.Sprintf("No scan in %s.", span)
	}
	words := fmt.Sprintf("%s scans in %s.", measure.Count(total), span)
	if total == 1 {
		words = fmt.Sprintf("1 scan in %s.", span)
	}
	var said []string
	if len(list) > 1 && p.before == 0 {
		x, y := list[0], list[1]
		if c := tally.Compare(x.hung, y.hung, float64(len(x.hung)), float64(len(y.hung)), 1); c.Verdict == tally.First {
			said = append(said, fmt.Sprintf("%s beats %s", upper(x.name()), y.name()))
		}
	}
	if day, share, ok := all.Weekday(int(a.span.From.Weekday())); ok {
		said = append(said, fmt.Sprintf("%s carry %s of it", weekdays[day], part(share)))
	}
	if len(said) > 0 {
		words += " " + strings.Join(said, "; ") + "."
	}
	return words
}

// part is a share in words.
func part(share float64) string {
	switch {
	case share >= 0.9:
		return "nearly all"
	case share >= 0.62:
		return "two thirds"
	case share >= 0.45:
		return "half"
	default:
		return "a third"
	}
}

func upper(s string) string {
	if s == "" {
		return s
	}
	r := []rune(s)
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}
