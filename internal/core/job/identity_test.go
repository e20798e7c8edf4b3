package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
)

func decoded(t *testing.T, text string) any {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func written(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

func TestIdentified(t *testing.T) {
	for _, c := range []struct{ draft, want string }{
		{`{"placements":[{"name":"a"},{"name":"b"}]}`, `{"placements":[{"id":"p1","name":"a"},{"id":"p2","name":"b"}]}`},
		{`{"placements":[{"name":"a"},{"id":"p1","name":"b"}]}`,
			`{"placements":[{"id":"p2","name":"a"},{"id":"p1","name":"b"}]}`},
		{`{"placements":[{"id":"x","name":"a"}]}`, `{"placements":[{"id":"x","name":"a"}]}`},
		{`{"placements":[null,3]}`, `{"placements":[null,3]}`},
		{`{"placements":"abc"}`, `{"placements":"abc"}`},
		{`null`, `null`},
	} {
		t.Run(c.draft, func(t *testing.T) {
			v := decoded(t, c.draft)
			if got := written(t, Identified(v)); got != c.want {
				t.Errorf("%s: %s, want %s", c.draft, got, c.want)
			}
			if written(t, v) != written(t, decoded(t, c.draft)) {
				t.Errorf("%s was changed", c.draft)
			}
		})
	}
}

// TestRebased: a change follows its place wherever it stands by now.
func TestRebased(t *testing.T) {
	const before = `{"placements":[{"id":"a","width_mm":1},{"id":"b","width_mm":2},{"id":"c","width_mm":3}]}`
	wider := patch.Set("/placements/1/width_mm", 9)
	for _, c := range []struct {
		name, now string
		p         patch.Patch
		want      string
	}{
		{"where it was", before, wider,
			`{"placements":[{"id":"a","width_mm":1},{"id":"b","width_mm":9},{"id":"c","width_mm":3}]}`},
		{"after one before it went", `{"placements":[{"id":"b","width_mm":2},{"id":"c","width_mm":3}]}`, wider,
			`{"placements":[{"id":"b","width_mm":9},{"id":"c","width_mm":3}]}`},
		{"after one came before it", `{"placements":[{"id":"x"},{"id":"a","width_mm":1},{"id":"b","width_mm":2}]}`, wider,
			`{"placements":[{"id":"x"},{"id":"a","width_mm":1},{"id":"b","width_mm":9}]}`},
		{"taken away elsewhere", `{"placements":[{"id":"c"},{"id":"b","width_mm":2}]}`,
			patch.Patch{{Op: "remove", Path: "/placements/1"}}, `{"placements":[{"id":"c"}]}`},
		{"put back beyond the end", `{"placements":[]}`,
			patch.Patch{{Op: "add", Path: "/placements/2", Value: map[string]any{"id": "z"}}}, `{"placements":[{"id":"z"}]}`},
		{"two in one", `{"placements":[{"id":"c","width_mm":3},{"id":"a","width_mm":1}]}`,
			patch.Patch{{Op: "replace", Path: "/placements/0/width_mm", Value: 8},
				{Op: "replace", Path: "/placements/2/width_mm", Value: 7}},
			`{"placements":[{"id":"c","width_mm":7},{"id":"a","width_mm":8}]}`},
	} {
		t.Run(c.name, func(t *testing.T) {
			p, err := Rebased(decoded(t, c.now), "", Guarded(decoded(t, before), "", c.p))
			if err != nil {
				t.Fatal(err)
			}
			out, _, err := p.Apply(decoded(t, c.now))
			if err != nil || written(t, out) != written(t, decoded(t, c.want)) {
				t.Errorf("%v: %s, want %s", err, written(t, out), c.want)
			}
		})
	}
	if _, err := Rebased(decoded(t, `{"placements":[{"id":"a"}]}`), "",
		Guarded(decoded(t, before), "", wider)); !errors.Is(err, ErrGone) {
		t.Errorf("a place that is gone: %v", err)
	}
}

// TestKeys: what a change is about reads the same whatever the index.
func TestKeys(t *testing.T) {
	doc := decoded(t, `{"placements":[{"id":"a"},{"id":"b"}]}`)
	p := patch.Patch{{Op: "test", Path: "/placements/0/id", Value: "a"}, {Op: "remove", Path: "/placements/0"},
		{Op: "add", Path: "/placements/0/width_mm", Value: 1},
		{Op: "add", Path: "/placements/-", Value: map[string]any{"id": "n"}}, {Op: "add", Path: "/look/ink", Value: "x"}}
	want := []string{"/placements/a", PlacementOrder, "/placements/b/width_mm", "/placements/n", PlacementOrder, "/look/ink"}
	if got := Keys(doc, "", p); !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if path, ok := PathOf(doc, "/placements/b/name"); !ok || path != "/placements/1/name" {
		t.Error(path, ok)
	}
	if _, ok := PathOf(doc, "/placements/z/name"); ok {
		t.Error("a place that is not there has a path")
	}
	for _, c := range []struct {
		a, b string
		want bool
	}{{"/look", "/look/ink", true}, {"/look/ink", "/look", true}, {"/look/ink", "/look/ink", true},
		{"/look/ink", "/look/inks", false}, {"", "/look", true}} {
		t.Run(c.a, func(t *testing.T) {
			if Overlap([]string{c.a}, []string{c.b}) != c.want {
				t.Errorf("%q and %q: %v", c.a, c.b, !c.want)
			}
		})
	}
}

// TestGuardedInverse: a guarded inverse applied at once gives back what was, and applied later, through other changes, undoes
// only its own.
func TestGuardedInverse(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for n := range 400 {
		list := []any{}
		for i := range 1 + r.IntN(4) {
			list = append(list, map[string]any{"id": fmt.Sprintf("p%d", i), "width_mm": float64(i)})
		}
		doc := any(map[string]any{"placements": list, "name": "x"})
		var p patch.Patch
		size := len(list)
		for range 1 + r.IntN(4) {
			switch k := r.IntN(3); {
			case k == 0 && size > 1:
				p = append(p, patch.Op{Op: "remove", Path: fmt.Sprintf("/placements/%d", r.IntN(size))})
				size--
			case k == 1:
				p = append(p, patch.Op{Op: "add", Path: fmt.Sprintf("/placements/%d", r.IntN(size+1)),
					Value: map[string]any{"id": fmt.Sprintf("n%d", r.IntN(1e6))}})
				size++
			default:
				p = append(p, patch.Op{Op: "add", Path: fmt.Sprintf("/placements/%d/width_mm", r.IntN(size)),
					Value: float64(r.IntN(99))})
			}
		}
		next, inverse, err := p.Apply(doc)
		if err != nil {
			t.Fatal(n, err)
		}
		back, _, err := Guarded(next, "", inverse).Apply(next)
		if err != nil || written(t, back) != written(t, doc) {
			t.Fatalf("%d: %v gives back %s, it was %s", n, err, written(t, back), written(t, doc))
		}
	}
}
