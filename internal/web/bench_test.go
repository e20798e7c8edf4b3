package web

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"image/png"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/readers"
)

// strangers opens a site whose front page anybody may use.
func strangers(t *testing.T) *site {
	t.Helper()
	s := open(t)
	panel := readers.Panel()
	s.store.Panel, s.store.PanelVersion, s.store.Brief = panel, readers.Version(panel), true
	s.cookie = nil
	return s
}

// rows counts what every table holds.
func rows(ctx context.Context, t *testing.T, s *site) map[string]int {
	t.Helper()
	q, err := s.store.DB.Pool.Query(
		ctx,
		`SELECT relname FROM pg_class WHERE relkind IN ('r', 'p') AND relnamespace = 'public'::regnamespace`,
	)
	if err != nil {
		t.Fatal(err)
	}
	tables, err := pgx.CollectRows(q, pgx.RowTo[string])
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]int{}
	for _, name := range tables {
		n := 0
		if err := s.store.DB.Pool.QueryRow(ctx, "SELECT count(*) FROM "+pgx.Identifier{name}.Sanitize()).Scan(&n); err != nil {
			t.Fatal(err)
		}
		out[name] = n
	}
	return out
}

var told = regexp.MustCompile(`class="error"[^>]*>[^<]+`)

var draftHeld = regexp.MustCompile(`name="draft" value="([^"]*)"`)

// TestBench: a stranger types, proves and takes files away; nothing of it is stored, no cookie is given, and what is wrong is
// said at its field.
func TestBench(t *testing.T) {
	s := strangers(t)
	before := rows(t.Context(), t, s)
	front := s.send("GET", "/", nil)
	if front.Code != http.StatusOK || !strings.Contains(front.Body.String(), `name="text"`) || len(front.Result().Cookies()) > 0 {
		t.Fatalf("the front page: %d, cookies %v", front.Code, front.Result().Cookies())
	}
	drawn := s.send(
		"POST",
		"/bench",
		url.Values{"text": {"marrowby.example/fair"}, "/placements/0/medium": {"business-card"}, "/look/ink": {"#12352b"}},
	)
	held := draftHeld.FindStringSubmatch(drawn.Body.String())
	for _, want := range []string{"Opens", "marrowby.example/fair", "#12352b", "Usual on this medium", "modules"} {
		t.Run(want, func(t *testing.T) {
			if !strings.Contains(drawn.Body.String(), strings.ToLower(want)) && !strings.Contains(drawn.Body.String(), want) {
				t.Errorf("the page does not hold %q", want)
			}
		})
	}
	if held == nil {
		t.Fatal("no draft travels through the page")
	}
	form := url.Values{
		"text":    {"marrowby.example/fair"},
		"was":     {"marrowby.example/fair"},
		"reading": {"-1"},
		"draft":   {html.UnescapeString(held[1])},
		"/placements/0/medium": {
			"business-card",
		},
		"/placements/0/width_mm": {"24"},
		"/look/ink":              {"#12352b"},
		"/look/paper":            {"#ffffff"},
	}
	proved := s.send("POST", "/bench/proof", form)
	if proved.Code != http.StatusOK || !strings.Contains(proved.Body.String(), `data-verdict="safe"`) {
		t.Errorf("the proof: %d %.300q", proved.Code, proved.Body)
	}
	for _, kind := range []string{"png", "svg", "pdf", "eps"} {
		t.Run(kind, func(t *testing.T) {
			form.Set("format", kind)
			w := s.send("POST", "/bench/file", form)
			if name := w.Header().Get("Content-Disposition"); w.Code != http.StatusOK || !strings.Contains(name, "_24mm."+kind) {
				t.Errorf("%s: %d, %q %.200q", kind, w.Code, name, w.Body)
			}
			if kind == "png" {
				if picture, err := png.Decode(bytes.NewReader(w.Body.Bytes())); err != nil || picture.Bounds().Dx() < 100 {
					t.Errorf("the PNG: %v", err)
				}
			}
		})
	}
	if after := rows(t.Context(), t, s); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Errorf("stored: before %v, after %v", before, after)
	}
}

// TestBenchBadInput: whatever a stranger sends is answered in words at its field, and what they typed is still there.
func TestBenchBadInput(t *testing.T) {
	s := strangers(t)
	for _, c := range []struct {
		name string
		form url.Values
		want string
	}{
		{"an address that no phone opens", url.Values{"text": {"javascript:alert(1)"}}, "javascript"},
		{"a text that no code holds", url.Values{"text": {strings.Repeat("seeds and bulbs ", 300)}},
			"The text has 4,800 bytes; a code holds 2,953 at most."},
		{"a text far too long", url.Values{"text": {strings.Repeat("x", 9000)}}, "The text has 9,000 bytes"},
		{"no colour", url.Values{"text": {"marrowby.example/x"}, "/look/ink": {"#12"}}, "colour"},
		{"no width", url.Values{"text": {"marrowby.example/x"}, "/placements/0/medium": {"business-card"},
			"/placements/0/width_mm": {"wide"},
			"draft":                  {`{"placements":[{"medium":"business-card","name":"Card"}]}`}}, "is not a length"},
		{"artwork of somebody's", url.Values{"text": {"marrowby.example/x"},
			"draft": {`{"look":{"mark":{"source":"asset:0000000000000000"}}}`}}, "mark"},
		{"a draft that is none", url.Values{"text": {"marrowby.example/x"}, "draft": {`{"look":7,"symbol":[`}},
			"marrowby.example/x"},
		{"nothing at all", url.Values{}, "What should it say?"},
	} {
		t.Run(c.name, func(t *testing.T) {
			for _, route := range []string{"/bench", "/bench/proof", "/bench/file"} {
				c.form.Set("format", "svg")
				w := s.send("POST", route, c.form)
				body := html.UnescapeString(w.Body.String())
				if w.Code >= 500 || route == "/bench" && !strings.Contains(body, c.want) {
					t.Errorf("%s: %d, without %q but %q", route, w.Code, c.want, told.FindAllString(body, -1))
				}
				if text := c.form.Get("text"); w.Header().Get("Content-Disposition") == "" && !strings.Contains(body, text) {
					t.Errorf("%s: what was typed is gone", route)
				}
			}
		})
	}
}

// TestBenchShut: where it is not open, the front leads to the sign-in and there is no bench; members never come to it.
func TestBenchShut(t *testing.T) {
	s := open(t)
	opened := s.handler
	s.handler, s.cookie = New(Options{Codes: s.store, People: s.people}), nil
	if w := s.send("GET", "/", nil); w.Code != http.StatusSeeOther {
		t.Errorf("the front: %d", w.Code)
	}
	for _, route := range []string{"/bench", "/bench/proof", "/bench/file"} {
		t.Run(route, func(t *testing.T) {
			if w := s.send("POST", route, url.Values{"text": {"x"}}); w.Code != http.StatusNotFound {
				t.Errorf("%s: %d", route, w.Code)
			}
		})
	}
	s.handler = opened
	s.cookie = s.cookies["viewer"]
	if w := s.send("GET", "/", nil); w.Code != http.StatusSeeOther || w.Header().Get("Location") != "/codes" {
		t.Errorf("a member is led to %q, %d", w.Header().Get("Location"), w.Code)
	}
}
