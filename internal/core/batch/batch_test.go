package batch

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
)

func TestText(t *testing.T) {
	columns := []string{"Variety", "lot no", "e"}
	for _, c := range []struct {
		text    string
		address bool
		cells   []string
		want    string
	}{
		{"{variety} · {lot no}", false, []string{"Leek", "A1"}, "Leek · A1"},
		{"{variety} · {lot no}", false, []string{"", ""}, ""},
		{"{variety} · {lot no}", false, []string{"Leek", ""}, "Leek · "},
		{"{{{variety}}}", false, []string{"Leek"}, "{Leek}"},
		{"MB-{#}-{#4}", false, nil, "MB-7-0007"},
		{"plain", false, nil, "plain"},
		{"https://marrowby.example/{variety}?lot={lot no}", true, []string{"Broad bean/red", "A&1+ü"},
			"https://marrowby.example/Broad%20bean%2Fred?lot=A%261%2B%C3%BC"},
		{"https://marrowby.example/{variety}", true, []string{"Broad%20bean"}, "https://marrowby.example/Broad%20bean"},
		{"{variety}", true, []string{"https://marrowby.example/a?b=c d"}, "https://marrowby.example/a?b=c d"},
		{"{variety}/{e}", true, []string{"https://marrowby.example", "", "a b"}, "https://marrowby.example/a%20b"},
	} {
		t.Run(c.text, func(t *testing.T) {
			text, wrong := ReadText(c.text, columns)
			if got := text.Fill(7, c.cells, c.address); wrong != "" || got != c.want {
				t.Errorf("%s: %q %s, want %q", c.text, got, wrong, c.want)
			}
		})
	}
	for text, says := range map[string]string{
		"{kind}": "is no column; there are Variety, lot no, e", "{variety": "not closed", "variety}": "not opened",
		"{#13}": "no column",
		"{#0}":  "no column", strings.Repeat("a", 2001): "longer"} {
		t.Run(text, func(t *testing.T) {
			if _, wrong := ReadText(text, columns); !strings.Contains(wrong, says) {
				t.Errorf("%.20s: %q", text, wrong)
			}
		})
	}
}

// pattern is a job of a kind.
func pattern(t testing.TB, text string) any {
	t.Helper()
	var v any
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func maker(t testing.TB, p *Plan, columns ...string) *Maker {
	t.Helper()
	m, problems := p.Compile(columns)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

const label = `{"version":1,"content":{"kind":"url","url":"https://marrowby.example"},"placements":[{"name":"label","medium":"plant-tag","width_mm":20}]}`

func TestRows(t *testing.T) {
	p := &Plan{Job: pattern(t, label), Key: "sku", Line: "{variety}", File: "{sku} {variety}", Set: []Set{
		{
			"/name",
			"{variety} · {lot}",
		}, {"/content/url", "https://marrowby.example/v/{sku}"}, {"/placements/0/width_mm", "{width}"},
		{"/look/caption/text", "{variety}"}}}
	m := maker(t, p, "sku", "variety", "lot", "width")
	r := m.Make(Source{N: 1, Cells: []string{"B 7", "Böhnchen", "L1", "25"}}, nil)
	if !r.Good() || r.Rendition.Payload != "https://marrowby.example/v/B%207" || r.Name != "Böhnchen · L1" ||
		r.Rendition.Job.Placements[0].Width != 25 || r.Rendition.Job.Look.Caption.Text != "Böhnchen" || r.Line != "Böhnchen" ||
		r.File != "b-7-bohnchen" || r.Key != "B 7" {
		t.Errorf("%+v %v", r, r.Problems)
	}
	r = m.Make(Source{N: 2, Cells: []string{"B8", "Leek", "L2", "wide"}}, nil)
	if r.Good() || len(r.Problems) != 1 || r.Problems[0].Field != "/placements/0/width_mm" {
		t.Errorf("a width that is none: %v", r.Problems)
	}
	r = m.Make(
		Source{N: 2, Cells: []string{"B8", "Leek", "L2", "wide"}, Own: map[string]string{"/placements/0/width_mm": "30"}},
		nil,
	)
	if !r.Good() || r.Rendition.Job.Placements[0].Width != 30 {
		t.Errorf("mended in its row: %v", r.Problems)
	}
	r = m.Make(Source{N: 3, Cells: []string{"B9", "Leek", "", ""}}, nil)
	if !r.Good() || r.Rendition.Job.Placements[0].Width != 20 {
		t.Errorf("an empty width: %v, %v", r.Problems, r.Rendition)
	}
	if r = m.Make(Source{N: 4, Cells: []string{"B9"}, Bad: "has 9 cells"}, nil); r.Good() {
		t.Error("a row that cannot be used is made")
	}
	if got := fmt.Sprint(p.Job); strings.Contains(got, "Leek") {
		t.Error("the pattern was changed")
	}
}

func TestSameVersion(t *testing.T) {
	m := maker(t, &Plan{Job: pattern(t, label), Set: []Set{{"/content/url", "{u}"}}}, "u")
	s := Source{N: 1, Cells: []string{"https://marrowby.example"}}
	small := m.Make(s, nil).Rendition.Symbol.Version
	if got := m.AtLeast(5).Make(s, nil).Rendition.Symbol.Version; small >= 5 || got != 5 {
		t.Errorf("version %d, and with others %d", small, got)
	}
	if got := m.Make(s, nil).Rendition.Symbol.Version; got != small {
		t.Error("the maker was changed")
	}
}

func TestPlanProblems(t *testing.T) {
	for name, c := range map[string]struct {
		plan Plan
		at   string
	}{
		"no such field":    {Plan{Set: []Set{{"/content/nothing", "{a}"}}}, "/set/content/nothing"},
		"no such column":   {Plan{Set: []Set{{"/content/url", "{b}"}}}, "/set/content/url"},
		"twice":            {Plan{Set: []Set{{"/name", "{a}"}, {"/name", "x"}}}, "/set/name"},
		"no such key":      {Plan{Key: "b"}, "/key"},
		"line":             {Plan{Line: "{b}"}, "/line"},
		"file":             {Plan{File: "}"}, "/file"},
		"an object":        {Plan{Set: []Set{{"/content/tags", "{a}"}}}, "/set/content/tags"},
		"what none writes": {Plan{Set: []Set{{"/version", "{a}"}}}, "/set/version"},
	} {
		t.Run(name, func(t *testing.T) {
			c.plan.Job = pattern(t, label)
			if _, problems := c.plan.Compile([]string{"a"}); len(problems) != 1 || problems[0].Field != c.at {
				t.Error(problems)
			}
		})
	}
}

func TestMatch(t *testing.T) {
	for _, c := range []struct {
		kind    string
		columns string
		sample  []string
		want    string
	}{
		{"url", "Name;Link;Lot", []string{"Leek;https://marrowby.example/a;1"}, "/name;/content/url;"},
		{"url", "Variety;Where;Width (mm)", []string{"Leek;marrowby.example/a;20", "Kale;https://marrowby.example/b;20"},
			";/content/url;/placements/0/width_mm"},
		{"contact", "First name;Last Name;Company;Phone;Phone 2;E-mail;City;ZIP", nil, "/content/given;/content/family;" +
			"/content/organisation;/content/phones/0/number;/content/phones/1/number;/content/emails/0/address;/content/address/city;" +
			"/content/address/postcode"},
		{"wifi", "SSID;Passphrase;Room", nil, "/content/ssid;/content/password;"},
		{"gs1link", "GTIN;Batch;Serial number;Use by", nil, "/content/gtin;/content/lot;/content/serial;/content/attributes/17"},
		{"event", "Event;Starts;Ends;Venue", nil, "/content/title;/content/start;/content/end;/content/location"},
	} {
		t.Run(c.kind+" "+c.columns, func(t *testing.T) {
			var sample [][]string
			for _, row := range c.sample {
				sample = append(sample, strings.Split(row, ";"))
			}
			got := Match(c.kind, strings.Split(c.columns, ";"), sample, nil)
			if strings.Join(got, ";") != c.want {
				t.Errorf("%q", got)
			}
			if kind := Guess(strings.Split(c.columns, ";"), sample); kind != c.kind && c.sample != nil {
				t.Errorf("guessed %s", kind)
			}
		})
	}
	if got := Match("url", []string{"Link", "Other"}, nil, map[string]string{"link": "", "other": "/content/url"}); !slices.Equal(
		got,
		[]string{"", "/content/url"},
	) {
		t.Errorf("what was chosen before counts: %q", got)
	}
}

// TestTogether puts two columns into the one field that they make up.
func TestTogether(t *testing.T) {
	got := Suggest("place", []string{"Longitude", "latitude", "Label"}, nil, nil)
	if len(got) != 2 || got[1] != (Set{"/content/position", "{latitude}, {Longitude}"}) {
		t.Errorf("%q", got)
	}
	m := maker(t, &Plan{Job: pattern(t, `{"version":1,"content":{"kind":"place"}}`), Set: got}, "Longitude", "latitude", "Label")
	r := m.Make(Source{N: 1, Cells: []string{"-1.9432", "52.0871", "Garden"}}, nil)
	if !r.Good() || !strings.HasPrefix(r.Rendition.Payload, "geo:52.0871,-1.9432") {
		t.Errorf("%v %+v", r.Problems, r.Rendition)
	}
}

func TestGuess(t *testing.T) {
	for columns, want := range map[string]string{
		"SSID;Password": "wifi", "Given;Family;Tel": "contact", "GTIN;Lot": "gs1link", "What;Date": "event",
		"Thing;Colour": "text", "GTIN;Name": "gs1link", "Name;Colour": "text",
		"Latitude;Longitude": "place", "IBAN;Name;Amount": "sepa"} {
		t.Run(columns, func(t *testing.T) {
			if got := Guess(strings.Split(columns, ";"), nil); got != want {
				t.Errorf("%s: %s, want %s", columns, got, want)
			}
		})
	}
}

// TestEveryKind fills each kind's example by its own fields and gets the same payload: every field can be a column.
func TestEveryKind(t *testing.T) {
	for _, k := range content.Register() {
		if k.Group == content.Turned {
			continue
		}
		t.Run(k.Key, func(t *testing.T) {
			whole := maker(t, &Plan{Job: pattern(t, `{"version":1,"content":`+k.Example+`}`)}, "a")
			want := whole.Make(Source{N: 1}, nil)
			if !want.Good() {
				t.Fatal(want.Problems)
			}
			if reserve, reads := want.Rendition.Drawn(-1); reserve < 0.5 || !reads {
				t.Errorf("drawn: %v %v", reserve, reads)
			}
			fields := map[string]string{}
			p := &Plan{Job: pattern(t, `{"version":1,"content":{"kind":"`+k.Key+`"}}`)}
			var columns, cells []string
			flatten(t, "/content", want.Draft, fields)
			for _, c := range fillable(k.Key) {
				for path, text := range fields {
					if first(path) == c.Path && path != "/content/kind" {
						p.Set = append(p.Set, Set{path, Blank(path)})
						columns, cells = append(columns, path), append(cells, text)
						delete(fields, path)
					}
				}
			}
			delete(fields, "/content/kind")
			if at := content.Position; k.Key == "place" { // typed as one
				p.Set = append(p.Set, Set{at, Blank(at)})
				columns, cells = append(columns, at), append(cells, job.Text(want.Draft, at))
				delete(fields, "/content/lat")
				delete(fields, "/content/lon")
			}
			if len(fields) > 0 {
				t.Fatalf("no column for %v", fields)
			}
			got := maker(t, p, columns...).Make(Source{N: 1, Cells: cells}, nil)
			if !got.Good() || got.Rendition.Payload != want.Rendition.Payload {
				t.Errorf("%v\n%+v\nwant %q", got.Problems, got.Rendition, want.Rendition.Payload)
			}
		})
	}
}

// flatten puts what a job holds at and below a pointer under its pointers, as it is typed.
func flatten(t *testing.T, at string, draft any, out map[string]string) {
	t.Helper()
	v, _ := patch.Get(draft, at)
	switch v := v.(type) {
	case map[string]any:
		for k := range v {
			flatten(t, at+"/"+k, draft, out)
		}
	case []any:
		for i := range v {
			flatten(t, fmt.Sprint(at, "/", i), draft, out)
		}
	default:
		out[at] = job.Text(draft, at)
	}
}

// TestInOrderPanics: what panics while it is made is the error, and the process lives.
func TestInOrderPanics(t *testing.T) {
	var p *caught.Panic
	err := InOrder(t.Context(), 9, func(i int) (int, error) { return 1 / (i - 4), nil }, func(int, int) error { return nil })
	if !errors.As(err, &p) {
		t.Error(err)
	}
}
