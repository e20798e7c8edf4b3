package scans

import (
	"bytes"
	"encoding/csv"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
	"sodrik/internal/db/dbtest"
)

// TestFigures: counts of days in a zone equal a count over the raw events, of late, doubled and disordered ones, robots and other
// workspaces apart; also over a change of the clocks, and where a zone lies at a quarter of an hour.
func TestFigures(t *testing.T) {
	d, l := dbtest.Open(t), openLog(t)
	random := rand.New(rand.NewPCG(1, 2))
	var all []scan.Event
	for range 3000 {
		e := event(
			now.Add(-time.Duration(random.Int64N(int64(40*24*time.Hour)))),
			"go.marrowby.example/"+[]string{"GATE", "TILL"}[random.IntN(2)],
			[]scan.Kind{scan.Scan, scan.Scan, scan.Scan, scan.Robot, scan.Where}[random.IntN(5)],
		)
		e.Town, e.System = []string{"Ludlow", "Hereford", ""}[random.IntN(3)], []string{"iOS", "Android"}[random.IntN(2)]
		if random.IntN(20) == 0 {
			e.Workspace = "other"
		}
		all = append(all, e)
	}
	for i := 0; i < len(all); i += 50 {
		publish(t, l, all[i:i+50]...)
	}
	publish(t, l, all[:100]...) // again
	running(t, &Ingest{DB: d, Log: l, Now: at})
	until(t, "not all come", func() bool { return count(t, d, `SELECT count(*) FROM scans`) == len(all) })
	s, owner := &Store{
		DB:  d,
		Now: at,
	}, access.Actor{
		Kind:      access.Person,
		ID:        "a",
		Name:      "A",
		Workspace: "marrowby",
		Role:      access.Owner,
	}
	for _, name := range []string{"UTC", "Europe/London", "Asia/Kathmandu", "Pacific/Auckland"} {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		span := Span{time.Date(2027, 3, 1, 0, 0, 0, 0, zone), time.Date(2027, 3, 30, 0, 0, 0, 0, zone), zone}
		if n := span.Days(); n != 29 {
			t.Errorf("%s: %d days", name, n)
		}
		want := map[string][]int{}
		towns, apart := map[string]int{}, 0
		for _, e := range all {
			day := time.UnixMilli(e.At).In(zone)
			if e.Workspace != "marrowby" || day.Before(span.From) || !day.Before(span.To) {
				continue
			}
			switch e.Kind {
			case scan.Robot:
				apart++
			case scan.Scan:
				if want[e.Link] == nil {
					want[e.Link] = make([]int, 29)
				}
				want[e.Link][day.Day()-1]++
				if e.Link == "go.marrowby.example/GATE" {
					towns[e.Town]++
				}
			}
		}
		list, err := s.Daily(t.Context(), owner, "", span)
		if err != nil || len(list) != 2 {
			t.Fatalf("%s: %d links, %v", name, len(list), err)
		}
		for _, one := range list {
			if !slices.Equal(one.Days, want[one.Link]) {
				t.Errorf("%s: %s: %v, want %v", name, one.Link, one.Days, want[one.Link])
			}
		}
		parts, err := s.OfLink(t.Context(), owner, "go.marrowby.example/GATE", span)
		if err != nil || len(parts.Towns) != 3 || len(parts.Systems) != 2 || len(parts.Languages) != 1 ||
			parts.Languages[0].Name != "cy" {
			t.Fatalf("%s: %+v, %v", name, parts, err)
		}
		hours := 0
		for _, h := range parts.Hours {
			hours += h.N
		}
		total := 0
		for _, p := range parts.Towns {
			if p.N != towns[p.Name] {
				t.Errorf("%s: %d from %q, want %d", name, p.N, p.Name, towns[p.Name])
			}
			total += p.N
		}
		if hours != total {
			t.Errorf("%s: %d by hours, %d by towns", name, hours, total)
		}
		if n, err := s.Apart(t.Context(), owner, span); n != apart || err != nil {
			t.Errorf("%s: %d are kept apart, %v, want %d", name, n, err, apart)
		}
	}
	text, err := s.CSV(t.Context(), owner)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	total := 0
	for _, r := range rows[1:] {
		n, bad := strconv.Atoi(r[2])
		if bad != nil {
			t.Fatal(bad)
		}
		total += n
	}
	if want := count(t, d, `SELECT count(*) FROM scans WHERE workspace = 'marrowby' AND kind = 'scan'`); err != nil ||
		total != want {
		t.Errorf("the table has %d scans, %v, want %d", total, err, want)
	}
	latest, err := s.Latest(t.Context(), owner, "", 4)
	if err != nil || len(latest) != 4 || !slices.IsSortedFunc(latest, func(a, b Seen) int { return a.At.Compare(b.At) }) {
		t.Errorf("the latest are %+v, %v", latest, err)
	}
	if more, err := s.Latest(t.Context(), owner, latest[1].ID, 10); err != nil || len(more) != 2 || more[0].ID != latest[2].ID {
		t.Errorf("after the second of them come %+v, %v", more, err)
	}
	day, hour, err := s.Since(t.Context(), owner, now.AddDate(0, 0, -1), now.Add(-time.Hour))
	if want := count(t, d, `SELECT count(*) FROM scans WHERE workspace = 'marrowby' AND kind = 'scan' AND at >= $1`, now.AddDate(0, 0, -1)); err != nil ||
		day != want ||
		hour > day {
		t.Errorf("%d since yesterday, %d in an hour, %v, want %d", day, hour, err, want)
	}
	if list, err := s.Daily(t.Context(), owner, "other code", Span{now.AddDate(0, 0, -9), now, time.UTC}); len(list) != 0 ||
		err != nil {
		t.Errorf("of another code: %v, %v", list, err)
	}
}
