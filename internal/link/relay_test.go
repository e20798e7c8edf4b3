package link

import (
	"context"
	"slices"
	"strconv"
	"testing"
	"time"

	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/redirect"
)

func openLog(t *testing.T, o eventlog.Options) *eventlog.Log {
	t.Helper()
	l, err := eventlog.Open(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(l.Close)
	return l
}

// start runs a part of a service until the test ends, or is told to stop.
func start(t *testing.T, run func(context.Context)) (stop func()) {
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { defer close(done); run(ctx) }()
	stop = func() { cancel(); <-done }
	t.Cleanup(stop)
	return stop
}

// service answers short links by a log.
func service(t *testing.T, s *Store, l *eventlog.Log) *redirect.Service {
	t.Helper()
	r := redirect.New(redirect.Options{Log: l, Seal: s.Codes.Seal, Now: s.Codes.Now, Hosts: []string{"go.marrowby.example"}})
	start(t, r.Run)
	<-r.Ready()
	return r
}

func until(t *testing.T, what string, within time.Duration, ok func() bool) time.Duration {
	t.Helper()
	begun := time.Now()
	for !ok() {
		if time.Since(begun) > within {
			t.Fatalf("%s: not within %v", what, within)
		}
		time.Sleep(time.Millisecond)
	}
	return time.Since(begun)
}

// TestInstances: what is made live by one instance is live on another within a second, whichever relay brings it, also after
// one of them has gone, and after the log was emptied.
func TestInstances(t *testing.T) {
	s := open(t)
	one := openLog(t, eventlog.Options{Dir: t.TempDir(), Listen: "127.0.0.1:0"})
	other := openLog(t, eventlog.Options{URL: one.URL()})
	here, there := service(t, s, one), service(t, s, other)
	first, second := NewRelay(s.Codes.DB, one), NewRelay(s.Codes.DB, other)
	stop := start(t, first.Run)
	start(t, second.Run)
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	at := func(r *redirect.Service) string {
		hop, err := r.Look(t.Context(), a.URL())
		if err != nil {
			t.Fatal(err)
		}
		return hop.To
	}
	if to := at(here) + at(there); to != "" {
		t.Errorf("before it is handed over it leads to %s", to)
	}
	issue(t, s, id)
	both := func(to string) func() bool { return func() bool { return at(here) == to && at(there) == to } }
	until(t, "handed over", 5*time.Second, both("https://marrowby.example/fair"))

	var took []time.Duration
	for i := range 20 {
		if i == 10 {
			stop() // the other relay goes on
		}
		to := "https://marrowby.example/" + strconv.Itoa(i)
		if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": to}, "GB", 0); err != nil {
			t.Fatal(err)
		}
		if _, err := s.MakeLive(t.Context(), ws, id, 0); err != nil {
			t.Fatal(err)
		}
		took = append(took, until(t, to, 10*time.Second, both(to)))
	}
	slices.Sort(took)
	t.Logf("made live on both: %v at the median, %v at most", took[10], took[19])
	if took[18] > time.Second {
		t.Errorf("made live on another instance after %v", took)
	}

	var last int64
	if err := s.Codes.DB.Pool.QueryRow(t.Context(), `SELECT max(seq) FROM live_links`).Scan(&last); err != nil {
		t.Fatal(err)
	}
	until(t, "the relay has noted how far it has come", 10*time.Second, func() bool {
		at, err := one.Get(t.Context(), livelink.Position)
		return err == nil && string(at) == strconv.FormatInt(last, 10)
	})
	key := livelink.Key(a.Host + "/" + a.Path)
	for _, k := range []string{key, livelink.Position} {
		t.Run(k, func(t *testing.T) {
			if err := one.Take(t.Context(), k); err != nil {
				t.Fatal(err)
			}
		})
	}
	var value []byte
	until(t, "an emptied log is filled again", 10*time.Second, func() bool {
		var err error
		if value, err = one.Get(t.Context(), key); err != nil {
			t.Fatal(err)
		}
		return len(value) > 0 && both("https://marrowby.example/19")()
	})
	// What is live of a link that belongs to another workspace goes nowhere.
	if _, err := s.Codes.EnsureWorkspace(t.Context(), "stranger", "Stranger"); err != nil {
		t.Fatal(err)
	}
	for _, link := range []string{a.Host + "/" + a.Path, "/" + ws.Workspace, a.Host + "/f/abc"} {
		if _, err := s.Codes.DB.Pool.Exec(t.Context(),
			`INSERT INTO live_links (workspace, link, seq, value) VALUES ('stranger', $1, 0, 'x')`,
			link); err != nil {
			t.Fatal(err)
		}
	}
	var theirs, ours int
	if err := s.Codes.DB.Pool.QueryRow(t.Context(), `SELECT count(*) FILTER (WHERE is_owned AND workspace = 'stranger'),
		count(*) FILTER (WHERE NOT is_owned AND workspace <> 'stranger') FROM (SELECT workspace, `+owned+` AS is_owned FROM live_links l) o`).
		Scan(&theirs, &ours); err != nil || theirs+ours != 0 {
		t.Errorf("%d rows of a stranger count, %d of ours do not, %v", theirs, ours, err)
	}
	if _, err := s.Codes.DB.Pool.Exec(t.Context(), `DELETE FROM live_links WHERE workspace = 'stranger'`); err != nil {
		t.Fatal(err)
	}
	late, err := livelink.Unpack(value)
	if err != nil {
		t.Fatal(err)
	}
	late.Seq--
	if err := one.PutNewer(t.Context(), key, late.Pack(), late.Newer); err != nil {
		t.Fatal(err)
	}
	if now, err := one.Get(t.Context(), key); err != nil || string(now) != string(value) {
		t.Errorf("a late relay has put an older value over a newer one, %v", err)
	}
}

// TestCompare: the bucket is mended where it differs, a link that the database does not know goes on leading, and a database that
// is an older one counts again.
func TestCompare(t *testing.T) {
	s := open(t)
	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	relay := NewRelay(s.Codes.DB, log)
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	issue(t, s, id)
	ctx := t.Context()
	compare := func(want int) {
		t.Helper()
		if n, err := relay.Compare(ctx); n != want || err != nil {
			t.Errorf("%d links are mended, %v, want %d", n, err, want)
		}
	}
	if _, err := relay.step(ctx); err != nil {
		t.Fatal(err)
	}
	compare(0)
	key := livelink.Key(a.Host + "/" + a.Path)
	right, err := log.Get(ctx, key)
	if err != nil {
		t.Fatal(err)
	}
	holds := func(what string, want []byte) {
		t.Helper()
		if got, err := log.Get(ctx, key); err != nil || string(got) != string(want) {
			t.Errorf("%s: %x, %v", what, got, err)
		}
	}
	put := func(value []byte) {
		t.Helper()
		if _, err := log.Put(ctx, key, value); err != nil {
			t.Fatal(err)
		}
	}
	put(append(slices.Clone(right[:len(right)-1]), right[len(right)-1]^1))
	compare(1)
	holds("a damaged value", right)
	put([]byte{1})
	compare(1)
	holds("a value that was cut off", right)
	if err := log.Take(ctx, key); err != nil {
		t.Fatal(err)
	}
	compare(1)
	holds("a value that was gone", right)

	if _, err := log.Put(ctx, "go.marrowby.example/LOST", right); err != nil {
		t.Fatal(err)
	}
	compare(0)
	if lost, err := log.Get(ctx, "go.marrowby.example/LOST"); err != nil || string(lost) != string(right) {
		t.Errorf("a link that may hang leads no more: %v", err)
	}

	v, err := livelink.Unpack(right)
	if err != nil {
		t.Fatal(err)
	}
	v.Seq += 1000
	put(v.Pack())
	if _, err := log.Put(ctx, livelink.Position, strconv.AppendUint(nil, v.Seq, 10)); err != nil {
		t.Fatal(err)
	}
	compare(1)
	if n, err := relay.step(ctx); n != 1 || err != nil {
		t.Errorf("after an older database was read back, %d links come, %v", n, err)
	}
	got, err := log.Get(ctx, key)
	if now, bad := livelink.Unpack(got); err != nil || bad != nil || now.Seq <= v.Seq || string(now.Sealed) != string(v.Sealed) {
		t.Errorf("what the database says does not count again: %v %v", err, bad)
	}
	compare(0)
}
