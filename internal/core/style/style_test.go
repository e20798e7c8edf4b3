package style_test

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
)

const house = `{"name":"Marrowby","colours":[{"key":"pine","name":"Pine","value":{"screen":"#12352b","cmyk":[84,40,70,62],"spot":"Marrowby Pine"}},{"name":"Seed paper","value":"#f6f0e2"}],
	"marks":[{"name":"Sprout","source":"icon:sprout","clear":2}],"typefaces":["bitter"],
	"looks":[{"name":"Garden sign","look":{"ink":{"style":"pine"},"modules":{"join":"rows","corner":1}}}],"rules":{"contrast":0.6}}`

func read(t *testing.T, text string) *style.Style {
	t.Helper()
	s, problems := style.Parse([]byte(text))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return s
}

func decode(t *testing.T, text string) any {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func TestThereAndBack(t *testing.T) {
	s := read(t, house)
	if c, ok := s.Colour("pine"); !ok || c.Value.Spot != "Marrowby Pine" || c.Value.Style != "pine" ||
		c.Value.String() != "#12352b" || c.Value.Inks != (ink.CMYK{84, 40, 70, 62}) {
		t.Errorf("pine is %+v", c)
	}
	if c, ok := s.Colour("seed-paper"); !ok || c.Name != "Seed paper" { // keys follow from names
		t.Errorf("%+v", c)
	}
	text, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	if again := read(t, string(text)); !reflect.DeepEqual(s, again) {
		t.Errorf("%+v\ncomes back as\n%+v", s, again)
	}
}

func TestRefused(t *testing.T) {
	for name, c := range map[string]struct{ text, field, word string }{
		"no object":       {`[]`, "", "object"},
		"no JSON":         {`{`, "", "JSON"},
		"another version": {`{"version":2}`, "/version", "whole number"},
		"two colours, one name": {`{"colours":[{"name":"Pine","value":"#000"},{"name":"pine","value":"#111"}]}`,
			"/colours/1/name", "already a colour"},
		"two colours, one key": {
			`{"colours":[{"key":"a","name":"Pine","value":"#000"},{"key":"a","name":"Moss","value":"#111"}]}`, "/colours/1/key",
			"already a colour"},
		"a key that is none": {`{"colours":[{"key":"A b","name":"Pine","value":"#000"}]}`, "/colours/0/key",
			"small letters"},
		"a colour without value": {`{"colours":[{"name":"Pine"}]}`, "/colours/0/value", "six hexadecimal digits"},
		"a colour that is none":  {`{"colours":[{"name":"Pine","value":"greenish"}]}`, "/colours/0/value", "not a colour"},
		"a spot without plates": {`{"colours":[{"name":"Pine","value":{"screen":"#12352b","spot":"Pine"}}]}`,
			"/colours/0/value/cmyk", "stand in"},
		"no name":             {`{"colours":[{"value":"#000"}]}`, "/colours/0/name", "missing"},
		"a name of two lines": {`{"colours":[{"name":"a\nb","value":"#000"}]}`, "/colours/0/name", "line"},
		"two looks with one name": {`{"looks":[{"name":"Sign"},{"name":"Sign","key":"other"}]}`, "/looks/1/name",
			"already a look"},
		"a look that is wrong": {`{"looks":[{"name":"Sign","look":{"modules":{"join":"often"}}}]}`,
			"/looks/0/look/modules/join", "one of"},
		"a colour not there": {`{"looks":[{"name":"Sign","look":{"ink":{"style":"moss"}}}]}`, "/looks/0/look/ink",
			"no house style"},
		"a mark from nowhere": {`{"marks":[{"name":"M","source":"http://marrowby.example/m.svg"}]}`, "/marks/0/source",
			"names no drawing"},
		"room beyond reason": {`{"marks":[{"name":"M","source":"icon:leaf","clear":9}]}`, "/marks/0/clear",
			"between 0 and 4"},
		"a typeface not at hand": {`{"typefaces":["papyrus"]}`, "/typefaces/0", "at hand"},
		"a contrast beyond all":  {`{"rules":{"contrast":55}}`, "/rules/contrast", "between 0 and 1"},
		"a key nobody knows":     {`{"colors":[]}`, "/colors", "not a key"},
		"too many colours": {`{"colours":[` + strings.TrimSuffix(strings.Repeat(`{"name":"x","value":"#000"},`, 25), ",") +
			`]}`, "/colours", "at most 24"},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := style.Parse([]byte(c.text))
			found := false
			for _, p := range problems {
				found = found || p.Field == c.field && strings.Contains(p.Message, c.word)
			}
			if !found {
				t.Errorf("%s: want %s … %s, got %v", name, c.field, c.word, problems)
			}
		})
	}
}

// TestColoursOfTheHouse: a job names a colour of the house, and what is made of it stands on its own: the value with its inks
// and its key.
func TestColoursOfTheHouse(t *testing.T) {
	s := read(t, house)
	text := `{"content":{"kind":"text","text":"Sow thinly"},"look":{"ink":{"kind":"linear","stops":[{"colour":{"style":"pine"}},{"colour":"#000000"}]},"paper":{"style":"seed-paper"}}}`
	m, problems := compose.ParseIn([]byte(text), s, nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	frozen, err := json.Marshal(m.Job)
	if err != nil {
		t.Fatal(err)
	}
	alone, problems := compose.Parse(frozen, nil)
	if len(problems) > 0 || alone.Job.Digest() != m.Job.Digest() {
		t.Errorf("%s does not stand on its own: %v", frozen, problems)
	}
	if c := alone.Job.Look.Shade.Stops[0].Colour; c.Spot != "Marrowby Pine" || c.Style != "pine" {
		t.Errorf("%+v", c)
	}
	// The same with the house inline.
	inline, problems := compose.Parse([]byte(`{"style":`+house+`,`+text[1:]), nil)
	if len(problems) > 0 || inline.Job.Digest() != m.Job.Digest() {
		t.Errorf("inline: %v", problems)
	}
	// The house changes the colour: a draft follows, what was frozen does not.
	changed := read(t, strings.Replace(house, "#12352b", "#0b4a3a", 1))
	m2, _ := compose.ParseIn([]byte(text), changed, nil)
	if m2.Job.Look.Ink.String() != "#0b4a3a" {
		t.Errorf("a draft has %v", m2.Job.Look.Ink)
	}
	if alone, _ = compose.Parse(frozen, nil); alone.Job.Look.Ink.String() != "#12352b" {
		t.Errorf("a version in print has %v", alone.Job.Look.Ink)
	}
	// Without the house, the name of a colour alone says nothing.
	if _, problems = compose.Parse([]byte(text), nil); len(problems) == 0 || problems[0].Field != "/look/ink/stops/0/colour" {
		t.Errorf("%v", problems)
	}
}

func TestWear(t *testing.T) {
	s := read(t, house)
	sign, _ := s.Look("garden-sign")
	draft := decode(t,
		`{"look":{"ink":"#5b1f33","eyes":{"facing":"inward"},"mark":{"source":"icon:leaf"},"frame":{"shape":"rule","text":"See it grow"}}}`)
	got, _ := json.Marshal(style.Wear(draft, sign))
	if want := `{"frame":{"shape":"rule","text":"See it grow"},"ink":{"style":"pine"},"mark":{"source":"icon:leaf"},"modules":{"corner":1,"join":"rows"}}`; string(got) != want {
		t.Errorf("wears %s, want %s", got, want)
	}
	framed := style.Look{Wear: decode(t, `{"frame":{"shape":"label","text":"Grown here"}}`)}
	if got, _ := json.Marshal(style.Wear(draft, framed)); !strings.Contains(string(got),
		`{"shape":"label","text":"See it grow"}`) {
		t.Errorf("the words of the code are lost: %s", got)
	}
	if got, _ := json.Marshal(style.Wear(decode(t, `{}`), framed)); !strings.Contains(string(got), "Grown here") {
		t.Errorf("a code without words gets none: %s", got)
	}
	if got, _ := json.Marshal(style.Take(draft)); strings.Contains(string(got), "See it grow") ||
		!strings.Contains(string(got), `"shape":"rule"`) {
		t.Errorf("kept is %s", got)
	}
}

func TestRules(t *testing.T) {
	for _, c := range []struct{ name, house, look, want string }{
		{"of the house", house, `{"ink":{"style":"pine"}}`, ""},
		{"free to choose", house, `{"ink":"#5b1f33"}`, ""},
		{"too pale for it", house, `{"ink":"#9a9a9a","paper":{"style":"seed-paper"}}`, "style.contrast"},
		{"a mark too tight", house, `{"ink":"#000000","mark":{"source":"icon:sprout"}}`, "style.clear"},
		{"a mark with room", house, `{"ink":"#000000","mark":{"source":"icon:sprout","pad":2}}`, ""},
		{"locked", locked, `{"ink":{"style":"pine"},"paper":{"style":"seed-paper"}}`, ""},
		{"locked, on white", locked, `{"ink":{"style":"pine"}}`, ""},
		{"locked, another ink", locked, `{"ink":"#5b1f33"}`, "style.colour"},
		{"locked, the same value without its name", locked, `{"ink":"#12352b"}`, "style.colour"},
		{"locked, another mark", locked, `{"ink":{"style":"pine"},"mark":{"source":"icon:leaf"}}`, "style.mark"},
		{"locked, another typeface", locked, `{"ink":{"style":"pine"},"frame":{"shape":"rule","text":"See it grow"}}`,
			"style.typeface"},
		{"locked, its typeface", locked, `{"ink":{"style":"pine"},"frame":{"shape":"rule","text":"See it grow","font":"bitter"}}`,
			""},
		{"locked, another typeface of the caption", locked, `{"ink":{"style":"pine"},"caption":{"text":"See it grow"}}`,
			"style.caption"},
		{"locked, many things", locked,
			`{"ink":"#9a9a9a","eyes":{"ring":{"ink":"#bbbbbb"}},"frame":{"shape":"rule","ink":"#123456"}}`,
			"style.contrast style.colour"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := read(t, c.house)
			wears := func(v any) look.Look {
				var problems problem.List
				l := look.Read(fields.Open(s.Resolve(v), "/look", &problems))
				if len(problems) > 0 {
					t.Fatalf("%s: %v", c.name, problems)
				}
				return l
			}
			v := decode(t, c.look)
			breaches := s.Check(wears(v))
			var got []string
			for _, b := range breaches {
				got = append(got, b.Code)
			}
			if strings.Join(got, " ") != c.want {
				t.Errorf("%s: %v, want %s", c.name, got, c.want)
			}
			for _, b := range breaches { // what it offers mends it
				if b.Label == "" {
					continue
				}
				after, _, err := b.Patch.Apply(map[string]any{"look": v})
				if err != nil {
					t.Errorf("%s: %q: %v", c.name, b.Label, err)
					continue
				}
				for _, left := range s.Check(wears(after.(map[string]any)["look"])) {
					if left.Code == b.Code {
						t.Errorf("%s: %q leaves %s", c.name, b.Label, left.Message)
					}
				}
			}
		})
	}
}

var locked = strings.Replace(house, `{"name":"Marrowby"`, `{"name":"Marrowby","locked":true`, 1)

// TestAround: a rule of the house is a remark that leaves the verdict as it is.
func TestAround(t *testing.T) {
	s := read(t, locked)
	m, problems := compose.ParseIn([]byte(`{"content":{"kind":"text","text":"Sow thinly"},"look":{"ink":"#5b1f33"}}`), s, nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	p := &proof.Proof{Verdict: proof.Safe}
	got := proof.Around(p, proof.Input{Content: m.Job.Content, Look: m.Job.Look}, proof.Context{House: s})
	if got.Verdict != proof.Safe || len(got.Findings) != 1 || got.Findings[0].Code != "style.colour" ||
		got.Findings[0].Fix == nil || got.Findings[0].Fix.Label != "Print it in Pine" {
		t.Errorf("%+v", got.Findings)
	}
}

func TestVariations(t *testing.T) {
	s := read(t, house)
	draft := decode(t,
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":"#5b1f33","mark":{"source":"icon:leaf","width":0.2},"frame":{"shape":"rule","text":"See it grow"}}}`)
	for _, h := range []*style.Style{nil, {}, s} {
		seen := map[string]bool{}
		for seed := range uint64(20) {
			for k := range 3 * style.Variations {
				v := style.Vary(draft, h, seed, k)
				text, err := json.Marshal(v)
				if err != nil {
					t.Fatal(err)
				}
				if again, _ := json.Marshal(style.Vary(draft, h, seed, k)); string(again) != string(text) {
					t.Fatalf("seed %d, %d: %s, then %s", seed, k, text, again)
				}
				seen[string(text)] = true
				after, _, err := style.Changes(v).Apply(draft)
				if err != nil {
					t.Fatal(err)
				}
				if m, _, problems := compose.Read(h.Job(after), nil); len(problems) > 0 {
					t.Fatalf("%s: %v", text, problems)
				} else if c := ink.Contrast(m.Job.Look.Palest().Colour, m.Job.Look.Paper.Colour); c < 0.55 {
					t.Errorf("%s has a contrast of %.2f", text, c)
				} else if m.Job.Look.Mark.Source != "icon:leaf" || m.Job.Look.Frame.Text != "See it grow" {
					t.Errorf("%s has lost mark or frame", text)
				}
			}
		}
		if len(seen) < 20*3*style.Variations*9/10 {
			t.Errorf("only %d different ones", len(seen))
		}
	}
}
