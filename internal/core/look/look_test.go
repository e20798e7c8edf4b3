package look

import (
	"encoding/json"
	"strings"
	"testing"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
)

func parse(t *testing.T, text string) (Look, problem.List) {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	var problems problem.List
	l := Read(fields.Open(v, "/look", &problems))
	return l, problems
}

// TestRoundTrip: what a look writes of itself reads as the same look, and writes nothing that is as usual.
func TestRoundTrip(t *testing.T) {
	for _, text := range []string{`{}`, `{"ink":"#12352b"}`, `{"modules":{"corner":0.5,"join":"rows"}}`,
		`{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#1f3a5a"}]}}`,
		`{"ink":{"kind":"radial","stops":[{"at":0.2,"colour":"#12352b"},{"at":0.5,"colour":"#000000"},{"at":1,"colour":"#1f3a5a"}]}}`, `{"modules":{"join":"none","motif":"leaf","scale":0.8}}`, `{"modules":{"join":"none","motif":"custom","path":"M0 0H1V1H0Z"}}`,
		`{"eyes":{"core":{"motif":"disc","scale":1.1},"facing":"inward","ring":{"corners":[1,0,1,0],"ink":"#5b1f33","texture":"modules"}}}`, `{"mark":{"source":"icon:sprout"}}`, `{"frame":{"shape":"packet"}}`, `{"frame":{"font":"caveat","ink":"#12352b","shape":"label","size":0.8,"text":"Sow now","text_ink":"#5b1f33"}}`, `{"frame":{"font":"vazirmatn","shape":"rule","text":"بذور"}}`, `{"mark":{"clear":"outline","crop":"round","ground":"cut","ink":"#12594a","pad":0.5,"reserve":0.5,"source":"data:image/png;base64,AA","width":0.3,"x":0.4,"y":0.6}}`,
		`{"eyes":{"alignment":"eyes","each":[{},{"core":{"motif":"leaf"}}],"ring":{"corners":[1,1,1,1]}}}`} {
		t.Run(text, func(t *testing.T) {
			l, problems := parse(t, text)
			if len(problems) > 0 {
				t.Errorf("%s: %v", text, problems)
			}
			b, err := json.Marshal(l)
			if err != nil || string(b) != text {
				t.Errorf("%s is written as %s, %v", text, b, err)
			}
		})
	}
}

func TestRefused(t *testing.T) {
	for text, field := range map[string]string{
		`{"ink":"pine"}`: "/look/ink", `{"ink":"#ffffff"}`: "/look/ink", `{"modules":{"corner":1.1}}`: "/look/modules/corner",
		`{"modules":{"scale":0.2}}`: "/look/modules/scale", `{"modules":{"motif":"gnome"}}`: "/look/modules/motif",
		`{"modules":{"motif":"custom"}}`:                        "/look/modules/path",
		`{"modules":{"motif":"custom","path":"M0 0H.3V.3H0Z"}}`: "/look/modules/path",
		`{"modules":{"motif":"custom","path":"M0 0H3V1H0Z"}}`:   "/look/modules/path",
		`{"modules":{"path":"M0 0"}}`:                           "/look/modules/path",
		`{"eyes":{"ring":{"corners":[1]}}}`:                     "/look/eyes/ring/corners",
		`{"eyes":{"ring":{"corners":[1,0,0,-1]}}}`:              "/look/eyes/ring/corners/3",
		`{"eyes":{"core":{"ink":"redd"}}}`:                      "/look/eyes/core/ink",
		`{"eyes":{"each":[{"ring":{"texture":"wool"}}]}}`:       "/look/eyes/each/0/ring/texture",
		`{"mark":{}}`: "/look/mark/source", `{"frame":{}}`: "/look/frame/shape",
		`{"frame":{"shape":"cloud"}}`: "/look/frame/shape", `{"frame":{"shape":"rule","text":"🌱"}}`: "/look/frame/text",
		`{"frame":{"shape":"rule","text":"種"}}`: "/look/frame/text", `{"frame":{"shape":"rule","text":"` +
			strings.Repeat("x", 300) + `"}}`: "/look/frame/text", `{"frame":{"shape":"rule","font":"serif"}}`: "/look/frame/font",
		`{"frame":{"shape":"rule","size":3}}`:                                       "/look/frame/size",
		`{"frame":{"shape":"rule","text_ink":"redd"}}`:                              "/look/frame/text_ink",
		`{"mark":{"source":"sprout"}}`:                                              "/look/mark/source",
		`{"mark":{"source":"/etc/logo.svg"}}`:                                       "/look/mark/source",
		`{"mark":{"source":"icon:leaf","width":0.6}}`:                               "/look/mark/width",
		`{"mark":{"source":"icon:leaf","clear":"star"}}`:                            "/look/mark/clear",
		`{"mark":{"source":"icon:leaf","x":-1}}`:                                    "/look/mark/x",
		`{"hat":1}`:                                                                 "/look/hat",
		`{"ink":{"kind":"linear","stops":[{"at":0,"colour":"#12352b"}]}}`:           "/look/ink/stops",
		`{"ink":{"kind":"linear"}}`:                                                 "/look/ink/stops",
		`{"ink":{"kind":"spiral","stops":[{"colour":"#000"},{"colour":"#111"}]}}`:   "/look/ink/kind",
		`{"ink":{"stops":[{"at":0.9,"colour":"#000"},{"at":0.1,"colour":"#111"}]}}`: "/look/ink/stops/1/at",
		`{"ink":{"stops":[{"at":0,"colour":"#000"},{"at":2,"colour":"#111"}]}}`:     "/look/ink/stops/1/at",
		`{"ink":{"stops":[{"colour":"#000"},{"colour":"pine"}]}}`:                   "/look/ink/stops/1/colour",
	} {
		t.Run(text, func(t *testing.T) {
			if _, problems := parse(t, text); len(problems) == 0 || problems[0].Field != field {
				t.Errorf("%s: %v, want a problem at %s", text, problems, field)
			}
		})
	}
}
