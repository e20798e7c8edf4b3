package code

import (
	"errors"
	"fmt"
	"testing"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
)

// TestMany: an act changes all codes or none, says what they were, and is taken back in one.
func TestMany(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	var ids []string
	for _, name := range []string{"a", "b", "c"} {
		t.Run(name, func(t *testing.T) {
			ids = append(ids, create(t, s, name, "https://marrowby.example/"+name))
		})
	}
	is := func(id string) string {
		c, err := s.Get(ctx, ws, id)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(c.State, " ", c.Campaign, " ", c.Text("/look/ink"))
	}
	before := is(ids[0])
	for _, act := range []struct {
		name string
		do   func(ids []string) (Acted, error)
		then string
	}{
		{"retire", func(ids []string) (Acted, error) { return s.SetStates(ctx, ws, ids, Retired) }, "retired Bulb Fair 2027 "},
		{"move", func(ids []string) (Acted, error) { return s.MoveAll(ctx, ws, ids, "Fair") }, "active Fair "},
		{"wear", func(ids []string) (Acted, error) {
			return s.DressAll(ctx, ws, ids, style.Look{Key: "x", Name: "X", Wear: map[string]any{"ink": "#12352b"}})
		}, "active Bulb Fair 2027 #12352b"},
	} {
		t.Run(act.name, func(t *testing.T) {
			if _, err := act.do(append([]string{"no-such-code"}, ids...)); !errors.Is(err, ErrNotFound) || is(ids[0]) != before {
				t.Errorf("%s with one that is not there: %v, %s", act.name, err, is(ids[0]))
			}
			a, err := act.do(append(ids, ids[0]))
			if err != nil || len(a.Was) != 3 || is(ids[2]) != act.then {
				t.Errorf("%s: %+v, %v, %q", act.name, a, err, is(ids[2]))
			}
			if again, err := act.do(ids); err != nil || len(again.Was) != 0 {
				t.Errorf("%s again changes %v, %v", act.name, again.Was, err)
			}
			if n, err := s.TakeBack(ctx, ws, a); err != nil || n != 3 || is(ids[0]) != before {
				t.Errorf("%s taken back on %d: %v, %q", act.name, n, err, is(ids[0]))
			}
		})
	}
	// What was changed since stays.
	a, err := s.DressAll(ctx, ws, ids, style.Look{Key: "x", Name: "X", Wear: map[string]any{"ink": "#12352b"}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Edit(ctx, ws, ids[1], Edit{Path: "/look/ink", Text: "#5b1f33", Tab: "t", Seq: 1, Base: -1}); err != nil {
		t.Fatal(err)
	}
	if n, err := s.TakeBack(ctx, ws, a); err != nil || n != 2 || is(ids[1]) != "active Bulb Fair 2027 #5b1f33" {
		t.Errorf("taken back on %d: %v, %q", n, err, is(ids[1]))
	}
	var problems problem.List
	for name, list := range map[string][]string{"none": nil, "too many": make501()} {
		t.Run(name, func(t *testing.T) {
			if _, err := s.SetStates(ctx, ws, list, Retired); !errors.As(err, &problems) {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	if _, err := s.TakeBack(ctx, ws, Acted{"explode", map[string]string{ids[0]: "x"}}); !errors.As(err, &problems) {
		t.Errorf("an act that there is not: %v", err)
	}
	if _, err := s.TakeBack(ctx, ws, Acted{ActState, map[string]string{ids[0]: "gone"}}); !errors.As(err, &problems) {
		t.Errorf("a state that there is not: %v", err)
	}
}

func make501() (out []string) {
	for i := range MaxMany + 1 {
		out = append(out, fmt.Sprint(i))
	}
	return out
}
