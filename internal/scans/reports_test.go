package scans

import (
	"context"
	"errors"
	"testing"

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
	if n, err := s.Tell(t.Context(), func(context.Context, Report) error { return away }); n != 0 || !errors.Is(err, away) {
		t.Errorf("%d are told, %v", n, err)
	}
	var told []Report
	for range 2 {
		if _, err := s.Tell(t.Context(), func(_ context.Context, r Report) error {
			told = append(told, r)
			return nil
		}); err != nil {
			t.Fatal(err)
		}
	}
	if len(told) != 1 || told[0].Words != "It leads to a trap" || told[0].Workspace != "marrowby" {
		t.Errorf("told are %+v", told)
	}
	if n := count(t, d, `SELECT coalesce(sum(n), 0) FROM scan_days WHERE link <> ''`); n != 1 {
		t.Errorf("%d scans are counted", n)
	}
}
