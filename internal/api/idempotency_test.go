package api

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"sodrik/internal/people"
)

// TestDiedInBetween: a request whose process died is answered when it is repeated: done once, whether it died before or after
// its effect.
func TestDiedInBetween(t *testing.T) {
	s := open(t)
	body := `{"job":` + gate + `}`
	first, _ := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "a")
	died := func(sql string) {
		t.Helper()
		if tag, err := s.h.People.DB.Pool.Exec(t.Context(),
			`UPDATE api_answers SET status = 0, kind = '', place = '', body = '' `+sql); err != nil || tag.RowsAffected() != 1 {
			t.Fatal(tag, err)
		}
	}
	died(`WHERE key = 'a'`) // after the effect, before the answer was kept
	again, w := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "a")
	if again.ID != first.ID || w.Header().Get("Idempotency-Replayed") != "true" ||
		w.Header().Get("Location") != "/api/v1/codes/"+first.ID {
		t.Errorf("%s, it was %s; %v", again.ID, first.ID, w.Header())
	}
	if page, _ := expect[Listing](s, 200, "GET", "/codes", ""); len(page.Codes) != 1 {
		t.Errorf("%d codes", len(page.Codes))
	}
	change := `[{"op":"add","path":"/name","value":"Gate, north"}]`
	expect[Code](s, 200, "PATCH", "/codes/"+first.ID, change, "Idempotency-Key", "b")
	died(`WHERE key = 'b'`)
	if c, _ := expect[Code](s, 200, "PATCH", "/codes/"+first.ID, change, "Idempotency-Key", "b"); c.Rev != 1 ||
		c.Name != "Gate, north" {
		t.Errorf("changed twice: %+v", c)
	}
	expect[Version](s, 200, "POST", "/codes/"+first.ID+"/versions", "", "Idempotency-Key", "c")
	died(`WHERE key = 'c'`)
	if v, _ := expect[Version](s, 200, "POST", "/codes/"+first.ID+"/versions", "", "Idempotency-Key", "c"); v.N != 1 ||
		v.Payload == "" {
		t.Errorf("%+v", v)
	}
	// Before the effect: for as long as it may still be under way the key is taken, then whoever repeats it takes it up.
	expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "d")
	died(`, effect = NULL WHERE key = 'd'`)
	if w := s.send("POST", "/codes", body, "Idempotency-Key", "d"); w.Code != 409 {
		t.Errorf("while it is under way: %d", w.Code)
	}
	s.now = s.now.Add(2 * time.Minute)
	expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "d")
	if w := s.send("POST", "/codes", strings.Replace(body, "Gate", "Gates", 1), "Idempotency-Key", "d"); w.Code != 409 {
		t.Errorf("another request with its key: %d", w.Code)
	}
}

// TestLeaseLost: an effect whose lease has run out is undone, since another has taken the key up.
func TestLeaseLost(t *testing.T) {
	s := open(t)
	token := &people.Token{ID: "none"}
	if err := s.h.People.DB.Pool.QueryRow(t.Context(), `SELECT id FROM api_tokens`).Scan(&token.ID); err != nil {
		t.Fatal(err)
	}
	slow, _, _, err := s.h.People.Recall(t.Context(), token.ID, "k", "request")
	if err != nil || slow == nil {
		t.Fatal(err)
	}
	s.now = s.now.Add(2 * time.Minute)
	quick, _, _, err := s.h.People.Recall(t.Context(), token.ID, "k", "request")
	if err != nil || quick == nil {
		t.Fatal(err)
	}
	for lease, want := range map[*people.Lease]error{slow: people.ErrUnderWay, quick: nil} {
		t.Run(fmt.Sprint(lease), func(t *testing.T) {
			tx, err := s.h.People.DB.Pool.Begin(t.Context())
			if err != nil {
				t.Fatal(err)
			}
			if err := s.h.People.Done(t.Context(), tx, lease, people.Effect{Code: "x"}); !errors.Is(err, want) {
				t.Errorf("%v, want %v", err, want)
			}
			tx.Rollback(t.Context())
		})
	}
}

// TestTokenAtOnce: a token has so many requests under way and no more; those of another are answered meanwhile.
func TestTokenAtOnce(t *testing.T) {
	var a atOnce
	for range tokenAtOnce {
		done, err := a.take(t.Context(), "greedy")
		if err != nil {
			t.Fatal(err)
		}
		defer done()
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	if _, err := a.take(ctx, "greedy"); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("one more: %v", err)
	}
	done, err := a.take(t.Context(), "modest")
	if err != nil {
		t.Fatal(err)
	}
	done()
	if len(a.of) != 1 {
		t.Errorf("left behind: %v", a.of)
	}
}

// TestHostileJSON: what no database keeps is refused with the field, and a job that is null is a problem, not a panic.
func TestHostileJSON(t *testing.T) {
	s := open(t)
	code, _ := expect[Code](s, 201, "POST", "/codes", `{"job":`+gate+`}`)
	for _, c := range []struct{ method, path, body, want string }{
		{"POST", "/encode", `null`, "the job is null"},
		{"POST", "/prove", `null`, "the job is null"},
		{"POST", "/draw?format=svg", `null`, "the job is null"},
		{"POST", "/codes", `{"job":null}`, "the job is null"},
		{"POST", "/codes", `{"job":{"name":"a\u0000b","content":{"kind":"url","url":"marrowby.example"}}}`, "U+0000"},
		{"POST", "/codes", `{"campaign":"a\u0000b","job":` + gate + `}`, "U+0000"},
		{"POST", "/codes", fmt.Sprintf(`{"campaign":%q,"job":%s}`, strings.Repeat("x", 100_000), gate), "longer than 80 bytes"},
		{"PATCH", "/codes/" + code.ID, `[{"op":"add","path":"/name","value":"a\u0000b"}]`, "U+0000"},
		{"PATCH", "/codes/" + code.ID, `[{"op":"add","path":"/na\u0000me","value":"ab"}]`, "U+0000"},
		{"PATCH", "/codes/" + code.ID, `null`, ""},
		{"PATCH", "/codes/" + code.ID, `[{"op":"replace","path":"","value":null}]`, ""},
		{"POST", "/assets?as=mark&name=x", "\x00\x00", "none of SVG"},
		{"POST", "/read", "\x00\x00", "not a picture"},
	} {
		t.Run(c.method, func(t *testing.T) {
			w := s.send(c.method, c.path, c.body)
			if w.Code >= 500 || c.want != "" && (w.Code != 422 || !strings.Contains(w.Body.String(), c.want)) {
				t.Errorf("%s %s %.80s: %d %.200s, want 422 with %q", c.method, c.path, c.body, w.Code, w.Body, c.want)
			}
		})
	}
	if w := s.send("GET", "/codes/"+code.ID, ""); w.Code != 200 {
		t.Errorf("afterwards the code answers %d %s", w.Code, w.Body)
	}
}
