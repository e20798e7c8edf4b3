package link

import (
	"fmt"
	"sync"
	"testing"

	"sodrik/internal/code"
)

// Several people act on the same links and codes at once, on one or on many: everybody waits for a turn, and nobody's act ends
// because two wait for each other. What was changed in between may refuse an act in words.
func TestManyAtOneLink(t *testing.T) {
	s := open(t)
	var ids []string
	for i := range 4 {
		id := create(t, s, fmt.Sprintf(`{"name":"%d","content":{"kind":"url","url":"https://old.example/%d"}}`, i, i))
		turn(t, s, id)
		issue(t, s, id)
		ids = append(ids, id)
	}
	ctx := t.Context()
	one := func(round int) string { return ids[round%len(ids)] }
	acts := map[string]func(round int) error{
		"one goes live": func(round int) error {
			if _, err := s.Edit(ctx, ws, one(round), map[string]string{"to": fmt.Sprintf("https://a.example/%d", round)},
				"GB", 0); err != nil {
				return err
			}
			_, err := s.MakeLive(ctx, ws, one(round), 0)
			return err
		},
		"all are swapped": func(round int) error {
			_, err := s.SwapAll(ctx, ws, ids, Swap{With: fmt.Sprintf("https://b.example/%d", round)})
			return err
		},
		"all go back": func(int) error {
			was := map[string]int{}
			for _, id := range ids {
				past, err := s.Led(ctx, ws, id)
				if err != nil {
					return err
				}
				was[id] = len(past) - 1
			}
			_, err := s.SwapBack(ctx, ws, was)
			return err
		},
		"one is handed over": func(round int) error {
			_, err := s.Codes.Edit(ctx, ws, one(round), code.Edit{Path: "/name", Text: fmt.Sprint("n", round), Base: -1})
			if err == nil {
				_, err = s.Codes.Issue(ctx, ws, one(round))
			}
			return err
		},
		"all are moved": func(round int) error {
			_, err := s.Codes.MoveAll(ctx, ws, ids, fmt.Sprint("Spring ", round%3))
			return err
		},
		"one rests": func(round int) error {
			_, err := s.Rest(ctx, ws, one(round), round%2 == 0, 0)
			return err
		},
	}
	var all sync.WaitGroup
	for name, act := range acts {
		all.Go(func() {
			for round := range 25 {
				if err := act(round); err != nil {
					if _, words := code.IsProblem(err); !words {
						t.Errorf("%s: %v", name, err)
					}
				}
			}
		})
	}
	all.Wait()
}
