package link

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/route"
)

// routesOf is the draft's routes, in order: what each asks, and where it leads.
func routesOf(l *leads.Lead) string {
	var out []string
	for i, r := range l.Routes {
		words := l.RouteSays(i)
		if r.Off {
			words = "(off) " + words
		}
		out = append(out, words)
	}
	return strings.Join(out, "\n")
}

func edited(t *testing.T, s *Store, id, rid string, edits map[string][]string) string {
	t.Helper()
	_, own, err := s.EditRoute(t.Context(), ws, id, rid, edits, "GB")
	if err != nil {
		t.Fatal(err)
	}
	return own
}

// TestRoutes goes through the life of routes: made, changed, moved, switched, made live, found fault with, mended, copied, taken
// out.
func TestRoutes(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	issue(t, s, id)
	welsh := edited(t, s, id, "", map[string][]string{"languages": {"Welsh"}, "to": {"marrowby.example/cy"}})
	ios := edited(t, s, id, "", map[string][]string{"systems": {"ios", "android"}, "to": {"+44 113 496 0123"}})
	if welsh == ios || len(welsh) != 8 {
		t.Errorf("ids are %s and %s", welsh, ios)
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"then": "marrowby.example/bulbs", "from": "20 March 2027, 16:00",
		"timezone": "London"}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	last := edited(t, s, id, "", map[string][]string{"where": {"Ireland"}, "to": {"marrowby.example/ie"}})
	want := "Whose phone speaks Welsh: marrowby.example/cy.\nOn an iPhone or iPad or Android: Calls +44 113 496 0123.\n" +
		"In Ireland: marrowby.example/ie.\nFrom Sat 20 March 2027, 16:00 in London: marrowby.example/bulbs."
	l := led(t, s, id)
	if got := routesOf(l.Draft); got != want {
		t.Errorf("the routes are\n%s\nwant\n%s", got, want)
	}
	if doc := l.Draft.JSON(); doc["then"] == nil || len(doc["routes"].([]any)) != 3 {
		t.Errorf("the change at a time is kept as %v", doc)
	}
	if a := answers(t, s)["go.marrowby.example/"+firstPath(t, s, id)]; a != "go https://marrowby.example/fair gate" {
		t.Errorf("a draft is live: %s", a)
	}

	// the change at a time is one of them: it moves, and is the same in its own form
	if _, err := s.MoveRoute(t.Context(), ws, id, leads.Planned, 0); err != nil {
		t.Fatal(err)
	}
	if l = led(t, s, id); l.Draft.Routes[0].ID != leads.Planned || l.Draft.From != "2027-03-20T16:00" || !l.Draft.Apart() {
		t.Errorf("moved: %s", routesOf(l.Draft))
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"until": "22 March 2027, 18:00", "then": "marrowby.example/late"},
		"GB", 0); err != nil {
		t.Fatal(err)
	}
	if got := routesOf(led(t, s, id).Draft); !strings.HasPrefix(got,
		"Between Sat 20 March 2027, 16:00 and Mon 22 March 2027, 18:00 in London: marrowby.example/late.") {
		t.Errorf("edited as a change at a time:\n%s", got)
	}
	edited(t, s, id, leads.Planned, map[string][]string{"languages": {"cy"}, "from": {"21 March 2027"}})
	if l = led(t, s, id); l.Draft.From != "2027-03-21T00:00" || l.Draft.Routes[0].Languages[0] != "cy" {
		t.Errorf("edited as a route: %s", routesOf(l.Draft))
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"then": "", "from": ""}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	if l = led(t, s, id); len(l.Draft.Routes) != 3 || l.Draft.Then != nil {
		t.Errorf("taken out as a change at a time: %s", routesOf(l.Draft))
	}

	if _, err := s.SwitchRoute(t.Context(), ws, id, ios, true); err != nil {
		t.Fatal(err)
	}
	if l, err := s.MakeLive(t.Context(), ws, id, 0); err != nil || l.Live.N != 2 || len(l.Live.Lead.Routes) != 3 ||
		!l.Live.Lead.Routes[1].Off {
		t.Fatalf("live is %+v, %v", l, err)
	}
	if _, err := s.SwitchRoute(t.Context(), ws, id, ios, false); err != nil {
		t.Fatal(err)
	}
	if l = led(t, s, id); !l.Changed() || strings.Join(l.Draft.Differences(l.Live.Lead), " ") != "Route 2 is on again." {
		t.Errorf("differs: %v", l.Draft.Differences(l.Live.Lead))
	}

	// what is found is mended, and once it is, nothing happens
	found := func() string {
		l := led(t, s, id)
		var out []string
		for _, f := range route.Find(l.Draft.Rules(), l.Draft.Zone, l.Draft.Language, s.Codes.Now()) {
			out = append(out, f.Code)
		}
		return strings.Join(out, " ")
	}
	if got := found(); got != "route.rest_language" {
		t.Errorf("found are %s", got)
	}
	for range 2 {
		if _, err := s.FixRoute(t.Context(), ws, id, "route.rest_language", 0); err != nil {
			t.Fatal(err)
		}
	}
	edited(t, s, id, last, map[string][]string{"where": {""}})
	if got := found(); got != "" {
		t.Errorf("the last one for everybody: found are %s", got)
	}
	if _, err := s.MoveRoute(t.Context(), ws, id, last, -5); err != nil {
		t.Fatal(err)
	}
	if got := found(); got != "route.always" {
		t.Errorf("the first one for everybody: found are %s", got)
	}
	if l, err := s.FixRoute(t.Context(), ws, id, "route.always", 0); err != nil || l.Draft.Routes[2].ID != last ||
		l.Draft.Language != "en" {
		t.Errorf("mended: %s, %v", routesOf(l.Draft), err)
	}

	// others take them over, in their drafts alone
	other := fair(t, s)
	turn(t, s, other)
	issue(t, s, other)
	fixed := fair(t, s)
	if n, err := s.CopyRoutes(t.Context(), ws, id, []string{other, other, id}); err != nil || n != 1 {
		t.Fatalf("%d took them over, %v", n, err)
	}
	if got := led(t, s, other); routesOf(got.Draft) != routesOf(led(t, s, id).Draft) || len(got.Live.Lead.Routes) != 0 ||
		got.Draft.Language != "en" {
		t.Errorf("another has\n%s", routesOf(got.Draft))
	}
	if _, err := s.CopyRoutes(t.Context(), ws, id, []string{fixed, other}); !refused(err, "/id") {
		t.Errorf("a fixed code takes routes over: %v", err)
	}
	if list, err := s.Others(t.Context(), ws); err != nil || len(list) != 2 {
		t.Errorf("others are %v, %v", list, err)
	}
	if _, err := s.DropRoute(t.Context(), ws, id, welsh); err != nil {
		t.Fatal(err)
	}
	for _, gone := range []func() error{
		func() error { _, err := s.DropRoute(t.Context(), ws, id, welsh); return err },
		func() error { _, err := s.MoveRoute(t.Context(), ws, id, welsh, 0); return err },
		func() error { _, err := s.SwitchRoute(t.Context(), ws, id, welsh, true); return err },
	} {
		if err := gone(); err != nil {
			t.Errorf("what somebody else took out: %v", err)
		}
	}
	if _, _, err := s.EditRoute(t.Context(), ws, id, welsh, map[string][]string{"to": {"marrowby.example/x"}}, "GB"); err == nil {
		t.Error("a route that is gone is edited")
	}

	// destinations of routes are destinations: found, swapped, barred
	if _, err := s.SwapAll(t.Context(), ws, []string{id}, Swap{Find: "marrowby.example/ie",
		With: "marrowby.example/eire"}); err != nil {
		t.Fatal(err)
	}
	if got := routesOf(led(t, s, id).Draft); !strings.Contains(got, "Everybody: marrowby.example/eire.") {
		t.Errorf("after a swap:\n%s", got)
	}
	if err := s.Allow(t.Context(), access.Actor{Workspace: inWS, ID: "o", Name: "Owner", Role: access.Owner},
		"marrowby.example"); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.EditRoute(t.Context(), ws, id, last, map[string][]string{"to": {"elsewhere.example"}}, "GB"); !refused(
		err,
		"/to",
	) {
		t.Errorf("a route leads where it may not: %v", err)
	}
	if _, _, err := s.EditRoute(t.Context(), elsewhere, id, last, nil, "GB"); err != code.ErrNotFound {
		t.Errorf("from another workspace: %v", err)
	}
}

func firstPath(t *testing.T, s *Store, id string) string {
	t.Helper()
	c, err := s.Codes.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	return Links(c.Rendition.Job)[0].Address.Path
}

// TestRoutesRefused: what is wrong is said at the field as the form has it, and nothing is changed.
func TestRoutesRefused(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	for field, edits := range map[string]map[string][]string{
		"/to":        {"to": {""}},
		"/where":     {"to": {"a.example"}, "where": {"Walles"}},
		"/languages": {"to": {"a.example"}, "languages": {"Klingonish"}},
		"/until": {"to": {"a.example"}, "from": {"20 March 2027, 10:00"}, "until": {"19 March 2027, 10:00"},
			"timezone": {"London"}},
		"/until-2": {"to": {"a.example"}, "until": {"1 March 2027, 10:00"}, "from-2": {"20 March 2027, 10:00"},
			"until-2": {"19 March 2027, 10:00"}, "timezone": {"London"}},
		"/timezone": {"to": {"a.example"}, "weekdays": {"mo"}, "timezone": {"Nowhere"}},
		"/share":    {"to": {"a.example"}, "share": {"0.5 %"}},
		"/stock":    {"to": {"a.example"}, "stock": {"many"}},
		"/hours":    {"to": {"a.example"}, "hours": {"9"}, "timezone": {"London"}},
	} {
		t.Run(field, func(t *testing.T) {
			if _, _, err := s.EditRoute(t.Context(), ws, id, "", edits, "GB"); !refused(err, field) {
				t.Errorf("%v: %v", edits, err)
			}
		})
	}
	if l := led(t, s, id); len(l.Draft.Routes) != 0 || l.Draft.Zone != "" {
		t.Errorf("it has %s", routesOf(l.Draft))
	}
	if _, err := s.StartApp(t.Context(), ws, id, "apps.example/ios", "", "GB"); !refused(err, "/to-android") {
		t.Errorf("half an app: %v", err)
	}
	if l, err := s.StartApp(t.Context(), ws, id, "apps.example/ios", "apps.example/android", "GB"); err != nil ||
		len(l.Draft.Routes) != 2 {
		t.Errorf("an app: %v", err)
	}
	var many []any
	for range route.MaxRules + 1 {
		many = append(many, map[string]any{"to": map[string]any{"kind": "url", "url": "a.example"}})
	}
	_, err := s.Set(
		t.Context(),
		ws,
		id,
		map[string]any{"to": map[string]any{"kind": "url", "url": "a.example"}, "routes": many},
		0,
	)
	if !refused(err, "/routes") || !strings.Contains(err.Error(), "are 201; a code has room for 200") {
		t.Errorf("too many: %v", err)
	}
}

// TestRoutesAtOnce: what several do to the routes at once holds all of it.
func TestRoutesAtOnce(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	var all sync.WaitGroup
	for i := range 8 {
		all.Go(func() {
			if _, _, err := s.EditRoute(t.Context(), ws, id, "", map[string][]string{"where": {"Wales"},
				"to": {fmt.Sprintf("marrowby.example/%d", i)}}, "GB"); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	l := led(t, s, id)
	if len(l.Draft.Routes) != 8 {
		t.Fatalf("it has %s", routesOf(l.Draft))
	}
	first, last := l.Draft.Routes[0].ID, l.Draft.Routes[7].ID
	for _, move := range []struct {
		id string
		to int
	}{{first, 7}, {last, 0}} {
		all.Go(func() {
			if _, err := s.MoveRoute(t.Context(), ws, id, move.id, move.to); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	if l = led(t, s, id); l.Draft.Route(last) > 1 || l.Draft.Route(first) < 6 {
		t.Errorf("moved at once they stand at %d and %d", l.Draft.Route(last), l.Draft.Route(first))
	}
}
