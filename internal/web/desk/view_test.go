package desk

import (
	"reflect"
	"testing"

	"sodrik/internal/web/desk/bound/boundtest"
)

// TestStubsStandApart: templates reach into the stubs by the names of their fields, so that two stubs may share a name only
// where it is always written with its stub, as in .Wears.Line.
func TestStubsStandApart(t *testing.T) {
	qualified := map[string]bool{"Line": true, "Inks": true, "Bare": true}
	where := map[string]string{}
	v := reflect.TypeFor[View]()
	for i := range v.NumField() {
		stub := v.Field(i)
		if !stub.Anonymous {
			if other := where[stub.Name]; other != "" && !qualified[stub.Name] {
				t.Errorf("%s is of the desk and of %s", stub.Name, other)
			}
			continue
		}
		for k := range stub.Type.NumField() {
			name := stub.Type.Field(k).Name
			if other := where[name]; other != "" && !qualified[name] {
				t.Errorf("%s is of %s and of %s", name, other, stub.Name)
			}
			where[name] = stub.Name
		}
	}
}

// TestFieldsOnce: an answer finds every field of the desk by its id.
func TestFieldsOnce(t *testing.T) {
	b := boundtest.Of(t,
		`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500,"words":{"headline":"Sow"}}]}`, nil)
	v := NewView(b.C, b.Place)
	seen := map[string]bool{}
	for _, f := range v.fields() {
		if f.ID == "" || seen[f.ID] {
			t.Errorf("%q is there twice, or has no id (%s)", f.ID, f.Path)
		}
		seen[f.ID] = true
	}
	for path, want := range map[string]int{"": len(seen), "/content/url": 0, "/name": 0} {
		t.Run(path, func(t *testing.T) {
			if got := len(v.fieldsTouchedBy(path)); got != want {
				t.Errorf("%q touches %d fields, want %d", path, got, want)
			}
		})
	}
	for _, f := range v.fieldsTouchedBy("/placements/0/medium") {
		if f.Path[:12] != "/placements/" {
			t.Errorf("a medium touches %s", f.Path)
		}
	}
}
