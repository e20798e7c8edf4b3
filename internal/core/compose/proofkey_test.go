package compose

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"sodrik/internal/core/job"
)

const keyed = `{"name":"Gate","content":{"kind":"sms","number":"+441134960123","body":"Fair"},"placements":[
	{"name":"gate","medium":"poster-a2"},{"name":"card","medium":"business-card","width_mm":20,"keyword":"card"}]}`

// read is what a proof of a placement reads, as text.
func read(t *testing.T, m *Rendition, i int) string {
	t.Helper()
	in, err := m.Proof(i)
	if err != nil {
		t.Fatal(err)
	}
	in.Thinner, in.Tune = nil, nil
	at := in.Placement
	if at != nil {
		of := *at
		of.ID, of.Name = "", ""
		in.Placement = &of
	}
	var out bytes.Buffer
	deep(&out, reflect.ValueOf(in), 0)
	return out.String()
}

// deep writes a value with all that its pointers lead to.
func deep(w *bytes.Buffer, v reflect.Value, depth int) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if v.IsNil() || depth > 40 {
			w.WriteString("nil;")
			return
		}
		deep(w, v.Elem(), depth+1)
	case reflect.Struct:
		for i := range v.NumField() {
			deep(w, v.Field(i), depth+1)
		}
	case reflect.Slice, reflect.Array:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			fmt.Fprintf(w, "%x;", v)
			return
		}
		for i := range v.Len() {
			deep(w, v.Index(i), depth+1)
		}
	case reflect.Func, reflect.Chan, reflect.Map, reflect.UnsafePointer:
	default:
		fmt.Fprintf(w, "%v;", v)
	}
}

// TestProofKey: what a key leaves out changes nothing of what a proof reads, and what a proof reads changes the key.
func TestProofKey(t *testing.T) {
	before, problems := Parse([]byte(keyed), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	for _, c := range []struct {
		path, text string
		gate, card bool // the proof there has to be made anew
	}{
		{"/name", "South gate", false, false},
		{"/placements/0/name", "south gate", false, false},
		{"/output/dpi", "1200", false, true}, // readers are handed the poster no finer, the card is
		{"/output/quality", "50", false, false},
		{"/output/printer_dpi", "203", false, false},
		{"/output/dpi", "36", true, true}, // the poster has fewer pixels than readers are handed, the card one a module
		{"/placements/0/width_mm", "120", true, false},
		{"/placements/1/distance_mm", "400", false, true},
		{"/placements/1/keyword", "desk", false, true},
		{"/placements/0/light", "dim", true, false},
		{"/look/ink", "#5b1f33", true, true},
		{"/content/body", "Fair at ten", true, true},
		{"/symbol/level", "H", true, true},
		{"/output/reduction_mm", "0.05", true, true},
	} {
		t.Run(c.path+" "+c.text, func(t *testing.T) {
			var draft any
			if err := json.Unmarshal([]byte(keyed), &draft); err != nil {
				t.Fatal(err)
			}
			p, bad := job.Edit(draft, c.path, c.text)
			if bad != nil {
				t.Fatal(bad)
			}
			next, _, err := p.Apply(draft)
			if err != nil {
				t.Fatal(err)
			}
			after, problems := Typed(next, nil, nil)
			if after == nil {
				t.Fatal(problems)
			}
			for i, anew := range []bool{c.gate, c.card} {
				if got := after.ProofKey(i) != before.ProofKey(i); got != anew {
					t.Errorf("placement %d: proved anew %v, want %v", i, got, anew)
				}
				if same := read(t, after, i) == read(t, before, i); !same && !anew {
					t.Errorf("placement %d: what the proof reads has changed", i)
				}
			}
		})
	}
	if keys := before.ProofKeys(); len(keys) != 2 || keys[0] != before.ProofKey(0) || keys[0] == keys[1] ||
		!strings.HasPrefix(keys[0], "0 ") {
		t.Error(keys)
	}
}
