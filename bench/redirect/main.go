// Command redirect measures the service that answers short links: its rate beside a bare net/http handler with the same headers,
// in turns within one run of wrk; its times at a steady rate, from an open-loop generator; what a link takes of memory; and how
// long it starts. Every scan is acknowledged by the log before its answer leaves.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/redirect"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
)

const host = "go.marrowby.example"

func main() {
	links := flag.Int("links", 100000, "links in memory")
	seconds := flag.Int("seconds", 4, "of each window")
	rounds := flag.Int("rounds", 3, "windows of each")
	rate := flag.Int("rate", 5000, "scans a second of the open-loop generator")
	generate := flag.String("generate", "", "only ask at an address; the program starts itself so, since who is measured must not wait for who measures")
	flag.Parse()
	if *generate != "" {
		steady(*generate, *rate, time.Duration(*seconds)*time.Second, *links)
		return
	}
	if err := run(*links, *seconds, *rounds, *rate); err != nil {
		log.Fatal(err)
	}
}

func path(i int) string { return fmt.Sprintf("L%06d", i) }

func run(links, seconds, rounds, rate int) error {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	dir, err := os.MkdirTemp("", "sodrik-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	l, err := eventlog.Open(ctx, eventlog.Options{Dir: filepath.Join(dir, "log")})
	if err != nil {
		return err
	}
	defer l.Close()
	box, err := seal.New(make([]byte, seal.KeySize))
	if err != nil {
		return err
	}
	if err := fill(ctx, l, box, links); err != nil {
		return err
	}

	before := heap()
	where := filepath.Join(dir, "places.mmdb")
	if err := standin.Places(where); err != nil {
		return err
	}
	places, err := redirect.OpenPlaces(where)
	if err != nil {
		return err
	}
	s := redirect.New(redirect.Options{Log: l, Seal: box, Now: time.Now, Hosts: []string{host}, Places: places})
	begun := time.Now()
	go s.Run(ctx)
	<-s.Ready()
	fmt.Printf("start with %d links: %.2f s\n", s.Links(), time.Since(begun).Seconds())
	fmt.Printf("memory of a link: %d bytes\n", (heap()-before)/uint64(links))

	ours, err := serve(s)
	if err != nil {
		return err
	}
	bare, err := serve(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Cache-Control", "no-store")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Location", "https://marrowby.example/fair")
		w.WriteHeader(http.StatusFound)
	}))
	if err != nil {
		return err
	}
	script := filepath.Join(dir, "scan.lua")
	if err := os.WriteFile(script, []byte(fmt.Sprintf(`request = function()
  return wrk.format("GET", string.format("/L%%06d", math.random(0, %d)))
end
`, links-1)), 0o600); err != nil {
		return err
	}
	var ratios []float64
	for range rounds {
		var got [2]float64
		for i, address := range []string{bare, ours} {
			if got[i], err = wrk(address, script, seconds); err != nil {
				return err
			}
		}
		ratios = append(ratios, got[1]/got[0])
		fmt.Printf("bare net/http %.0f/s, the service %.0f/s: %.0f %%\n", got[0], got[1], 100*got[1]/got[0])
	}
	slices.Sort(ratios)
	fmt.Printf("of the bare rate: %.0f %% at the median\n", 100*ratios[len(ratios)/2])
	for i := range 2 * rounds {
		address, what := bare, "bare net/http"
		if i%2 == 1 {
			address, what = ours, "the service"
		}
		fmt.Printf("%s, ", what)
		c := exec.Command(os.Args[0], "-generate", address, "-rate", strconv.Itoa(rate), "-seconds", strconv.Itoa(seconds),
			"-links",
			strconv.Itoa(links))
		c.Stdout, c.Stderr = os.Stdout, os.Stderr
		if err := c.Run(); err != nil {
			return err
		}
	}
	return nil
}

// fill puts links into the bucket, sealed as the relay has them.
func fill(ctx context.Context, l *eventlog.Log, box *seal.Box, n int) error {
	for i := range n {
		link := host + "/" + path(i)
		live := &leads.Live{Status: 302, Workspace: "marrowby", Code: "c" + strconv.Itoa(i), Place: "gate", Steps: []leads.Step{{
			Act: leads.Act{Does: leads.Goes, To: "https://marrowby.example/seed/" + strconv.Itoa(i) + "?utm_source=packet"}}}}
		v := livelink.Value{Seq: uint64(i + 1), Workspace: "marrowby", Sealed: box.Seal(live.Encode(),
			livelink.Place("marrowby", link))}
		if _, err := l.Put(ctx, livelink.Key(link), v.Pack()); err != nil {
			return err
		}
	}
	return nil
}

func heap() uint64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}

func serve(h http.Handler) (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	go http.Serve(l, h)
	return "http://" + l.Addr().String(), nil
}

const agent = "Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 Version/17.5 Mobile/15E148 Safari/604.1"

var perSecond = regexp.MustCompile(`Requests/sec:\s+([0-9.]+)`)

func wrk(address, script string, seconds int) (float64, error) {
	out, err := exec.Command("wrk", "-t2", "-c64", "-d"+strconv.Itoa(seconds)+"s", "-H", "Host: "+host, "-H",
		"User-Agent: "+agent,
		"-H", "Accept-Language: cy, en-GB;q=0.8", "-s", script, address).CombinedOutput()
	m := perSecond.FindSubmatch(out)
	if err != nil || m == nil || strings.Contains(string(out), "Non-2xx") && !strings.Contains(string(out), "Non-2xx or 3xx") {
		return 0, fmt.Errorf("wrk: %v: %s", err, out)
	}
	return strconv.ParseFloat(string(m[1]), 64)
}

// steady asks at a steady rate, whatever becomes of the answers before, and tells their times from when each was due.
func steady(address string, rate int, during time.Duration, links int) {
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{MaxIdleConnsPerHost: 256, DisableCompression: true}}
	var (
		all   sync.WaitGroup
		lock  sync.Mutex
		took  []time.Duration
		wrong int
	)
	const warm = time.Second // in which connections are made; not counted
	n := int(float64(rate) * (during + warm).Seconds())
	begun := time.Now()
	for i := range n {
		due := begun.Add(time.Duration(i) * time.Second / time.Duration(rate))
		time.Sleep(time.Until(due))
		all.Go(func() {
			r, err := http.NewRequest(http.MethodGet, address+"/"+path(i%links), nil)
			if err != nil {
				return
			}
			r.Host = host
			r.Header.Set("User-Agent", agent)
			w, err := client.Do(r)
			ok := err == nil && w.StatusCode == http.StatusFound
			if err == nil {
				w.Body.Close()
			}
			lock.Lock()
			defer lock.Unlock()
			if due.Sub(begun) >= warm {
				took = append(took, time.Since(due))
			}
			if !ok {
				wrong++
			}
		})
	}
	all.Wait()
	slices.Sort(took)
	fmt.Printf("at %d/s for %v: p50 %v, p99 %v, most %v; %d not answered\n", rate, during, took[len(took)/2].Round(10*time.Microsecond),
		took[len(took)*99/100].Round(10*time.Microsecond), took[len(took)-1].Round(10*time.Microsecond), wrong)
}
