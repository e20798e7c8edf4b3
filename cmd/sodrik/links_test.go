package main

import (
	"bufio"
	"context"
	"net/http"
	"os"
	"os/exec"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/seal"
)

// process is a command of ours that runs until it is told to stop.
type process struct {
	t     *testing.T
	cmd   *exec.Cmd
	lines chan string
	said  *strings.Builder // on standard error
}

func begin(t *testing.T, env []string, args ...string) *process {
	t.Helper()
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	p := &process{t: t, cmd: exec.Command(self, args...), lines: make(chan string, 20), said: &strings.Builder{}}
	p.cmd.Env = append(append(os.Environ(), "SODRIK_AS_COMMAND=1"), env...)
	p.cmd.Stderr = p.said
	out, err := p.cmd.StdoutPipe()
	if err == nil {
		err = p.cmd.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	go func() {
		for s := bufio.NewScanner(out); s.Scan(); {
			p.lines <- s.Text()
		}
		close(p.lines)
	}()
	t.Cleanup(func() { p.cmd.Process.Kill(); p.cmd.Wait() })
	return p
}

// says is what a line that it prints says in a form.
func (p *process) says(form string) string {
	p.t.Helper()
	select {
	case line := <-p.lines:
		if found := regexp.MustCompile(form).FindString(line); found != "" {
			return found
		}
		p.t.Fatalf("%v prints %q", p.cmd.Args, line)
	case <-time.After(20 * time.Second):
		p.t.Fatalf("%v prints nothing", p.cmd.Args)
	}
	return ""
}

// TestRedirect runs the log and two answering processes, each by itself: one is stopped under load, and the other goes on.
func TestRedirect(t *testing.T) {
	key, dir := seal.NewKey(), t.TempDir()
	log := begin(t, nil, "log", "-addr", "127.0.0.1:0", "-dir", dir)
	nats := log.says(`nats://[\d.]+:\d+`)

	other := begin(t, nil, "log", "-addr", "127.0.0.1:0", "-dir", dir)
	if err := other.cmd.Wait(); err == nil || !strings.Contains(other.said.String(), "Another process has the log") {
		t.Errorf("a second log in the same folder: %v, %s", err, other.said)
	}

	box, err := seal.Parse(key)
	if err != nil {
		t.Fatal(err)
	}
	l, err := eventlog.Open(t.Context(), eventlog.Options{URL: nats})
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	const link = "go.marrowby.example/FA1R"
	put := func(seq uint64, to string) {
		live := &leads.Live{Status: 302, Steps: []leads.Step{{Act: leads.Act{Does: leads.Goes, To: to}}}}
		v := livelink.Value{Seq: seq, Workspace: "main", Sealed: box.Seal(live.Encode(), livelink.Place("main", link))}
		if _, err := l.Put(t.Context(), livelink.Key(link), v.Pack()); err != nil {
			t.Fatal(err)
		}
	}
	put(1, "https://marrowby.example/fair")

	env := []string{"SODRIK_NATS=" + nats, "SODRIK_KEY=" + key, "SODRIK_LINKS=https://go.marrowby.example"}
	one, two := begin(t, env, "redirect", "-addr", "127.0.0.1:0"), begin(t, env, "redirect", "-addr", "127.0.0.1:0")
	const where = `127\.0\.0\.1:\d+, 1 links`
	at := []string{strings.TrimSuffix(one.says(where), ", 1 links"), strings.TrimSuffix(two.says(where), ", 1 links")}
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Timeout: 10 * time.Second}
	leadsTo := func(at string) string {
		r, err := http.NewRequest(http.MethodGet, "http://"+at+"/fa1r", nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Host = "go.marrowby.example"
		w, err := client.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		w.Body.Close()
		return w.Header.Get("Location")
	}
	for _, a := range at {
		if to := leadsTo(a); to != "https://marrowby.example/fair" {
			t.Errorf("%s leads to %q", a, to)
		}
	}
	// One is stopped under load: whoever was answered is in the log.
	var answered atomic.Int64
	answered.Add(2)
	var phones sync.WaitGroup
	for range 16 {
		phones.Go(func() {
			for {
				r, err := http.NewRequest(http.MethodGet, "http://"+at[0]+"/FA1R", nil)
				if err != nil {
					t.Error(err)
					return
				}
				r.Host = "go.marrowby.example"
				w, err := client.Do(r)
				if err != nil {
					return
				}
				w.Body.Close()
				answered.Add(1)
			}
		})
	}
	time.Sleep(500 * time.Millisecond)
	one.cmd.Process.Signal(syscall.SIGTERM)
	phones.Wait()
	if err := one.cmd.Wait(); err != nil {
		t.Errorf("it did not stop in order: %v, %s", err, one.said)
	}
	if kept := eventsOf(t, l); int64(kept) < answered.Load() || kept < 100 {
		t.Errorf("of %d that were answered %d are kept", answered.Load(), kept)
	}
	put(2, "https://marrowby.example/after")
	end := time.Now().Add(10 * time.Second)
	for ; leadsTo(at[1]) != "https://marrowby.example/after"; time.Sleep(5 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("a change does not reach the process that is left")
		}
	}

	log.cmd.Process.Signal(syscall.SIGKILL) // people are sent on all the same
	if to := leadsTo(at[1]); to != "https://marrowby.example/after" {
		t.Errorf("without a log it leads to %q", to)
	}
	two.cmd.Process.Signal(syscall.SIGTERM)
	ended := make(chan error, 1)
	go func() { ended <- two.cmd.Wait() }()
	select {
	case err := <-ended:
		if err != nil {
			t.Errorf("it did not stop in order: %v, %s", err, two.said)
		}
	case <-time.After(30 * time.Second):
		t.Error("it does not stop")
	}
}

// eventsOf counts the scans in a log.
func eventsOf(t *testing.T, l *eventlog.Log) (n int) {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	for quiet := time.AfterFunc(2*time.Second, cancel); ctx.Err() == nil; {
		l.Ingest(ctx, 1000, func(batch []eventlog.Event) error {
			for _, m := range batch {
				events, err := scan.Decode(m.Data)
				if err != nil {
					t.Error(err)
				}
				n += len(events)
			}
			quiet.Reset(2 * time.Second)
			return nil
		})
	}
	return n
}

// TestRedirectRefuses: what is missing is said, with what would be right.
func TestRedirectRefuses(t *testing.T) {
	for want, env := range map[string][]string{
		"SODRIK_LINKS is not set":               {"SODRIK_KEY=" + seal.NewKey()},
		`SODRIK_LINKS is "go.marrowby.example"`: {"SODRIK_LINKS=go.marrowby.example"},
		`SODRIK_LINKS is "https://a.example/b"`: {"SODRIK_LINKS=https://a.example/b"},
		"SODRIK_KEY is not set":                 {"SODRIK_LINKS=https://go.marrowby.example"},
		"no servers available for connection": {"SODRIK_LINKS=https://a.example", "SODRIK_KEY=" + seal.NewKey(),
			"SODRIK_NATS=nats://127.0.0.1:1"},
		"takes no arguments, only flags": nil,
	} {
		args := []string{"redirect", "-addr", "127.0.0.1:0"}
		if env == nil {
			args = append(args, "more")
		}
		p := begin(t, env, args...)
		if err := p.cmd.Wait(); err == nil || !strings.Contains(p.said.String(), want) {
			t.Errorf("%v: %v, %s", env, err, p.said)
		}
	}
}
