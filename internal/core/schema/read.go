package schema

import (
	"math"
	"reflect"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
)

// Reader is a JSON object that is read.
type Reader = *fields.Object

// OwnInk is where a part keeps a colour, and that it has one of its own.
type OwnInk struct {
	Colour *ink.Colour
	Has    *bool
}

// None is a part that may be absent: what is read of it starts from its defaults, and while it is none it is not written.
type None interface{ None() bool }

// Read fills a part from an object, every problem noted. What is not given, or cannot be read, stays as it is in the part:
// give it with its defaults. It does not close the object.
func (p *Part) Read(o Reader, into any) {
	for i := range p.Fields {
		p.Fields[i].read(o, into)
	}
}

func (f *Field) read(o Reader, part any) {
	switch {
	case f.Typed:
		return
	case f.Read != nil:
		f.Read(o, part)
		return
	case f.At == nil || !o.Has(f.Key):
		o.Any(f.Key)
		if f.Required && len(f.Options()) > 0 {
			f.missing(o)
		}
		return
	}
	switch at := f.At(part).(type) {
	case *string:
		f.readText(o, at)
	case *bool:
		*at = o.Bool(f.Key, *at)
	case *int:
		*at = o.Int(f.Key, *at, int(f.Least), int(f.Most))
	case *float64:
		*at = f.ReadNumber(o, *at)
	case *measure.Length:
		*at = measure.Length(f.ReadNumber(o, float64(*at)))
	case **ink.Colour:
		if c, ok := ink.Read(o, f.Key, f.Example); ok {
			*at = &c
		}
	case *ink.Colour:
		if c, ok := ink.Read(o, f.Key, f.Example); ok {
			*at = c
		}
	case OwnInk:
		if c, ok := ink.Read(o, f.Key, f.Example); ok {
			*at.Colour, *at.Has = c, true
		}
	case *[4]float64:
		f.readFour(o, at)
	default:
		switch f.Type {
		case Object:
			below := o.Object(f.Key)
			if n, optional := at.(None); optional && n.None() {
				reflect.ValueOf(at).Elem().Set(reflect.ValueOf(f.Part.New()).Elem())
			}
			f.Part.Read(below, at)
			below.Close()
		case List:
			f.readList(o, reflect.ValueOf(at).Elem())
		default:
			panic("schema: " + f.Key + " is kept in a type that is not known")
		}
	}
}

func (f *Field) missing(o Reader) {
	if o.Sound(f.Key) && f.Code != "" {
		o.Problem(f.Key, f.Code, "is missing; it is one of %s", strings.Join(f.Values(), ", "))
	}
}

func (f *Field) readText(o Reader, at *string) {
	s := o.String(f.Key)
	if !o.Sound(f.Key) {
		return
	}
	if f.Type != Text && f.Type != Lines {
		s = strings.TrimSpace(s)
	}
	switch values := f.Values(); {
	case len(values) == 0 || f.Open:
	case s == "" && f.Required:
		f.missing(o)
		return
	case s == "":
		return
	case !slices.Contains(values, s):
		values = slices.DeleteFunc(values, func(v string) bool { return v == "" })
		o.Problem(f.Key, "choice", "is %q; it must be one of %s", s, strings.Join(values, ", "))
		return
	}
	*at = s
}

// ReadNumber reads a number within the field's bounds; absent or refused gives what there was.
func (f *Field) ReadNumber(o Reader, was float64) float64 {
	v := o.Number(f.Key, was)
	if !o.Sound(f.Key) || !o.Has(f.Key) {
		return was
	}
	if v < f.Least || v > f.Most || math.IsNaN(v) {
		unit, usual := "", ""
		if f.Type == Length {
			unit = " mm"
		}
		if f.Usual != "" {
			usual = ", and " + f.Usual
		}
		o.Problem(f.Key, f.Code, "is %.3g%s; it lies between %v and %v%s", v, unit, f.Least, f.Most, usual)
		return was
	}
	return v
}

// readFour reads one number for each corner: top left, top right, bottom right, bottom left.
func (f *Field) readFour(o Reader, at *[4]float64) {
	list := o.List(f.Key)
	if !o.Sound(f.Key) {
		return
	}
	if len(list) != 4 {
		o.Problem(f.Key, "look.corners", "has %d entries; it has four: top left, top right, bottom right, bottom left", len(list))
		return
	}
	out := *at
	for i, v := range list {
		n, ok := fields.Float(v)
		if !ok || n < f.Item.Least || n > f.Item.Most {
			o.ProblemBelow(f.Key, string(rune('0'+i)), f.Item.Code, "lies between 0, square, and 1, round")
			continue
		}
		out[i] = n
	}
	*at = out
}

// readList reads a list of objects into a slice of structs.
func (f *Field) readList(o Reader, into reflect.Value) {
	for _, entry := range o.Objects(f.Key) {
		one := reflect.ValueOf(f.Part.New())
		f.Part.Read(entry, one.Interface())
		entry.Close()
		into.Set(reflect.Append(into, one.Elem()))
	}
}
