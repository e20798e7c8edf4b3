package route

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gazetteer"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Asked is somebody who might scan, as it is typed.
type Asked struct {
	Where     string // "Cardiff, Wales": a town, a part, a country, the nearer first; "" for not known
	Languages string // "Welsh, then English"
	System    string // ios, android, other
	Place     string // name of the printed place
	At        string // a moment on the clocks of the zone; "" for now
}

// Input is somebody as a scan; what cannot be read is a problem at its field: where, languages, system, at.
func (a Asked) Input(zone string, now time.Time) (in Input, problems problem.List) {
	in = Input{At: now, Place: a.Place}
	names := strings.Split(a.Where, ",")
	slices.Reverse(names)
	for _, name := range names {
		if bad := in.put(strings.TrimSpace(name)); bad != "" {
			problems.Add("/where", "route.where", "%s", bad)
		}
	}
	if in.Country == "" && len(problems) == 0 {
		in.Country = in.found()
	}
	for _, name := range strings.FieldsFunc(strings.ReplaceAll(a.Languages, " then ", ","),
		func(r rune) bool { return r == ',' || r == ';' }) {
		name = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(name), "then "))
		tag, bad := Language(name)
		if bad != "" {
			problems.Add("/languages", "route.languages", "%s", bad)
		} else if tag != "" {
			in.Languages = append(in.Languages, tag)
		}
	}
	switch a.System {
	case "", "other":
	case "ios":
		in.System = "iOS"
	case "android":
		in.System = "Android"
	default:
		problems.Add("/system", "route.systems", "is %q; it is one of %s", a.System, strings.Join(schema.Values(systems), ", "))
	}
	if at := strings.TrimSpace(a.At); at != "" {
		if zone == "" {
			zone = "UTC"
		}
		moment := schema.ParseMoment(at)
		if !strings.Contains(moment, "T") {
			moment += "T12:00"
		}
		t, bad := content.MomentIn(moment, zone)
		if bad != "" {
			problems.Add("/at", "route.at", "%s", bad)
		}
		in.At = t
	}
	return in, problems
}

// put puts a name where it belongs: a country, a part of one, or a town.
func (in *Input) put(name string) (bad string) {
	if name == "" {
		return ""
	}
	if inner, _, given := cutCountry(name); !given {
		if code, ok := countryNamed(inner); ok {
			in.Country = code
			return ""
		}
	}
	inner, country, given := cutCountry(name)
	if given {
		code, ok := countryNamed(country)
		if !ok {
			return fmt.Sprintf("names %s, and %q is no country; write its name or its two letters", name, country)
		}
		in.Country = code
	}
	known := gazetteer.Named(inner)
	if len(known) == 0 && !given {
		return fmt.Sprintf(
			"names %s, which is no country, part of one or larger town that is known here; write the country behind it, "+
				"such as %s (GB)",
			name,
			name,
		)
	}
	part := slices.ContainsFunc(known, func(a gazetteer.Area) bool { return a.Part })
	if part && in.Part == "" {
		in.Part = inner
	} else {
		in.Town = inner
	}
	return ""
}

// found is the country of the part or the town that is named.
func (in *Input) found() string {
	for _, name := range []string{in.Part, in.Town} {
		if known := gazetteer.Named(name); name != "" && len(known) > 0 {
			return known[0].Country
		}
	}
	return ""
}

// Person is somebody in a strip: who, and the rules of each day.
type Person struct {
	Who  string
	Days []Cell
}

// MaxPeople is how many a strip shows at most.
const MaxPeople = 6

// Strip says at one look who gets what on some days from one on: of every language and place that rules ask for, those of whom
// the answers differ. what if is in, everybody is otherwise alike.
func (s *Set) Strip(rules []*Rule, in Input, first time.Time, days int) (out []Person) {
	type one struct {
		name string
		put  func(*Input)
	}
	tongues := []one{{"other languages", func(i *Input) { i.Languages = nil }}}
	places := []one{{"elsewhere", func(i *Input) { i.Country, i.Part, i.Town = "", "", "" }}}
	systemsOf := []one{{"", func(*Input) {}}}
	seen := map[string]bool{}
	for _, r := range rules {
		if r.Off {
			continue
		}
		for _, tag := range r.Languages {
			if !seen[tag] {
				seen[tag] = true
				tongues = append(tongues, one{LanguageName(tag), func(i *Input) { i.Languages = []string{tag} }})
			}
		}
		for _, name := range r.Where {
			if a := areaOf(name); !seen["at "+name] {
				seen["at "+name] = true
				places = append(places, one{Says(name), func(i *Input) { i.Country, i.Part, i.Town = a.country, a.name, "" }})
			}
		}
		if len(r.Systems) > 0 && len(systemsOf) == 1 {
			systemsOf = []one{
				{"iPhone", func(i *Input) { i.System = "iOS" }},
				{"Android", func(i *Input) { i.System = "Android" }},
				{"another system", func(i *Input) { i.System = "" }},
			}
		}
	}
	patterns := map[string]bool{}
	for _, kinds := range [][]one{tongues, places} {
		slices.Reverse(kinds) // the rest comes last
	}
	for _, t := range tongues {
		for _, p := range places {
			for _, y := range systemsOf {
				x := in
				t.put(&x)
				p.put(&x)
				y.put(&x)
				person := Person{}
				for d := range days {
					person.Days = append(person.Days, s.Day(x, first.AddDate(0, 0, d)))
				}
				key := fmt.Sprint(person.Days)
				if patterns[key] || len(out) == MaxPeople {
					continue
				}
				patterns[key] = true
				var who []string
				if len(tongues) > 1 {
					who = append(who, t.name)
				}
				if len(places) > 1 {
					who = append(who, p.name)
				}
				if y.name != "" {
					who = append(who, y.name)
				}
				if person.Who = strings.Join(who, ", "); person.Who == "" {
					person.Who = "everybody"
				}
				out = append(out, person)
			}
		}
	}
	return out
}

// StripFrom is the day with which a strip begins: today, or two days before the next change where that is further off.
func (s *Set) StripFrom(now time.Time, days int) time.Time {
	at, ok := s.Next(now, 400*24*time.Hour)
	if !ok || at.Before(now.AddDate(0, 0, days-1)) {
		return now
	}
	return at.AddDate(0, 0, -2)
}
