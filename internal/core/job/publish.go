package job

import (
	"bytes"
	_ "embed"
	"encoding/json"

	"sodrik/internal/core/content"
	"sodrik/internal/core/motif"
	"sodrik/internal/core/place"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/typeface"
)

// shared are the definitions that the published schema keeps by hand: colours, whose JSON has several forms, and the house
// style, which is read by package style.
//
//go:embed shared.schema.json
var shared []byte

// Schema is the JSON Schema (draft 2020-12) of the job file, made from the declared fields.
func Schema() ([]byte, error) {
	p := schema.Publisher{Defs: map[string]any{}}
	if err := json.Unmarshal(shared, &p.Defs); err != nil {
		return nil, err
	}
	names := func(list []schema.Choice) any { return map[string]any{"enum": schema.Values(list)} }
	var motifs, faces, media, substrates []schema.Choice
	for _, m := range motif.All {
		motifs = append(motifs, schema.Choice{Value: m.Key})
	}
	for _, f := range typeface.Faces {
		faces = append(faces, schema.Choice{Value: f.Key})
	}
	for _, m := range place.Media {
		media = append(media, schema.Choice{Value: m.Key})
	}
	for _, s := range place.Substrates {
		substrates = append(substrates, schema.Choice{Value: s.Key})
	}
	p.Defs["motif"], p.Defs["medium-key"], p.Defs["substrate"] = names(motifs), names(media), names(substrates)
	p.Defs["typeface"] = map[string]any{
		"anyOf":   []any{names(faces), map[string]any{"type": "string", "pattern": "^asset:sha256-[0-9a-f]{64}$"}},
		"default": typeface.Faces[0].Key, "description": "asset: is a font that was taken in under House style.",
	}
	root := p.Part(&Fields).(map[string]any)
	var kinds []any
	for _, k := range content.Register() {
		of := p.Part(k.Fields).(map[string]any)
		delete(of, "type")
		of["properties"].(map[string]any)["kind"] = map[string]any{"const": k.Key}
		required, _ := of["required"].([]any)
		of["required"] = append([]any{"kind"}, required...)
		p.Defs[k.Key] = of
		kinds = append(kinds, map[string]any{"$ref": "#/$defs/" + k.Key})
	}
	root["properties"].(map[string]any)["content"] = map[string]any{"type": "object", "required": []any{"kind"}, "oneOf": kinds}
	root["$schema"], root["title"], root["$defs"] = "https://json-schema.org/draft/2020-12/schema", "Sodrik job file", p.Defs
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	err := e.Encode(root)
	return b.Bytes(), err
}
