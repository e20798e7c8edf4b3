package webhooks

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	standardwebhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/webhook"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/outside"
	"sodrik/internal/scans"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var owner = access.OfProgram("marrowby", "Tamsin Ashdown")

// world is a store whose calls reach a server of the test, and a clock that the test turns.
type world struct {
	*Store
	now    time.Time
	status int
	mu     sync.Mutex
	got    []*http.Request
	bodies []string
	queued []string
	told   []string
	at     string
}

// Call keeps what was put down; the test makes the calls.
func (w *world) Call(_ context.Context, _ pgx.Tx, _, id string) error {
	w.queued = append(w.queued, id)
	return nil
}

func begin(t *testing.T) *world {
	t.Helper()
	d := dbtest.Open(t)
	for _, id := range []string{"marrowby", "garden"} {
		if _, err := d.Pool.Exec(t.Context(), `INSERT INTO workspaces (id, name) VALUES ($1, $1)`, id); err != nil {
			t.Fatal(err)
		}
	}
	w := &world{now: time.Now().UTC().Truncate(time.Second), status: http.StatusNoContent}
	server := httptest.NewServer(http.HandlerFunc(func(out http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		w.mu.Lock()
		w.got, w.bodies = append(w.got, r), append(w.bodies, string(body))
		w.mu.Unlock()
		if w.status >= 300 && w.status < 400 {
			out.Header().Set("Location", "/elsewhere")
		}
		out.WriteHeader(w.status)
	}))
	t.Cleanup(server.Close)
	w.at = server.URL + "/in"
	clock := func() time.Time { return w.now }
	w.Store = &Store{DB: d, Seal: sealtest.Box(t), Now: clock, Scans: &scans.Store{DB: d, Now: clock}, Queue: w, Plain: true,
		Send: outside.New(netip.MustParsePrefix("127.0.0.0/8")),
		Tell: func(_ context.Context, workspace, subject, body string) error {
			w.told = append(w.told, workspace+": "+body)
			return nil
		}}
	return w
}

func (w *world) exec(t *testing.T, sql string, args ...any) {
	t.Helper()
	err := w.DB.InWorkspace(t.Context(), "marrowby", func(tx pgx.Tx) error {
		_, err := tx.Exec(t.Context(), sql, args...)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// made puts codes there, each with one version that is handed over.
func (w *world) made(t *testing.T, n int) {
	t.Helper()
	w.exec(t, `INSERT INTO codes (workspace, id, name, search, draft, last_good, unparsed, rev, state, created_at, changed_at, digest,
		payload_mac) SELECT 'marrowby', 'code' || i, 'Code ' || i, '', '', '', '', 1, 'active', $1, $1, '', ''
		FROM generate_series(1, $2) i ON CONFLICT DO NOTHING`, w.now, n)
	w.exec(t, `INSERT INTO issued_versions (workspace, code, n, job, digest, at, payload_mac, who)
		SELECT 'marrowby', 'code' || i, (SELECT count(*) + 1 FROM issued_versions v WHERE v.code = 'code' || i), '', '', $1, '', 'Idris'
		FROM generate_series(1, $2) i`, w.now, n)
}

func (w *world) add(t *testing.T, kinds ...string) (id string) {
	t.Helper()
	id, err := w.Add(t.Context(), owner, w.at, kinds)
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func (w *world) relayed(t *testing.T) int {
	t.Helper()
	n, err := w.Relay(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	return int(n)
}

func (w *world) hook(t *testing.T) *Hook {
	t.Helper()
	list, err := w.List(t.Context(), owner)
	if err != nil || len(list) == 0 {
		t.Fatal(len(list), err)
	}
	return list[0]
}

func (w *world) log(t *testing.T) []Call {
	t.Helper()
	list, err := w.Calls(t.Context(), owner, "")
	if err != nil {
		t.Fatal(err)
	}
	return list
}

// TestTold: what happens in a workspace is told once to each address that wants it, signed so that the specification's
// own library believes it, and nothing of it to others.
func TestTold(t *testing.T) {
	t.Parallel()
	w := begin(t)
	w.made(t, 1) // before there is anybody to tell
	w.add(t, webhook.Versions, webhook.Scans)
	w.now = w.now.Add(time.Second)
	w.add(t, webhook.Batches)
	if _, err := w.Add(t.Context(), access.OfProgram("garden", ""), w.at, []string{webhook.Versions, webhook.Scans}); err != nil {
		t.Fatal(err)
	}
	w.made(t, 2)
	if n := w.relayed(t); n != 1 || len(w.queued) != 1 {
		t.Fatalf("%d calls, %d put down", n, len(w.queued))
	}
	if n := w.relayed(t); n != 0 {
		t.Errorf("told again: %d", n)
	}
	if _, err := w.Deliver(t.Context(), "marrowby", w.queued[0]); err != nil {
		t.Fatal(err)
	}
	reader, err := standardwebhooks.NewWebhook(w.hook(t).Secret())
	if err != nil {
		t.Fatal(err)
	}
	if err := reader.Verify([]byte(w.bodies[0]), w.got[0].Header); err != nil {
		t.Error(err)
	}
	var m struct {
		Type      string
		Timestamp time.Time
		Data      webhook.IssuedVersions
	}
	if err := json.Unmarshal([]byte(w.bodies[0]), &m); err != nil {
		t.Fatal(err)
	}
	want := []webhook.IssuedVersion{
		{Code: "code1", Name: "Code 1", Version: 2, At: w.now, Who: "Idris"},
		{Code: "code2", Name: "Code 2", Version: 1, At: w.now, Who: "Idris"}}
	if m.Type != "versions.issued" || !m.Timestamp.Equal(w.now) || len(m.Data.Versions) != 2 || m.Data.Versions[0] != want[0] ||
		m.Data.Versions[1] != want[1] {
		t.Errorf("%+v", m)
	}
	if c := w.log(t)[0]; c.State != Taken || c.Tries != 1 || c.Status != 204 || c.Trouble != "" || c.Next != nil {
		t.Errorf("%+v", c)
	}
	if _, err := w.Deliver(t.Context(), "marrowby", w.queued[0]); err != nil || len(w.got) != 1 {
		t.Errorf("taken, and made again: %d, %v", len(w.got), err)
	}
	if _, err := w.Deliver(t.Context(), "garden", w.queued[0]); !errors.Is(err, ErrNotFound) {
		t.Errorf("another workspace makes it: %v", err)
	}
}

// TestMany: a hundred things go into one message, the next one into another.
func TestMany(t *testing.T) {
	t.Parallel()
	w := begin(t)
	w.add(t, webhook.Versions, webhook.Scans)
	w.made(t, 101)
	if n := w.relayed(t); n != 2 {
		t.Errorf("101 versions in %d calls", n)
	}
	ids := make([]string, 0, 250)
	for i := range 250 {
		id := uuid.Must(uuid.NewV7()).String()
		ids = append(ids, id)
		kind := []string{"scan", "robot", "report"}[min(i%50, 2)]
		if kind == "report" && i%50 > 2 {
			kind = "scan"
		}
		if _, err := w.DB.Pool.Exec(t.Context(), `INSERT INTO scans (workspace, id, at, kind, link, code, place, does, bare, device, system,
			languages, country, part, town, accuracy, route, draw) VALUES ('marrowby', $1, now(), $2, 'go.marrowby.example/A', 'code1',
			'gate', 'go', false, 'phone', 'iOS', '{cy}', 'GB', 'Shropshire', 'Ludlow', 5, '', 0)`, id, kind); err != nil {
			t.Fatal(err)
		}
	}
	before := len(w.queued)
	if n := w.relayed(t); n != 3 { // 245 without what people say
		t.Errorf("245 scans in %d calls", n)
	}
	var told []string
	for _, id := range w.queued[before:] {
		if _, err := w.Deliver(t.Context(), "marrowby", id); err != nil {
			t.Fatal(err)
		}
		var m struct{ Data webhook.KeptScans }
		if err := json.Unmarshal([]byte(w.bodies[len(w.bodies)-1]), &m); err != nil {
			t.Fatal(err)
		}
		if len(m.Data.Scans) > webhook.Most || m.Data.Scans[0].Town != "Ludlow" || m.Data.Scans[0].Kind == "report" {
			t.Errorf("%d scans, %+v", len(m.Data.Scans), m.Data.Scans[0])
		}
		for _, s := range m.Data.Scans {
			told = append(told, s.ID)
		}
	}
	if len(told) != 245 || !slices.IsSorted(told) || len(slices.Compact(told)) != 245 || !slices.Contains(ids, told[0]) {
		t.Errorf("%d scans are told", len(told))
	}
}

// TestBatchDone: files of a batch are told of when they are made, and when they could not be; not while they are.
func TestBatchDone(t *testing.T) {
	t.Parallel()
	w := begin(t)
	w.add(t, webhook.Batches)
	w.exec(t, `INSERT INTO batches (workspace, id, name, rev, plan, created_at, changed_at, who, who_id)
		VALUES ('marrowby', 'b', 'Packets', 1, '', $1, $1, '', '')`, w.now)
	for i, state := range []string{"done", "unread", "failed", "stopped"} {
		t.Run(state, func(t *testing.T) {
			w.exec(t, `INSERT INTO batch_runs (workspace, batch, id, rev, asked, state, labels, at, who, who_id)
			VALUES ('marrowby', 'b', $1, 1, '', 'working', 40, $2, '', '')`, state, w.now)
			if n := w.relayed(t); n != 0 {
				t.Errorf("%s: told %d while it is being made", state, n)
			}
			w.exec(t, `UPDATE batch_runs SET state = $1, note = 'All read back.' WHERE id = $1`, state)
			w.exec(t, `UPDATE batch_runs SET state = $1 WHERE id = $1`, state)
			if n := w.relayed(t); (n == 1) != (i < 3) {
				t.Errorf("%s: %d calls", state, n)
			}
		})
	}
	if _, err := w.Deliver(t.Context(), "marrowby", w.queued[0]); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(w.bodies[0], `{"batches":[{"batch":"b","run":"done","name":"Packets","state":"done","codes":40,`+
		`"note":"All read back.","at":`) {
		t.Error(w.bodies[0])
	}
}

// TestNotTaken: a call that is not taken is made again after the waits of the specification, under one id and signed
// anew each time; after three days it is given up, its webhook is paused, and owners are told.
func TestNotTaken(t *testing.T) {
	t.Parallel()
	w := begin(t)
	w.add(t, webhook.Versions)
	w.made(t, 1)
	w.relayed(t)
	w.status = http.StatusServiceUnavailable
	made := w.now
	for try := 1; ; try++ {
		wait, err := w.Deliver(t.Context(), "marrowby", w.queued[0])
		c := w.log(t)[0]
		if c.Tries != try || c.Status != 503 || c.Trouble != "answered 503" {
			t.Fatalf("%+v", c)
		}
		if !errors.Is(err, ErrAgain) {
			if err != nil || try != webhook.Tries || c.State != GivenUp {
				t.Fatalf("after %d tries: %v, %s", try, err, c.State)
			}
			break
		}
		if want, _ := webhook.Wait(try); wait != want || c.State != Waiting || !c.Next.Equal(w.now.Add(wait)) {
			t.Errorf("after %d tries: %v, %+v", try, wait, c)
		}
		if h := w.hook(t); h.Failing == nil || !h.Failing.Equal(made) || h.Paused != nil {
			t.Errorf("%+v", h)
		}
		w.now = w.now.Add(wait)
	}
	ids := map[string]bool{}
	signed := map[string]bool{}
	for _, r := range w.got {
		ids[r.Header.Get("webhook-id")], signed[r.Header.Get("webhook-signature")] = true, true
	}
	if len(ids) != 1 || len(signed) != webhook.Tries {
		t.Errorf("%d ids, %d signatures", len(ids), len(signed))
	}
	h := w.hook(t)
	if h.Paused == nil || h.PausedWhy != "It took no call for three days. The last time it answered 503." || len(w.told) != 1 ||
		!strings.HasPrefix(w.told[0], "marrowby: "+w.at+"\n\nIt took no call") {
		t.Errorf("%+v, told %q", h, w.told)
	}
	w.made(t, 2)
	if n := w.relayed(t); n != 0 {
		t.Errorf("%d calls while it is paused", n)
	}
	if err := w.Again(t.Context(), owner, w.queued[0]); err == nil {
		t.Error("a call of a paused webhook is made again")
	}
	w.status = http.StatusOK
	if err := errors.Join(w.Resume(t.Context(), owner, h.ID), w.Again(t.Context(), owner, w.queued[0])); err != nil {
		t.Fatal(err)
	}
	if _, err := w.Deliver(t.Context(), "marrowby",
		w.queued[0]); err != nil || w.log(t)[0].State != Taken || w.hook(t).Failing != nil {
		t.Errorf("%v, %+v", err, w.log(t)[0])
	}
}

// TestAnswers: what each answer makes of a call and its webhook.
func TestAnswers(t *testing.T) {
	t.Parallel()
	w := begin(t)
	id := w.add(t, webhook.Versions)
	for status, want := range map[int]string{200: "", 202: "", 301: "answered 301, a redirect, which is not followed",
		404: "answered 404", 500: "answered 500"} {
		t.Run(fmt.Sprint(status), func(t *testing.T) {
			w.status = status
			w.made(t, 1)
			w.relayed(t)
			call := w.queued[len(w.queued)-1]
			_, err := w.Deliver(t.Context(), "marrowby", call)
			for _, c := range w.log(t) {
				if c.ID == call && (c.Trouble != want || errors.Is(err, ErrAgain) != (want != "")) {
					t.Errorf("%d: %v, %q", status, err, c.Trouble)
				}
			}
		})
	}
	for _, r := range w.got {
		if r.URL.Path != "/in" || r.Method != http.MethodPost {
			t.Errorf("a redirect was followed: %s %s", r.Method, r.URL)
		}
	}
	w.status = http.StatusGone
	w.made(t, 1)
	w.relayed(t)
	if _, err := w.Deliver(t.Context(), "marrowby", w.queued[len(w.queued)-1]); err != nil {
		t.Error(err)
	}
	if h := w.hook(t); h.Paused == nil || h.PausedWhy != "It answers 410: it wants no more calls." {
		t.Errorf("%+v", h)
	}
	w.status = http.StatusNotFound // a test of a paused one is sent, once
	if err := w.Try(t.Context(), owner, id); err != nil {
		t.Fatal(err)
	}
	call := w.queued[len(w.queued)-1]
	if _, err := w.Deliver(t.Context(), "marrowby", call); err != nil || w.bodies[len(w.bodies)-1] == "" {
		t.Error(err)
	}
	for _, c := range w.log(t) {
		if c.ID == call && (c.State != GivenUp || c.Kind != webhook.Test) {
			t.Errorf("%+v", c)
		}
	}
}

// TestPrivate: whatever a name resolves to, a network that was not named is not reached.
func TestPrivate(t *testing.T) {
	t.Parallel()
	w := begin(t)
	w.Send = outside.New(netip.MustParsePrefix("10.0.0.0/8"))
	for _, at := range []string{w.at, strings.Replace(w.at, "127.0.0.1", "localhost", 1)} {
		t.Run(at, func(t *testing.T) {
			id, err := w.Add(t.Context(), owner, at, []string{webhook.Versions})
			if err == nil {
				err = w.Try(t.Context(), owner, id)
			}
			if err != nil {
				t.Fatal(err)
			}
			w.Deliver(t.Context(), "marrowby", w.queued[len(w.queued)-1])
		})
	}
	for _, c := range w.log(t) {
		if c.Trouble != "lies in a private network" || len(w.got) > 0 {
			t.Errorf("%+v, %d arrived", c, len(w.got))
		}
	}
	w.Send = outside.New()
	w.Plain = false
	if _, err := w.Add(t.Context(), owner, "http://stock.marrowby.example", []string{webhook.Versions}); err == nil {
		t.Error("http is taken")
	}
}

// TestKeys: a new key signs at once, the one before beside it for a day and no longer.
func TestKeys(t *testing.T) {
	t.Parallel()
	w := begin(t)
	id := w.add(t, webhook.Versions)
	old := w.hook(t).Secret()
	if err := w.Renew(t.Context(), owner, id); err != nil {
		t.Fatal(err)
	}
	fresh := w.hook(t).Secret()
	if fresh == old {
		t.Fatal("the key is the same")
	}
	began := w.now
	for after, believes := range map[time.Duration]bool{0: true, 24*time.Hour - time.Second: true, 24 * time.Hour: false} {
		t.Run(fmt.Sprint(after), func(t *testing.T) {
			w.now = began.Add(after)
			if err := w.Try(t.Context(), owner, id); err != nil {
				t.Fatal(err)
			}
			w.Deliver(t.Context(), "marrowby", w.queued[len(w.queued)-1])
			for secret, want := range map[string]bool{old: believes, fresh: true} {
				reader, err := standardwebhooks.NewWebhook(secret)
				if err != nil {
					t.Fatal(err)
				}
				err = reader.VerifyIgnoringTimestamp([]byte(w.bodies[len(w.bodies)-1]), w.got[len(w.got)-1].Header)
				if (err == nil) != want {
					t.Errorf("after %v: the old one is %v, %v", after, secret == old, err)
				}
			}
		})
	}
}

// TestBadWebhooks: what cannot be is said at its field, and nothing is kept.
func TestBadWebhooks(t *testing.T) {
	t.Parallel()
	w := begin(t)
	for _, c := range []struct {
		address string
		kinds   []string
		want    string
	}{
		{"", []string{webhook.Scans}, "address: is missing"},
		{"ftp://a.example", []string{webhook.Scans}, "must begin with https://"},
		{w.at, nil, "kinds: none is chosen"},
		{w.at, []string{"all"}, `"all" is nothing that can be told`},
		{w.at, []string{webhook.Test}, `"test" is nothing that can be told`},
	} {
		t.Run(c.address, func(t *testing.T) {
			if _, err := w.Add(t.Context(), owner, c.address, c.kinds); err == nil || !strings.Contains(fmt.Sprint(err), c.want) {
				t.Errorf("%q, %v: %v", c.address, c.kinds, err)
			}
		})
	}
	if list, err := w.List(t.Context(), owner); err != nil || len(list) > 0 {
		t.Error(len(list), err)
	}
	for range most {
		w.add(t, webhook.Scans)
	}
	if _, err := w.Add(t.Context(), owner, w.at, []string{webhook.Scans}); err == nil {
		t.Error("one more than there may be")
	}
	for name, do := range map[string]func(context.Context, access.Actor, string) error{"remove": w.Remove, "pause": w.Pause,
		"resume": w.Resume, "renew": w.Renew, "try": w.Try, "again": w.Again} {
		t.Run(name, func(t *testing.T) {
			if err := do(t.Context(), owner, "nothing"); !errors.Is(err, ErrNotFound) {
				t.Errorf("%s: %v", name, err)
			}
			if err := do(t.Context(), access.OfProgram("garden", ""), w.hook(t).ID); !errors.Is(err, ErrNotFound) {
				t.Errorf("%s from another workspace: %v", name, err)
			}
		})
	}
}

// TestUnopened: a webhook whose address does not open keeps no other from being told.
func TestUnopened(t *testing.T) {
	t.Parallel()
	w := begin(t)
	first := w.add(t, webhook.Versions)
	w.add(t, webhook.Versions)
	if err := w.Try(t.Context(), owner, first); err != nil {
		t.Fatal(err)
	}
	call := w.log(t)[0].ID
	w.exec(t, `UPDATE webhooks SET address = '\x0102' WHERE id = $1`, first)
	w.made(t, 1)
	if n := w.relayed(t); n != 1 {
		t.Errorf("%d calls", n)
	}
	list, err := w.List(t.Context(), owner)
	if err != nil || len(list) != 2 {
		t.Fatalf("%v, %v", list, err)
	}
	for _, h := range list { // both of one time, in any order
		if h.Lost != (h.ID == first) || h.Lost != (h.Address == "") {
			t.Errorf("%+v", h)
		}
	}
	for name, do := range map[string]func(context.Context, access.Actor, string) error{ // from a page of before
		"try": w.Try, "pause": w.Pause, "resume": w.Resume, "renew": w.Renew,
		"again": func(ctx context.Context, a access.Actor, _ string) error { return w.Again(ctx, a, call) }} {
		var p problem.List
		if err := do(t.Context(), owner, first); !errors.As(err, &p) || p[0].Message != LostWords {
			t.Errorf("%s: %v", name, err)
		}
	}
	for _, want := range []error{nil, ErrNotFound} {
		if err := w.Remove(t.Context(), owner, first); !errors.Is(err, want) {
			t.Errorf("taking it away: %v, want %v", err, want)
		}
	}
}

// TestSweep: the log is kept for a month.
func TestSweep(t *testing.T) {
	t.Parallel()
	w := begin(t)
	id := w.add(t, webhook.Versions)
	if err := w.Try(t.Context(), owner, id); err != nil {
		t.Fatal(err)
	}
	for after, want := range map[time.Duration]int64{30 * 24 * time.Hour: 0} {
		w.now = w.now.Add(after)
		if n, err := w.Sweep(t.Context()); n != want || err != nil {
			t.Errorf("after %v: %d, %v", after, n, err)
		}
	}
	w.now = w.now.Add(time.Second)
	if n, err := w.Sweep(t.Context()); n != 1 || err != nil || len(w.log(t)) > 0 {
		t.Errorf("%d, %v", n, err)
	}
}
