package api

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"

	"sodrik/internal/people"
)

// TestScans: figures and events come page by page, and what cannot be asked for is named; the outside validator holds each answer
// against the document.
func TestScans(t *testing.T) {
	s := open(t)
	made, _ := expect[Code](s, 201, "POST", "/codes", `{"job":`+gate+`}`)
	l, _ := expect[Lead](s, 200, "POST", "/codes/"+made.ID+"/link", "")
	expect[Version](s, 200, "POST", "/codes/"+made.ID+"/versions", "")
	link := l.Links[0].Link
	if _, err := s.h.Codes.DB.Pool.Exec(t.Context(), `UPDATE lead_versions SET at = $1`, s.now.AddDate(0, 0, -14)); err != nil {
		t.Fatal(err)
	}
	for day := 20; day <= 28; day++ { // February 2027; now is 1 March
		at := fmt.Sprintf("2027-02-%02d", day)
		if _, err := s.h.Codes.DB.Pool.Exec(t.Context(), `INSERT INTO scan_days SELECT $1, $2, $3, $4::date, 3,
			array_agg(CASE WHEN i > 40 THEN 3 ELSE 0 END) FROM generate_series(1, 96) i`, ws, made.ID, link, at); err != nil {
			t.Fatal(err)
		}
		for range 3 {
			id := uuid.Must(uuid.NewV7())
			ms := s.now.AddDate(0, 0, day-29).UnixMilli()
			for i := range 6 {
				id[i] = byte(ms >> (40 - 8*i))
			}
			if _, err := s.h.Codes.DB.Pool.Exec(t.Context(), `INSERT INTO scans (workspace, id, at, kind, link, code, place, does, bare,
				device, system, languages, country, part, town, accuracy, route, draw, phone) VALUES ($1, $2, to_timestamp($3 / 1000.0), 'scan', $4,
				$5, 'gate', 'go', false, 'phone', 'iOS', '{cy}', 'GB', '', 'Ludlow', 10, '', 0, 'secret')`, ws, id, ms, link, made.ID); err != nil {
				t.Fatal(err)
			}
		}
	}
	f, _ := expect[Figures](s, 200, "GET", "/scans?from=2027-02-01&to=2027-02-28&zone=London&limit=1", "")
	if len(f.Places) != 1 || f.Next == "" || f.Zone != "Europe/London" || f.From != "2027-02-01" || f.To != "2027-02-28" {
		t.Fatalf("%+v", f)
	}
	rest, _ := expect[Figures](s, 200, "GET", "/scans?from=2027-02-01&to=2027-02-28&limit=1&cursor="+f.Next, "")
	if len(rest.Places) != 1 || rest.Next != "" {
		t.Fatalf("%+v", rest)
	}
	for _, p := range append(f.Places, rest.Places...) {
		want := 0
		if p.Link == link {
			want = 27
		}
		if p.Scans != want || len(p.Days) != 28 ||
			want > 0 && (p.Days[19] != 3 || p.PerDay != 27.0/14 || p.Low <= 0 || p.High <= p.Low ||
				p.Course == "") {
			t.Errorf("%+v", p)
		}
	}
	if none, _ := expect[Figures](s, 200, "GET", "/scans?code=nothing", ""); len(none.Places) != 0 {
		t.Errorf("of another code: %+v", none)
	}
	seen, cursor := map[string]bool{}, ""
	for {
		e, w := expect[Events](s, 200, "GET", "/scans/events?limit=10&cursor="+cursor, "")
		for _, one := range e.Events {
			seen[one.ID] = true
			cursor = one.ID
			if one.Town != "Ludlow" || one.Languages[0] != "cy" || one.Kind != "scan" {
				t.Errorf("%+v", one)
			}
		}
		if strings.Contains(w.Body.String(), "secret") {
			t.Error("what tells phones apart is given out")
		}
		if e.Next == "" {
			break
		}
	}
	if len(seen) != 27 {
		t.Errorf("%d events", len(seen))
	}
	if more, _ := expect[Events](s, 200, "GET", "/scans/events?cursor="+cursor, ""); len(more.Events) != 0 {
		t.Errorf("after the last come %+v", more)
	}
	for query, field := range map[string]string{"from=x": "/from", "to=2027-13-01": "/to", "from=2027-03-02&to=2027-03-01": "/to",
		"zone=Atlantis": "/zone", "limit=0": "/limit", "from=1977-01-01&to=2027-01-01": "/from"} {
		t.Run(query, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "GET", "/scans?"+query, ""); len(d.Problems) == 0 || d.Problems[0].Field != field {
				t.Errorf("%s: %+v", query, d)
			}
		})
	}
	if d, _ := expect[Details](s, 422, "GET", "/scans/events?cursor=x", ""); len(d.Problems) == 0 ||
		d.Problems[0].Field != "/cursor" {
		t.Errorf("%+v", d)
	}
	s.token = s.tokenFor("other", "owner", people.ScopeRead)
	if e, _ := expect[Events](s, 200, "GET", "/scans/events?from=2027-02-01&to=2027-03-01", ""); len(e.Events) != 0 {
		t.Error("another workspace is told")
	}
}
