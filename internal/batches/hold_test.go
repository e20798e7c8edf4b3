package batches

import (
	"fmt"
	"strings"
	"sync"
	"testing"
)

// The program makes the rows of a batch, more than once at a time, while people change it: everybody waits for a turn, and
// nobody's act ends because two wait for each other.
func TestManyAtOneBatch(t *testing.T) {
	s := store(t)
	table := func(round int) string {
		out := "SKU;Link\n"
		for n := range 8 { // of several versions
			out += fmt.Sprintf("MB-%d;https://marrowby.example/%d/%s\n", n, round, strings.Repeat("x", n*12))
		}
		return out
	}
	id := made(t, s, table(0))
	if err := s.Set(t.Context(), editor, id, "/key", "SKU"); err != nil {
		t.Fatal(err)
	}
	var all sync.WaitGroup
	for _, act := range []func(round int) error{
		func(int) error { return s.Check(t.Context(), "marrowby", id) },
		func(int) error { return s.Check(t.Context(), "marrowby", id) },
		func(round int) error {
			_, err := s.Update(t.Context(), editor, id, rows(t, table(round)))
			return err
		},
		func(round int) error {
			_, err := s.ToDesk(t.Context(), editor, id, 1+round%8)
			return err
		},
	} {
		all.Go(func() {
			for round := range 30 {
				if err := act(round); err != nil {
					t.Error(err)
				}
			}
		})
	}
	all.Wait()
}
