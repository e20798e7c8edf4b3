package job

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/place"
)

func TestParse(t *testing.T) {
	const full = `{"version":1,"name":"Gate poster","content":{"kind":"url","url":"https://marrowby.example/fair"},
		"symbol":{"level":"auto","min_version":1,"max_version":40,"mask":"auto","quiet_zone":4},"look":{"ink":"#12352B","paper":"#ffffff"},
		"placements":[{"name":"gate","medium":"poster-a2","substrate":"uncoated","width_mm":160,"distance_mm":1500,"light":"outdoor"}],
		"output":{"colour":"rgb","dpi":300,"bleed_mm":0,"marks":false}}`
	j, problems := Parse([]byte(full))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	b, _ := j.MarshalJSON()
	const canonical = `{"version":1,"name":"Gate poster","content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":"#12352b"},` +
		`"placements":[{"name":"gate","medium":"poster-a2","substrate":"uncoated","width_mm":160,"distance_mm":1500,"light":"outdoor"}]}`
	if string(b) != canonical {
		t.Errorf("canonical form\n%s, want\n%s", b, canonical)
	}
	again, problems := Parse(b)
	if len(problems) > 0 || again.Digest() != j.Digest() {
		t.Errorf("the canonical form has another digest: %v", problems)
	}
	brief,
		problems := Parse([]byte(
		`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"card","medium":"business-card"},{"name":"x","width_mm":50}]}`))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	card, plain := place.Placement{Name: "card", Medium: "business-card", Substrate: "coated", Width: 22, Distance: 200,
		Light: "indoor"}, place.Placement{Name: "x", Substrate: "coated", Width: 50, Distance: 500, Light: "indoor"}
	if got := brief.Placements; !slices.Equal(got, []place.Placement{card, plain}) {
		t.Errorf("habits and defaults: %+v", got)
	}
	if p, ok := brief.Placement("x"); !ok || p.Width != 50 {
		t.Errorf("placement x: %v %v", p, ok)
	}
}

func TestProblems(t *testing.T) {
	ok := `"content":{"kind":"url","url":"m.example"}`
	for text, want := range map[string]string{
		``:                            "",
		`[]`:                          "",
		`{"content":1} x`:             "",
		`{}`:                          "content",
		`{"version":2,` + ok + `}`:    "version",
		`{"colour":"red",` + ok + `}`: "colour",
		`{"name":7,` + ok + `}`:       "name",
		`{"name":"` + strings.Repeat("x", 121) + `",` + ok + `}`:                            "name",
		`{` + ok + `,"look":{"inc":"#000"}}`:                                                "look.inc",
		`{` + ok + `,"look":{"ink":"pine"}}`:                                                "look.ink",
		`{` + ok + `,"look":{"ink":"#fff"}}`:                                                "look.ink",
		`{` + ok + `,"look":{"paper":"#00"}}`:                                               "look.paper",
		`{` + ok + `,"look":[]}`:                                                            "look",
		`{` + ok + `,"symbol":{"level":"X"}}`:                                               "symbol.level",
		`{` + ok + `,"symbol":{"mask":8}}`:                                                  "symbol.mask",
		`{` + ok + `,"symbol":{"mask":"best"}}`:                                             "symbol.mask",
		`{` + ok + `,"symbol":{"min_version":5,"max_version":4}}`:                           "symbol.max_version",
		`{` + ok + `,"symbol":{"min_version":1.5}}`:                                         "symbol.min_version",
		`{` + ok + `,"symbol":{"quiet_zone":-1}}`:                                           "symbol.quiet_zone",
		`{` + ok + `,"symbol":{"boost":"no"}}`:                                              "symbol.boost",
		`{` + ok + `,"placements":{}}`:                                                      "placements",
		`{` + ok + `,"placements":[{"name":"a"}]}`:                                          "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":0}]}`:                             "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":-5}]}`:                            "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":4000}]}`:                          "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":"abc"}]}`:                         "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":1e999}]}`:                         "placements.0.width_mm",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"distance_mm":1}]}`:            "placements.0.distance_mm",
		`{` + ok + `,"placements":[{"width_mm":50}]}`:                                       "placements.0.name",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50},{"name":"a","width_mm":60}]}`: "placements.1.name",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"medium":"airship"}]}`:         "placements.0.medium",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"substrate":"cheese"}]}`:       "placements.0.substrate",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"light":"moon"}]}`:             "placements.0.light",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"background":"dark"}]}`:        "placements.0.background",
		`{` + ok + `,"placements":[{"name":"a","width_mm":50,"w/h":1}]}`:                    "placements.0.w/h",
		`{` + ok + `,"output":{"dpi":5}}`:                                                   "output.dpi",
		`{` + ok + `,"output":{"colour":"cmyk"}}`:                                           "output.colour",
		`{` + ok + `,"output":{"bleed_mm":21}}`:                                             "output.bleed_mm",
		`{` + ok + `,"output":{"marks":"all"}}`:                                             "output.marks",
	} {
		t.Run(text, func(t *testing.T) {
			_, problems := Parse([]byte(text))
			if len(problems) != 1 || problems[0].Dotted() != want || problems[0].Message == "" || problems[0].Code == "" {
				t.Errorf("%.90s: %v, want one at %q", text, problems, want)
			}
		})
	}
	_, problems := Parse([]byte(`{"look":{"ink":"x","paper":"y"},"symbol":{"level":"Z"},"extra":1}`))
	if len(problems) != 5 {
		t.Errorf("one pass finds %d problems, there are 5:\n%v", len(problems), problems)
	}
	if _, problems := Parse(make([]byte, MaxBytes+1)); len(problems) != 1 {
		t.Error("a file over the limit was read")
	}
}

// TestEdit: typed text becomes a patch that fits a draft with or without the objects above it, or a problem.
func TestEdit(t *testing.T) {
	const draft = `{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":50}]}`
	for _, c := range []struct{ path, text, want string }{
		{"/content/url", " x ", `{"content":{"kind":"url","url":" x "},"placements":[{"name":"a","width_mm":50}]}`},
		{"/look/ink", "#123456 ",
			`{"content":{"kind":"url","url":"m.example"},"look":{"ink":"#123456"},"placements":[{"name":"a","width_mm":50}]}`},
		{"/look/ink", " ", draft},
		{"/content/tags/source", "gate",
			`{"content":{"kind":"url","tags":{"source":"gate"},"url":"m.example"},"placements":[{"name":"a","width_mm":50}]}`},
		{"/placements/0/width_mm", "2 in",
			`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":50.8}]}`},
		{"/placements/0/medium", "business-card",
			`{"content":{"kind":"url","url":"m.example"},"placements":[{"distance_mm":200,"light":"indoor","medium":"business-card","name":"a","substrate":"coated","width_mm":22}]}`},
		{"/symbol/mask", "3",
			`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":50}],"symbol":{"mask":3}}`},
		{"/symbol/mask", "auto",
			`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":50}],"symbol":{"mask":"auto"}}`},
	} {
		t.Run(c.path, func(t *testing.T) {
			before, _ := fields.Decode([]byte(draft))
			p, bad := Edit(before, c.path, c.text)
			if bad != nil {
				t.Errorf("%s %q: %v", c.path, c.text, bad)
				return
			}
			after, _, err := p.Apply(before)
			b, _ := json.Marshal(after)
			if err != nil || string(b) != c.want {
				t.Errorf("%s %q: %s %v, want %s", c.path, c.text, b, err, c.want)
			}
		})
	}
	for path, text := range map[string]string{"/placements/0/width_mm": "abc", "/placements/0/distance_mm": "",
		"/symbol/quiet_zone": "four", "/output/dpi": "1e3", "/version": "2", "/content": "{}"} {
		t.Run(path, func(t *testing.T) {
			if p, bad := Edit(map[string]any{}, path, text); bad == nil || p != nil || bad.Field != path {
				t.Errorf("%s %q: %v %v", path, text, p, bad)
			}
		})
	}
	if got := Words(nil, "/look/ink", "#12594a"); got != "ink to #12594a" {
		t.Errorf("words %q", got)
	}
	if got := Words(nil, "/content/url", strings.Repeat("ü", 60)); len([]rune(got)) != 51 {
		t.Errorf("words %q", got)
	}
}

// FuzzParse: a job without problems has a canonical form that reads back as itself.
func FuzzParse(f *testing.F) {
	f.Add(
		[]byte(
			`{"content":{"kind":"url","url":"m.example","tags":{"term":"x"}},"symbol":{"level":"L","boost":false,"mask":2},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":12.3456,"background":"#123"}]}`))
	f.Add([]byte(`{"content":null,"look":{"ink":"#000"},"x":[]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		j, problems := Parse(text)
		if len(problems) > 0 {
			return
		}
		b, err := j.MarshalJSON()
		if err != nil {
			t.Fatal(err)
		}
		again, problems := Parse(b)
		if len(problems) > 0 || again.Digest() != j.Digest() {
			t.Fatalf("%s became %s: %v", text, b, problems)
		}
	})
}

// TestColourDifferences: a colour is one thing, however it is given.
func TestColourDifferences(t *testing.T) {
	with := func(ink string) *Job {
		j, problems := Parse([]byte(`{"content":{"kind":"text","text":"a"},"look":{"ink":` + ink +
			`},"style":{"colours":[{"key":"pine","name":"Pine","value":"#12352b"}]}}`))
		if len(problems) > 0 {
			t.Fatal(ink, problems)
		}
		return j
	}
	for _, c := range [][3]string{
		{`"#12352b"`, `{"cmyk":[80,30,70,40]}`, "ink #12352b → C 80 M 30 Y 70 K 40"},
		{`{"cmyk":[80,30,70,40]}`, `{"spot":"Marrowby Pine","cmyk":[80,30,70,40]}`,
			"ink C 80 M 30 Y 70 K 40 → spot ink Marrowby Pine"},
		{`"#5b1f33"`,
			`{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":{"cmyk":[0,80,70,10]}}]}`,
			"ink #5b1f33 → linear gradient, #12352b at 0 %, C 0 M 80 Y 70 K 10 at 100 %, turned 30°"},
		{`{"cmyk":[0,0,0,100]}`, `{"cmyk":[0,0,0,90]}`, "ink C 0 M 0 Y 0 K 100 → C 0 M 0 Y 0 K 90"},
		{`{"cmyk":[80,30,70,40]}`, `{"style":"pine"}`, "ink C 80 M 30 Y 70 K 40 → the house's pine"},
	} {
		d := Differences(with(c[0]), with(c[1]))
		if len(d) != 1 || d[0].String() != c[2] || d[0].Path != "/look/ink" {
			t.Errorf("%s, %s: %v, want %s", c[0], c[1], d, c[2])
		}
	}
}
