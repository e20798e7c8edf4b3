package schema

import (
	"bytes"
	"encoding/json"
	"math"
	"reflect"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
)

// Member is one key of a JSON object with its value.
type Member struct {
	Key   string
	Value any
}

// Members is a JSON object whose keys stand in the order of the table.
type Members []Member

// MarshalJSON writes the object.
func (m Members) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	b.WriteByte('{')
	for i, x := range m {
		if i > 0 {
			b.WriteByte(',')
		}
		key, err := json.Marshal(x.Key)
		if err != nil {
			return nil, err
		}
		b.Write(key)
		b.WriteByte(':')
		if err := e.Encode(x.Value); err != nil {
			return nil, err
		}
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}

// Map is the object with its keys in no order, which encoding/json writes sorted.
func (m Members) Map() map[string]any {
	out := map[string]any{}
	for _, x := range m {
		out[x.Key] = x.Value
	}
	return out
}

// Write gives the object of a part in canonical form: what is as in like, or as by default where like is nil, is left out.
func (p *Part) Write(part, like any) (out Members) {
	if like == nil {
		like = p.New()
	}
	for i := range p.Fields {
		f := &p.Fields[i]
		if f.Typed || f.At == nil && f.Write == nil {
			continue
		}
		if v := f.value(part, like); v != nil {
			out = append(out, Member{f.Key, v})
		}
	}
	return out
}

// value is what a field holds, nil where it is left out.
func (f *Field) value(part, like any) any {
	if f.Write != nil {
		return f.Write(part)
	}
	kept := f.Required || f.Always
	switch at := f.At(part).(type) {
	case *string:
		return unless(*at, *f.At(like).(*string), kept)
	case *bool:
		return unless(*at, *f.At(like).(*bool), kept)
	case *int:
		return unless(*at, *f.At(like).(*int), kept)
	case *float64:
		return unless(*at, *f.At(like).(*float64), kept)
	case *measure.Length:
		return unless(Millimetres(*at), Millimetres(*f.At(like).(*measure.Length)), kept)
	case *[4]float64:
		return unless(*at, *f.At(like).(*[4]float64), kept)
	case *ink.Colour:
		return unless(*at, *f.At(like).(*ink.Colour), kept)
	case **ink.Colour:
		if *at == nil {
			return nil
		}
		return **at
	case OwnInk:
		other := f.At(like).(OwnInk)
		if !*at.Has || *other.Has && *at.Colour == *other.Colour {
			return nil
		}
		return *at.Colour
	default:
		return f.nested(at, f.At(like), kept)
	}
}

func (f *Field) nested(at, like any, kept bool) any {
	if f.Type == List {
		list := reflect.ValueOf(at).Elem()
		if list.Len() == 0 {
			return nil
		}
		out := make([]any, list.Len())
		for i := range out {
			out[i] = f.Part.Write(list.Index(i).Addr().Interface(), nil).Map()
		}
		return out
	}
	if n, optional := at.(None); optional {
		if n.None() {
			return nil
		}
		like = nil
	} else if !kept && reflect.DeepEqual(at, like) {
		return nil
	}
	m := f.Part.Write(at, like)
	if len(m) == 0 && !kept {
		return nil
	}
	return m.Map()
}

func unless[T comparable](v, like T, kept bool) any {
	if v == like && !kept {
		return nil
	}
	return v
}

// Millimetres is a length as the file has it: to a thousandth, so that 2 in is 50.8 mm and not 50.799999.
func Millimetres(l measure.Length) float64 { return math.Round(float64(l)*1000) / 1000 }
