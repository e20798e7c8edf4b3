package job

import (
	"bytes"
	"os"
	"slices"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"sodrik/internal/core/place"
)

// TestSchema holds the published schema against what is read: a standard validator and Parse agree on every sample.
func TestSchema(t *testing.T) {
	text, err := os.ReadFile("../../../docs/job.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("job.json", doc); err != nil {
		t.Fatal(err)
	}
	schema, err := c.Compile("job.json")
	if err != nil {
		t.Fatal(err)
	}
	const ok = `"content":{"kind":"url","url":"m.example"}`
	for _, sample := range []string{
		`{` + ok + `}`, `{"version":1,"name":"x",` + ok + `}`, `{"version":2,` + ok + `}`, `{}`, `[]`, `{` + ok + `,"extra":1}`,
		`{"content":{"kind":"url"}}`, `{"content":{"kind":"url","url":""}}`, `{"content":{"kind":"url","url":"m.example","tags":{"source":"a"}}}`, `{"content":{"kind":"url","url":"m.example","tags":{"sauce":"a"}}}`,
		`{` + ok + `,"symbol":{"level":"Q","boost":false,"mask":7,"quiet_zone":0,"kanji":true,"min_version":3}}`, `{` + ok + `,"symbol":{"mask":8}}`, `{` + ok + `,"symbol":{"level":"X"}}`, `{` + ok + `,"symbol":{"quiet_zone":41}}`,
		`{` + ok + `,"look":{"ink":"#123","paper":"none"}}`, `{` + ok + `,"look":{"ink":"pine"}}`, `{` + ok + `,"look":{"paper":7}}`,
		`{` + ok + `,"placements":[]}`, `{` + ok + `,"placements":[{"name":"a"}]}`, `{` + ok + `,"placements":[{"name":"a","medium":"slide"}]}`, `{` + ok + `,"placements":[{"name":"a","width_mm":4}]}`,
		`{` + ok + `,"placements":[{"name":"a","width_mm":5,"distance_mm":30,"light":"dim","substrate":"kraft","background":"#000"}]}`, `{` + ok + `,"placements":[{"name":"a","width_mm":5,"light":"moon"}]}`,
		`{` + ok + `,"output":{"colour":"rgb","dpi":300,"bleed_mm":0,"marks":false}}`, `{` + ok + `,"output":{"dpi":1}}`, `{` + ok + `,"output":{"marks":true}}`,
	} {
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader([]byte(sample)))
		if err != nil {
			t.Fatal(err)
		}
		_, problems := Parse([]byte(sample))
		if bySchema := schema.Validate(v); (bySchema == nil) != (len(problems) == 0) {
			t.Errorf("%s: the schema says %v, reading says %v", sample, bySchema, problems)
		}
	}
	// The lists of names are written twice; they must be the same.
	root := doc.(map[string]any)["properties"].(map[string]any)["placements"].(map[string]any)["items"].(map[string]any)["properties"].(map[string]any)
	names := func(key string) (out []string) {
		for _, v := range root[key].(map[string]any)["enum"].([]any) {
			out = append(out, v.(string))
		}
		return out
	}
	var media, substrates []string
	for _, m := range place.Media {
		media = append(media, m.Key)
	}
	for _, s := range place.Substrates {
		substrates = append(substrates, s.Key)
	}
	if !slices.Equal(names("medium"), media) || !slices.Equal(names("substrate"), substrates) || !slices.Equal(names("light"), place.Lights) {
		t.Error("the schema's media, substrates or lights are not those of package place")
	}
}
