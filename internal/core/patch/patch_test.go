package patch

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"testing"
)

func decode(t *testing.T, s string) any {
	t.Helper()
	var v any
	if err := json.Unmarshal([]byte(s), &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func TestApplyAndUndo(t *testing.T) {
	const doc = `{"look":{"ink":"#000000"},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":1}}`
	for _, c := range []struct{ name, patch, want string }{
		{"replace", `[{"op":"replace","path":"/look/ink","value":"#123456"}]`,
			`{"look":{"ink":"#123456"},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":1}}`},
		{"add key", `[{"op":"add","path":"/look/paper","value":"none"}]`,
			`{"look":{"ink":"#000000","paper":"none"},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":1}}`},
		{"add over key", `[{"op":"add","path":"/look/ink","value":null}]`,
			`{"look":{"ink":null},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":1}}`},
		{"insert", `[{"op":"add","path":"/placements/1","value":{"name":"door"}}]`,
			`{"look":{"ink":"#000000"},"placements":[{"name":"gate"},{"name":"door"},{"name":"till"}],"a/b":{"~":1}}`},
		{"append", `[{"op":"add","path":"/placements/-","value":{"name":"door"}}]`,
			`{"look":{"ink":"#000000"},"placements":[{"name":"gate"},{"name":"till"},{"name":"door"}],"a/b":{"~":1}}`},
		{"remove", `[{"op":"remove","path":"/placements/0"}]`,
			`{"look":{"ink":"#000000"},"placements":[{"name":"till"}],"a/b":{"~":1}}`},
		{"escapes", `[{"op":"test","path":"/a~1b/~0","value":1},{"op":"replace","path":"/a~1b/~0","value":2}]`,
			`{"look":{"ink":"#000000"},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":2}}`},
		{"two", `[{"op":"replace","path":"/look/ink","value":"#1"},{"op":"replace","path":"/look/ink","value":"#2"}]`,
			`{"look":{"ink":"#2"},"placements":[{"name":"gate"},{"name":"till"}],"a/b":{"~":1}}`},
		{"whole", `[{"op":"replace","path":"","value":{}}]`, `{}`},
	} {
		t.Run(c.name, func(t *testing.T) {
			before := decode(t, doc)
			var p Patch
			if err := json.Unmarshal([]byte(c.patch), &p); err != nil {
				t.Fatal(err)
			}
			after, inverse, err := p.Apply(before)
			if err != nil {
				t.Errorf("%s: %v", c.name, err)
				return
			}
			if !equal(after, decode(t, c.want)) {
				t.Errorf("%s: %v", c.name, after)
			}
			if !equal(before, decode(t, doc)) {
				t.Errorf("%s changed its argument", c.name)
			}
			if back, _, err := inverse.Apply(after); err != nil || !equal(back, before) {
				t.Errorf("%s: undone to %v, %v", c.name, back, err)
			}
		})
	}
}

func TestRefused(t *testing.T) {
	doc := decode(t, `{"a":[1,2],"b":"x"}`)
	for _, text := range []string{
		`[{"op":"replace","path":"/c","value":1}]`, `[{"op":"remove","path":"/a/2"}]`, `[{"op":"add","path":"/a/3","value":1}]`,
		`[{"op":"add","path":"/b/c","value":1}]`, `[{"op":"move","path":"/b"}]`, `[{"op":"add","path":"b","value":1}]`,
		`[{"op":"add","path":"/a/01","value":1}]`, `[{"op":"remove","path":""}]`, `[{"op":"add","path":"/x/y","value":1}]`,
	} {
		t.Run(text, func(t *testing.T) {
			var p Patch
			if err := json.Unmarshal([]byte(text), &p); err != nil {
				t.Fatal(err)
			}
			if _, _, err := p.Apply(doc); err == nil {
				t.Errorf("%s was applied", text)
			}
		})
	}
	if _, _, err := (Patch{{"test", "/b", "y"}}).Apply(doc); !errors.Is(err, ErrTest) {
		t.Errorf("test gave %v", err)
	}
}

func FuzzApply(f *testing.F) {
	f.Add(`{"a":[1]}`, `[{"op":"add","path":"/a/-","value":2}]`)
	f.Add(`[]`, `[{"op":"add","path":"/0","value":{}}]`)
	f.Fuzz(func(t *testing.T, doc, text string) {
		var d any
		var p Patch
		if json.Unmarshal([]byte(doc), &d) != nil || json.Unmarshal([]byte(text), &p) != nil {
			return
		}
		after, inverse, err := p.Apply(d)
		if err != nil {
			return
		}
		if back, _, err := inverse.Apply(after); err != nil || !equal(back, d) {
			t.Fatalf("%s with %s: undone to %v, %v", doc, text, back, err)
		}
	})
}

// TestSameNumber: a test compares numbers by value, however they are held.
func TestSameNumber(t *testing.T) {
	for _, c := range []struct {
		is, want any
		same     bool
	}{{3.0, 3, true}, {3.0, int64(3), true}, {json.Number("3.50"), 3.5, true}, {3.0, 4, false}, {3.0, "3", false},
		{map[string]any{"a": 1}, map[string]any{"a": 1.0}, true}} {
		t.Run(fmt.Sprint(c.is), func(t *testing.T) {
			_, _, err := Patch{{Op: "test", Path: "/n", Value: c.want}}.Apply(map[string]any{"n": c.is})
			if (err == nil) != c.same {
				t.Errorf("%T %v and %T %v: %v", c.is, c.is, c.want, c.want, err)
			}
		})
	}
}

// TestSquash: where two patches are one, applying that is applying both, and the inverse of the first takes both back.
func TestSquash(t *testing.T) {
	doc := map[string]any{"a": "x", "l": []any{1.0, 2.0}}
	for _, c := range []struct {
		name          string
		first, second Patch
		ok            bool
	}{
		{"a value twice", Patch{{"add", "/a", "y"}}, Patch{{"add", "/a", "z"}}, true},
		{"one that was not there", Patch{{"add", "/b", "y"}}, Patch{{"add", "/b", "z"}}, true},
		{"behind the same test", Patch{{"test", "/a", "x"}, {"add", "/b", "y"}},
			Patch{{"test", "/a", "x"}, {"replace", "/b", "z"}}, true},
		{"an entry set twice", Patch{{"replace", "/l/1", 3.0}}, Patch{{"replace", "/l/1", 4.0}}, true},
		{"an entry put in, then set", Patch{{"add", "/l/1", 3.0}}, Patch{{"replace", "/l/1", 4.0}}, true},
		{"two entries put in", Patch{{"add", "/l/1", 3.0}}, Patch{{"add", "/l/1", 4.0}}, false},
		{"two at the end", Patch{{"add", "/l/-", 3.0}}, Patch{{"add", "/l/-", 4.0}}, false},
		{"other values", Patch{{"add", "/a", "y"}}, Patch{{"add", "/b", "z"}}, false},
		{"taken away", Patch{{"add", "/a", "y"}}, Patch{{Op: "remove", Path: "/a"}}, false},
		{"put back", Patch{{Op: "remove", Path: "/a"}}, Patch{{"add", "/a", "y"}}, false},
		{"more than one", Patch{{"add", "/a", "y"}}, Patch{{"add", "/a", "z"}, {"add", "/b", "z"}}, false},
		{"another test", Patch{{"test", "/a", "x"}}, Patch{{"test", "/a", "y"}}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			both, ok := Squash(c.first, c.second)
			if ok != c.ok {
				t.Fatalf("it is %v", ok)
			}
			if !ok {
				return
			}
			one, inverse, err := c.first.Apply(doc)
			if err != nil {
				t.Fatal(err)
			}
			two, _, err := c.second.Apply(one)
			if err != nil {
				t.Fatal(err)
			}
			got, _, err := both.Apply(doc)
			if err != nil || !reflect.DeepEqual(got, two) {
				t.Errorf("at once %v, %v; one after the other %v", got, err, two)
			}
			back, _, err := inverse.Apply(got)
			if err != nil || !reflect.DeepEqual(back, doc) {
				t.Errorf("back it is %v, %v", back, err)
			}
		})
	}
}
