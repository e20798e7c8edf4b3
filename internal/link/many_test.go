package link

import (
	"strings"
	"testing"
)

// TestSwap: many destinations change in one act and go back in one; drafts that wait go on waiting, and what is wrong changes
// nothing anywhere.
func TestSwap(t *testing.T) {
	s := open(t)
	var ids []string
	for _, url := range []string{"https://old.example/a?x=1", "https://old.example/b", "https://other.example/c"} {
		t.Run(url, func(t *testing.T) {
			id := create(t, s, `{"name":"`+url[len(url)-1:]+`","content":{"kind":"url","url":"`+url+`"}}`)
			turn(t, s, id)
			issue(t, s, id)
			ids = append(ids, id)
		})
	}
	static := fair(t, s)
	draft := create(t, s, `{"name":"d","content":{"kind":"url","url":"https://old.example/d"}}`)
	turn(t, s, draft)
	ids = append(ids, static, draft, ids[0])
	if _, err := s.Edit(t.Context(), ws, ids[1], map[string]string{"to": "https://old.example/waits"}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	swap := Swap{Find: "old.example", With: "new.example"}
	list, err := s.SwapOf(t.Context(), ws, ids, swap)
	if err != nil || len(list) != 4 {
		t.Fatalf("%+v, %v", list, err)
	}
	said := map[string]string{}
	for _, one := range list {
		said[one.From] = one.To
	}
	for from, to := range map[string]string{"old.example/a": "new.example/a", "old.example/b": "new.example/b",
		"other.example/c": "", "old.example/d": "new.example/d"} {
		t.Run(from, func(t *testing.T) {
			if got, ok := said[from]; !ok || got != to {
				t.Errorf("%s would become %q, not %q", from, got, to)
			}
		})
	}
	if led(t, s, ids[0]).Live.N != 1 {
		t.Error("looking changes something")
	}

	done, err := s.SwapAll(t.Context(), ws, ids, swap)
	if err != nil || len(done) != 3 {
		t.Fatalf("%+v, %v", done, err)
	}
	if l := led(t, s, ids[0]); l.Live.N != 2 || l.Live.Lead.To.Payload() != "https://new.example/a?x=1" || l.Changed() {
		t.Errorf("%+v", l.Live)
	}
	if l := led(t, s, ids[1]); l.Live.Lead.Says() != "new.example/b" || l.Draft.Says() != "new.example/waits" {
		t.Errorf("live %s, draft %s", l.Live.Lead.Says(), l.Draft.Says())
	}
	if l := led(t, s, ids[2]); l.Live.N != 1 {
		t.Errorf("what does not hold the text is live anew: %+v", l.Live)
	}
	if l := led(t, s, draft); l.Live != nil || l.Draft.Says() != "new.example/d" {
		t.Errorf("what was not handed over: %+v", l)
	}

	if _, err := s.MakeLive(t.Context(), ws, ids[1], 0); err != nil { // changed since: stays
		t.Fatal(err)
	}
	n, err := s.SwapBack(t.Context(), ws, map[string]int{ids[0]: 1, ids[1]: 1, "none": 1})
	if l := led(t, s, ids[0]); err != nil || n != 1 || l.Live.Lead.Says() != "old.example/a" || l.Live.Back != 1 {
		t.Errorf("%d went back, %v, %+v", n, err, l.Live)
	}

	// a new address for all of them
	if done, err := s.SwapAll(t.Context(), ws, ids[:3], Swap{With: "marrowby.example/shop"}); err != nil || len(done) != 3 {
		t.Errorf("%+v, %v", done, err)
	}
	before := answers(t, s)
	for _, bad := range []Swap{{}, {With: "javascript:x"}, {Find: "https", With: "ftp"}, {Find: "marrowby.example/shop",
		With: "go.marrowby.example/FA1R"}} {
		if _, err := s.SwapAll(t.Context(), ws, ids, bad); !refused(err, "/with") {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	if _, err := s.SwapAll(t.Context(), ws, strings.Split(strings.Repeat("x ", 10)+strings.Join(many(), " "), " "),
		swap); !refused(err, "/id") {
		t.Errorf("too many: %v", err)
	}
	for link, to := range answers(t, s) {
		if before[link] != to {
			t.Errorf("%s has changed to %s", link, to)
		}
	}
	if list, err := s.SwapOf(t.Context(), elsewhere, ids, swap); err != nil || len(list) != 0 {
		t.Errorf("another workspace sees %+v, %v", list, err)
	}
}

func many() (out []string) {
	for i := range MaxSwapped + 1 {
		out = append(out, "c"+strings.Repeat("x", i))
	}
	return out
}
