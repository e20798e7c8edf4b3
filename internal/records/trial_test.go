package records

import (
	"errors"
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// TestTrials: what was noted belongs to the state that was tried, and to its workspace; what is not said is a problem of its
// field.
func TestTrials(t *testing.T) {
	r, s, _ := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair")
	c, _ := s.Get(t.Context(), ws, id)
	for want, bad := range map[string]Trial{
		"/phone":  {Result: "not"},
		"/result": {Phone: "shop phone"},
		"/note":   {Phone: "shop phone", Result: "not", Note: strings.Repeat("x", 201)},
	} {
		t.Run(want, func(t *testing.T) {
			var problems problem.List
			if err := r.NoteTrial(t.Context(), ws, c, 0, bad); !errors.As(err, &problems) || len(problems) != 1 ||
				problems[0].Field != want {
				t.Errorf("%+v: %v", bad, err)
			}
		})
	}
	note := func(result string) {
		t.Helper()
		if err := r.NoteTrial(t.Context(), as("Tamsin"), c, 0, Trial{Phone: " shop phone ", Result: result}); err != nil {
			t.Fatal(err)
		}
	}
	note("at-once")
	c, err := s.Issue(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	note("slowly")
	if _, err := s.Edit(t.Context(), ws, id, code.Edit{Path: "/placements/0/width_mm", Text: "90", Tab: "a", Seq: 1,
		Base: -1}); err != nil {
		t.Fatal(err)
	}
	c, _ = s.Get(t.Context(), ws, id)
	note("not")
	list, err := r.Trials(t.Context(), ws, c)
	if err != nil || len(list) != 3 {
		t.Fatal(list, err)
	}
	for i, want := range []Trial{{Result: "not", Current: true}, {Result: "slowly", Version: 1}, {Result: "at-once"}} {
		got := list[i]
		if got.Result != want.Result || got.Current != want.Current || got.Version != want.Version || got.Phone != "shop phone" ||
			got.Who != "Tamsin" ||
			got.Place == "" {
			t.Errorf("trial %d: %+v, want %+v", i, got, want)
		}
	}
	if list, err := r.Trials(t.Context(), elsewhere, c); err != nil || len(list) != 0 {
		t.Errorf("another workspace sees %v, %v", list, err)
	}
}
