package scans

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
	"sodrik/internal/db/dbtest"
)

// TestReports: a report reaches its owners once, in the end also where it could not be told at first, and is counted as no scan.
func TestReports(t *testing.T) {
	d, l := dbtest.Open(t), openLog(t)
	report := event(now, "go.marrowby.example/GATE", scan.Report)
	report.Words = "It leads to a trap"
	old := event(now.AddDate(0, 0, -8), "go.marrowby.example/GATE", scan.Report)
	publish(t, l, report, old, event(now, "go.marrowby.example/GATE", scan.Scan))
	running(t, &Ingest{DB: d, Log: l, Now: at})
	until(t, "it does not come", func() bool { return count(t, d, `SELECT count(*) FROM scans`) == 3 })
	s := &Store{DB: d, Now: at}
	owner := access.Actor{Kind: access.Person, ID: "a", Name: "A", Workspace: "marrowby", Role: access.Owner}
	list, err := s.Reports(t.Context(), owner)
	if err != nil || len(list) != 2 || list[0].Words != "It leads to a trap" || list[0].Link != "go.marrowby.example/GATE" {
		t.Errorf("%+v, %v", list, err)
	}
	owner.Workspace = "other"
	if list, err := s.Reports(t.Context(), owner); len(list) != 0 || err != nil {
		t.Errorf("another workspace sees %+v, %v", list, err)
	}
	away := errors.New("the mail is away")
	if n, err := s.Tell(t.Context(), func(context.Context, Told) error { return away }); n != 0 || !errors.Is(err, away) {
		t.Errorf("%d are told, %v", n, err)
	}
	var told []Told
	tell := func() {
		t.Helper()
		if _, err := s.Tell(t.Context(), func(_ context.Context, r Told) error {
			told = append(told, r)
			return nil
		}); err != nil {
			t.Fatal(err)
		}
	}
	tell()
	tell()
	if len(told) != 1 || len(told[0].Reports) != 1 || told[0].Reports[0].Words != "It leads to a trap" ||
		told[0].Workspace != "marrowby" {
		t.Errorf("told are %+v", told)
	}
	// A flood is one mail an hour.
	clock := now.Add(time.Minute)
	s.Now = func() time.Time { return clock }
	var flood []scan.Event
	for range 92 {
		one := event(clock, "go.marrowby.example/GATE", scan.Report)
		one.Words = "Win at https://win.example/now or mail me@win.example"
		flood = append(flood, one)
	}
	publish(t, l, flood...)
	until(t, "the flood does not come", func() bool { return count(t, d, `SELECT count(*) FROM scans`) == 95 })
	for clock = now.Add(time.Minute); clock.Before(now.Add(time.Hour)); clock = clock.Add(time.Minute) {
		tell()
	}
	if len(told) != 1 {
		t.Errorf("%d mails within an hour", len(told))
	}
	clock = now.Add(time.Hour)
	tell()
	tell()
	if len(told) != 2 || told[1].All != 92 || len(told[1].Reports) != maxReports {
		t.Fatalf("%d mails", len(told))
	}
	subject, body := told[1].Letter("https://sodrik.example")
	if subject != "92 reports of your links" || !strings.Contains(body, "And 42 more.") || strings.Contains(body,
		"win.example") ||
		!strings.Contains(body, "Win at https[:]//win[.]example/now or mail me[@]win[.]example") {
		t.Error(subject, body)
	}
	if n := count(t, d, `SELECT coalesce(sum(n), 0) FROM scan_days WHERE link <> ''`); n != 1 {
		t.Errorf("%d scans are counted", n)
	}
}
