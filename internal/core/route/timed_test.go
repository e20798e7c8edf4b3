package route

import (
	"reflect"
	"testing"
)

// TestTimed: whatever else a rule asks, it is no mere change at a time.
func TestTimed(t *testing.T) {
	plain := Rule{ID: "planned", Off: true, Spans: []Span{{From: "2027-03-20T16:00"}}}
	if !plain.Timed() {
		t.Error("a rule of spans alone is one")
	}
	of := reflect.TypeOf(plain)
	for i := range of.NumField() {
		f := of.Field(i)
		if f.Name == "ID" || f.Name == "Off" || f.Name == "Spans" || f.Name == "Within" { // Within asks nothing without Near
			continue
		}
		t.Run(f.Name, func(t *testing.T) {
			r := plain
			switch v := reflect.ValueOf(&r).Elem().Field(i); v.Kind() {
			case reflect.String:
				v.SetString("52.37,-2.72")
			case reflect.Bool:
				v.SetBool(true)
			case reflect.Int:
				v.SetInt(5)
			case reflect.Float64:
				v.SetFloat(0.5)
			case reflect.Slice:
				v.Set(reflect.MakeSlice(v.Type(), 1, 1))
			default:
				t.Fatalf("of a kind that this test does not know: %v", v.Kind())
			}
			if r.Timed() {
				t.Error("it counts as a change at a time, and what it asks is lost")
			}
		})
	}
}
