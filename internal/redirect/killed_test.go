package redirect

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
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

// childDir is the variable under which this test program is started again to answer until it is killed.
const childDir = "SODRIK_REDIRECT_CHILD"

func TestMain(m *testing.M) {
	if dir := os.Getenv(childDir); dir != "" {
		answerOn(dir)
		return
	}
	os.Exit(m.Run())
}

// answerOn answers one link, with an embedded log in a folder, and says where.
func answerOn(dir string) {
	fail := func(err error) {
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
	ctx := context.Background()
	log, err := eventlog.Open(ctx, eventlog.Options{Dir: dir})
	fail(err)
	box, err := seal.New(make([]byte, seal.KeySize))
	fail(err)
	const link = "go.marrowby.example/FA1R"
	live := &leads.Live{Status: 302, Workspace: "marrowby", Code: "fair",
		Steps: []leads.Step{{Act: leads.Act{Does: leads.Goes, To: "https://marrowby.example/fair"}}}}
	value := livelink.Value{Seq: 1, Workspace: "marrowby", Sealed: box.Seal(live.Encode(), livelink.Place("marrowby", link))}
	_, err = log.Put(ctx, livelink.Key(link), value.Pack())
	fail(err)
	s := New(Options{Log: log, Seal: box, Now: time.Now, Hosts: []string{"go.marrowby.example"}, Wait: time.Minute})
	go s.Run(ctx)
	<-s.Ready()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	fail(err)
	fmt.Println(l.Addr())
	fail(http.Serve(l, s))
}

// TestKilled kills the answering process under load, again and again: whatever was answered is in the log, once.
func TestKilled(t *testing.T) {
	dir := t.TempDir()
	var asked, answered atomic.Int64
	for range 5 {
		child := exec.Command(os.Args[0])
		child.Env = append(os.Environ(), childDir+"="+dir)
		child.Stderr = os.Stderr
		out, err := child.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := child.Start(); err != nil {
			t.Fatal(err)
		}
		address, err := bufio.NewReader(out).ReadString('\n')
		if err != nil {
			t.Fatal(err)
		}
		client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
			Transport: &http.Transport{MaxIdleConnsPerHost: 32, DisableCompression: true}}
		var phones sync.WaitGroup
		for range 16 {
			phones.Go(func() {
				for {
					r, err := http.NewRequest(http.MethodGet, "http://"+strings.TrimSpace(address)+"/FA1R", nil)
					if err != nil {
						t.Error(err)
						return
					}
					r.Host = "go.marrowby.example"
					r.Header.Set("User-Agent", phone)
					asked.Add(1)
					w, err := client.Do(r)
					if err != nil {
						return // it was killed
					}
					w.Body.Close()
					if w.StatusCode != http.StatusFound {
						t.Errorf("the answer is %d", w.StatusCode)
						return
					}
					answered.Add(1)
				}
			})
		}
		time.Sleep(400 * time.Millisecond)
		child.Process.Signal(syscall.SIGKILL)
		phones.Wait()
		child.Wait()
	}
	log, err := eventlog.Open(t.Context(), eventlog.Options{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	defer log.Close()
	ids := map[string]bool{}
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	defer cancel()
	log.Ingest(ctx, 500, func(batch []eventlog.Event) error {
		for _, m := range batch {
			events, err := scan.Decode(m.Data)
			if err != nil {
				t.Error(err)
			}
			for _, e := range events {
				ids[e.ID] = true
			}
		}
		if int64(len(ids)) >= answered.Load() && len(batch) < 500 {
			cancel()
		}
		return nil
	})
	kept := int64(len(ids))
	t.Logf("%d asked, %d answered, %d kept", asked.Load(), answered.Load(), kept)
	if kept < answered.Load() || kept > asked.Load() || answered.Load() < 100 {
		t.Errorf("of %d scans that were answered %d are kept; %d were asked", answered.Load(), kept, asked.Load())
	}
}
