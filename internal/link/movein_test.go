package link

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/movein"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/eventlog"
)

// old stands for the host that moves in, as it answers today.
type old map[string]string

func (o old) Ask(_ context.Context, address string) (string, error) {
	to, ok := o[address]
	if !ok {
		return "", context.DeadlineExceeded
	}
	return to, nil
}

// TestMoveIn: paths in print are answered here, in either case and as they were, are found, counted among what leaves, can lead
// elsewhere later, and never move in twice.
func TestMoveIn(t *testing.T) {
	s := open(t)
	n := asking(t, s)
	ctx := t.Context()
	const leaf = "leaf.marrowby.example"
	if _, err := s.AddHost(ctx, ws, leaf); err != nil {
		t.Fatal(err)
	}
	rows := movein.Read("/spring,https://marrowby.example/spring,Spring list\n/Bulbs/2025_a b,https://marrowby.example/bulbs\n" +
		"/card,mailto:a@b.example\n/chat,https://marrowby.example/talk\n/away,https://go.marrowby.example/FA1R\n")
	if _, err := s.Moves(ctx, ws, leaf, rows); problemOf(err) != "/host host.unproved" {
		t.Errorf("to a host that is not proved: %v", err)
	}
	_, token, err := s.Hosts(ctx, ws)
	if err != nil {
		t.Fatal(err)
	}
	n.records[shortlink.Record(leaf)] = []string{shortlink.Proof(token)}
	if err := s.AskHost(ctx, ws, leaf); err != nil {
		t.Fatal(err)
	}
	s.Outside = old{"https://" + leaf + "/spring": "https://marrowby.example/spring",
		"https://" + leaf + "/Bulbs/2025_a%20b": "https://marrowby.example/bulbs",
		"https://" + leaf + "/chat":             "https://marrowby.example/chat"}
	list, err := s.Moves(ctx, ws, leaf, rows)
	if err != nil || len(list) != 5 {
		t.Fatalf("%+v, %v", list, err)
	}
	for i, want := range []struct {
		same, asked bool
		bad         string
	}{{true, true, ""}, {true, true, ""}, {false, false, "no web address"}, {false, true, ""},
		{false, false, "a short link of ours"}} {
		t.Run(fmt.Sprint(want.same), func(t *testing.T) {
			if m := list[i]; m.Same() != want.same || m.Asked != want.asked || !strings.Contains(m.Bad, want.bad) ||
				(m.Bad == "") != (want.bad == "") {
				t.Errorf("%d: %+v", i, m)
			}
		})
	}

	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	r := service(t, s, log)
	start(t, NewRelay(s.Codes.DB, log).Run)
	for _, want := range []int{3, 0} {
		if n, err := s.MoveIn(ctx, ws, leaf, rows); n != want || err != nil {
			t.Fatalf("%d move in, %v, want %d", n, err, want)
		}
	}
	to := func(path string) string { return ask(r, "https://"+leaf+path).Header().Get("Location") }
	until(t, "they are answered", 5*time.Second, func() bool { return to("/chat") != "" })
	for path, want := range map[string]string{"/spring": "https://marrowby.example/spring",
		"/SPRING/":          "https://marrowby.example/spring",
		"/Bulbs/2025_a%20b": "https://marrowby.example/bulbs", "/bulbs/2025_A%20B/": "https://marrowby.example/bulbs",
		"/bulbs": "", "/bulbs/2025": "", "/card": ""} {
		t.Run(path, func(t *testing.T) {
			if got := to(path); got != want {
				t.Errorf("%s leads to %q, want %q", path, got, want)
			}
		})
	}
	if w := ask(r, "https://"+leaf+"/Bulbs/2025_a%20b/where"); w.Code != 200 ||
		!strings.Contains(w.Body.String(), "marrowby.example/bulbs") {
		t.Errorf("where it leads: %d", w.Code)
	}
	live, err := s.Live(ctx, ws)
	if err != nil || len(live) != 3 {
		t.Errorf("%d links leave, %v", len(live), err)
	}
	p, err := s.Codes.Ledger(ctx, ws, code.Active, "bulbs/2025_a", nil, 10)
	if err != nil || len(p.Lines) != 1 || p.Lines[0].Name != "2025_a b" {
		t.Fatalf("it is found as %+v, %v", p, err)
	}
	id := p.Lines[0].ID
	if _, err := s.Edit(ctx, ws, id, map[string]string{"to": "marrowby.example/tulips"}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	if _, err := s.MakeLive(ctx, ws, id, 0); err != nil {
		t.Fatal(err)
	}
	until(
		t,
		"it leads elsewhere",
		5*time.Second,
		func() bool { return to("/bulbs/2025_a%20b") == "https://marrowby.example/tulips" },
	)
	issue(t, s, id) // with a link of its own, which our symbols can hold; what hangs goes on
	if live, err = s.Live(ctx, ws); err != nil || len(live) != 4 {
		t.Errorf("%d links leave, %v", len(live), err)
	}
	until(
		t,
		"it still leads there",
		5*time.Second,
		func() bool { return to("/bulbs/2025_a%20b") == "https://marrowby.example/tulips" },
	)
}

// TestMoveInTaken: on the server's own host a path may be another workspace's: that is said before, and left out.
func TestMoveInTaken(t *testing.T) {
	s := open(t)
	rows := movein.Read("/tulips,https://marrowby.example/tulips\n/a_b,https://marrowby.example/a\n")
	if n, err := s.MoveIn(t.Context(), elsewhere, "go.marrowby.example", rows[:1]); n != 1 || err != nil {
		t.Fatalf("%d move in, %v", n, err)
	}
	list, err := s.Moves(t.Context(), ws, "go.marrowby.example", rows)
	if err != nil || !strings.Contains(list[0].Bad, "Another workspace") || list[1].Bad != "" {
		t.Errorf("%+v, %v", list, err)
	}
	for _, want := range []int{1, 0} {
		if n, err := s.MoveIn(t.Context(), ws, "go.marrowby.example", rows); n != want || err != nil {
			t.Errorf("%d move in, %v, want %d", n, err, want)
		}
	}
	// What another took between look and act is left out too.
	if moved, err := s.moveIn(t.Context(), ws, "go.marrowby.example", rows[0]); moved || err != nil {
		t.Errorf("a taken path moves in: %v, %v", moved, err)
	}
	if p, err := s.Codes.Ledger(t.Context(), ws, code.Active, "", nil, 10); err != nil || len(p.Lines) != 1 {
		t.Errorf("%d codes, %v", len(p.Lines), err)
	}
}

// TestHangings: what is noted of a place stands by its link, sealed, and no other code's.
func TestHangings(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	noted := map[string]string{"spot": "left of the desk", "prints": "4000"}
	if err := s.Hang(t.Context(), ws, id, a.String(), noted); err != nil {
		t.Fatal(err)
	}
	if err := s.Hang(t.Context(), ws, id, a.String(), map[string]string{"hangs_from": "1 March 2027"}); err != nil {
		t.Fatal(err)
	}
	for _, get := range []func() (map[string]*leads.Hanging, error){
		func() (map[string]*leads.Hanging, error) { return s.Hangings(t.Context(), ws) },
		func() (map[string]*leads.Hanging, error) { return s.HangingsOf(t.Context(), ws, id) },
	} {
		all, err := get()
		if err != nil || len(all) != 1 ||
			*all[a.String()] != (leads.Hanging{Spot: "left of the desk", Prints: 4000, From: "2027-03-01"}) {
			t.Errorf("%+v, %v", all, err)
		}
	}
	if err := s.Hang(t.Context(), ws, id, a.String(), map[string]string{"prints": "many"}); problemOf(err)[:7] != "/prints" {
		t.Errorf("many: %v", err)
	}
	for _, link := range []string{"go.marrowby.example/OTHER", ""} {
		t.Run(link, func(t *testing.T) {
			if err := s.Hang(t.Context(), ws, id, link, nil); !errors.Is(err, code.ErrNotFound) {
				t.Errorf("%q: %v", link, err)
			}
		})
	}
	if all, err := s.Hangings(t.Context(), elsewhere); len(all) != 0 || err != nil {
		t.Errorf("another workspace sees %v, %v", all, err)
	}
}
