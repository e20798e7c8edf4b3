package redirect

import (
	"context"
	"fmt"
	"image/gif"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/seal"
	"sodrik/internal/seal/sealtest"
)

var now = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)

type world struct {
	t    testing.TB
	log  *eventlog.Log
	box  *seal.Box
	s    *Service
	seq  uint64
	stop func()
}

// start gives a service on a log of its own, which answers for go.marrowby.example.
func start(t testing.TB) *world {
	t.Helper()
	log, err := eventlog.Open(t.Context(), eventlog.Options{Dir: t.TempDir()})
	if err != nil {
		t.Fatal(err)
	}
	w := &world{t: t, log: log, box: sealtest.Box(t)}
	w.s = New(Options{Log: log, Seal: w.box, Now: func() time.Time { return now }, Hosts: []string{"go.marrowby.example"},
		Alias: func(asked string) (string, bool) { return "go.marrowby.example", asked == "go.marrowby.localhost:8091" }})
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { defer close(done); w.s.Run(ctx) }()
	w.stop = func() { cancel(); <-done }
	t.Cleanup(func() { w.stop(); log.Close() })
	<-w.s.Ready()
	return w
}

// live has a link lead somewhere, and waits until the service knows.
func (w *world) live(link, lead, place string) {
	w.t.Helper()
	v, err := fields.Decode([]byte(lead))
	if err != nil {
		w.t.Fatal(err)
	}
	l, problems := leads.Read(v)
	if len(problems) > 0 {
		w.t.Fatal(problems)
	}
	c := l.Compile(place, "")
	c.Workspace, c.Code = "marrowby", "fair"
	w.seq++
	value := livelink.Value{Seq: w.seq, Workspace: "marrowby",
		Sealed: w.box.Seal(c.Encode(), livelink.Place("marrowby", link))}
	if _, err := w.log.Put(w.t.Context(), livelink.Key(link), value.Pack()); err != nil {
		w.t.Fatal(err)
	}
	w.until(func() bool { h, ok := w.s.links.Load(link); return ok && h.(*held).seq == w.seq })
}

func (w *world) until(ok func() bool) {
	w.t.Helper()
	for end := time.Now().Add(20 * time.Second); !ok(); time.Sleep(2 * time.Millisecond) {
		if time.Now().After(end) {
			w.t.Fatal("it did not come about")
		}
	}
}

const phone = "Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/17.5 " +
	"Mobile/15E148 Safari/604.1"

func (w *world) ask(method, url string, headers ...string) *http.Response {
	w.t.Helper()
	r := httptest.NewRequest(method, url, nil)
	r.Header.Set("User-Agent", phone)
	for i := 0; i < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	out := httptest.NewRecorder()
	w.s.ServeHTTP(out, r)
	return out.Result()
}

// events takes what the log has kept.
func (w *world) events(want int) (out []scan.Event) {
	w.t.Helper()
	ctx, cancel := context.WithTimeout(w.t.Context(), 20*time.Second)
	defer cancel()
	w.log.Ingest(ctx, 100, func(batch []eventlog.Event) error {
		for _, m := range batch {
			events, err := scan.Decode(m.Data)
			if err != nil {
				w.t.Error(err)
			}
			out = append(out, events...)
		}
		if len(out) >= want {
			cancel()
		}
		return nil
	})
	return out
}

const fair = `{"to":{"kind":"url","url":"https://marrowby.example/fair?a=b#map"}}`

func TestAnswers(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.live(
		"go.marrowby.example/KEEP",
		`{"to":{"kind":"url","url":"https://marrowby.example/fair#map"},"keep_query":true,"status":"307"}`,
		"",
	)
	w.live("go.marrowby.example/CALL", `{"to":{"kind":"phone","number":"+44 113 496 0123"}}`, "")
	w.live("go.marrowby.example/CARD", `{"to":{"kind":"contact","given":"Åsa","family":"Thorne"}}`, "")
	w.live("go.marrowby.example/REST", `{"to":{"kind":"url","url":"a.example"},"paused":true,"message":"<b>Back soon</b>",`+
		`"instead":"marrowby.example"}`, "")
	for _, c := range []struct {
		method, url string
		status      int
		location    string
		body        string
	}{
		{"GET", "http://go.marrowby.example/FA1R", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"HEAD", "http://go.marrowby.example/FA1R", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"GET", "http://GO.Marrowby.Example/fa1r/", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"GET", "http://go.marrowby.example:443/FA1R", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"GET", "http://go.marrowby.localhost:8091/FA1R", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"GET", "http://go.marrowby.example/FA1R?x=1", 302, "https://marrowby.example/fair?a=b#map", ""},
		{"GET", "http://go.marrowby.example/KEEP?x=1&y=%20", 307, "https://marrowby.example/fair?x=1&y=%20#map", ""},
		{"GET", "http://go.marrowby.example/KEEP?x=é{", 307, "https://marrowby.example/fair?x=%C3%A9%7B#map", ""},
		{"GET", "http://go.marrowby.example/KEEP", 307, "https://marrowby.example/fair#map", ""},
		{"GET", "http://go.marrowby.example/CALL", 200, "", `href="tel:&#43;441134960123"`},
		{"GET", "http://go.marrowby.example/CARD", 200, "", `href="/CARD/contact.vcf"`},
		{"GET", "http://go.marrowby.example/card/contact.vcf", 200, "", "VERSION:3.0"},
		{"GET", "http://go.marrowby.example/CALL/contact.vcf", 404, "", "Nothing is here."},
		{"GET", "http://go.marrowby.example/REST", 200, "", "&lt;b&gt;Back soon&lt;/b&gt;"},
		{"GET", "http://go.marrowby.example/REST", 200, "", `href="https://marrowby.example"`},
		{"GET", "http://go.marrowby.example/FA1R/where", 200, "", "https://marrowby.example/fair?a=b#map"},
		{"GET", "http://go.marrowby.example/CALL/where", 200, "", "Call this number?"},
		{"GET", "http://go.marrowby.example/N0NE", 404, "", "Nothing is here."},
		{"GET", "http://go.marrowby.example/", 404, "", "Nothing is here."},
		{"GET", "http://go.marrowby.example/../FA1R", 404, "", "Nothing is here."},
		{"GET", "http://go.marrowby.example/FA1R/x", 404, "", "Nothing is here."},
		{"GET", "http://go.marrowby.example/robots.txt", 200, "", "Disallow: /"},
		{"GET", "http://elsewhere.example/FA1R", 421, "", ""},
		{"GET", "http://go.marrowby.example:8091/FA1R", 421, "", ""},
		{"POST", "http://go.marrowby.example/FA1R", 405, "", ""},
	} {
		t.Run(c.method, func(t *testing.T) {
			r := w.ask(c.method, c.url)
			body, _ := io.ReadAll(r.Body)
			if r.StatusCode != c.status || r.Header.Get("Location") != c.location || !strings.Contains(string(body), c.body) {
				t.Errorf("%s %s: %d %q, want %d %q\n%s", c.method, c.url, r.StatusCode, r.Header.Get("Location"), c.status,
					c.location, body)
			}
			if r.Header.Get("Cache-Control") != "no-store" || r.Header.Get("Set-Cookie") != "" {
				t.Errorf("%s %s: kept by caches, or with a cookie: %v", c.method, c.url, r.Header)
			}
		})
	}
	if h := w.ask("GET", "http://go.marrowby.example/card/contact.vcf").Header; h.Get("Content-Type") !=
		"text/vcard; charset=utf-8" || !strings.Contains(h.Get("Content-Disposition"), "contact.vcf") {
		t.Errorf("the contact leaves as %v", h)
	}
}

// TestKept: a scan is in the log before its answer is out, with what may be kept and nothing else; our own looks are not.
func TestKept(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.s.o.Wait = time.Minute
	w.ask("GET", "http://go.marrowby.example/fa1r", "Accept-Language", "cy, en-GB;q=0.8, *;q=0.1")
	w.ask("GET", "http://go.marrowby.example/FA1R", "DNT", "1", "Accept-Language", "cy")
	w.ask("GET", "http://go.marrowby.example/FA1R", "Sec-GPC", "1", "Accept-Language", "cy")
	w.ask("HEAD", "http://go.marrowby.example/FA1R")
	w.ask("GET", "http://go.marrowby.example/FA1R/where")
	w.ask("GET", "http://go.marrowby.example/secret-that-was-typed")
	for _, robot := range []string{"Googlebot/2.1 (+http://www.google.com/bot.html)", "WhatsApp/2.23.20.0", "curl/8.0", "",
		"facebookexternalhit/1.1", "Mozilla/5.0 (compatible; bingbot/2.0; +http://www.bing.com/bingbot.htm)"} {
		w.ask("GET", "http://go.marrowby.example/FA1R", "User-Agent", robot)
	}
	r := httptest.NewRequest("GET", "http://go.marrowby.example/FA1R", nil)
	w.s.ServeHTTP(httptest.NewRecorder(), r.WithContext(uncounted(r.Context())))
	got := w.events(12)
	if len(got) != 12 {
		t.Fatalf("%d events are kept", len(got))
	}
	e := got[0]
	if e.Kind != scan.Scan || e.Link != "go.marrowby.example/FA1R" || e.Workspace != "marrowby" || e.Code != "fair" ||
		e.Place != "gate" ||
		e.Does != "go" || e.Device != "phone" || e.System != "iOS" || strings.Join(e.Languages, " ") != "cy en-GB" ||
		e.At != now.UnixMilli() || len(e.ID) != 36 || e.ID[14] != '7' {
		t.Errorf("%+v", e)
	}
	for _, e := range got[1:3] {
		if e.Kind != scan.Scan || !e.Bare || e.Device != "" || e.System != "" || e.Languages != nil {
			t.Errorf("who wants to be counted only is kept as %+v", e)
		}
	}
	for i, want := range []scan.Kind{scan.Head, scan.Where, scan.Unknown,
		scan.Robot, scan.Robot, scan.Robot, scan.Robot, scan.Robot, scan.Robot} {
		if e := got[i+3]; e.Kind != want || strings.Contains(string(e.Encode()), "secret") {
			t.Errorf("%+v, want %s", e, want)
		}
	}
}

// TestLogAway: where the log does not answer, the person is sent on all the same, at once if it refuses, and what cannot be kept
// is counted.
func TestLogAway(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.log.Close()
	begun := time.Now()
	r := w.ask("GET", "http://go.marrowby.example/FA1R")
	if took := time.Since(begun); r.StatusCode != 302 || took > usualWait+2*time.Second {
		t.Errorf("without a log the answer is %d after %v", r.StatusCode, took)
	}
	w.s.o.Wait = 0
	// A hand that is free takes some out between filling and asking; it does so once, as the log takes nothing from it.
	for range hands + 1 {
		for len(w.s.recorder.in) < waiting {
			w.s.recorder.in <- &scanned{kept: make(chan struct{})}
		}
		w.ask("GET", "http://go.marrowby.example/FA1R")
	}
	if w.s.Dropped() == 0 {
		t.Error("what is dropped is not counted")
	}
	for {
		select {
		case <-w.s.recorder.in:
		default:
			return
		}
	}
}

// TestGap: while the log keeps nothing, nobody waits for it; since when, and how many are lost, is known, while it lasts and
// after.
func TestGap(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.ask("GET", "http://go.marrowby.example/FA1R")
	if g := w.s.Gap(); !g.Since.IsZero() {
		t.Fatalf("all is well: %+v", g)
	}
	w.log.Close()
	w.ask("GET", "http://go.marrowby.example/FA1R")
	for end := time.Now().Add(10 * time.Second); w.s.Gap().Since.IsZero(); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("that nothing is kept is not known")
		}
	}
	best := time.Hour
	for range 5 {
		begun := time.Now()
		w.ask("GET", "http://go.marrowby.example/FA1R")
		best = min(best, time.Since(begun))
	}
	if best > usualWait/2 {
		t.Errorf("people wait %v for a log that keeps nothing", best)
	}
	r := newRecorder(w.log) // one that nobody runs
	r.dropped.Add(2)
	r.failed(context.DeadlineExceeded)
	r.dropped.Add(7)
	if g := r.newest(); g.Lost != 7 || !g.Until.IsZero() {
		t.Errorf("while it lasts: %+v", g)
	}
	r.recovered()
	r.dropped.Add(1)
	first := r.newest()
	if first.Lost != 7 || first.Until.Before(first.Since) {
		t.Errorf("after it: %+v", first)
	}
	r.failed(context.DeadlineExceeded) // of a message that was on its way meanwhile
	if g := r.newest(); g.Since != first.Since || !g.Until.IsZero() {
		t.Errorf("while the log comes back: %+v", g)
	}
	r.recovered()
	if g := r.newest(); g.Since != first.Since || g.Until.IsZero() || g.Lost != 8 {
		t.Errorf("in the end: %+v", g)
	}
	r.gap.Store(&Gap{Since: first.Since, Until: time.Now().Add(-oneGap)})
	r.failed(context.DeadlineExceeded)
	if g := r.newest(); g.Since == first.Since || g.Lost != 0 {
		t.Errorf("the next: %+v", g)
	}
}

// TestLeaves: a process that is to end while the log keeps nothing ends in time, however many scans wait, and counts them as
// lost.
func TestLeaves(t *testing.T) {
	w := start(t)
	w.log.Close()
	r := newRecorder(w.log)
	const n = 2000
	for range n {
		r.in <- &scanned{kept: make(chan struct{})}
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	begun := time.Now()
	r.run(ctx)
	if took := time.Since(begun); took > leaving+2*time.Second || r.dropped.Load() != n {
		t.Errorf("it took %v, and %d of %d are counted as lost", took, r.dropped.Load(), n)
	}
}

// TestFollows: what changes in the bucket is live; an older value is not, and what is taken out is gone.
func TestFollows(t *testing.T) {
	w := start(t)
	const link = "go.marrowby.example/FA1R"
	at := func() string { return w.ask("GET", "http://"+link).Header.Get("Location") }
	w.live(link, fair, "")
	w.live(link, `{"to":{"kind":"url","url":"b.example"}}`, "")
	if at() != "https://b.example" {
		t.Errorf("it leads to %s", at())
	}
	value, err := w.log.Get(t.Context(), livelink.Key(link))
	if err != nil {
		t.Fatal(err)
	}
	older, _ := livelink.Unpack(value)
	older.Seq--
	w.s.take(eventlog.Change{Key: livelink.Key(link), Value: older.Pack()})
	w.s.take(eventlog.Change{Key: livelink.Key(link), Value: []byte("cut off")})
	w.s.take(eventlog.Change{Key: livelink.Key(link), Value: livelink.Value{Seq: 9, Workspace: "other",
		Sealed: older.Sealed}.Pack()})
	if h, _ := w.s.links.Load(link); at() != "https://b.example" || h.(*held).seq != 2 || w.s.Links() != 1 {
		t.Errorf("it leads to %s", at())
	}
	if err := w.log.Take(t.Context(), livelink.Key(link)); err != nil {
		t.Fatal(err)
	}
	w.until(func() bool { return w.s.Links() == 0 })
	if at() != "" {
		t.Errorf("what was taken out leads to %s", at())
	}
}

// TestLook: our own phone sees what others would, and leaves no trace.
func TestLook(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.live("go.marrowby.example/CALL", `{"to":{"kind":"phone","number":"+44 113 496 0123"}}`, "")
	for address, want := range map[string]leads.Hop{
		"HTTPS://GO.MARROWBY.EXAMPLE/FA1R": {Status: 302, To: "https://marrowby.example/fair?a=b#map"},
		"https://go.marrowby.example/CALL": {Status: 200, Page: "Call this number?"},
		"https://go.marrowby.example/N0NE": {Status: 404, Page: "Nothing is here."},
		"https://elsewhere.example/FA1R":   {Status: 421},
	} {
		t.Run(address, func(t *testing.T) {
			want.Asked = address
			if hop, err := w.s.Look(t.Context(), address); err != nil || hop != want {
				t.Errorf("%s: %+v, %v", address, hop, err)
			}
		})
	}
	w.ask("GET", "http://go.marrowby.example/FA1R")
	if e := w.events(1); len(e) != 1 || e[0].Device != "phone" || e[0].System != "iOS" {
		t.Errorf("%+v are kept", e)
	}
}

func BenchmarkAnswer(b *testing.B) {
	w := start(b)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	b.SetParallelism(16)
	b.RunParallel(func(p *testing.PB) {
		for p.Next() {
			if r := w.ask("GET", "http://go.marrowby.example/FA1R"); r.StatusCode != 302 {
				b.Error(r.StatusCode)
			}
		}
	})
}

// bring puts something beside links into the bucket.
func (w *world) bring(link string, value []byte) {
	w.t.Helper()
	w.seq++
	v := livelink.Value{Seq: w.seq, Workspace: "marrowby", Sealed: w.box.Seal(value, livelink.Place("marrowby", link))}
	if _, err := w.log.Put(w.t.Context(), livelink.Key(link), v.Pack()); err != nil {
		w.t.Fatal(err)
	}
}

// TestHosts: a host that a workspace has proved is answered for, in the colours of its house, until it is taken away; a proxy is
// told which hosts are ours.
func TestHosts(t *testing.T) {
	w := start(t)
	certificate := func(host string) int {
		out := httptest.NewRecorder()
		w.s.Certificates().ServeHTTP(out, httptest.NewRequest(http.MethodGet, "http://127.0.0.1/?domain="+host, nil))
		return out.Code
	}
	if r := w.ask("GET", "https://seed.example/FA1R"); r.StatusCode != 421 || certificate("seed.example") != 404 {
		t.Errorf("a host that is not ours: %d", r.StatusCode)
	}
	w.bring("seed.example/", leads.Standing{Ours: true}.Encode())
	w.bring("/marrowby", leads.House{Name: "Marrowby & Co", Ink: "#12352b", Paper: "#f6f0e2"}.Encode())
	w.live("seed.example/FA1R", fair, "gate")
	if r := w.ask("GET", "https://seed.example/fa1r"); r.StatusCode != 302 {
		t.Errorf("a link on a host that is proved: %d", r.StatusCode)
	}
	for host, want := range map[string]int{"seed.example": 200, "SEED.example": 200, "go.marrowby.example": 200, "": 404,
		"other.example": 404} {
		t.Run(host, func(t *testing.T) {
			if got := certificate(host); got != want {
				t.Errorf("a certificate for %q: %d", host, got)
			}
		})
	}
	r := w.ask("GET", "https://seed.example/NOTHING")
	body, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != 404 || !strings.Contains(string(body), "Marrowby &amp; Co") ||
		!strings.Contains(string(body), "--desk: #f6f0e2") {
		t.Errorf("a path that is no link: %d %s", r.StatusCode, body)
	}
	_, style, _ := strings.Cut(string(body), "</style><style>")
	style, _, _ = strings.Cut(style, "</style>")
	if sum := "'sha256-" + hashOf(style) + "'"; style == "" || !strings.Contains(r.Header.Get("Content-Security-Policy"), sum) {
		t.Errorf("the house's own style is not allowed: %q", style)
	}
	w.bring("/marrowby", leads.House{Name: "Marrowby", Ink: "red;}body{display:none", Paper: "#f6f0e2"}.Encode())
	w.until(func() bool { h, ok := w.s.houses.Load("marrowby"); return ok && h.(*house).Name == "Marrowby" })
	if body, _ := io.ReadAll(w.ask("GET", "https://seed.example/NOTHING").Body); strings.Contains(string(body), "display:none") {
		t.Errorf("what is no colour stands in the page: %s", body)
	}
	w.bring("seed.example/", leads.Standing{}.Encode())
	w.until(func() bool { return w.ask("GET", "https://seed.example/FA1R").StatusCode == 421 })
}

// TestPermanent: a redirect that phones keep says for how long; others are kept by nobody.
func TestPermanent(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/KEPT", `{"to":{"kind":"url","url":"a.example"},"status":"308","max_age":"3600"}`, "")
	r := w.ask("GET", "https://go.marrowby.example/KEPT")
	if r.StatusCode != 308 || r.Header.Get("Cache-Control") != "max-age=3600" || r.Header.Get("Location") != "https://a.example" {
		t.Errorf("%d %v", r.StatusCode, r.Header)
	}
	if r := w.ask("GET", "https://go.marrowby.example/KEPT/where"); r.Header.Get("Cache-Control") != "no-store" {
		t.Errorf("where it leads is kept: %v", r.Header)
	}
}

// TestUnknownPaths: whoever makes up paths by the thousand does not fill the log; each is answered.
func TestUnknownPaths(t *testing.T) {
	w := start(t)
	const many = 1000
	begun := time.Now()
	for i := range many {
		if r := w.ask("GET", "https://go.marrowby.example/made-up-"+strconv.Itoa(i)); r.StatusCode != 404 {
			t.Fatalf("a path that is no link: %d", r.StatusCode)
		}
	}
	most := unknownAtOnce + int64(unknownEach*(time.Since(begun).Seconds()+1))
	if kept := many - w.s.Unkept(); kept < unknownAtOnce || kept > most {
		t.Errorf("%d of %d are kept, at most %d are expected", kept, many, most)
	}
}

// TestReport: whoever scans can say that something is wrong, on pages and not where people are led on; what they write is kept as
// text, bounded, and many reports at once are put off.
func TestReport(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.live("go.marrowby.example/REST", `{"to":{"kind":"url","url":"a.example"},"paused":true}`, "")
	text := func(url string) string {
		t.Helper()
		b, err := io.ReadAll(w.ask("GET", url).Body)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	for url, want := range map[string]bool{"https://go.marrowby.example/REST": true,
		"https://go.marrowby.example/FA1R/where": true,
		"https://go.marrowby.example/N0NE":       false} {
		t.Run(url, func(t *testing.T) {
			if got := strings.Contains(text(url), `href="/report?of=`); got != want {
				t.Errorf("%s can be reported: %v", url, got)
			}
		})
	}
	if got := text("https://go.marrowby.example/report?of=fa1r"); !strings.Contains(got, `name="of" value="FA1R"`) {
		t.Errorf("the form is %s", got)
	}
	if r := w.ask("GET", "https://go.marrowby.example/report?of=N0NE"); r.StatusCode != 404 {
		t.Errorf("a report of what is no link: %d", r.StatusCode)
	}
	got := text("https://go.marrowby.example/REPORT/?of=FA1R&why=" + url.QueryEscape("<b>It leads</b> to\x00 a trap"))
	if !strings.Contains(got, "Thank you.") {
		t.Errorf("it is answered by %s", got)
	}
	text("https://go.marrowby.example/report?of=FA1R&why=" + strings.Repeat("é", scan.MaxWords+1))
	var reports []scan.Event
	for _, e := range w.events(5) {
		if e.Kind == scan.Report {
			reports = append(reports, e)
		}
	}
	if len(reports) != 2 || reports[0].Words != "<b>It leads</b> to a trap" || reports[0].Link != "go.marrowby.example/FA1R" ||
		reports[0].Workspace != "marrowby" || reports[0].Code != "fair" || reports[0].Phone != "" ||
		reports[1].Words != strings.Repeat("é", 500) {
		t.Errorf("kept is %+v", reports)
	}
	for range reportsEach - 2 { // two were taken above
		text("https://go.marrowby.example/report?of=FA1R&why=again")
	}
	r := w.ask("GET", "https://go.marrowby.example/report?of=FA1R&why=once+more")
	if body, _ := io.ReadAll(r.Body); r.StatusCode != 429 || !strings.Contains(string(body), ">once more</textarea>") {
		t.Errorf("too many: %d %s", r.StatusCode, body)
	}
}

// TestReached: a page reports by a picture, which is never broken and not signed; a server by a signature, once however often it
// is sent; what cannot be taken is told to servers. Nothing of whoever asks is kept.
func TestReached(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	w.bring("/marrowby", leads.House{Name: "Marrowby", Key: []byte("0123456789abcdef")}.Encode())
	w.until(func() bool { return w.s.key("marrowby") != nil })
	get := func(query url.Values) (int, string, string) {
		t.Helper()
		r := w.ask("GET", "https://go.marrowby.example/reached?"+query.Encode())
		b, _ := io.ReadAll(r.Body)
		return r.StatusCode, r.Header.Get("Content-Type"), string(b)
	}
	signed := func(goal, order string) url.Values {
		v := url.Values{"scan": {"fa1r"}, "goal": {goal}, "order": {order}, "at": {strconv.FormatInt(w.s.o.Now().Unix(), 10)}}
		v.Set("sign", scan.Sign([]byte("0123456789abcdef"), v))
		return v
	}
	for _, query := range []url.Values{{"scan": {"FA1R"}}, {"scan": {"N0NE"}}, {}, {"scan": {"FA1R"}, "goal": {"<b>"}}} {
		code, kind, body := get(query)
		if _, err := gif.Decode(strings.NewReader(body)); code != 200 || kind != "image/gif" || err != nil {
			t.Errorf("%v: %d %s %q, %v", query, code, kind, body, err)
		}
	}
	for range 2 {
		if code, _, body := get(signed("order", "17")); code != 204 {
			t.Errorf("signed: %d %s", code, body)
		}
	}
	get(signed("order", "18"))
	forged := signed("order", "19")
	forged.Set("order", "20")
	if code, _, body := get(forged); code != 403 || !strings.Contains(body, "sign is not that") {
		t.Errorf("forged: %d %s", code, body)
	}
	unknown := signed("order", "1")
	unknown.Set("scan", "N0NE")
	if code, _, body := get(unknown); code != 404 || !strings.Contains(body, "no short link") {
		t.Errorf("of no link: %d %s", code, body)
	}
	if r := w.ask("HEAD", "https://go.marrowby.example/reached?scan=FA1R"); r.StatusCode != 200 {
		t.Errorf("the head alone: %d", r.StatusCode)
	}
	if r := w.ask("HEAD", "https://go.marrowby.example/reached?"+signed("order", "21").Encode()); r.StatusCode != 204 {
		t.Errorf("the head alone, signed: %d", r.StatusCode)
	}
	seen := map[string]int{}
	for _, e := range w.events(3) { // the same is sent again under the same id, which the log may keep twice
		if e.Kind != scan.Reached || e.Workspace != "marrowby" || e.Code != "fair" || !e.Bare || e.Phone != "" || e.Town != "" {
			t.Errorf("kept is %+v", e)
		}
		seen[fmt.Sprint(e.Goal, e.Signed, " ", e.ID)]++
	}
	if len(seen) != 3 {
		t.Errorf("kept are %v", seen)
	}
}

// TestReachedTooOften: of reports that anybody can forge so many are kept, and every page looks whole all the same.
func TestReachedTooOften(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	const asked = reachedAtOnce + 100
	began := time.Now()
	for range asked {
		if r := w.ask("GET", "https://go.marrowby.example/reached?scan=FA1R"); r.StatusCode != 200 {
			t.Fatalf("it is answered %d", r.StatusCode)
		}
	}
	most := reachedAtOnce + int(time.Since(began).Seconds()*reachedEach) + 1
	if n := len(w.events(reachedAtOnce)); n < reachedAtOnce || n > most && most < asked {
		t.Errorf("%d of %d are kept, %d at most", n, asked, most)
	}
}
