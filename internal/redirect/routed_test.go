package redirect

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync"
	"testing"
	"time"

	"golang.org/x/time/rate"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/route"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
)

const routes = `{"to":{"kind":"url","url":"m.example/fair"},"timezone":"London","language":"en","routes":[
	{"id":"fair","spans":[{"from":"2027-02-27T10:00","until":"2027-03-02T18:00"}],"languages":["cy"],"to":{"kind":"url","url":"m.example/cy"}},
	{"id":"ie","where":["Wales","PL"],"to":{"kind":"url","url":"m.example/wales"}},
	{"id":"pl","languages":["pl"],"systems":["android"],"to":{"kind":"url","url":"m.example/pl"}},
	{"id":"gate","places":["gate"],"weekdays":["mo"],"hours":["09:00-10:00"],"to":{"kind":"url","url":"m.example/gate"}},
	{"id":"call","share":0.5,"to":{"kind":"phone","number":"+44 113 496 0123"}}]}`

func leadOf(t testing.TB, text string) *leads.Lead {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	l, problems := leads.Read(v)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return l
}

const android = "Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0 Mobile Safari/537.36"

// somebody is a scan as the service sees it, and as what if has it.
func somebody(r *rand.Rand) (headers []string, in route.Input) {
	from := []struct{ address, country, part, town string }{{"192.0.2.7", "GB", "England", "Ludlow"},
		{"198.51.100.3", "GB", "Wales", "Newtown"}, {"198.51.100.200", "PL", "", ""}, {"10.0.0.1", "", "", ""}}[r.IntN(4)]
	system := []struct{ agent, name string }{{phone, "iOS"}, {android, "Android"},
		{"Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0", "Linux"}}[r.IntN(3)]
	var tongues []string
	for _, t := range []string{"cy", "en-GB", "pl", "de"} {
		if r.IntN(2) == 0 {
			tongues = append(tongues, t)
		}
	}
	r.Shuffle(len(tongues), func(i, j int) { tongues[i], tongues[j] = tongues[j], tongues[i] })
	var accept []string
	for i, t := range tongues {
		accept = append(accept, fmt.Sprintf("%s;q=0.%d", t, 9-i))
	}
	return []string{"X-Forwarded-For", from.address, "User-Agent", system.agent, "Accept-Language", strings.Join(accept, ", ")},
		route.Input{
			Country:   from.country,
			Part:      from.part,
			Town:      from.town,
			System:    system.name,
			Languages: tongues,
			Place:     "gate",
		}
}

func body(t *testing.T, r *http.Response) string {
	t.Helper()
	b, err := io.ReadAll(r.Body)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// TestRouted: 10,000 people of every kind are led where what if says, at random times, and the share that is drawn is kept as it
// fell.
func TestRouted(t *testing.T) {
	w := start(t)
	var err error
	if w.s.o.Places, err = OpenPlaces(placesFileOf(t)); err != nil {
		t.Fatal(err)
	}
	w.s.o.Proxies = []netip.Prefix{netip.MustParsePrefix("192.0.2.1/32")}
	moment := now
	w.s.o.Now = func() time.Time { return moment }
	w.live("go.marrowby.example/FA1R", routes, "gate")
	lead := leadOf(t, routes)
	r := rand.New(rand.NewPCG(24, 1))
	fired := map[string]int{}
	for range 10000 {
		moment = now.Add(time.Duration(r.IntN(6*24*60)-3*24*60) * time.Minute)
		headers, in := somebody(r)
		in.At = moment
		req := httptest.NewRequest("GET", "http://go.marrowby.example/FA1R", nil)
		req.RemoteAddr = "192.0.2.1:4000"
		for i := 0; i < len(headers); i += 2 {
			req.Header.Set(headers[i], headers[i+1])
		}
		req = req.WithContext(uncounted(req.Context()))
		who := w.s.askerOf(req)
		live := w.s.find("go.marrowby.example/FA1R")
		got := w.s.answer(live, moment, who, false)
		fired[got.route]++
		ok := false
		said := lead.Who(in)
		for _, o := range said.Outcomes {
			ok = ok || o.Route == got.route && o.To == got.act.To && o.Does == got.act.Does
		}
		if !ok {
			t.Fatalf("%v at %s: it leads by %q to %s, and what if says %+v", headers, moment, got.route, got.act.To, said)
		}
		if (got.draw < 0.5) != (got.route == "call") && (got.route == "call" || got.route == "") {
			t.Fatalf("with the draw %g route %q fires", got.draw, got.route)
		}
	}
	for _, id := range []string{"fair", "ie", "pl", "gate", "call", ""} {
		t.Run(id, func(t *testing.T) {
			if fired[id] < 15 {
				t.Errorf("%q fires %d times: %v", id, fired[id], fired)
			}
		})
	}
}

// TestRouteKept: what fired is kept with the scan, but of those who want to be counted only; they are led all the same. A file
// that a route's page offers is that route's.
func TestRouteKept(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", `{"to":{"kind":"url","url":"m.example/fair"},"routes":[
		{"id":"cy","languages":["cy"],"to":{"kind":"contact","given":"Tamsin","family":"Ashdown"}},
		{"id":"half","share":1,"systems":["ios"],"to":{"kind":"url","url":"m.example/ios"}}]}`, "gate")
	r := w.ask("GET", "http://go.marrowby.example/FA1R", "Accept-Language", "cy")
	page := body(t, r)
	if r.StatusCode != 200 || !strings.Contains(page, `href="/FA1R/contact.vcf?route=cy"`) {
		t.Errorf("%d %s", r.StatusCode, page)
	}
	if card := body(t, w.ask("GET", "http://go.marrowby.example/FA1R/contact.vcf?route=cy")); !strings.Contains(card, "Tamsin") {
		t.Errorf("the card is %s", card)
	}
	if r := w.ask("GET", "http://go.marrowby.example/FA1R/contact.vcf"); r.StatusCode != 404 {
		t.Errorf("without the route: %d", r.StatusCode)
	}
	for _, headers := range [][]string{{"Accept-Language", "en"}, {"Sec-GPC", "1", "Accept-Language", "en"}, {"User-Agent",
		"curl/8.0"}} {
		w.ask("GET", "http://go.marrowby.example/FA1R", headers...)
	}
	if where := body(t, w.ask("GET", "http://go.marrowby.example/FA1R/where", "Accept-Language", "de")); !strings.Contains(
		where,
		"m.example/ios",
	) {
		t.Errorf("where says %s", where)
	}
	var got []string
	for _, e := range w.events(6) {
		if e.Kind != scan.Unknown {
			got = append(got, fmt.Sprintf("%s %s %v %v", e.Kind, e.Route, e.Draw > 0, e.Bare))
		}
	}
	if s := strings.Join(got, "; "); s != "scan cy true false; scan half true false; scan  false true; robot  true false; where half true false" {
		t.Errorf("kept are %s", s)
	}
}

// TestNear: a page asks the phone where it is; its answers come to the same link, are led by, and are counted once, with
// nothing of
// where it was.
func TestNear(t *testing.T) {
	w := start(t)
	w.live("go.marrowby.example/FA1R", `{"to":{"kind":"url","url":"m.example/fair"},"keep_query":true,"routes":[
		{"id":"gate","near":"52.368,-2.718","within_km":1,"to":{"kind":"url","url":"m.example/gate"}},
		{"id":"town","near":"52.368,-2.718","within_km":5,"systems":["ios"],"to":{"kind":"url","url":"m.example/town"}}]}`, "")
	const url = "http://go.marrowby.example/FA1R"
	r := w.ask("GET", url+"?utm_id=7")
	page := body(t, r)
	for _, part := range []string{"within 1 km of Ludlow, United Kingdom", `data-lat="52.368"`, `data-lon="-2.718"`,
		`data-km="1"`,
		`data-yes="/FA1R?near=gate&amp;utm_id=7"`, `data-no="/FA1R?far=gate&amp;utm_id=7"`} {
		t.Run(part, func(t *testing.T) {
			if r.StatusCode != 200 || !strings.Contains(page, part) {
				t.Errorf("%d without %s:\n%s", r.StatusCode, part, page)
			}
		})
	}
	script := "script-src 'sha256-" + hashOf(page[strings.Index(page, "<script>")+8:strings.Index(page, "</script>")]) + "'"
	if csp := r.Header.Get("Content-Security-Policy"); !strings.Contains(csp, script) {
		t.Errorf("the page allows %s, not %s", csp, script)
	}
	for query, want := range map[string]string{"near=gate&utm_id=7": "https://m.example/gate?utm_id=7",
		"far=gate&far=town": "https://m.example/fair", "far=gate&near=town": "https://m.example/town"} {
		t.Run(query, func(t *testing.T) {
			if got := w.ask("GET", url+"?"+query).Header.Get("Location"); got != want {
				t.Errorf("%s leads to %s, want %s", query, got, want)
			}
		})
	}
	if next := body(t, w.ask("GET", url+"?far=gate&utm_id=7")); !strings.Contains(next, `data-no="/FA1R?far=gate&amp;far=town&amp;utm_id=7"`) {
		t.Errorf("then it asks %s", next)
	}
	w.ask("GET", url, "User-Agent", android)
	got := w.events(2)
	if len(got) != 2 || got[0].Does != "near" || got[0].Route != "" || strings.Contains(string(got[0].Encode()), "52.") {
		t.Errorf("%d events are kept: %+v", len(got), got)
	}
	w.live("go.marrowby.example/FA1R", fair, "")
	if csp := w.ask("GET", url+"/where").Header.Get("Content-Security-Policy"); strings.Contains(csp, "script") {
		t.Errorf("another page allows %s", csp)
	}
}

// TestTriedAs: a trial asks as somebody made up, at a time made up, and is over when it is.
func TestTriedAs(t *testing.T) {
	l := leadOf(t, routes)
	v := l.Try("gate", "TRY", now.Add(time.Hour))
	v.As = &leads.As{At: now.AddDate(0, 1, 0).Unix(), Country: "GB", Part: "Wales", Tongues: []string{"en"}}
	v, err := leads.Decode(v.Encode())
	if err != nil {
		t.Fatal(err)
	}
	s := &Service{}
	ask := func(at time.Time) answered {
		return s.answer(v, at, s.askerOf(httptest.NewRequest("GET", "http://go.marrowby.example/TRY", nil)), false)
	}
	if got := ask(now); got.act.To != "https://m.example/wales" {
		t.Errorf("it leads to %+v", got)
	}
	if got := ask(now.Add(time.Hour)); got.act.Does != leads.Quiet || got.act.Title != "This trial is over." {
		t.Errorf("afterwards it leads to %+v", got)
	}
}

// TestStock: of a stock of 5 five people get something, whoever asks beside them; robots, HEAD and looks take nothing; one that
// is raised goes on.
func TestStock(t *testing.T) {
	w := start(t)
	lead := func(n int) string {
		return fmt.Sprintf(
			`{"to":{"kind":"url","url":"m.example/sorry"},"routes":[{"id":"seeds","stock":%d,"to":{"kind":"url","url":"m.example/seeds"}}]}`,
			n,
		)
	}
	w.live("go.marrowby.example/FA1R", lead(5), "gate")
	const url = "http://go.marrowby.example/FA1R"
	to := func(r *http.Response) string { return r.Header.Get("Location") }
	for range 4 {
		for _, r := range []*http.Response{w.ask("GET", url, "User-Agent", "curl/8.0"), w.ask("HEAD", url)} {
			if to(r) != "https://m.example/seeds" {
				t.Errorf("who takes nothing is led to %s", to(r))
			}
		}
		w.ask("GET", url+"/where")
		req := httptest.NewRequest("GET", url, nil)
		req.Header.Set("User-Agent", phone)
		w.s.ServeHTTP(httptest.NewRecorder(), req.WithContext(uncounted(req.Context())))
	}
	count := func() int {
		var lock sync.Mutex
		var all sync.WaitGroup
		n := 0
		for range 24 {
			all.Go(func() {
				if to(w.ask("GET", url)) == "https://m.example/seeds" {
					lock.Lock()
					n++
					lock.Unlock()
				}
			})
		}
		all.Wait()
		return n
	}
	if n := count(); n != 5 {
		t.Errorf("%d people get something of 5", n)
	}
	if got := to(w.ask("HEAD", url)); got != "https://m.example/sorry" {
		t.Errorf("once it is used up a look says %s", got)
	}
	w.live("go.marrowby.example/FA1R", lead(8), "gate")
	if n := count(); n != 3 {
		t.Errorf("of 3 more %d people get something", n)
	}
	w.s.stocks.out.Clear() // as a process that has just begun
	if n := count(); n != 0 {
		t.Errorf("another process gives %d more", n)
	}
}

// failing is a log that does not count.
type failing struct{}

func (failing) Add(context.Context, int, ...string) (int, error) { return 0, errors.New("away") }

// TestStockAway: where the counter does not answer the next route holds, and that is counted.
func TestStockAway(t *testing.T) {
	s := &stocks{told: rate.NewLimiter(0, 1)}
	if s.left(t.Context(), failing{}, true, 5, "w", "c", "r") || s.unasked.Load() != 1 {
		t.Errorf("something is left, %d unasked", s.unasked.Load())
	}
	w := start(t)
	w.live("go.marrowby.example/FA1R", `{"to":{"kind":"url","url":"m.example/sorry"},"routes":[
		{"id":"seeds","stock":5,"to":{"kind":"url","url":"m.example/seeds"}}]}`, "")
	w.log.Close()
	begun := time.Now()
	r := w.ask("GET", "http://go.marrowby.example/FA1R")
	if r.Header.Get("Location") != "https://m.example/sorry" || time.Since(begun) > 3*time.Second || w.s.Unasked() != 1 {
		t.Errorf("it leads to %s after %s, %d unasked", r.Header.Get("Location"), time.Since(begun), w.s.Unasked())
	}
	var _ counter = (*eventlog.Log)(nil)
}
