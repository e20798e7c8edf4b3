package e2e

import (
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod"

	"sodrik/internal/standin"
)

// weather is a bad way to the server: all takes long, or of every three changes one never arrives and the answer to another
// is lost.
type weather struct {
	late  time.Duration
	loses bool
	lost  atomic.Int32
	n     atomic.Int32
}

func (b *weather) way(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		time.Sleep(b.late / 2)
		what := int32(2)
		if b.loses && r.Method != http.MethodGet && strings.HasPrefix(r.URL.Path, "/codes/") {
			what = (b.n.Add(1) - 1) % 3
		}
		if what == 0 {
			b.lose(w)
			return
		}
		rec := httptest.NewRecorder()
		next.ServeHTTP(rec, r)
		time.Sleep(b.late / 2)
		if what == 1 {
			b.lose(w)
			return
		}
		for key, values := range rec.Header() {
			w.Header()[key] = values
		}
		w.WriteHeader(rec.Code)
		w.Write(rec.Body.Bytes())
	})
}

// lose begins an answer and breaks it off: a browser that gets nothing at all asks again by itself.
func (b *weather) lose(w http.ResponseWriter) {
	b.lost.Add(1)
	conn, rw, err := w.(http.Hijacker).Hijack()
	if err != nil {
		panic(err)
	}
	io.WriteString(rw, "HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nContent-Length: 1000\r\n\r\n<div")
	rw.Flush()
	conn.Close()
}

// saved waits until the desk has nothing left to send.
func saved(t *testing.T, p *rod.Page) {
	t.Helper()
	until(t, p, "all to be saved",
		`() => ["0", undefined].includes(document.documentElement.dataset.unsaved) && !document.querySelector(".htmx-request[hx-patch], form.htmx-request[hx-post]") && !document.getElementById("notice").dataset.saving`)
}

// TestEditsArrive edits over a slow way and over one that loses things: in the end the server has what the page shows, and a
// step that is taken back is taken back once.
func TestEditsArrive(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name string
		by   *weather
	}{{"200 ms", &weather{late: 200 * time.Millisecond}}, {"2 s", &weather{late: 2 * time.Second}},
		{"lost answers", &weather{late: 50 * time.Millisecond, loses: true}}} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			a := *open(t)
			l, err := net.Listen("tcp", "127.0.0.1:0")
			if err != nil {
				t.Fatal(err)
			}
			server := &http.Server{Handler: c.by.way(a.serves)}
			go server.Serve(l)
			t.Cleanup(func() { server.Close() })
			a.url, a.lossy = "http://"+l.Addr().String(), c.by.loses
			path := a.create(t,
				`{"name":"Weather","content":{"kind":"url","url":"https://marrowby.example/a"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`)
			p := a.page(t, path)
			p.MustElement("#notice")
			p.MustEval(
				`() => { window.said = []; new MutationObserver(() => said.push(document.getElementById("notice").textContent)).observe(document.getElementById("notice"), { childList: true, subtree: true, characterData: true }); }`)
			p.MustElement("[data-stub=says]").MustClick()
			fill(p, "#f-content-url", "marrowby.example/")
			for _, letter := range "spring-sowing" {
				p.MustInsertText(string(letter))
				time.Sleep(70 * time.Millisecond)
			}
			p.MustElement("[data-stub=sits]").MustClick()
			fill(p, "#f-placements-0-width_mm", "120 mm")
			saved(t, p)
			fill(p, "#f-name", "Weather and wind")
			saved(t, p)
			id := strings.TrimPrefix(path, "/codes/")
			is := func(url, name string, width float64) {
				t.Helper()
				got, err := a.store.Get(t.Context(), standin.Loader(), id)
				if err != nil {
					t.Fatal(err)
				}
				j := got.Rendition.Job
				if got.Rendition.For(got.Rendition.Place(0)).Payload != url || j.Name != name ||
					float64(j.Placements[0].Width) != width {
					t.Fatalf("the server has %q, %q, %v mm", got.Rendition.For(got.Rendition.Place(0)).Payload, j.Name,
						j.Placements[0].Width)
				}
				shows := p.MustEval(
					`() => [document.getElementById("f-content-url").value, document.getElementById("f-name").value, document.getElementById("f-placements-0-width_mm").value].join("; ")`).Str()
				if !strings.Contains(shows, strings.TrimPrefix(url, "https://")) || !strings.Contains(shows, "; "+name+"; ") {
					t.Fatalf("the page shows %s", shows)
				}
			}
			is("https://marrowby.example/spring-sowing", "Weather and wind", 120)
			p.MustEval(`() => { document.activeElement.blur(); document.getElementById("undo").click(); }`)
			until(t, p, "the name of before", `() => document.getElementById("f-name").value === "Weather"`)
			saved(t, p)
			is("https://marrowby.example/spring-sowing", "Weather", 120)
			p.MustEval(`() => document.getElementById("redo").click()`)
			until(t, p, "the name again", `() => document.getElementById("f-name").value === "Weather and wind"`)
			saved(t, p)
			is("https://marrowby.example/spring-sowing", "Weather and wind", 120)
			said := p.MustEval(`() => said.join(" | ")`).Str()
			if told := strings.Contains(said, "Not saved yet"); told != c.by.loses || c.by.loses && c.by.lost.Load() < 4 {
				t.Errorf("lost were %d; it said %q", c.by.lost.Load(), said)
			}
		})
	}
}
