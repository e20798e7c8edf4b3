package batches

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/table"
)

// state is all that acts can change of a batch, in words.
func state(t *testing.T, s *Store, id string) string {
	t.Helper()
	b, err := s.Get(t.Context(), editor, id)
	if err != nil {
		t.Fatal(err)
	}
	all, err := s.Rows(t.Context(), editor, id, Filter{})
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	fmt.Fprintf(&out, "%s %s key %q line %q %v formats %v set %v\n", b.Name, b.Campaign, b.Plan.Key, b.Plan.Line, b.Columns,
		b.Formats, b.Plan.Set)
	for _, r := range all {
		fmt.Fprintf(&out, "%d %q %v %s %s %s\n", r.N, r.Cells, r.Own, r.State, r.Says, r.Code)
	}
	return out.String()
}

// TestUndo: each act upon a batch is taken back by itself, the newest first, rows that were taken out or in and all;
// codes on desks stay.
func TestUndo(t *testing.T) {
	t.Parallel()
	s := store(t)
	id := made(t, s, seeds)
	if _, err := s.Undo(t.Context(), editor, id); !errors.Is(err, code.ErrNothing) {
		t.Errorf("a new batch: %v", err)
	}
	set := func(path, text string) func() error {
		return func() error { return s.Set(t.Context(), editor, id, path, text) }
	}
	acts := []struct {
		words string
		do    func() error
	}{
		{"the name", set("/name", "Labels, spring")},
		{"the campaign", set("/campaign", "Autumn")},
		{"the key", set("/key", "Variety")},
		{"the line under each code", set("/line", "{Variety}")},
		{"the address", set("/set/content/url", "https://marrowby.example/p/{SKU}")},
		{"the formats", set("/formats", "svg pdf")},
		{"the key", set("/key", "SKU")},
		{"the address", set("/set/content/url", "{Link}")},
		{"the address of row 4", func() error {
			return s.Mend(t.Context(), editor, id, 4, "/content/url",
				"https://marrowby.example/4")
		}},
		{"2 rows taken out", func() error { _, err := s.Drop(t.Context(), editor, id, []int{2, 4}); return err }},
		{"the same table once more", func() error {
			_, err := s.Update(t.Context(), editor, id, rows(t,
				"SKU;Variety;Link;Bed\nMB-1;Leek;https://marrowby.example/one;5\n"+
					"MB-9;Sage;https://marrowby.example/9;6\n"))
			return err
		}},
	}
	var was []string
	for _, a := range acts {
		t.Run(a.words, func(t *testing.T) {
			was = append(was, state(t, s, id))
			if err := a.do(); err != nil {
				t.Fatalf("%s: %v", a.words, err)
			}
			if now := state(t, s, id); now == was[len(was)-1] {
				t.Errorf("%s changes nothing", a.words)
			}
		})
	}
	for i := len(acts) - 1; i >= 0; i-- {
		b, err := s.Get(t.Context(), editor, id)
		if err != nil {
			t.Fatal(err)
		}
		words, err := s.Undo(t.Context(), editor, id)
		if err != nil || words != acts[i].words || b.Undo != words {
			t.Errorf("%q and %q are taken back, not %q: %v", words, b.Undo, acts[i].words, err)
		}
		if now := state(t, s, id); now != was[i] {
			t.Errorf("%s: it is\n%swas\n%s", acts[i].words, now, was[i])
		}
	}
	if _, err := s.Undo(t.Context(), editor, id); !errors.Is(err, code.ErrNothing) {
		t.Errorf("all is taken back: %v", err)
	}
	// What changes nothing, and what cannot be done, is nothing to take back.
	if err := errors.Join(s.Set(t.Context(), editor, id, "/name", "Plant labels"), s.Set(t.Context(), editor, id, "/key",
		"SKU")); err != nil {
		t.Fatal(err)
	}
	if err := s.Set(t.Context(), editor, id, "/key", "Colour"); err == nil {
		t.Error("a key that there is not")
	}
	if b, _ := s.Get(t.Context(), editor, id); b.Undo != "" && b.Undo != "the key" {
		t.Errorf("%q could be taken back", b.Undo)
	}
	for i := range undosKept + 5 {
		if err := s.Set(t.Context(), editor, id, "/name", fmt.Sprint("Labels ", i)); err != nil {
			t.Fatal(err)
		}
	}
	n := 0
	for ; ; n++ {
		if _, err := s.Undo(t.Context(), editor, id); err != nil {
			break
		}
	}
	if n != undosKept {
		t.Errorf("%d acts could be taken back", n)
	}
}

// TestUndoOfDesks: a row that went to a desk after it was taken in stays, and one that was taken out comes back with its desk.
func TestUndoOfDesks(t *testing.T) {
	t.Parallel()
	s := store(t)
	id := made(t, s, seeds)
	desk, err := s.ToDesk(t.Context(), editor, id, 1)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Drop(t.Context(), editor, id, []int{1}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Undo(t.Context(), editor, id); err != nil {
		t.Fatal(err)
	}
	if r, err := s.Row(t.Context(), editor, id, 1); err != nil || r.Code != desk {
		t.Errorf("%+v, %v", r, err)
	}
	if err := s.Set(t.Context(), editor, id, "/key", "SKU"); err != nil {
		t.Fatal(err)
	}
	more, err := table.Open(t.Context(),
		strings.NewReader("SKU;Variety;Link\nMB-8;Rue;https://marrowby.example/8\nMB-9;Sage;https://marrowby.example/9\n"),
		table.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Update(t.Context(), editor, id, more); err != nil {
		t.Fatal(err)
	}
	if _, err := s.ToDesk(t.Context(), editor, id, 7); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Undo(t.Context(), editor, id); err != nil {
		t.Fatal(err)
	}
	all, err := s.Rows(t.Context(), editor, id, Filter{})
	if err != nil || len(all) != 6 || all[5].N != 7 {
		t.Errorf("%d rows are left: %v", len(all), err)
	}
}
