package web

import (
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"maps"
	"net"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"sodrik/assets"
	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/link"
	"sodrik/internal/web/ui"
)

// trips counts how often a connection to the database waits for an answer.
type trips struct{ n atomic.Int64 }

type counted struct {
	net.Conn
	trips *trips
	asked atomic.Bool
}

func (c *counted) Write(b []byte) (int, error) {
	c.asked.Store(true)
	return c.Conn.Write(b)
}

func (c *counted) Read(b []byte) (int, error) {
	n, err := c.Conn.Read(b)
	if n > 0 && c.asked.Swap(false) {
		c.trips.n.Add(1)
	}
	return n, err
}

// through makes a site's database connections count their trips. One connection serves all, so that what is prepared stays so.
func (t *trips) through(s *site) {
	config := s.store.DB.Pool.Config()
	config.MaxConns, config.MinConns = 1, 1
	config.ConnConfig.DialFunc = func(ctx context.Context, network, addr string) (net.Conn, error) {
		c, err := (&net.Dialer{}).DialContext(ctx, network, addr)
		if err != nil {
			return nil, err
		}
		return &counted{Conn: c, trips: t}, nil
	}
	pool, err := pgxpool.NewWithConfig(s.t.Context(), config)
	if err != nil {
		s.t.Fatal(err)
	}
	s.t.Cleanup(pool.Close)
	s.store.DB.Pool = pool
	s.handler = New(Options{Codes: s.store, People: s.people, Metrics: s.metrics})
}

// edited sends the i-th edit of the address, as a browser does that shows the parts whose digests are in have.
func (s *site) edited(i int, have string) *httptest.ResponseRecorder {
	return s.typed("/content/url", fmt.Sprintf("marrowby.example/fair-%d", i), i, have)
}

// typed types a text into a field, as the i-th edit of a tab.
func (s *site) typed(path, text string, i int, have string) *httptest.ResponseRecorder {
	w := s.send("PATCH", "/codes/"+s.id, url.Values{"path": {path}, "text": {text}, "tab": {"t"}, "seq": {fmt.Sprint(i)}},
		"HX-Request", "true", ui.Have, have, "Accept-Encoding", "gzip")
	if w.Code != 200 || w.Header().Get("Content-Encoding") != "gzip" {
		s.t.Fatalf("%d %.200s", w.Code, w.Body.String())
	}
	return w
}

// unpacked is an answer as the browser sees it.
func unpacked(t testing.TB, w *httptest.ResponseRecorder) string {
	t.Helper()
	r, err := gzip.NewReader(w.Body)
	if err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(r)
	if err != nil || !strings.Contains(string(text), `id="symbol"`) {
		t.Fatalf("%v %.200s", err, text)
	}
	return string(text)
}

// digests are those of the parts of an answer; of a form, behind its shape.
var digests = regexp.MustCompile(
	`<div\s+(?:data-digest="([^"]{8})"\s+)?data-slot="([^"]+)"(?:\s+data-shape="[^"]*"\s+data-digest="([^"]{8})")?`)

// shown is what a browser that has filled in an answer says that it shows, beside what it showed before.
func shown(have map[string]string, answer string) string {
	for _, m := range digests.FindAllStringSubmatch(answer, -1) {
		if m[1]+m[3] != "" {
			have[m[2]] = m[1] + m[3]
		}
	}
	return strings.Join(slices.Collect(maps.Values(have)), "")
}

// maxAnswer bounds the answer to an edit on its way, in bytes.
const maxAnswer = 15 << 10

// TestAnswer: an answer holds what the browser does not show yet, in few bytes; a browser that says nothing gets all, and so
// does one that says something else.
func TestAnswer(t *testing.T) {
	s := open(t)
	have := map[string]string{}
	first := s.edited(1, "")
	whole := first.Body.Len()
	text := unpacked(t, first)
	for _, slot := range []string{"says-form", "picture", "files-press", "damage", "line-says", "price"} {
		t.Run(slot, func(t *testing.T) {
			if !strings.Contains(text, `data-slot="`+slot+`"`) {
				t.Errorf("the whole answer lacks %s", slot)
			}
		})
	}
	told := shown(have, text)
	if n := strings.Count(text, "data-digest="); n < 10 || len(have) != n || len(told) != 8*n {
		t.Errorf("of %d digests in an answer %d are told", n, len(have)) // else the browser is taken to show less than it does
	}
	second := s.edited(2, told)
	if n := second.Body.Len(); n > maxAnswer || n >= whole {
		t.Errorf("an answer is %d bytes, of %d for all of it; %d at most", n, whole, maxAnswer)
	}
	packed := second.Body.Len()
	text = unpacked(t, second)
	t.Logf("an answer to a keystroke is %d bytes on its way, %d unpacked; a whole one %d", packed, len(text), whole)
	for slot, there := range map[string]bool{"picture": true, "line-says": true, "turns": true, "damage": true,
		"says-form": false, "files-press": false, "frame-acts": false} {
		t.Run(slot, func(t *testing.T) {
			if strings.Contains(text, `data-slot="`+slot+`"`) != there {
				t.Errorf("%s is there: %v", slot, !there)
			}
		})
	}
	if again := unpacked(t, s.edited(3, "")); !strings.Contains(again, `data-slot="files-press"`) {
		t.Error("a browser that says nothing does not get all")
	}
	if again := unpacked(t, s.edited(4, strings.Repeat("x", 80))); !strings.Contains(again, `data-slot="files-press"`) {
		t.Error("a browser that shows something else does not get all")
	}
	// Whatever is left out, all that was sent comes to what the page would show.
	text = unpacked(t, s.edited(5, shown(have, text)))
	last := shown(have, text)
	for _, m := range digests.FindAllStringSubmatch(unpacked(t, s.edited(5, "")), -1) { // the same edit again
		if m[2] != "turns" && !strings.Contains(last, m[1]+m[3]) {
			t.Errorf("%s differs from what was sent", m[2])
		}
	}
}

// maxTrips is how often an edit asks the database: for the session, for who that is, for the code, to store it, and for what
// was handed over.
const maxTrips = 5

// TestEditTrips: an edit waits for the database no more often than it has to.
func TestEditTrips(t *testing.T) {
	s := open(t)
	var counting trips
	counting.through(s)
	for i := range 5 {
		s.edited(i+1, "") // statements are prepared
	}
	before := counting.n.Load()
	s.edited(6, "")
	if n := counting.n.Load() - before; n > maxTrips || n < 2 {
		t.Errorf("an edit makes %d trips to the database; it makes %d at most", n, maxTrips)
	}
}

// TestRedrawTime measures an edit on the server, database included; figures go to the log. What an edit may cost is held by
// BenchmarkEdit and by TestEditTrips.
func TestRedrawTime(t *testing.T) {
	s := open(t)
	var all []time.Duration
	have, told := map[string]string{}, ""
	for i := range 120 {
		start := time.Now()
		w := s.edited(i+1, told)
		all = append(all, time.Since(start))
		told = shown(have, unpacked(t, w))
	}
	slices.Sort(all)
	t.Logf("redraw on the server: p50 %v, p95 %v", all[len(all)/2].Round(10*time.Microsecond),
		all[len(all)*95/100].Round(10*time.Microsecond))
}

// BenchmarkEdit is one edit on the server, database and answer included.
func BenchmarkEdit(b *testing.B) {
	s := open(b)
	i, have := 1, map[string]string{}
	told := shown(have, unpacked(b, s.edited(i, "")))
	for b.Loop() {
		i++
		told = shown(have, unpacked(b, s.edited(i, told)))
	}
}

// TestStatic: files are packed, kept for ever under the address with their digest, and asked for again under another.
func TestStatic(t *testing.T) {
	s := open(t)
	at := assets.URL("app.js")
	w := s.send("GET", at, nil, "Accept-Encoding", "gzip, br")
	plain := s.send("GET", at, nil)
	if w.Header().Get("Content-Encoding") != "gzip" || w.Header().Get("Cache-Control") != forever ||
		w.Body.Len()*2 > plain.Body.Len() {
		t.Errorf("packed: %v, %d of %d bytes", w.Header(), w.Body.Len(), plain.Body.Len())
	}
	if r, err := gzip.NewReader(w.Body); err != nil {
		t.Error(err)
	} else if text, err := io.ReadAll(r); err != nil || string(text) != plain.Body.String() {
		t.Errorf("unpacked it is another file, %v", err)
	}
	w = s.send("GET", "/static/app.js", nil)
	if w.Header().Get("Cache-Control") != "no-cache" {
		t.Errorf("without digest: %v", w.Header())
	}
	if w = s.send("GET", "/static/app.js", nil, "If-None-Match", w.Header().Get("ETag")); w.Code != 304 || w.Body.Len() != 0 {
		t.Errorf("known already: %d", w.Code)
	}
	if body := s.send("GET", "/codes", nil).Body.String(); !strings.Contains(body, `src="`+at+`"`) {
		t.Error("pages do not name their scripts by digest")
	}
}

// BenchmarkEditDynamic is one edit of a code that leads through short links, at two places.
func BenchmarkEditDynamic(b *testing.B) {
	s := open(b)
	links := link.New(s.store, "https://go.marrowby.example")
	owner := access.OfProgram(ws, "Somebody")
	if _, err := links.Turn(b.Context(), owner, s.id, code.Anyhow); err != nil {
		b.Fatal(err)
	}
	if _, err := s.store.Issue(b.Context(), owner, s.id); err != nil {
		b.Fatal(err)
	}
	page := s.send("GET", "/codes/"+s.id, nil).Body.Len()
	i, have := 1, map[string]string{}
	ink := func() string { return fmt.Sprintf("#12%04x", i) }
	told := shown(have, unpacked(b, s.typed("/look/ink", ink(), i, "")))
	answer := 0
	for b.Loop() {
		i++
		w := s.typed("/look/ink", ink(), i, told)
		answer = w.Body.Len()
		told = shown(have, unpacked(b, w))
	}
	b.ReportMetric(float64(answer), "B/answer")
	b.ReportMetric(float64(page), "B/page")
}
