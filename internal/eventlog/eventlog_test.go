package eventlog

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"
)

// childDir is the variable under which this test program is started again to publish until it is killed.
const childDir = "SODRIK_EVENTLOG_CHILD"

func TestMain(m *testing.M) {
	if dir := os.Getenv(childDir); dir != "" {
		publishOn(dir, os.Getenv(childDir+"_FROM"))
		return
	}
	os.Exit(m.Run())
}

func open(t testing.TB, o Options) *Log {
	t.Helper()
	if o.Dir == "" && o.URL == "" {
		o.Dir = t.TempDir()
	}
	l, err := Open(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(l.Close)
	return l
}

// all takes what there is, until nothing comes for a while or want events have come.
func all(t testing.TB, l *Log, size, want int) (out []Event) {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	err := l.Ingest(ctx, size, func(events []Event) error {
		if len(events) > size {
			t.Errorf("%d events in a batch", len(events))
		}
		if out = append(out, events...); len(out) >= want {
			cancel()
		}
		return nil
	})
	if err != nil && !errors.Is(err, context.Canceled) {
		t.Fatal(err)
	}
	return out
}

// TestIngest: events come in their order, each once, those that were not taken again, and one that is sent twice once.
func TestIngest(t *testing.T) {
	l := open(t, Options{})
	for i := range 25 {
		for range 1 + i%2 {
			if err := l.Publish(t.Context(), strconv.Itoa(i), fmt.Appendf(nil, "scan %d", i)); err != nil {
				t.Fatal(err)
			}
		}
	}
	if w := ingestConfig(10); w.AckWait != 30*time.Second || w.MaxAckPending != 20 {
		t.Errorf("%v, %d at most", w.AckWait, w.MaxAckPending)
	}
	failed := errors.New("the database is away")
	var taken []string
	n := 0
	if err := l.Ingest(t.Context(), 10, func(events []Event) error {
		if n++; n == 2 {
			return failed
		}
		taken = append(taken, texts(events)...)
		return nil
	}); !errors.Is(err, failed) {
		t.Fatal(err)
	}
	if len(taken) != 10 || taken[0] != "scan 0" || taken[9] != "scan 9" {
		t.Errorf("%v", taken)
	}
	rest := all(t, l, 10, 15) // the batch that was not taken among them
	got := texts(rest)
	slices.Sort(got)
	if len(got) != 15 || len(slices.Compact(got)) != 15 || slices.Contains(got, "scan 9") || !slices.Contains(got, "scan 10") ||
		!slices.Contains(got, "scan 24") {
		t.Errorf("%d: %v", len(got), got)
	}
	for _, e := range rest {
		if string(e.Data) != fmt.Sprintf("scan %d", e.Sequence-1) || time.Since(e.At) > time.Minute {
			t.Errorf("%+v", e)
		}
	}
}

func texts(events []Event) (out []string) {
	for _, e := range events {
		out = append(out, string(e.Data))
	}
	return out
}

// TestHeld: what one holds who takes long, or has died, is not done with because another has taken what came after it.
func TestHeld(t *testing.T) {
	l := open(t, Options{})
	for i := range 20 {
		if err := l.Publish(t.Context(), strconv.Itoa(i), []byte{byte(i)}); err != nil {
			t.Fatal(err)
		}
	}
	holds, release := make(chan struct{}), make(chan struct{})
	slow := make(chan error, 1)
	go func() {
		ctx, cancel := context.WithCancel(t.Context())
		defer cancel()
		slow <- l.Ingest(ctx, 10, func([]Event) error {
			close(holds)
			<-release
			return errors.New("it dies")
		})
	}()
	<-holds
	if got := all(t, l, 10, 10); len(got) != 10 || got[0].Sequence != 11 {
		t.Errorf("the other takes %d from %v", len(got), got)
	}
	for deadline := time.Now().Add(10 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		c, err := l.js.Consumer(t.Context(), streamName, consumer)
		if err != nil {
			t.Fatal(err)
		}
		i := c.CachedInfo()
		if i.AckFloor.Stream == 0 && i.NumAckPending == 10 { // the server counts what it was told a little later
			break
		}
		if i.AckFloor.Stream != 0 || time.Now().After(deadline) {
			t.Fatalf("done with up to %d, %d are held", i.AckFloor.Stream, i.NumAckPending)
		}
	}
	if left, err := l.Trim(t.Context(), time.Now().Add(time.Hour)); err != nil || left != 20 {
		t.Errorf("%d are left, %v: what is held would be lost", left, err)
	}
	close(release)
	if err := <-slow; err == nil {
		t.Fatal("it lives")
	}
	if got := all(t, l, 10, 10); len(got) != 10 || got[0].Sequence != 1 {
		t.Errorf("taken again: %v", got)
	}
}

// TestWatch: whoever watches is told what there is, then that this was all, then what changes.
func TestWatch(t *testing.T) {
	l := open(t, Options{})
	put := func(key, value string) uint64 {
		r, err := l.Put(t.Context(), key, []byte(value))
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	put("a", "old")
	put("gone", "x")
	put("a", "new")
	if err := errors.Join(l.Take(t.Context(), "gone"), l.Take(t.Context(), "never")); err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	var told []string
	last := uint64(0)
	err := l.Watch(ctx, func(c Change) error {
		if c.Revision <= last {
			t.Errorf("revision %d after %d", c.Revision, last)
		}
		last = c.Revision
		told = append(told, fmt.Sprintf("%s=%s", c.Key, c.Value))
		switch {
		case c.Key == "b" && c.Value == nil:
			cancel()
		case c.Key == "b":
			return l.Take(ctx, "b") // only now: of changes that follow at once the newest alone may be told
		}
		return nil
	}, func() error {
		told = append(told, "ready")
		put("b", "1")
		return nil
	})
	if !errors.Is(err, context.Canceled) {
		t.Fatal(err)
	}
	i := slices.Index(told, "ready")
	if i < 1 || !slices.Contains(told[:i], "a=new") || slices.Contains(told, "a=old") || slices.Contains(told, "gone=x") ||
		!slices.Equal(told[i+1:], []string{"b=1", "b="}) {
		t.Errorf("%q", told)
	}
}

// TestOwned: a folder has one owner, and another is told what to do.
func TestOwned(t *testing.T) {
	dir := t.TempDir()
	first := open(t, Options{Dir: dir})
	if l, err := Open(t.Context(), Options{Dir: dir}); !errors.Is(err, ErrOwned) || l != nil ||
		!strings.Contains(err.Error(), "sodrik log") {
		t.Fatal(l, err)
	}
	if err := first.Publish(t.Context(), "1", []byte("kept")); err != nil {
		t.Fatal(err)
	}
	first.Close()
	again := open(t, Options{Dir: dir})
	if got := all(t, again, 10, 1); len(got) != 1 || string(got[0].Data) != "kept" {
		t.Errorf("%v", got)
	}
}

// TestApart: the same log from another process, over a port.
func TestApart(t *testing.T) {
	own := open(t, Options{Listen: "127.0.0.1:0"})
	if inside := open(t, Options{}); inside.URL() != "" {
		t.Errorf("a log for this process alone can be reached at %s", inside.URL())
	}
	other := open(t, Options{URL: own.URL()})
	if err := other.Publish(t.Context(), "1", []byte("from afar")); err != nil {
		t.Fatal(err)
	}
	if got := all(t, own, 10, 1); len(got) != 1 || string(got[0].Data) != "from afar" {
		t.Errorf("%v", got)
	}
	for address, want := range map[string]string{"4222": "no address", "127.0.0.1:x": "no port", "127.0.0.1:70000": "no port"} {
		t.Run(address, func(t *testing.T) {
			if l, err := Open(t.Context(), Options{Dir: t.TempDir(), Listen: address}); err == nil ||
				!strings.Contains(err.Error(), want) {
				t.Errorf("%s: %v, %v", address, l, err)
			}
		})
	}
}

// TestFull: a full log refuses what is new and keeps what it has.
func TestFull(t *testing.T) {
	l := open(t, Options{MaxSize: 64 << 10})
	kept := 0
	for i := range 200 {
		if err := l.Publish(t.Context(), strconv.Itoa(i), make([]byte, 1000)); err != nil {
			break
		}
		kept++
	}
	if kept < 40 || kept > 64 {
		t.Fatalf("%d of 1,000 bytes each are kept in 64 KiB", kept)
	}
	if got := all(t, l, 100, kept); len(got) != kept || got[0].Sequence != 1 {
		t.Errorf("%d are left", len(got))
	}
}

// TestTrim: what is done with and old goes, the rest stays, whatever its age.
func TestTrim(t *testing.T) {
	l := open(t, Options{})
	publish := func(from, to int) time.Time {
		for i := from; i < to; i++ {
			if err := l.Publish(t.Context(), strconv.Itoa(i), []byte("x")); err != nil {
				t.Fatal(err)
			}
		}
		time.Sleep(5 * time.Millisecond)
		return time.Now()
	}
	trim := func(before time.Time, want uint64) {
		t.Helper()
		left, err := l.Trim(t.Context(), before)
		for range 100 { // the server counts what it was told a little later
			if err != nil || left <= want {
				break
			}
			time.Sleep(5 * time.Millisecond)
			left, err = l.Trim(t.Context(), before)
		}
		if err != nil || left != want {
			t.Errorf("%d are left, %v; %d should be", left, err, want)
		}
	}
	first := publish(0, 10)
	trim(first, 10) // nobody has taken any
	publish(10, 20)
	all(t, l, 15, 15)
	now := time.Now()
	trim(first.Add(-time.Hour), 20)
	trim(first, 10)
	trim(now, 5)
	trim(now, 5) // nobody has taken these
	all(t, l, 15, 5)
	trim(now, 0)
}

// TestOlder: servers that know less are refused by what they say of themselves.
func TestOlder(t *testing.T) {
	for _, c := range []struct {
		version, than string
		want          bool
	}{{"2.9.10", "2.15.3", true}, {"2.15.2", "2.15.3", true}, {"2.15.3", "2.15.3", false}, {"2.15.10", "2.15.9", false},
		{"3.0.0", "2.15.3", false}, {"1.99.99", "2.0.0", true}, {"2.15.3-RC.1", "2.15.3", false}, {"", "2.0.0", true},
		{"2.x.3", "2.15.3", true}, {"2.16", "2.15.3", false}} {
		t.Run(c.version, func(t *testing.T) {
			if got := older(c.version, c.than); got != c.want {
				t.Errorf("%q before %q: %t", c.version, c.than, got)
			}
		})
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer listener.Close()
	go func() {
		for {
			conn, err := listener.Accept()
			if err != nil {
				return
			}
			go func() { // says the least that the protocol asks of a server
				defer conn.Close()
				fmt.Fprintf(conn, "INFO {\"server_id\":\"x\",\"version\":\"2.9.10\",\"max_payload\":1048576,\"proto\":1,\"headers\":true}\r\n")
				lines := bufio.NewScanner(conn)
				for lines.Scan() {
					if lines.Text() == "PING" {
						fmt.Fprint(conn, "PONG\r\n")
					}
				}
			}()
		}
	}()
	if l, err := Open(t.Context(), Options{URL: "nats://" + listener.Addr().String()}); err == nil ||
		!strings.Contains(err.Error(), "2.9.10") || !strings.Contains(err.Error(), "sodrik log") {
		t.Errorf("%v, %v", l, err)
	}
}

// publishOn publishes events from a number on, and says on standard output which were acknowledged.
func publishOn(dir, from string) {
	l, err := Open(context.Background(), Options{Dir: dir})
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	var mu sync.Mutex
	next, _ := strconv.Atoi(from)
	for range 16 {
		go func() {
			for {
				mu.Lock()
				n := strconv.Itoa(next)
				next++
				mu.Unlock()
				if l.Publish(context.Background(), n, []byte(n)) == nil {
					os.Stdout.WriteString(n + "\n") // at once, in one piece
				}
			}
		}()
	}
	select {}
}

// TestKilled: what was acknowledged is there after the process was killed, again and again, in the middle of it.
func TestKilled(t *testing.T) {
	dir := t.TempDir()
	acknowledged := map[string]bool{}
	highest := 0
	for round := range 5 {
		child := exec.Command(os.Args[0], "-test.run=^$")
		child.Env = append(os.Environ(), childDir+"="+dir, childDir+"_FROM="+strconv.Itoa(highest+1000))
		child.Stderr = os.Stderr
		out, err := child.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := child.Start(); err != nil {
			t.Fatal(err)
		}
		killed := false
		lines := bufio.NewScanner(out)
		for n := 0; lines.Scan(); n++ {
			if n == 300+100*round && !killed {
				killed = true
				child.Process.Kill() // SIGKILL; what it has said already is read on
			}
			acknowledged[lines.Text()] = true
			if i, err := strconv.Atoi(lines.Text()); err != nil {
				t.Fatalf("%q", lines.Text())
			} else {
				highest = max(highest, i)
			}
		}
		child.Wait()
		if !killed {
			t.Fatal("the process has ended by itself")
		}
	}
	l := open(t, Options{Dir: dir})
	s, err := l.js.Stream(t.Context(), streamName)
	if err != nil {
		t.Fatal(err)
	}
	there := map[string]int{}
	for _, e := range all(t, l, 500, int(s.CachedInfo().State.Msgs)) {
		there[string(e.Data)]++
	}
	lost, doubled := 0, 0
	for n := range acknowledged {
		if there[n] == 0 {
			lost++
		}
	}
	for _, n := range there {
		if n > 1 {
			doubled++
		}
	}
	if lost > 0 || doubled > 0 || len(acknowledged) < 2500 {
		t.Errorf("of %d acknowledged events %d are lost, %d are there twice", len(acknowledged), lost, doubled)
	}
}
