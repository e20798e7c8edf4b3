package schema

import (
	"encoding/json"
	"maps"

	"sodrik/internal/core/measure"
)

// Publisher writes parts as JSON Schema (draft 2020-12), those with a name once, under $defs.
type Publisher struct{ Defs map[string]any }

// Shared notes a definition that is written by hand, as JSON.
func (p *Publisher) Shared(name, text string) { p.Defs[name] = Raw(text) }

// Raw is JSON as a decoded value; it panics where it is none.
func Raw(text string) any {
	var v any
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		panic("schema: " + err.Error() + " in " + text)
	}
	return v
}

func ref(name string) map[string]any { return map[string]any{"$ref": "#/$defs/" + name} }

// Part is the schema of a part.
func (p *Publisher) Part(part *Part) any {
	if part.Name == "" {
		return p.object(part)
	}
	if _, known := p.Defs[part.Name]; !known {
		p.Defs[part.Name] = nil // it may stand in itself
		p.Defs[part.Name] = p.object(part)
	}
	return ref(part.Name)
}

func (p *Publisher) object(part *Part) map[string]any {
	properties, required := map[string]any{}, []any{}
	like := part.New()
	for i := range part.Fields {
		f := &part.Fields[i]
		if f.Typed {
			continue
		}
		properties[f.Key] = p.Field(f, like)
		if f.Required {
			required = append(required, f.Key)
		}
	}
	out := map[string]any{"type": "object", "additionalProperties": false, "properties": properties}
	if len(required) > 0 {
		out["required"] = required
	}
	if part.About != "" {
		out["description"] = part.About
	}
	if part.Rules != "" {
		maps.Copy(out, Raw("{"+part.Rules+"}").(map[string]any))
	}
	return out
}

// Field is the schema of a field of a part whose defaults are like's.
func (p *Publisher) Field(f *Field, like any) any {
	var out map[string]any
	switch {
	case f.Schema != "":
		out = Raw(f.Schema).(map[string]any)
	case f.Def != "":
		if _, known := p.Defs[f.Def]; !known {
			bare := *f
			bare.Def, bare.About = "", ""
			p.Defs[f.Def] = p.value(&bare)
		}
		out = ref(f.Def)
	default:
		out = p.value(f)
	}
	if f.At != nil && f.Leaf() && !f.Required {
		if v := f.given(like); v != nil {
			out["default"] = v
		}
	}
	if f.About != "" {
		out["description"] = f.About
	}
	return out
}

// given is the default of a field, nil where it has none to speak of.
func (f *Field) given(like any) any {
	bare := *f
	bare.Always = true
	switch v := bare.value(like, like).(type) {
	case string:
		if v == "" {
			return nil
		}
		return v
	case float64:
		if f.Least > v || v == 0 && f.Least != 0 {
			return nil
		}
		return v
	case int:
		if f.Least > float64(v) {
			return nil
		}
		return v
	case bool:
		return v
	}
	return nil
}

func (p *Publisher) value(f *Field) map[string]any {
	values := f.Values()
	enum := func() []any {
		var out []any
		if !f.Required && f.Keep {
			out = append(out, "")
		}
		for _, v := range values {
			out = append(out, v)
		}
		return out
	}
	switch f.Type {
	case Flag:
		return map[string]any{"type": "boolean"}
	case Whole, Number, Share, Length:
		out := map[string]any{"type": "number", "minimum": f.Least, "maximum": f.Most}
		if f.Type == Whole {
			out["type"] = "integer"
		}
		for _, v := range values { // "auto"; figures are numbers
			if _, isNumber := measure.ParseDecimal(v); !isNumber {
				return map[string]any{"anyOf": []any{map[string]any{"const": v}, out}}
			}
		}
		return out
	case Colour:
		return ref("colour")
	case Ink:
		return map[string]any{"anyOf": []any{ref("colour"), p.Part(f.Part)}}
	case Object:
		return any(p.Part(f.Part)).(map[string]any)
	case List:
		out := map[string]any{"type": "array"}
		if f.Item != nil {
			out["items"] = p.Field(f.Item, nil)
		} else {
			out["items"] = p.Part(f.Part)
		}
		if f.Most > 0 {
			out["maxItems"] = f.Most
		}
		if f.Least > 0 {
			out["minItems"] = f.Least
		}
		return out
	case Map:
		return map[string]any{"type": "object", "propertyNames": map[string]any{"pattern": f.Keys.String()},
			"additionalProperties": p.Field(f.Entry(""), nil)}
	}
	if len(values) > 0 && !f.Open {
		return map[string]any{"enum": enum()}
	}
	out := map[string]any{"type": "string"}
	if f.Required {
		out["minLength"] = 1
	}
	if f.Most > 0 {
		out["maxLength"] = f.Most
	}
	if f.Pattern != "" {
		out["pattern"] = f.Pattern
	}
	return out
}
