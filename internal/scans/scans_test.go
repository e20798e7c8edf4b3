package scans

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/eventlog"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var now = time.Date(2027, 3, 31, 9, 0, 0, 0, time.UTC)

func at() time.Time { return now }

func openLog(t *testing.T) *eventlog.Log {
	t.Helper()
	l, err := eventlog.Open(t.Context(), eventlog.Options{Dir: t.TempDir()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(l.Close)
	return l
}

// uuidAt is a UUIDv7 of a time, of the library's making but for the time.
func uuidAt(t time.Time) string {
	id := uuid.Must(uuid.NewV7())
	for i := range 6 {
		id[i] = byte(t.UnixMilli() >> (40 - 8*i))
	}
	return id.String()
}

func event(t time.Time, link string, kind scan.Kind) scan.Event {
	return scan.Event{Version: 1, ID: uuidAt(t), At: t.UnixMilli(), Kind: kind, Link: link, Workspace: "marrowby", Code: "fair",
		Place: "gate", Does: "go", Device: "phone", Languages: []string{"cy", "en-GB"}}
}

func publish(t *testing.T, l *eventlog.Log, events ...scan.Event) {
	t.Helper()
	var lines [][]byte
	for _, e := range events {
		lines = append(lines, e.Encode())
	}
	if err := l.Publish(t.Context(), uuid.NewString(), bytes.Join(lines, []byte("\n"))); err != nil {
		t.Fatal(err)
	}
}

func count(t *testing.T, d *db.DB, sql string, args ...any) (n int) {
	t.Helper()
	if err := d.Pool.QueryRow(t.Context(), sql, args...).Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

// running ingests until the test ends, or is told to stop.
func running(t *testing.T, i *Ingest) (stop func()) {
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { defer close(done); i.Run(ctx) }()
	stop = func() { cancel(); <-done }
	t.Cleanup(stop)
	return stop
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); !ok(); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal(what)
		}
	}
}

// TestIngest: what the log holds is in the database once, counted by quarters, in the partition of its month.
func TestIngest(t *testing.T) {
	d, l := dbtest.Open(t), openLog(t)
	const gate, till = "go.marrowby.example/GATE", "go.marrowby.example/TILL"
	old := event(now.Add(-48*time.Hour), gate, scan.Scan)
	publish(t, l, old, event(now.Add(-time.Minute), gate, scan.Scan), event(now.Add(-time.Minute), till, scan.Scan))
	publish(t, l, old) // again, as after an answer that was lost
	publish(t, l, event(now, gate, scan.Robot), event(now, gate, scan.Head), event(now, gate, scan.Where))
	unknown := event(now, "go.marrowby.example", scan.Unknown)
	unknown.Workspace, unknown.Code = "", ""
	publish(t, l, unknown, event(time.Date(2031, 1, 1, 0, 0, 0, 0, time.UTC), gate, scan.Scan))
	if err := l.Publish(t.Context(), "bad", []byte("cut off")); err != nil {
		t.Fatal(err)
	}
	other := event(now, gate, scan.Scan)
	other.Workspace = "other"
	publish(t, l, other)
	running(t, &Ingest{DB: d, Log: l, Now: at})
	until(t, "the last scan does not come", func() bool { return count(t, d, `SELECT count(*) FROM scans WHERE workspace = 'other'`) == 1 })
	if n := count(t, d, `SELECT count(*) FROM scans`); n != 9 {
		t.Errorf("%d scans", n)
	}
	for table, want := range map[string]int{"scans_2027_03": 8, "scans_2027_04": 0, "scans_2027_05": 0, "scans_other": 1} {
		t.Run(table, func(t *testing.T) {
			if n := count(t, d, `SELECT count(*) FROM `+table); n != want {
				t.Errorf("%d scans are in %s, not %d", n, table, want)
			}
		})
	}
	if n := count(t, d, `SELECT count(*) FROM scan_days WHERE workspace = 'marrowby' AND link <> '' AND cum[96] = n`); n != 4 {
		t.Errorf("%d days of links", n)
	}
	s := &Store{DB: d, Now: at}
	got, err := s.OfCode(t.Context(), access.OfProgram("marrowby", ""), "fair")
	if err != nil || len(got) != 2 || got[gate] != (Count{3, 2}) || got[till] != (Count{1, 1}) {
		t.Errorf("%v, %v", got, err)
	}
	if got, err := s.OfCodes(t.Context(), access.OfProgram("marrowby", ""), []string{"fair", "none"}); err != nil ||
		len(got) != 1 ||
		got["fair"] != (Count{4, 3}) {
		t.Errorf("%v, %v", got, err)
	}
	if got, err := s.OfCode(t.Context(), access.OfProgram("nobody", ""), "fair"); err != nil || len(got) != 0 {
		t.Errorf("another workspace sees %v, %v", got, err)
	}
	if _, err := s.OfCode(t.Context(), access.Actor{Workspace: "marrowby", Role: access.Printer}, "fair"); !errors.Is(err,
		access.ErrForbidden) {
		t.Errorf("a printer: %v", err)
	}
}

// TestDiedInBetween: ingest dies after its transaction and before the log hears of it, again and again; two others take what it
// held. Nothing is lost, and nothing is counted twice.
func TestDiedInBetween(t *testing.T) {
	d, l := dbtest.Open(t), openLog(t)
	const link, messages, each = "go.marrowby.example/GATE", 300, 5
	for range messages {
		var list []scan.Event
		for range each {
			list = append(list, event(now.Add(-time.Minute), link, scan.Scan))
		}
		publish(t, l, list...)
	}
	i := &Ingest{DB: d, Log: l, Now: at}
	died := errors.New("died in between")
	for range 5 {
		err := l.Ingest(t.Context(), 20, func(batch []eventlog.Event) error {
			if err := i.take(t.Context(), batch); err != nil {
				return err
			}
			return died
		})
		if !errors.Is(err, died) {
			t.Fatal(err)
		}
	}
	if n := count(t, d, `SELECT count(*) FROM scans`); n == 0 {
		t.Fatal("nothing was kept before it died")
	}
	running(t, i)
	running(t, &Ingest{DB: d, Log: l, Now: at})
	until(t, "not every scan comes", func() bool { return count(t, d, `SELECT count(*) FROM scans`) == messages*each })
	if n := count(t, d, `SELECT sum(n)::int FROM scan_days WHERE link <> ''`); n != messages*each {
		t.Errorf("%d of %d scans are counted", n, messages*each)
	}
}

// TestDatabaseAway: while the database refuses, scans wait in the log; afterwards they are all there.
func TestDatabaseAway(t *testing.T) {
	d, l := dbtest.Open(t), openLog(t)
	if _, err := d.Pool.Exec(t.Context(), `ALTER TABLE scans RENAME TO away`); err != nil {
		t.Fatal(err)
	}
	running(t, &Ingest{DB: d, Log: l, Now: at})
	for range 10 {
		publish(t, l, event(now, "go.marrowby.example/GATE", scan.Scan))
	}
	time.Sleep(300 * time.Millisecond)
	if _, err := d.Pool.Exec(t.Context(), `ALTER TABLE away RENAME TO scans`); err != nil {
		t.Fatal(err)
	}
	until(t, "the scans do not come", func() bool { return count(t, d, `SELECT count(*) FROM scans`) == 10 })
}

// TestFirst: the bound of a partition is the smallest UUIDv7 of its time; its digits were worked out by hand.
func TestFirst(t *testing.T) {
	for text, want := range map[string]string{"2027-03-01T00:00:00Z": "01a3fe63-0800-0000-0000-000000000000",
		"1970-01-01T00:00:01Z": "00000000-03e8-0000-0000-000000000000"} {
		t.Run(text, func(t *testing.T) {
			moment, err := time.Parse(time.RFC3339, text)
			if err != nil {
				t.Fatal(err)
			}
			if got := firstID(moment); got != want {
				t.Errorf("%s: %s", text, got)
			}
			if id := uuidAt(moment); id < firstID(moment) || uuidAt(moment.Add(-time.Millisecond)) >= firstID(moment) {
				t.Errorf("%s: %s is on the wrong side", text, id)
			}
		})
	}
	if fmt.Sprintf("%012x", time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC).UnixMilli()) != "01a3fe630800" {
		t.Error("the digits are others")
	}
}
