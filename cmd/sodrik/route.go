package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"strings"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
)

func init() {
	commands = append(commands, command{"route", "LEAD.json", "say who is sent where, and why", routeOf})
}

// routeOf says what somebody who scans would get of a file that says where a code leads.
func routeOf(args []string) error {
	var who route.Asked
	var country, part, town string
	var asJSON bool
	path, err := parse("route", "file", args, func(f *flag.FlagSet) {
		f.StringVar(&who.Where, "where", "", "`place` that the address is known to be at, the nearer first: \"Cardiff, Wales\"")
		f.StringVar(&country, "country", "", "`country` of it, by name or letters")
		f.StringVar(&part, "part", "", "`part` of the country")
		f.StringVar(&town, "town", "", "`town`")
		f.StringVar(&who.Languages, "language", "", "`languages` of the phone, the preferred first: cy,en")
		f.StringVar(&who.System, "system", "", "`system`: ios, android or other")
		f.StringVar(&who.Place, "place", "", "`name` of the printed place")
		f.StringVar(&who.At, "at", "", "`moment` on the clocks of the code's zone, such as 2027-03-20T11:30; now if not given")
		f.BoolVar(&asJSON, "json", false, "answer as JSON")
	})
	if err != nil {
		return err
	}
	text, err := load(path, 1<<20)
	if err != nil {
		return err
	}
	l, problems := leadOf(text)
	if len(problems) > 0 {
		return problems.Err()
	}
	var where []string
	for _, name := range []string{who.Where, town, part, country} {
		if name != "" {
			where = append(where, name)
		}
	}
	who.Where = strings.Join(where, ", ")
	in, problems := who.Input(l.Zone, time.Now())
	if len(problems) > 0 {
		return problems.Err()
	}
	got := l.Who(in)
	if asJSON {
		e := json.NewEncoder(os.Stdout)
		e.SetEscapeHTML(false)
		e.SetIndent("", "  ")
		return e.Encode(got)
	}
	fmt.Println(got.Sentence())
	for _, s := range got.Steps {
		fmt.Println(s)
	}
	for _, f := range route.Find(l.Rules(), l.Zone, l.Language, time.Now()) {
		fmt.Println("! " + f.Words)
	}
	return nil
}

// leadOf reads where a code leads: a lead alone, or as the draft of what the API answers, or as the member lead of a job file.
func leadOf(text []byte) (*leads.Lead, problem.List) {
	v, err := fields.Decode(text)
	if err != nil {
		return nil, problem.List{{Code: "json", Message: err.Error()}}
	}
	if m, is := v.(map[string]any); is {
		for _, key := range []string{"draft", "lead"} {
			if below, has := m[key]; has && m["to"] == nil {
				v = below
			}
		}
	}
	return leads.Read(v)
}
