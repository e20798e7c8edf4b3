package notices

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/tally"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/link"
	"sodrik/internal/outside"
	"sodrik/internal/scans"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var now = time.Date(2027, 3, 31, 9, 0, 0, 0, time.UTC)

func days(n ...int) tally.Days {
	out := make(tally.Days, lookedBack-len(n))
	return append(out, n...)
}

func repeat(n, times int) []int { return slices.Repeat([]int{n}, times) }

func span() scans.Span {
	today := now.Truncate(24 * time.Hour)
	return scans.Span{From: today.AddDate(0, 0, 1-lookedBack), To: today.AddDate(0, 0, 1), Zone: time.UTC}
}

func of(since time.Time, counts tally.Days) hung {
	return hung{link.Placed{Link: leave.Link{Code: "Fair", Live: &leads.Live{Place: "gate", Code: "fair"}},
		Address: "go.marrowby.example/GATE", Since: since}, counts}
}

// TestGapWords: a gap says since when, how many are lost, and what came of it.
func TestGapWords(t *testing.T) {
	since := time.Date(2027, 3, 31, 9, 5, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		g    Gap
		want string
	}{
		"lasts": {Gap{Since: since}, "Scans are not counted since 31 March 2027, 09:05 UTC. Nothing is lost so far"},
		"loses": {Gap{Since: since, Lost: 1729}, "1,729 scans are lost. Everybody is led on as before."},
		"over": {Gap{Since: since, Until: since.Add(time.Hour), Lost: 1},
			"from 31 March 2027, 09:05 UTC to 10:05 UTC. 1 scan is lost."},
		"lost no one": {Gap{Since: since, Until: since.Add(time.Hour)}, "All of them were counted since."},
	} {
		t.Run(name, func(t *testing.T) {
			if got := c.g.words(); !strings.Contains(got, c.want) {
				t.Error(got)
			}
		})
	}
}

// TestSilent: silence is told of days that are over, unless today somebody scanned, and unless the place was taken down.
func TestSilent(t *testing.T) {
	old := now.AddDate(-1, 0, 0)
	quiet := days(append(repeat(4, 40), repeat(0, 8)...)...)
	for name, c := range map[string]struct {
		h    hung
		want string
	}{
		"silent since a week":  {of(old, quiet), "Fair, gate fell silent after 23 March. By chance that hardly happens."},
		"again today":          {of(old, append(slices.Clone(quiet[1:]), 1)), ""},
		"two days may be luck": {of(old, days(append(repeat(3, 40), 0, 0, 0)...)), ""},
		"never scanned":        {of(old, days()), ""},
		"hangs since then":     {of(now.AddDate(0, 0, -2), days(repeat(0, 3)...)), ""},
		"rare": {of(old, days(append(repeat(2, 50), repeat(0, 6)...)...)),
			"By chance that happens once in 20,000."},
	} {
		t.Run(name, func(t *testing.T) {
			n, is := c.h.silent(span())
			if is != (c.want != "") || !strings.Contains(n.Words, c.want) {
				t.Errorf("%s: %q, %v", name, n.Words, is)
			}
		})
	}
	down := of(old, quiet)
	down.Noted.Until = "2027-03-24"
	if n, is := down.silent(span()); is {
		t.Errorf("what was taken down: %q", n.Words)
	}
	for name, h := range map[string]hung{"hangs since today": of(now, quiet), "hangs tomorrow": of(now.AddDate(0, 0, 1), quiet)} {
		t.Run(name, func(t *testing.T) {
			if n, is := h.silent(span()); is {
				t.Errorf("%s: %q", name, n.Words)
			}
			h.Since, h.Noted.From = old, "2027-06-01"
			if n, is := h.silent(span()); is {
				t.Errorf("noted to hang in summer: %q", n.Words)
			}
		})
	}
	if n, is := of(old, quiet).silent(span()); !is || n.Key != "silent/go.marrowby.example/GATE/2027-03-23" || n.Code != "fair" {
		t.Errorf("%+v", n)
	}
}

func TestFirst(t *testing.T) {
	all := func(n int) func() (int, error) { return func() (int, error) { return n, nil } }
	for name, c := range map[string]struct {
		days tally.Days
		all  int
		want bool
	}{
		"today": {days(0, 1), 1, true}, "yesterday": {days(2, 0), 2, true}, "before": {days(1, 0, 0), 1, false},
		"long before": {days(0, 1), 9, false}, "never": {days(), 0, false}, "again": {days(1, 0, 1), 2, false},
	} {
		t.Run(name, func(t *testing.T) {
			if n, is, err := of(now, c.days).first(all(c.all)); is != c.want || err != nil {
				t.Errorf("%s: %+v, %v", name, n, err)
			}
		})
	}
	bad := errors.New("away")
	if _, is, err := of(now, days(1)).first(func() (int, error) { return 0, bad }); is || err != bad {
		t.Errorf("%v, %v", is, err)
	}
}

func TestEnding(t *testing.T) {
	h := of(now, days())
	step := func(at time.Time, does leads.Doing) leads.Step {
		return leads.Step{From: at.Unix(), Act: leads.Act{Does: does}}
	}
	for name, c := range map[string]struct {
		step leads.Step
		want bool
	}{
		"in thirteen days": {step(now.AddDate(0, 0, 13), leads.Quiet), true},
		"in fourteen":      {step(now.AddDate(0, 0, 14), leads.Quiet), false},
		"just now":         {step(now, leads.Quiet), false}, "long ago": {step(now.AddDate(0, 0, -1), leads.Quiet), false},
		"leads elsewhere then": {step(now.AddDate(0, 0, 3), leads.Goes), false},
	} {
		t.Run(name, func(t *testing.T) {
			h.Live.Steps = []leads.Step{{Act: leads.Act{Does: leads.Goes}}, c.step}
			if n, is := h.ending(now); is != c.want {
				t.Errorf("%s: %+v", name, n)
			}
		})
	}
}

func TestOld(t *testing.T) {
	for name, c := range map[string]struct {
		since       time.Time
		from, until string
		want        string
	}{
		"a day less than a year": {now.AddDate(-1, 0, 1), "", "", ""}, "a year": {now.AddDate(-1, 0, 0), "", "", "for a year."},
		"three years":    {now.AddDate(-3, 0, -3), "", "", "for 3 years."},
		"noted later":    {now.AddDate(-3, 0, 0), "2027-01-01", "", ""},
		"taken down":     {now.AddDate(-3, 0, 0), "", "2027-03-30", ""},
		"until tomorrow": {now.AddDate(-3, 0, 0), "", "2027-04-01", "for 3 years"},
		"not known":      {time.Time{}, "", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			h := of(c.since, days())
			h.Noted.From, h.Noted.Until = c.from, c.until
			n, is := h.old(now)
			if is != (c.want != "") || !strings.Contains(n.Words, c.want) {
				t.Errorf("%s: %+v", name, n)
			}
		})
	}
}

// world answers as a test wants.
type world struct {
	status map[string]int
	ends   time.Time
	asked  []string
}

func (w *world) Status(_ context.Context, address string) (int, error) {
	w.asked = append(w.asked, address)
	switch s := w.status[address]; s {
	case 0:
		return 0, errors.New("no route to host")
	case -1:
		return 0, fmt.Errorf("dial: %w", outside.ErrPrivate)
	default:
		return s, nil
	}
}

func (w *world) Certificate(context.Context, string) (time.Time, error) { return w.ends, nil }

func TestTrouble(t *testing.T) {
	w := &world{status: map[string]int{"a": 200, "b": 404, "c": 410, "d": 503, "e": 403, "f": -1, "g": 500, "h": 499}}
	s := &Store{Outside: w}
	for address, want := range map[string]string{"a": "", "b": "answers error 404", "c": "answers error 410",
		"d": "answers error 503",
		"e": "", "f": "", "g": "answers error 500", "h": "", "nowhere": "does not answer"} {
		t.Run(address, func(t *testing.T) {
			if got := s.trouble(t.Context(), address); got != want {
				t.Errorf("%s: %q, want %q", address, got, want)
			}
		})
	}
}

// TestHost: a month before a registration ends, two weeks before a certificate does, where hosts may be asked, and when a record
// is gone.
func TestHost(t *testing.T) {
	day := func(n int) *time.Time { at := now.AddDate(0, 0, n); return &at }
	w := &world{ends: now.AddDate(0, 0, 13)}
	s := &Store{Outside: w, Now: func() time.Time { return now }}
	for name, c := range map[string]struct {
		h    link.Host
		asks bool
		ends int
		want int
	}{
		"registered long":        {link.Host{Registered: day(31)}, true, 60, 0},
		"registered for a month": {link.Host{Registered: day(29)}, true, 60, 1},
		"record gone":            {link.Host{Missing: day(-1)}, true, 60, 1},
		"certificate ends":       {link.Host{Hang: 1}, true, 13, 1},
		"certificate holds":      {link.Host{Hang: 1}, true, 15, 0}, "nobody asked": {link.Host{Hang: 1}, false, 1, 0},
		"nothing hangs": {link.Host{}, true, 1, 0}, "all": {link.Host{Hang: 1, Missing: day(-1), Registered: day(1)}, true, 1, 3},
	} {
		t.Run(name, func(t *testing.T) {
			w.ends = now.AddDate(0, 0, c.ends)
			if got := s.host(t.Context(), c.h, c.asks); len(got) != c.want {
				t.Errorf("%s: %+v", name, got)
			}
		})
	}
}

// TestStore goes the whole way: what holds becomes a notice, told by mail once, gone where it no longer holds or was seen; errors
// of destinations only where others may be asked.
func TestStore(t *testing.T) {
	d := dbtest.Open(t)
	box := sealtest.Box(t)
	now := now
	clock := func() time.Time { return now }
	codes := code.New(ground.Ground{DB: d, Now: clock, Seal: box}, proof.Panel{}, "test")
	if _, err := codes.EnsureWorkspace(t.Context(), "marrowby", "Marrowby"); err != nil {
		t.Fatal(err)
	}
	links := link.New(codes, "https://go.marrowby.example")
	owner := access.OfProgram("marrowby", "Ada Thorne")
	m, problems := compose.Parse([]byte(`{"name":"Fair","content":{"kind":"url","url":"marrowby.example/fair"},"placements":
		[{"name":"gate","width_mm":60,"distance_mm":500}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := codes.Create(t.Context(), owner, m, "")
	if err == nil {
		_, err = links.Turn(t.Context(), owner, id, code.Anyhow)
	}
	if err == nil {
		_, err = codes.Issue(t.Context(), owner, id)
	}
	if err != nil {
		t.Fatal(err)
	}
	if _, err := d.Pool.Exec(t.Context(), `UPDATE lead_versions SET at = $1`, now.AddDate(-1, -1, 0)); err != nil {
		t.Fatal(err)
	}
	w := &world{status: map[string]int{"https://marrowby.example/fair": 404}}
	s := &Store{DB: d, Seal: box, Now: clock, Links: links, Scans: &scans.Store{DB: d, Now: clock}, Outside: w}
	look := func(want ...string) {
		t.Helper()
		if _, err := s.Look(t.Context()); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Ask(t.Context()); err != nil {
			t.Fatal(err)
		}
		list, err := s.List(t.Context(), owner)
		if err != nil || len(list) != len(want) {
			t.Fatalf("%+v, %v, want %v", list, err, want)
		}
		for i, kind := range want {
			if list[i].Kind != kind {
				t.Errorf("%+v, want %s", list[i], kind)
			}
		}
	}
	look() // nothing is told as usual: it never was scanned, and nobody may be asked
	if len(w.asked) > 0 {
		t.Errorf("%v are asked though nobody wanted it", w.asked)
	}
	viewer := owner
	viewer.Role = access.Viewer
	if err := s.Choose(t.Context(), viewer, nil); !errors.Is(err, access.ErrForbidden) {
		t.Errorf("a viewer chooses: %v", err)
	}
	if err := s.Choose(t.Context(), owner, []string{"weather"}); err == nil {
		t.Error("anything can be chosen")
	}
	if err := s.Choose(t.Context(), owner, []string{"errors", "old", Asks}); err != nil {
		t.Fatal(err)
	}
	now = now.Add(askedEvery)
	look("errors", "old")
	var plain int // where a code leads stands nowhere open
	if err := d.Pool.QueryRow(t.Context(),
		`SELECT count(*) FROM notices n WHERE n::text || encode(words, 'escape') LIKE '%/fair%'`).
		Scan(&plain); err != nil || plain > 0 {
		t.Errorf("%d notices can be read in the database, %v", plain, err)
	}
	var mails []string
	tell := func(_ context.Context, workspace, subject, body string) error {
		mails = append(mails, subject+"\n"+body)
		return nil
	}
	away := errors.New("no mail")
	fails := func(context.Context, string, string, string) error { return away }
	if _, err := s.Told(t.Context(), "https://s.example", fails); err != away {
		t.Errorf("a mail that fails: %v", err)
	}
	for range 2 {
		if _, err := s.Told(t.Context(), "https://s.example", tell); err != nil {
			t.Fatal(err)
		}
	}
	if len(mails) != 1 || !strings.HasPrefix(mails[0], "2 notices of your codes\n") ||
		!strings.Contains(mails[0], "which answers error 404.\nIts desk: https://s.example/codes/"+id) {
		t.Errorf("mails are %q", mails)
	}
	// A gap is one notice and one mail, whatever becomes of it.
	gap := Gap{Since: now.Add(-time.Hour), Lost: 3}
	for range 2 {
		if err := s.Uncounted(t.Context(), gap); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Told(t.Context(), "https://s.example", tell); err != nil {
			t.Fatal(err)
		}
		gap.Until = now
	}
	shown, err := s.List(t.Context(), owner)
	told := slices.IndexFunc(shown, func(n Notice) bool { return n.Kind == uncounted })
	if err != nil || len(mails) != 2 || !strings.HasPrefix(mails[1], "Scans are not counted since") || told < 0 ||
		!strings.HasPrefix(shown[told].Words, "Scans could not be counted from") {
		t.Fatalf("%q, %v, %v", mails[1:], shown, err)
	}
	if err := s.PutAway(t.Context(), owner, shown[told].Key); err != nil {
		t.Fatal(err)
	}
	// Asked once a day, however often the sweep comes by.
	w.status["https://marrowby.example/fair"] = 200
	look("errors", "old")
	now = now.Add(askedEvery)
	look("old")
	list, _ := s.List(t.Context(), owner)
	if err := s.PutAway(t.Context(), viewer, list[0].Key); !errors.Is(err, access.ErrForbidden) {
		t.Errorf("a viewer puts away: %v", err)
	}
	if err := s.PutAway(t.Context(), owner, list[0].Key); err != nil {
		t.Fatal(err)
	}
	look()
	// Where a route leads is asked as well.
	if _, _, err := links.EditRoute(t.Context(), owner, id, "", map[string][]string{"languages": {"cy"},
		"to": {"marrowby.example/cy"}},
		"GB"); err != nil {
		t.Fatal(err)
	}
	if _, err := links.MakeLive(t.Context(), owner, id, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := d.Pool.Exec(t.Context(), `UPDATE lead_versions SET at = $1`, now.AddDate(0, -1, 0)); err != nil {
		t.Fatal(err)
	}
	w.status["https://marrowby.example/cy"] = 500
	now = now.Add(askedEvery)
	look("errors")
	if list, _ = s.List(t.Context(), owner); len(list) != 1 || !strings.Contains(list[0].Words,
		"A route of Fair, gate leads to https://marrowby.example/cy, which answers error 500.") {
		t.Errorf("%+v", list)
	}
	for n, text := range map[int]string{1: "fell silent", 2: "2 notices"} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			some := []Notice{
				{Kind: "silent", Code: "c", Words: "Fair, gate fell silent after 1 March. By chance that hardly happens."},
				{Kind: "host", Words: "x"},
			}
			subject, body := letter("b", some[:n])
			if !strings.Contains(subject, text) || !strings.Contains(body, "Photograph it: b/codes/c/print") ||
				strings.Contains(subject, "chance") {
				t.Errorf("%s: %s", subject, body)
			}
		})
	}
}
