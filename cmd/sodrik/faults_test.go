package main

import (
	"context"
	"flag"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/scan"
	"sodrik/internal/db/private"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/seal"
)

var faults = flag.Bool("faults", false, "try what happens when processes die, with processes; takes some minutes")

// faulty is a world of processes of which some die.
type faulty struct {
	t    *testing.T
	key  string
	nats string
	env  []string
}

const faultLink = "go.marrowby.example/FA1R"

// at is an address of this machine that is free just now.
func at(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

func faultyOn(t *testing.T, nats string, more ...string) *faulty {
	t.Helper()
	f := &faulty{t: t, key: seal.NewKey(), nats: nats}
	f.env = append([]string{"SODRIK_NATS=" + nats, "SODRIK_KEY=" + f.key, "SODRIK_LINKS=https://go.marrowby.example"}, more...)
	return f
}

// live makes a link live in the bucket.
func (f *faulty) live(replicas int) {
	f.t.Helper()
	l := f.log(replicas)
	defer l.Close()
	box, err := seal.Parse(f.key)
	if err != nil {
		f.t.Fatal(err)
	}
	live := &leads.Live{Status: 302, Workspace: "main", Code: "fair",
		Steps: []leads.Step{{Act: leads.Act{Does: leads.Goes, To: "https://marrowby.example/fair"}}}}
	v := livelink.Value{Seq: 1, Workspace: "main", Sealed: box.Seal(live.Encode(), livelink.Place("main", faultLink))}
	if _, err := l.Put(f.t.Context(), livelink.Key(faultLink), v.Pack()); err != nil {
		f.t.Fatal(err)
	}
}

func (f *faulty) log(replicas int) *eventlog.Log {
	f.t.Helper()
	l, err := eventlog.Open(f.t.Context(), eventlog.Options{URL: f.nats, Replicas: replicas})
	if err != nil {
		f.t.Fatal(err)
	}
	return l
}

// answers starts an answering process at an address.
func (f *faulty) answers(address string) *process {
	f.t.Helper()
	p := begin(f.t, f.env, "redirect", "-addr", address)
	p.says("1 links")
	return p
}

// phones ask until they are told to stop, each address after the other where one does not answer; failed are those whom none sent
// on.
type phones struct {
	answered, failed atomic.Int64
	slowest          atomic.Int64
	stop             func()
}

func (f *faulty) phones(n int, addresses ...string) *phones {
	out := &phones{}
	ctx, cancel := context.WithCancel(f.t.Context())
	var all sync.WaitGroup
	out.stop = func() { cancel(); all.Wait() }
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Timeout: 10 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: n}}
	ask := func(address string) bool {
		r, err := http.NewRequest(http.MethodGet, "http://"+address+"/FA1R", nil)
		if err != nil {
			return false
		}
		r.Host = "go.marrowby.example"
		r.Header.Set(
			"User-Agent",
			"Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) Version/17.5 Mobile/15E148 Safari/604.1",
		)
		w, err := client.Do(r)
		if err != nil {
			return false
		}
		w.Body.Close()
		return w.StatusCode == http.StatusFound
	}
	for i := range n {
		all.Go(func() {
			for k := i; ctx.Err() == nil; k++ {
				sent, begun := false, time.Now()
				for try := range len(addresses) {
					if sent = ask(addresses[(k+try)%len(addresses)]); sent {
						break
					}
				}
				if took := int64(time.Since(begun)); took > out.slowest.Load() {
					out.slowest.Store(took)
				}
				if sent {
					out.answered.Add(1)
				} else {
					out.failed.Add(1)
				}
				time.Sleep(2 * time.Millisecond)
			}
		})
	}
	return out
}

// ids are the scans that the log holds, and how many of them there are twice.
func (f *faulty) ids(replicas int) (ids map[string]bool, twice int) {
	f.t.Helper()
	l := f.log(replicas)
	defer l.Close()
	ids = map[string]bool{}
	ctx, cancel := context.WithTimeout(f.t.Context(), time.Minute)
	defer cancel()
	for quiet := time.AfterFunc(4*time.Second, cancel); ctx.Err() == nil; {
		l.Ingest(ctx, 1000, func(batch []eventlog.Event) error {
			for _, m := range batch {
				events, err := scan.Decode(m.Data)
				if err != nil {
					f.t.Error(err)
				}
				for _, e := range events {
					if ids[e.ID] {
						twice++
					}
					ids[e.ID] = true
				}
			}
			quiet.Reset(4 * time.Second)
			return nil
		})
	}
	return ids, twice
}

// settle says what became of phones, and fails where somebody was not sent on, or a scan is not kept.
func (f *faulty) settle(p *phones, kept int) {
	f.t.Helper()
	f.t.Logf("%d were sent on, %d were not, the slowest after %v; %d scans are kept", p.answered.Load(), p.failed.Load(),
		time.Duration(p.slowest.Load()).Round(time.Millisecond), kept)
	if p.failed.Load() > 0 || int64(kept) < p.answered.Load() || p.answered.Load() < 1000 {
		f.t.Errorf("%d were sent on, %d were not, %d scans are kept", p.answered.Load(), p.failed.Load(), kept)
	}
}

// TestFaults kills processes of a service under load.
func TestFaults(t *testing.T) {
	if !*faults {
		t.Skip("takes some minutes: -faults")
	}
	t.Run("the answering processes, twenty times", func(t *testing.T) {
		log := begin(t, nil, "log", "-addr", "127.0.0.1:0", "-dir", t.TempDir())
		f := faultyOn(t, log.says(`nats://[\d.]+:\d+`))
		f.live(1)
		addresses := []string{at(t), at(t)}
		running := []*process{f.answers(addresses[0]), f.answers(addresses[1])}
		p := f.phones(16, addresses...)
		for i := range 20 {
			time.Sleep(300 * time.Millisecond)
			k := i % 2
			running[k].cmd.Process.Signal(syscall.SIGKILL)
			running[k].cmd.Wait()
			running[k] = f.answers(addresses[k])
		}
		p.stop()
		ids, _ := f.ids(1)
		f.settle(p, len(ids))
	})
	t.Run("one of three logs", func(t *testing.T) {
		var clients, routes []string
		for range 3 {
			clients, routes = append(clients, at(t)), append(routes, at(t))
		}
		dirs := []string{t.TempDir(), t.TempDir(), t.TempDir()}
		logOf := func(i int) *process {
			p := begin(
				t,
				nil,
				"log",
				"-addr",
				clients[i],
				"-dir",
				dirs[i],
				"-name",
				fmt.Sprintf("log-%d", i),
				"-cluster",
				routes[i],
				"-peers",
				strings.Join(routes, ","),
			)
			p.says(`nats://[\d.]+:\d+`)
			return p
		}
		logs := []*process{logOf(0), logOf(1), logOf(2)}
		f := faultyOn(t, "nats://"+strings.Join(clients, ",nats://"), "SODRIK_REPLICAS=3")
		f.live(3)
		address := at(t)
		f.answers(address)
		p := f.phones(16, address)
		for i := range 3 {
			time.Sleep(2 * time.Second)
			logs[i].cmd.Process.Signal(syscall.SIGKILL)
			logs[i].cmd.Wait()
			time.Sleep(3 * time.Second)
			logs[i] = logOf(i)
			time.Sleep(5 * time.Second)
		}
		p.stop()
		time.Sleep(3 * time.Second) // what waited in memory
		ids, _ := f.ids(3)
		f.settle(p, len(ids))
	})
	t.Run("the database, killed and away", func(t *testing.T) {
		home := filepath.Join("/tmp", filepath.Base(t.TempDir())+"-pg")
		os.MkdirAll(home, 0o755)
		defer os.RemoveAll(home)
		server, err := private.Start(t.Context(), private.Options{Dir: filepath.Join(home, "data"), Log: t.Logf})
		if err != nil {
			t.Fatal(err)
		}
		defer server.Stop()
		if err := server.CreateDatabase(t.Context(), "faults", true); err != nil {
			t.Fatal(err)
		}
		log := begin(t, nil, "log", "-addr", "127.0.0.1:0", "-dir", t.TempDir())
		f := faultyOn(t, log.says(`nats://[\d.]+:\d+`))
		f.live(1)
		config, err := pgx.ParseConfig(server.URL("faults"))
		if err != nil {
			t.Fatal(err)
		}
		way := between(t, fmt.Sprintf("%s:%d", config.Host, config.Port))
		url := strings.Replace(server.URL("faults"), fmt.Sprintf(":%d", config.Port), ":"+way.port(), 1)
		begin(
			t,
			append(f.env, "SODRIK_DATABASE="+url, "SODRIK_LINKS_ADDR="+at(t)),
			"serve",
			"-addr",
			"127.0.0.1:0",
		).says("Sodrik is at")
		address := at(t)
		f.answers(address)
		p := f.phones(16, address)
		time.Sleep(3 * time.Second)
		syscall.Kill(server.PID(), syscall.SIGKILL) // it is started again by what started it
		time.Sleep(6 * time.Second)
		way.shut(true)
		time.Sleep(time.Minute)
		way.shut(false)
		time.Sleep(3 * time.Second)
		p.stop()
		kept, before := 0, -1
		for end := time.Now().Add(time.Minute); time.Now().Before(end) && (kept != before || int64(kept) < p.answered.Load()); {
			before = kept
			time.Sleep(3 * time.Second)
			conn, err := pgx.Connect(t.Context(), server.URL("faults"))
			if err != nil {
				continue
			}
			var distinct, counted int
			err = conn.QueryRow(t.Context(), `SELECT count(*), count(DISTINCT id), coalesce((SELECT sum(n) FROM scan_days WHERE link <> ''), 0)
				FROM scans`).Scan(&kept, &distinct, &counted)
			conn.Close(t.Context())
			if err == nil && (distinct != kept || counted != kept) {
				t.Errorf("of %d scans %d are counted", kept, counted)
			}
		}
		f.settle(p, kept)
	})
	t.Run("the disk of the log, full", func(t *testing.T) {
		dir := t.TempDir()
		if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size=24m", "none", dir).CombinedOutput(); err != nil {
			t.Skipf("a small disk cannot be had here: %s", out)
		}
		defer exec.Command("umount", "-l", dir).Run()
		address := at(t)
		logAt := func() *process {
			p := begin(t, nil, "log", "-addr", address, "-dir", dir)
			p.says(`nats://[\d.]+:\d+`)
			return p
		}
		log := logAt()
		f := faultyOn(t, "nats://"+address)
		f.live(1)
		here := at(t)
		f.answers(here)
		p := f.phones(8, here)
		time.Sleep(2 * time.Second)
		full := filepath.Join(dir, "full")
		exec.Command("dd", "if=/dev/zero", "of="+full, "bs=1M", "count=64").Run()
		time.Sleep(4 * time.Second)
		os.Remove(full)
		log.cmd.Process.Signal(syscall.SIGTERM)
		log.cmd.Wait()
		logAt()
		time.Sleep(6 * time.Second)
		p.stop()
		time.Sleep(3 * time.Second)
		ids, _ := f.ids(1)
		f.settle(p, len(ids))
	})
}

// way is a way to an address that can be shut.
type way struct {
	l     net.Listener
	to    string
	lock  sync.Mutex
	open  map[net.Conn]bool
	isOff bool
}

func between(t *testing.T, to string) *way {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	w := &way{l: l, to: to, open: map[net.Conn]bool{}}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			from, err := l.Accept()
			if err != nil {
				return
			}
			w.lock.Lock()
			off := w.isOff
			w.lock.Unlock()
			there, err := net.Dial("tcp", to)
			if err != nil || off {
				from.Close()
				continue
			}
			w.lock.Lock()
			w.open[from], w.open[there] = true, true
			w.lock.Unlock()
			for _, pair := range [][2]net.Conn{{from, there}, {there, from}} {
				go func() {
					pipe(pair[0], pair[1])
					pair[0].Close()
					pair[1].Close()
				}()
			}
		}
	}()
	return w
}

func pipe(from, to net.Conn) {
	b := make([]byte, 64<<10)
	for {
		n, err := from.Read(b)
		if n > 0 {
			if _, err := to.Write(b[:n]); err != nil {
				return
			}
		}
		if err != nil {
			return
		}
	}
}

func (w *way) port() string { _, port, _ := net.SplitHostPort(w.l.Addr().String()); return port }

func (w *way) shut(off bool) {
	w.lock.Lock()
	defer w.lock.Unlock()
	if w.isOff = off; off {
		for c := range w.open {
			c.Close()
		}
		w.open = map[net.Conn]bool{}
	}
}
