package scans

import (
	"bytes"
	"errors"
	"fmt"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scan"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/eventlog"
	"sodrik/internal/seal/sealtest"
)

var owner = access.Actor{Kind: access.Person, ID: "a", Name: "A", Workspace: "marrowby", Role: access.Owner}

// come brings events into the database as the log would.
func come(t *testing.T, d *db.DB, events ...scan.Event) {
	t.Helper()
	var lines [][]byte
	for _, e := range events {
		lines = append(lines, e.Encode())
	}
	i := &Ingest{DB: d, Now: at}
	if err := i.take(t.Context(), []eventlog.Event{{Data: bytes.Join(lines, []byte("\n"))}}); err != nil {
		t.Fatal(err)
	}
}

func workspaceOf(t *testing.T, d *db.DB) {
	t.Helper()
	if _, err := d.Pool.Exec(t.Context(),
		`INSERT INTO workspaces (id, name, created_at) VALUES ('marrowby', 'Marrowby', now())`); err != nil {
		t.Fatal(err)
	}
}

// phoned is a scan by a phone in a town.
func phoned(when time.Time, link, phone, town string) scan.Event {
	e := event(when, link, scan.Scan)
	e.Phone, e.Town, e.System = phone, town, "iOS"
	return e
}

// TestFolded: a day is folded once it is over, and anew when something comes late; different phones are counted by day and scope,
// never added up; what a day has more than a hundred of stands together.
func TestFolded(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	const gate, till = "go.marrowby.example/GATE", "go.marrowby.example/TILL"
	old := now.AddDate(0, 0, -3)
	come(t, d, phoned(old, gate, "a", "Ludlow"), phoned(old, gate, "a", "Ludlow"), phoned(old, till, "a", ""),
		phoned(old, till, "b", "Hereford"), event(old, till, scan.Robot), phoned(now, gate, "c", "Ludlow"))
	if n, err := s.Fold(t.Context()); n != 1 || err != nil {
		t.Fatalf("%d days are folded, %v", n, err)
	}
	span := Span{old.Truncate(24 * time.Hour), now.Truncate(24*time.Hour).AddDate(0, 0, 1), time.UTC}
	phones := func(of Scope) map[int]int {
		p, err := s.Parts(t.Context(), owner, of, span)
		if err != nil {
			t.Fatal(err)
		}
		return p.Phones
	}
	for of, want := range map[Scope][2]int{Workspace: {2, 1}, LinkScope(gate): {1, 1}, LinkScope(till): {2, 0},
		CodeScope("fair"): {2, 1}} {
		t.Run(fmt.Sprint(of), func(t *testing.T) {
			if got := phones(of); got[0] != want[0] || got[3] != want[1] {
				t.Errorf("%q: different phones %v, want %v", of, got, want)
			}
		})
	}
	come(t, d, phoned(old, gate, "z", "Ludlow"))
	if got := phones(LinkScope(gate)); got[0] != 2 {
		t.Errorf("what came late is not seen before it is folded: %v", got)
	}
	if n, err := s.Fold(t.Context()); n != 1 || err != nil {
		t.Fatalf("%d days are folded anew, %v", n, err)
	}
	if got := phones(LinkScope(gate)); got[0] != 2 {
		t.Errorf("what came late is not folded: %v", got)
	}
	var many []scan.Event
	for i := range 150 {
		many = append(many, phoned(old, gate, "", "Town "+string(rune('A'+i/26))+string(rune('A'+i%26))))
	}
	come(t, d, many...)
	if _, err := s.Fold(t.Context()); err != nil {
		t.Fatal(err)
	}
	if n := count(t, d, `SELECT count(*) FROM scan_parts, jsonb_object_keys(parts->'town') WHERE scope = 'link:'||$1`,
		gate); n != maxKeys+1 {
		t.Errorf("%d towns of a day are kept", n)
	}
	p, err := s.Parts(t.Context(), owner, LinkScope(gate), span)
	if last := p.Towns[len(p.Towns)-1]; err != nil || len(p.Towns) != maxParts || p.Towns[0] != (Part{"Ludlow", 4}) ||
		last != (Part{others, 150 - maxParts + 2}) {
		t.Errorf("towns are %v, %v", p.Towns, err)
	}
}

// TestForgotten: after so many months events are gone, and everything that was counted of them is as before but for phones and
// towns at the cut ends of a span, which is said; nothing goes before it is folded, and each deletion is shown.
func TestForgotten(t *testing.T) {
	d := dbtest.Open(t)
	workspaceOf(t, d)
	s := &Store{DB: d, Now: at}
	const gate = "go.marrowby.example/GATE"
	for _, day := range []int{1, 2, 3, 70, 71, 80} {
		come(
			t,
			d,
			phoned(now.AddDate(0, 0, -day), gate, "a", "Ludlow"),
			phoned(now.AddDate(0, 0, -day).Add(time.Hour), gate, "b", ""),
		)
	}
	var problems problem.List
	for _, bad := range []string{"0", "121", "x", "-1", "1.5"} {
		t.Run(bad, func(t *testing.T) {
			if err := s.Keep(t.Context(), owner, bad); !errors.As(err, &problems) || problems[0].Field != "/months" {
				t.Errorf("%q months: %v", bad, err)
			}
		})
	}
	if err := s.Keep(t.Context(), owner, "1"); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Forget(t.Context()); n != 0 || err != nil {
		t.Errorf("%d events go before they are folded, %v", n, err)
	}
	zone, _ := time.LoadLocation("Asia/Kathmandu")
	span := Span{time.Date(2027, 1, 1, 0, 0, 0, 0, zone), time.Date(2027, 4, 1, 0, 0, 0, 0, zone), zone}
	for {
		if n, err := s.Fold(t.Context()); err != nil || n == 0 {
			break
		}
	}
	before, err := s.Parts(t.Context(), owner, LinkScope(gate), span)
	if err != nil || before.Whole {
		t.Fatal(err, before.Whole)
	}
	daily, _ := s.Daily(t.Context(), owner, Which{}, span)
	if n, err := s.Forget(t.Context()); n != 6 || err != nil { // a month is kept beside this one, which is March
		t.Errorf("%d events go, %v", n, err)
	}
	if n := count(t, d, `SELECT count(*) FROM scans`); n != 6 {
		t.Errorf("%d events are left", n)
	}
	after, err := s.Parts(t.Context(), owner, LinkScope(gate), span)
	if err != nil || !after.Whole || after.Towns[0] != before.Towns[0] || after.Towns[1] != before.Towns[1] {
		t.Errorf("afterwards %+v, before %+v, %v", after, before, err)
	}
	if again, _ := s.Daily(t.Context(), owner, Which{}, span); sumOf(again[0].Days) != sumOf(daily[0].Days) {
		t.Error("counts have changed")
	}
	k, err := s.Keeping(t.Context(), owner)
	if err != nil || k.Months != 1 || len(k.Deletions) != 1 || k.Deletions[0].N != 6 ||
		!k.Deletions[0].Before.Equal(time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC)) || k.Oldest.Before(k.Deletions[0].Before) {
		t.Errorf("%+v, %v", k, err)
	}
	// Something of a forgotten day that comes late is counted, and what was folded stays.
	come(t, d, phoned(now.AddDate(0, 0, -80), gate, "late", "Perth"))
	if _, err := s.Fold(t.Context()); err != nil {
		t.Fatal(err)
	}
	if late, err := s.Parts(t.Context(), owner, LinkScope(gate), span); err != nil || late.Towns[0].N != before.Towns[0].N {
		t.Errorf("a late event takes away what was folded: %+v, %v", late, err)
	}
	if err := s.Keep(t.Context(), owner, ""); err != nil {
		t.Fatal(err)
	}
	if n, _ := s.Forget(t.Context()); n != 0 {
		t.Errorf("%d events go that are kept for ever", n)
	}
	viewer := owner
	viewer.Role = access.Viewer
	if err := s.Keep(t.Context(), viewer, "3"); !errors.Is(err, access.ErrForbidden) {
		t.Errorf("a viewer decides how long: %v", err)
	}
}

// TestShared: an overview is seen by whoever has its address, until its time is over or it is withdrawn; its reader may look and
// nothing else.
func TestShared(t *testing.T) {
	d := dbtest.Open(t)
	workspaceOf(t, d)
	time1 := now
	s := &Store{DB: d, Now: func() time.Time { return time1 }, Seal: sealtest.Box(t)}
	token, err := s.Share(t.Context(), owner, "Spring fair", "campaign=Spring+fair", "7")
	if err != nil {
		t.Fatal(err)
	}
	if n := count(t, d, `SELECT count(*) FROM shared_overviews WHERE shared_overviews::text LIKE '%`+token+`%'`); n != 0 {
		t.Error("whoever reads the database reads the address")
	}
	if list, err := s.Shares(t.Context(), owner); err != nil || len(list) != 1 || list[0].Token != token {
		t.Errorf("those who may see it see %v, %v", list, err)
	}
	o, err := s.SharedBy(t.Context(), token)
	if err != nil || o.House != "Marrowby" || o.Query != "campaign=Spring+fair" || len(token) < 26 {
		t.Errorf("%+v, %v", o, err)
	}
	if v := o.Viewer(); !v.May(access.Look) || v.May(access.Change) || v.May(access.Manage) || v.Workspace != "marrowby" {
		t.Errorf("its reader is %+v", v)
	}
	if _, err := s.Share(t.Context(), owner, "x", "", "8"); err == nil {
		t.Error("eight days can be chosen")
	}
	if err := s.Withdraw(t.Context(), access.Actor{Workspace: "other", Role: access.Owner}, token); err != nil {
		t.Error(err)
	}
	if _, err := s.SharedBy(t.Context(), token); err != nil {
		t.Errorf("another workspace withdraws it: %v", err)
	}
	time1 = now.AddDate(0, 0, 7)
	if _, err := s.SharedBy(t.Context(), token); !errors.Is(err, ErrNotShared) {
		t.Errorf("after its time: %v", err)
	}
	time1 = now
	if list, err := s.Shares(t.Context(), owner); err != nil || len(list) != 1 {
		t.Errorf("%v, %v", list, err)
	}
	if err := s.Withdraw(t.Context(), owner, token); err != nil {
		t.Fatal(err)
	}
	if _, err := s.SharedBy(t.Context(), token); !errors.Is(err, ErrNotShared) {
		t.Errorf("after it was withdrawn: %v", err)
	}
}

// TestLed: scans are told apart by where a code led, to the quarter of an hour.
func TestLed(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	const gate = "go.marrowby.example/GATE"
	noon := time.Date(2027, 3, 20, 12, 7, 0, 0, time.UTC)
	come(t, d, event(noon.Add(-time.Hour), gate, scan.Scan), event(noon.Add(time.Minute), gate, scan.Scan),
		event(noon.Add(time.Hour), gate, scan.Scan), event(noon.AddDate(0, 0, -9), gate, scan.Scan))
	span := Span{time.Date(2027, 3, 15, 0, 0, 0, 0, time.UTC), time.Date(2027, 3, 30, 0, 0, 0, 0, time.UTC), time.UTC}
	got, err := s.Led(t.Context(), owner, []Key{{"fair", gate}}, []time.Time{noon, noon.AddDate(0, 0, -30)}, span)
	if err != nil || got[0] != 2 || got[1] != 1 {
		t.Errorf("%v, %v", got, err)
	}
}

// TestAhead: what claims to come later than clocks may differ does not hold up the live strip.
func TestAhead(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	come(
		t,
		d,
		event(now.Add(-time.Minute), "go.marrowby.example/GATE", scan.Scan),
		event(
			now.Add(25*time.Hour),
			"go.marrowby.example/GATE",
			scan.Scan,
		),
		event(now.AddDate(3, 0, 0), "go.marrowby.example/GATE", scan.Scan),
	)
	list, err := s.Latest(t.Context(), owner, "", 9)
	if err != nil || len(list) != 1 {
		t.Errorf("%d scans are shown, %v", len(list), err)
	}
	if day, hour, err := s.Since(t.Context(), owner, now.AddDate(0, 0, -1), now.Add(-time.Hour)); day != 1 || hour != 1 ||
		err != nil {
		t.Errorf("%d today, %d in the last hour, %v", day, hour, err)
	}
}

// TestEvents: events come in the order of their times, page by page, without reports and what tells phones apart.
func TestEvents(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	var all []scan.Event
	for i := range 7 {
		all = append(all, phoned(now.Add(time.Duration(i-10)*time.Minute), "go.marrowby.example/GATE", "secret", "Ludlow"))
	}
	come(t, d, append(all, event(now, "go.marrowby.example/GATE", scan.Report))...)
	after, n := From(now.AddDate(0, 0, -1)), 0
	for {
		list, err := s.Events(t.Context(), owner, nil, after, From(now.AddDate(0, 0, 1)), 3)
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range list {
			if k.ID != all[n].ID || len(k.Row()) != len(scan.Columns) {
				t.Errorf("number %d is %+v", n, k)
			}
			after = k.ID
			n++
		}
		if len(list) < 3 {
			break
		}
	}
	if n != 7 {
		t.Errorf("%d events", n)
	}
	if list, err := s.Events(t.Context(), owner, []string{}, From(now.AddDate(0, 0, -1)), From(now), 9); len(list) != 0 ||
		err != nil {
		t.Errorf("of no link there are %d, %v", len(list), err)
	}
}

// TestNone: what is asked for of no link is nothing, not everything.
func TestNone(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	reached := event(now, "go.marrowby.example/GATE", scan.Reached)
	reached.Goal = "order"
	come(t, d, event(now, "go.marrowby.example/GATE", scan.Scan), reached)
	span := Span{now.Truncate(24 * time.Hour), now.Truncate(24*time.Hour).AddDate(0, 0, 1), time.UTC}
	none, all := Which{Links: []Key{}}, Which{}
	if list, err := s.Daily(t.Context(), owner, none, span); len(list) != 0 || err != nil {
		t.Errorf("of no link: %v, %v", list, err)
	}
	if list, err := s.Reached(t.Context(), owner, none, span); len(list) != 0 || err != nil {
		t.Errorf("of no link: %v, %v", list, err)
	}
	if list, err := s.Reached(t.Context(), owner, all, span); len(list) != 1 || list[0] != (Reached{"order", 0, 1}) ||
		err != nil {
		t.Errorf("of all: %v, %v", list, err)
	}
}

// TestSignedFirst: however many reports somebody forges, those that are signed are told first.
func TestSignedFirst(t *testing.T) {
	d := dbtest.Open(t)
	s := &Store{DB: d, Now: at}
	var all []scan.Event
	for i := range 60 {
		e := event(now, "go.marrowby.example/GATE", scan.Reached)
		e.Goal = "forged-" + string(rune('a'+i%25))
		all = append(all, e)
	}
	e := event(now, "go.marrowby.example/GATE", scan.Reached)
	e.Goal, e.Signed = "order", true
	come(t, d, append(all, e)...)
	span := Span{now.Truncate(24 * time.Hour), now.Truncate(24*time.Hour).AddDate(0, 0, 1), time.UTC}
	list, err := s.Reached(t.Context(), owner, Which{Codes: []string{"fair"}}, span)
	if err != nil || len(list) != 20 || list[0] != (Reached{"order", 1, 0}) {
		t.Errorf("%v, %v", list, err)
	}
}
