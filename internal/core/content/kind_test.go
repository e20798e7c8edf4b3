package content

import (
	"encoding/json"
	"slices"
	"testing"

	"sodrik/internal/core/schema"
)

// TestRegister: each kind declares what the rest needs of it, and its example is sound, comes back from its payload and from
// its JSON.
func TestRegister(t *testing.T) {
	for _, k := range Register() {
		t.Run(k.Key, func(t *testing.T) {
			c, at := readAt(t, k.Example)
			if len(at) > 0 || c.Kind() != k.Key {
				t.Fatalf("the example is %v with problems at %v", c, at)
			}
			if k.Name == "" || k.Outcome == "" || c.Summary().Verb == "" || c.Phone().Action == "" {
				t.Errorf("it lacks words: %+v", k)
			}
			jsonSame(t, c)
			if k.Takes != nil {
				roundTrip(t, c)
			}
			words(t, k.Fields, "/content")
		})
	}
}

// words: a field that people fill in has a label, what it is called, and choices with words.
func words(t *testing.T, p *schema.Part, at string) {
	t.Helper()
	for _, c := range p.Columns(at) {
		f := c.Field
		if !f.Off && f.Label == "" {
			t.Errorf("%s has no label", c.Path)
		}
		if slices.ContainsFunc(f.Options(), func(c schema.Choice) bool { return c.Words == "" }) {
			t.Errorf("%s has a choice without words", c.Path)
		}
	}
}

// FuzzRead: whatever the JSON of a content, reading it does not panic, and what has no problem is written and read back as
// the same.
func FuzzRead(f *testing.F) {
	for _, k := range Register() {
		f.Add(k.Example)
	}
	f.Fuzz(func(t *testing.T, text string) {
		var v map[string]any
		if json.Unmarshal([]byte(text), &v) != nil {
			return
		}
		c, problems := New(v)
		if c == nil || len(problems) > 0 {
			return
		}
		again, problems := New(JSON(c))
		if len(problems) > 0 || again.Payload() != c.Payload() {
			t.Errorf("%s is written as %v, which has %v", text, JSON(c), problems)
		}
	})
}
