package code

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"sort"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
)

var tabRounds = flag.Int("tabs", 6, "how many random rounds of several tabs are played")

// asked is a request on its way.
type asked struct {
	kind string // "edit", "patch", "undo", "redo"
	tab  *tab
	edit Edit
	p    patch.Patch
	turn Turn
}

// tab is a browser tab of a person.
type tab struct {
	name, who string
	seq, base int64
	shows     *Code
}

// owner is who wrote a leaf last.
type owner struct {
	tab, who string
	rev      int64
}

// leavesOf takes a draft apart, placements by their ids.
func leavesOf(t *testing.T, c *Code) map[string]string {
	t.Helper()
	out := map[string]string{}
	var walk func(v any, at string)
	walk = func(v any, at string) {
		switch v := v.(type) {
		case map[string]any:
			for k, x := range v {
				walk(x, at+"/"+k)
			}
		case []any:
			for i, x := range v {
				key := fmt.Sprint(i)
				if m, is := x.(map[string]any); is && at == "/placements" {
					key = fmt.Sprint(m["id"])
				}
				walk(x, at+"/"+key)
			}
		default:
			b, err := json.Marshal(v)
			if err != nil {
				t.Fatal(err)
			}
			out[at] = string(b)
		}
	}
	walk(c.Draft, "")
	for k, v := range c.unparsed {
		out["unparsed "+k] = v
	}
	return out
}

// TestManyTabs plays two to four tabs of two people that edit one code, with requests that are late, doubled, out of order
// and whose answers are lost. Nothing is silently lost: what a change overwrites, its tab had seen, or had written itself. In
// the end all have the same draft, and taking everything back gives the first.
func TestManyTabs(t *testing.T) {
	s, clock := open(t)
	for round := range *tabRounds {
		seed := uint64(round + 1)
		t.Run(fmt.Sprint("seed ", seed), func(t *testing.T) { playTabs(t, s, clock, rand.New(rand.NewPCG(seed, 1))) })
	}
}

func playTabs(t *testing.T, s *Store, clock *clock, r *rand.Rand) {
	id := create(t, s, "Gate", "marrowby.example/fair")
	first, err := s.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	start := leavesOf(t, first)
	var tabs []*tab
	for i := range 2 + r.IntN(3) {
		tabs = append(tabs, &tab{name: fmt.Sprint("tab", i), who: []string{"Tamsin", "Idris"}[i%2], shows: first})
	}
	owners := map[string]owner{}
	var way []asked
	applied, refused, doubled := 0, 0, 0
	for step := 0; step < 120 || len(way) > 0; step++ {
		clock.t = clock.t.Add(time.Duration(r.IntN(2500)) * time.Millisecond)
		if step < 120 && (len(way) == 0 || r.IntN(3) > 0) {
			way = append(way, ask(r, tabs[r.IntN(len(tabs))]))
			continue
		}
		k := r.IntN(len(way)) // whichever arrives first
		a := way[k]
		if r.IntN(8) > 0 { // else it arrives once more later
			way = append(way[:k], way[k+1:]...)
		} else {
			doubled++
		}
		before, err := s.Get(t.Context(), as(a.tab.who), id)
		if err != nil {
			t.Fatal(err)
		}
		after, err := deliver(t, s, id, a)
		switch {
		case err == nil:
		case mayFail(err):
			refused++
			now, _ := s.Get(t.Context(), ws, id)
			if now.Rev != before.Rev {
				t.Fatalf("%v was refused (%v) and changed the code", a, err)
			}
			if r.IntN(2) == 0 { // the page is looked at again
				a.tab.shows, a.tab.base = now, max(a.tab.base, now.Rev)
			}
			continue
		default:
			t.Fatalf("%+v: %v", a, err)
		}
		if after.Rev != before.Rev {
			applied++
			held(t, a, before, after, owners)
		}
		if r.IntN(6) > 0 && after.Rev >= a.tab.base { // else the answer is lost
			a.tab.shows, a.tab.base = after, after.Rev
		}
	}
	t.Logf("%d tabs: %d changes, %d refused, %d doubled", len(tabs), applied, refused, doubled)
	if applied < 20 {
		t.Errorf("only %d changes: the test does not test", applied)
	}
	takeAllBack(t, s, id, start)
}

// ask makes up what a tab asks for, going by what it shows.
func ask(r *rand.Rand, b *tab) asked {
	b.seq++
	a := asked{kind: "edit", tab: b, edit: Edit{Tab: b.name, Seq: b.seq, Base: b.base}}
	places := len(b.shows.Rendition.Job.Placements)
	if list, ok := patch.Get(b.shows.Draft, "/placements"); ok {
		places = len(list.([]any))
	}
	switch k := r.IntN(12); {
	case k < 3:
		a.edit.Path, a.edit.Text = []string{"/name", "/content/tags/source", "/look/ink", "/content/url"}[r.IntN(4)],
			fmt.Sprintf("text %d", r.IntN(1000))
		switch a.edit.Path {
		case "/look/ink":
			a.edit.Text = fmt.Sprintf("#%06x", r.IntN(1<<24))
		case "/content/url":
			a.edit.Text = fmt.Sprintf("marrowby.example/%d", r.IntN(1000))
		}
	case k < 6 && places > 0:
		i := r.IntN(places)
		a.edit.Path, a.edit.Place = fmt.Sprintf("/placements/%d/%s", i, []string{"width_mm", "name", "distance_mm"}[r.IntN(3)]),
			job.PlacementID(b.shows.Draft, i)
		a.edit.Text = []string{fmt.Sprintf("%d mm", 40+r.IntN(400)), "abc", fmt.Sprintf("%d", 100+r.IntN(500))}[r.IntN(3)]
	case k < 7 && places > 1:
		a.kind, a.p = "patch", job.Guarded(b.shows.Draft, "",
			patch.Patch{{Op: "remove", Path: fmt.Sprintf("/placements/%d", r.IntN(places))}})
	case k < 9:
		a.kind, a.p = "patch", patch.Patch{{Op: "add", Path: "/placements/-",
			Value: map[string]any{"name": fmt.Sprintf("place %d", r.IntN(1e6)), "width_mm": 50.0, "distance_mm": 500.0}}}
		if places == 0 {
			a.p = patch.Patch{{Op: "add", Path: "/placements", Value: []any{a.p[0].Value}}}
		}
	case k < 10:
		a.kind, a.p = "patch", patch.Patch{{Op: "add", Path: "/look/ink", Value: fmt.Sprintf("#%06x", r.IntN(1<<24))},
			{Op: "add", Path: "/look/paper", Value: "#ffffff"}}
	case k < 11:
		a.kind, a.turn = "undo", Turn{Rev: b.shows.UndoRev, Tab: b.name, Seq: b.seq}
	default:
		a.kind, a.turn = "redo", Turn{Rev: b.shows.RedoRev, Tab: b.name, Seq: b.seq}
	}
	return a
}

func deliver(t *testing.T, s *Store, id string, a asked) (*Code, error) {
	ctx, ws := t.Context(), as(a.tab.who)
	switch a.kind {
	case "edit":
		return s.Edit(ctx, ws, id, a.edit)
	case "patch":
		return s.Patch(ctx, ws, id, a.p, Change{Tab: a.edit.Tab, Seq: a.edit.Seq, Base: a.edit.Base, Words: "a fix"})
	case "undo":
		return s.Undo(ctx, ws, id, a.turn)
	}
	return s.Redo(ctx, ws, id, a.turn)
}

// mayFail says whether an error tells the person that nothing was changed, and why.
func mayFail(err error) bool {
	var clash *Conflict
	var over *Overtaken
	list, isProblem := IsProblem(err)
	return errors.As(err, &clash) || errors.As(err, &over) || errors.Is(err, ErrNothing) || isProblem &&
		(list[0].Code == "place.gone" || list[0].Code == "patch")
}

// held looks at every leaf that a change has changed: whoever wrote it before was the same tab, had been seen, or, where
// something was taken back, is the same person or was named.
func held(t *testing.T, a asked, before, after *Code, owners map[string]owner) {
	t.Helper()
	was, is := leavesOf(t, before), leavesOf(t, after)
	keys := map[string]bool{}
	for k := range was {
		keys[k] = true
	}
	for k := range is {
		keys[k] = true
	}
	for k := range keys {
		if was[k] == is[k] || strings.HasSuffix(k, "/id") {
			continue
		}
		o, written := owners[k]
		turned := a.kind == "undo" || a.kind == "redo"
		switch {
		case !written, o.tab == a.tab.name:
		case turned && (o.who == a.tab.who || a.kind == "undo" && before.UndoBy != ""):
		case !turned && o.rev <= a.edit.Base:
		default:
			t.Fatalf("%s of %s overwrote %q (%s → %s), written by %s at %d, having seen %d", a.kind, a.tab.name, k, was[k], is[k],
				o.tab, o.rev, a.edit.Base)
		}
		owners[k] = owner{a.tab.name, a.tab.who, after.Rev}
	}
}

// takeAllBack undoes everything, each their own first, and compares with the beginning.
func takeAllBack(t *testing.T, s *Store, id string, start map[string]string) {
	t.Helper()
	for range 400 {
		moved := false
		for _, who := range []string{"Tamsin", "Idris"} {
			ctx, ws := t.Context(), as(who)
			c, err := s.Get(ctx, ws, id)
			if err != nil {
				t.Fatal(err)
			}
			if c.UndoRev == 0 {
				continue
			}
			if _, err := s.Undo(ctx, ws, id, Turn{Rev: c.UndoRev}); err != nil {
				t.Fatalf("undo of %d for %s (by %q): %v", c.UndoRev, who, c.UndoBy, err)
			}
			moved = true
		}
		if !moved {
			break
		}
	}
	c, err := s.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	if end := leavesOf(t, c); fmt.Sprint(sorted(end)) != fmt.Sprint(sorted(start)) {
		t.Errorf("all taken back it is\n%v, it was\n%v", sorted(end), sorted(start))
	}
}

func sorted(m map[string]string) (out []string) {
	for k, v := range m {
		out = append(out, k+"="+v)
	}
	sort.Strings(out)
	return out
}
