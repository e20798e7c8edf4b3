// Package api is the JSON API under /api/v1: the same as pages and command line do, with the same problems in the same
// words. Every operation stands once, in a list from which router and OpenAPI document are both made.
package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/db"
	"sodrik/internal/handover"
	"sodrik/internal/heavy"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
)

// Handler serves the API.
type Handler struct {
	Codes  *code.Store
	People *people.Store
	Links  *link.Store
	Scans  *scans.Store
	Door   *handover.Door // through which files of versions leave
	// Batches are the use cases of many codes at once.
	Batches *batches.Store
	tokens  atOnce
}

// operation is one method of one path.
type operation struct {
	method, path string // below /api/v1
	id           string
	summary      string
	about        string
	scope        people.Scope // "" needs no token
	body         any          // an example of the request's JSON; nil for none
	takes        []string     // media types of a request that is not JSON; what it is, its bytes tell
	params       []param
	answers      []answer
	limit        int64 // bytes of the body
	keyed        bool  // takes an Idempotency-Key; again answers where what was asked for was done and not answered
	again        func(h *Handler, c *call, e people.Effect) error
	do           func(h *Handler, c *call) error
}

type param struct {
	in, name, about, example string
	as                       map[string]any // its schema where it is not just text
}

// answer is one possible answer: a status, an example value for its schema, or the media types of a file. With neither it has
// no body.
type answer struct {
	status int
	about  string
	value  any
	media  []string
}

// call is one request being answered.
type call struct {
	w     http.ResponseWriter
	r     *http.Request
	token *people.Token
	body  []byte
	find  compose.Assets // uploads of the token's workspace
	codes *code.Store
}

// house is the house style of the token's workspace.
func (c *call) house() (*style.Style, error) {
	if c.token == nil {
		return nil, nil
	}
	h, _, err := (&housestyle.Store{DB: c.codes.DB, Now: c.codes.Now}).Get(c.r.Context(), c.actor())
	return h, err
}

// actor is the token of a call.
func (c *call) actor() access.Actor { return c.token.Actor() }

func (c *call) param(name string) string { return chi.URLParam(c.r, name) }

// fault is an answer that is not what was asked for.
type fault struct {
	status   int
	title    string
	detail   string
	problems problem.List
}

func (f *fault) Error() string { return f.title + ": " + f.detail }

// Details is an RFC 9457 problem, with one entry a field that is wrong.
type Details struct {
	Type     string       `json:"type"`
	Title    string       `json:"title"`
	Status   int          `json:"status"`
	Detail   string       `json:"detail,omitempty"`
	Problems problem.List `json:"problems,omitempty"`
}

// Routes mounts the API.
func (h *Handler) Routes(r chi.Router) {
	for _, op := range operations {
		r.Method(op.method, "/api/v1"+op.path, h.serve(op))
	}
	r.Get("/api/v1/openapi.json", h.document)
}

const defaultBody = 1 << 20

func (h *Handler) serve(op operation) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		c := &call{w: w, r: r}
		if err := h.admit(c, op); err != nil {
			fail(w, r, err)
			return
		}
		if c.token != nil {
			done, err := h.tokens.take(c.r.Context(), c.token.ID)
			if err != nil {
				fail(w, r, &fault{status: http.StatusServiceUnavailable, title: "Too many requests at once",
					detail: fmt.Sprintf("a token may have %d under way; wait for answers before asking for more", tokenAtOnce)})
				return
			}
			defer done()
			r = c.r
			c.codes = h.Codes
			c.find = h.Codes.Assets(r.Context(), c.actor())
		}
		limit := op.limit
		if limit == 0 {
			limit = defaultBody
		}
		var err error
		if c.body, err = io.ReadAll(http.MaxBytesReader(w, r.Body, limit)); err != nil {
			var large *http.MaxBytesError
			if errors.As(err, &large) {
				err = &fault{status: http.StatusRequestEntityTooLarge, title: "The request is too large",
					detail: fmt.Sprintf("at most %d bytes are taken", limit)}
			}
			fail(w, r, err)
			return
		}
		if key := r.Header.Get("Idempotency-Key"); op.keyed && key != "" && c.token != nil {
			h.once(c, op, key)
			return
		}
		if err := op.do(h, c); err != nil {
			fail(w, r, err)
		}
	}
}

// admit holds a request against its token: who, whether it has the scope, and whether it comes too often.
func (h *Handler) admit(c *call, op operation) error {
	if op.scope == "" {
		return nil
	}
	text, bearer := strings.CutPrefix(c.r.Header.Get("Authorization"), "Bearer ")
	if !bearer {
		c.w.Header().Set("WWW-Authenticate", `Bearer realm="sodrik"`)
		return &fault{status: http.StatusUnauthorized, title: "A token is needed",
			detail: "send it as Authorization: Bearer sodrik_…; tokens are made under Your account"}
	}
	token, err := h.People.TokenOf(c.r.Context(), strings.TrimSpace(text))
	if errors.Is(err, people.ErrNotFound) {
		c.w.Header().Set("WWW-Authenticate", `Bearer realm="sodrik", error="invalid_token"`)
		return &fault{status: http.StatusUnauthorized, title: "The token is not known",
			detail: "it was revoked, is too old, or its person has left the workspace"}
	} else if err != nil {
		return err
	}
	left, reset, err := h.People.Count(c.r.Context(), token.ID)
	if err != nil {
		return err
	}
	head := c.w.Header()
	head.Set("RateLimit-Limit", strconv.Itoa(people.PerMinute))
	head.Set("RateLimit-Remaining", strconv.Itoa(max(0, left)))
	head.Set("RateLimit-Reset", strconv.Itoa(int(reset.Seconds())+1))
	if left < 0 {
		head.Set("Retry-After", strconv.Itoa(int(reset.Seconds())+1))
		return &fault{status: http.StatusTooManyRequests, title: "Too many requests",
			detail: fmt.Sprintf("a token may make %d a minute", people.PerMinute)}
	}
	if !token.May(op.scope) {
		c.w.Header().Set("WWW-Authenticate",
			fmt.Sprintf(`Bearer realm="sodrik", error="insufficient_scope", scope="%s"`, op.scope))
		return &fault{status: http.StatusForbidden, title: "The token may not do that",
			detail: fmt.Sprintf("it needs the scope %s (%s)", op.scope, op.scope.Words())}
	}
	c.token = token
	c.r = c.r.WithContext(heavy.For(c.r.Context(), token.Workspace))
	return nil
}

// once answers a request with an idempotency key: the first time it is carried out, then the same answer is given again.
func (h *Handler) once(c *call, op operation, key string) {
	if len(key) > 200 {
		fail(c.w, c.r, &fault{status: http.StatusBadRequest, title: "The Idempotency-Key is too long",
			detail: "at most 200 bytes are taken"})
		return
	}
	sum := sha256.Sum256([]byte(op.method + " " + c.r.URL.RequestURI() + "\n" + string(c.body)))
	lease, kept, done, err := h.People.Recall(c.r.Context(), c.token.ID, key, hex.EncodeToString(sum[:]))
	switch {
	case errors.Is(err, people.ErrOtherRequest), errors.Is(err, people.ErrUnderWay):
		fail(c.w, c.r, &fault{status: http.StatusConflict, title: "The Idempotency-Key cannot be used", detail: err.Error()})
		return
	case err != nil:
		fail(c.w, c.r, err)
		return
	case kept != nil:
		c.w.Header().Set("Idempotency-Replayed", "true")
		c.w.Header().Set("Content-Type", kept.Kind)
		if kept.Place != "" {
			c.w.Header().Set("Location", kept.Place)
		}
		c.w.WriteHeader(kept.Status)
		c.w.Write(kept.Body)
		return
	}
	do := op.do
	if done != nil { // what was asked for is done, and whoever did it died before it could say so
		c.w.Header().Set("Idempotency-Replayed", "true")
		do = func(h *Handler, c *call) error { return op.again(h, c, *done) }
	} else {
		c.r = c.r.WithContext(code.WithEffect(c.r.Context(), func(ctx context.Context, tx pgx.Tx, e code.Effect) error {
			return h.People.Done(ctx, tx, lease, people.Effect{Code: e.Code, Rev: e.Rev, Version: e.Version})
		}))
	}
	answer := c.w
	rec := &recorder{header: answer.Header()}
	c.w = rec
	if err := do(h, c); err != nil {
		fail(rec, c.r, err)
	}
	// What was done is done, whether or not the client is still there.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(c.r.Context()), 5*time.Second)
	defer cancel()
	a := people.Answer{Status: rec.status, Kind: answer.Header().Get("Content-Type"), Place: answer.Header().Get("Location"),
		Body: rec.body.Bytes()}
	if err := h.People.Remember(ctx, c.token.ID, key, a); err != nil {
		slog.Error("idempotency key not kept", "error", err)
	}
	answer.WriteHeader(rec.status)
	answer.Write(rec.body.Bytes())
}

// recorder holds an answer back until it has been kept.
type recorder struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func (r *recorder) Header() http.Header { return r.header }
func (r *recorder) WriteHeader(status int) {
	if r.status == 0 {
		r.status = status
	}
}
func (r *recorder) Write(b []byte) (int, error) {
	r.WriteHeader(http.StatusOK)
	return r.body.Write(b)
}

// fail answers an error as problem details.
func fail(w http.ResponseWriter, r *http.Request, err error) {
	d := Details{Type: "about:blank", Title: "Something went wrong here", Status: http.StatusInternalServerError,
		Detail: "nothing was changed"}
	var f *fault
	list, isProblem := code.IsProblem(err)
	switch {
	case errors.As(err, &f):
		d.Title, d.Status, d.Detail, d.Problems = f.title, f.status, f.detail, f.problems
	case isProblem:
		d.Title, d.Status, d.Detail, d.Problems = "The request holds something that cannot be done",
			http.StatusUnprocessableEntity, list.Error(), list
	case errors.Is(err, code.ErrBusy), errors.Is(err, people.ErrUnderWay):
		d.Title, d.Status, d.Detail = "Busy", http.StatusServiceUnavailable, err.Error()
		w.Header().Set("Retry-After", "1")
	case errors.Is(err, code.ErrNotFound):
		d.Title, d.Status, d.Detail = "Not found", http.StatusNotFound, err.Error()
	case db.Unreachable(err):
		d.Title, d.Status, d.Detail = "The database does not answer", http.StatusServiceUnavailable,
			"nothing was lost; try again in a moment"
		w.Header().Set("Retry-After", "2")
	case r.Context().Err() != nil:
		return
	default:
		slog.Error("api", "route", chi.RouteContext(r.Context()).RoutePattern(), "error", err)
	}
	d.write(w)
}

func (d Details) write(w http.ResponseWriter) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(d.Status)
	json.NewEncoder(w).Encode(d)
}

// Refuse answers problems of a request that no operation got to see.
func Refuse(w http.ResponseWriter, status int, title string, problems problem.List) {
	Details{Type: "about:blank", Title: title, Status: status, Detail: problems.Error(), Problems: problems}.write(w)
}

// send answers a value as JSON.
func (c *call) send(status int, v any) error {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		return err
	}
	c.w.Header().Set("Content-Type", "application/json")
	c.w.WriteHeader(status)
	_, err := c.w.Write(b.Bytes())
	if err != nil {
		slog.Debug("answer not delivered", "error", err)
	}
	return nil
}
