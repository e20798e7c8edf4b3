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
	const gate, till = "go.marrowby.example/GATE", "go.marrowby.example/TILL"
	for _, folded := range []bool{false, true} {
		if folded {
			total := int64(0)
			for {
				n, err := s.Fold(t.Context())
				if err != nil {
					t.Fatal(err)
				}
				if total += n; n == 0 {
					break
				}
			}
			if total < 40 {
				t.Errorf("%d days are folded", total)
			}
			if n := count(t, d, `SELECT count(*) FROM scan_unfolded WHERE workspace = 'marrowby'`); n != 1 { // today
				t.Errorf("%d days are not folded", n)
			}
		}
		for _, name := range []string{"UTC", "Europe/London", "Asia/Kathmandu", "Pacific/Auckland"} {
			t.Run(name, func(t *testing.T) {
				zone, err := time.LoadLocation(name)
				if err != nil {
					t.Fatal(err)
				}
				span := Span{time.Date(2027, 3, 1, 0, 0, 0, 0, zone), time.Date(2027, 3, 30, 0, 0, 0, 0, zone), zone}
				if n := span.Days(); n != 29 {
					t.Errorf("%s: %d days", name, n)
				}
				want := map[string][]int{}
				towns, both, apart, hours := map[string]int{}, map[string]int{}, 0, Week{}
				for _, e := range all {
					day := time.UnixMilli(e.At).In(zone)
					if e.Workspace != "marrowby" || day.Before(span.From) || !day.Before(span.To) {
						continue
					}
					switch e.Kind {
					case scan.Robot, scan.Where:
						apart++
					case scan.Scan:
						if want[e.Link] == nil {
							want[e.Link] = make([]int, 29)
						}
						want[e.Link][day.Day()-1]++
						both[e.Town]++
						if e.Link == gate {
							towns[e.Town]++
							hours[day.Weekday()][day.Hour()]++
						}
					}
				}
				list, err := s.Daily(t.Context(), owner, Which{}, span)
				if err != nil || len(list) != 2 {
					t.Fatalf("%s: %d links, %v", name, len(list), err)
				}
				for _, one := range list {
					if !slices.Equal(one.Days, want[one.Link]) {
						t.Errorf("%s: %s: %v, want %v", name, one.Link, one.Days, want[one.Link])
					}
				}
				totals, err := s.Totals(t.Context(), owner, span)
				if err != nil || len(totals) != 2 {
					t.Fatalf("%s: %v, %v", name, totals, err)
				}
				for link, n := range totals {
					if n != sumOf(want[link]) {
						t.Errorf("%s: %s has %d in all, want %d", name, link, n, sumOf(want[link]))
					}
				}
				every, err := s.All(t.Context(), owner, span)
				if err != nil || sumOf(every) != sumOf(want[gate])+sumOf(want[till]) || every[5] != want[gate][5]+want[till][5] {
					t.Errorf("%s: all are %v, %v", name, every, err)
				}
				week, err := s.Hours(t.Context(), owner, Which{Links: []Key{{"fair", gate}}}, span)
				if err != nil || week != hours {
					t.Errorf("%s: by hours %v, %v, want %v", name, week, err, hours)
				}
				for _, of := range []Scope{LinkScope(gate), Workspace, CodeScope("fair"), CampaignScope("none")} {
					p, err := s.Parts(t.Context(), owner, of, span)
					if err != nil || p.Whole {
						t.Fatal(err)
					}
					check := towns
					switch of {
					case Workspace, CodeScope("fair"):
						check = both
					case CampaignScope("none"):
						check = nil
					}
					if len(p.Towns) != len(check) {
						t.Errorf("%s, %q: towns %v, want %v", name, of, p.Towns, check)
					}
					for _, x := range p.Towns {
						if x.N != check[x.Name] {
							t.Errorf("%s, %q: %d from %q, want %d", name, of, x.N, x.Name, check[x.Name])
						}
					}
					if of == Workspace && (len(p.Apart) != 2 || p.Apart[0].N+p.Apart[1].N != apart) {
						t.Errorf("%s: %v are kept apart, want %d", name, p.Apart, apart)
					}
				}
			})
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
	if list, err := s.Daily(t.Context(), owner, Which{Codes: []string{"other"}}, Span{now.AddDate(0, 0, -9), now, time.UTC}); len(
		list,
	) != 0 ||
		err != nil {
		t.Errorf("of another code: %v, %v", list, err)
	}
}

func sumOf(days []int) (n int) {
	for _, c := range days {
		n += c
	}
	return n
}
