// Package ui holds what all screens share: the frame of a page, small drawings, how times and sizes read. It holds no rule.
package ui

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/assets"
	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/slip"
	"sodrik/internal/core/symbol"
	"sodrik/internal/db"
	"sodrik/internal/people"
)

//go:embed *.html
var templates embed.FS

// Frame is what the frame of a page needs; every page's view embeds it.
type Frame struct {
	Title     string
	Section   string // "codes": the place in the band that the page belongs to
	Workspace string
	Person    string // name of who is signed in, "" for a stranger
	Initial   string
	Role      string
	MayLook   bool
	MayManage bool
	Others    int    // further workspaces of the person
	Find      string // what stands in the find field
	Live      bool   // the find field answers while typing
}

// Functions for all templates.
var functions = template.FuncMap{
	"static": assets.URL,
	"glyph":  Glyph,
	"count":  measure.Count,
	"upper":  strings.ToUpper,
	"lower":  strings.ToLower,
	"lowerFirst": func(s string) string {
		if s == "" {
			return s
		}
		return strings.ToLower(s[:1]) + s[1:]
	},
	"language": func(key string) string { return slip.Names[key] },
	"formats":  func() []string { return []string{"pdf", "svg"} },
}

// Parse reads a screen's templates on top of the shared ones.
func Parse(files ...fs.FS) *template.Template {
	t := template.Must(template.New("").Funcs(functions).ParseFS(templates, "*.html"))
	for _, f := range files {
		t = template.Must(t.ParseFS(f, "*.html"))
	}
	return t
}

// Render writes a template as one whole answer.
func Render(w http.ResponseWriter, status int, t *template.Template, name string, view any) {
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, name, view); err != nil {
		slog.Error("page", "template", name, "error", err)
		http.Error(w, "The page could not be drawn. Nothing was changed.", http.StatusInternalServerError)
		return
	}
	Write(w, status, b.Bytes())
}

// Write answers with HTML.
func Write(w http.ResponseWriter, status int, html []byte) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Length", strconv.Itoa(len(html)))
	w.WriteHeader(status)
	w.Write(html)
}

var failures = Parse(templates)

// ErrForbidden is what a role does not allow.
var ErrForbidden = access.ErrForbidden

// sentence makes an error's text one.
func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] + "." }

// Route is the pattern of a request's route: unlike its path it holds no secret, and can be logged.
func Route(r *http.Request) string {
	if c := chi.RouteContext(r.Context()); c != nil {
		return c.RoutePattern()
	}
	return ""
}

// Fail answers an error: problems as they are, what is not there as 404, a database that is away as 503, the rest as 500.
func Fail(w http.ResponseWriter, r *http.Request, err error) {
	status, words := http.StatusInternalServerError, "Something went wrong here. Nothing was changed."
	problems, isProblem := code.IsProblem(err)
	var overtaken *code.Overtaken
	switch {
	case isProblem:
		status, words = http.StatusBadRequest, problems.Error()
	case errors.Is(err, code.ErrNotFound):
		status, words = http.StatusNotFound, "There is no such code. It may have been in another workspace."
	case errors.Is(err, people.ErrNotFound):
		status, words = http.StatusNotFound, "There is no such person here."
	case errors.Is(err, ErrForbidden):
		status, words = http.StatusForbidden, ErrForbidden.Error()
	case errors.Is(err, people.ErrLastOwner), errors.Is(err, people.ErrLink), errors.Is(err, people.ErrThrottled),
		errors.Is(err, people.ErrSignIn):
		status, words = http.StatusConflict, sentence(err.Error())
	case errors.As(err, &overtaken):
		status, words = http.StatusConflict, overtaken.Error()+"."
	case errors.Is(err, code.ErrBusy):
		status, words = http.StatusServiceUnavailable, sentence(err.Error())
		w.Header().Set("Retry-After", "1")
	case errors.Is(err, code.ErrNothing):
		status, words = http.StatusConflict, "There is nothing to undo."
	case db.Unreachable(err):
		status, words = http.StatusServiceUnavailable, "The database does not answer. Nothing was lost; try again in a moment."
		w.Header().Set("Retry-After", "2")
	case errors.Is(err, context.DeadlineExceeded), errors.Is(r.Context().Err(), context.DeadlineExceeded):
		status, words = http.StatusServiceUnavailable, "Busy. Nothing was changed; try again in a moment."
		w.Header().Set("Retry-After", "2")
	case r.Context().Err() != nil:
		return // the browser has left
	}
	if status == http.StatusInternalServerError {
		slog.Error("request", "route", Route(r), "error", err)
	}
	if r.Header.Get("HX-Request") != "" || r.Method != http.MethodGet && r.Header.Get("Sec-Fetch-Mode") == "cors" {
		http.Error(w, words, status)
		return
	}
	Render(w, status, failures, "failure", struct {
		Frame
		Words string
		Retry bool
	}{FrameOf(r, "Not done", "codes"), words, status == http.StatusServiceUnavailable})
}

// Glyph draws a verdict's sign; it never relies on colour alone. class adds to "glyph".
func Glyph(v any, class string) template.HTML {
	verdict := proof.Verdict("")
	switch v := v.(type) {
	case proof.Verdict:
		verdict = v
	case proof.Severity:
		verdict = proof.Verdict(v)
	case string:
		verdict = proof.Verdict(v)
	}
	body := map[proof.Verdict]string{
		proof.Safe: `<path d="M1 1h8l4 4v8H1z" fill="currentColor"/>`,
		proof.Care: `<path d="M1.75 1.75h10.5v10.5H1.75z" fill="none" stroke="currentColor" stroke-width="1.5"/><path d="M4.2 11.800 11.800 4.200M7.500 11.800l4.300-4.300M10.400 11.800l1.400-1.400M2 10.500 10.500 2" fill="none" stroke="currentColor" stroke-width="1.400"/>`,
		proof.Stop: `<path d="M1.75 1.75h10.5v10.5H1.75z" fill="none" stroke="currentColor" stroke-width="1.5"/><path d="M4 7h6" stroke="currentColor" stroke-width="2"/>`,
		proof.Flat: `<path d="M1.75 1.75h10.5v10.5H1.75z" fill="none" stroke="currentColor" stroke-width="1.25" stroke-dasharray="1.5 2"/>`,
		"note":     `<path d="M7 6v6M7 2v2" stroke="currentColor" stroke-width="1.75"/>`,
		"":         `<path d="M4 7h6" stroke="currentColor" stroke-width="1"/>`,

		proof.Unknown: `<path d="M1.75 1.75h10.5v10.5H1.75z" fill="none" stroke="currentColor" stroke-width="1.25" stroke-dasharray="1.5 2"/><path d="M4 7h6" stroke="currentColor" stroke-width="1"/>`,
	}[verdict]
	if verdict == proof.Stop {
		class += " stopped"
	}
	return template.HTML(`<svg class="glyph ` + template.HTMLEscapeString(class) + `" viewBox="0 0 14 14" aria-hidden="true">` +
		body + `</svg>`)
}

// Picture is the whole symbol, for a page; its label says what it holds, without secrets.
func Picture(m *compose.Rendition) template.HTML {
	return template.HTML(svg.Inline(grounded(m, -1, m.Scene(nil)), "QR code of "+content.Shown(m.Job.Content), `class="symbol"`))
}

// Plain draws a symbol black on white, for pointing a phone at this screen.
func Plain(s *symbol.Symbol) template.HTML {
	return template.HTML(svg.Inline(layout.DrawOn(s, look.Default(), 4, 0, nil, nil), "QR code of this address",
		`class="symbol"`))
}

// Worn draws a code as it is printed at a place, for choosing between looks: without what only print needs.
func Worn(m *compose.Rendition, p *place.Placement) template.HTML {
	return template.HTML(svg.Inline(grounded(m, -1, m.Scene(p)).Reduced(wornPixels), "", `aria-hidden="true"`))
}

// grounded lays what a code without paper lies on beneath it, so that light ink is seen.
func grounded(m *compose.Rendition, i int, s *scene.Scene) *scene.Scene {
	if !m.Job.Look.Paper.None {
		return s
	}
	ground := scene.Item{Name: "ground", Path: scene.Rectangle(0, 0, s.Width, s.Height), At: scene.Unit, Fill: m.ShownOn(i)}
	return &scene.Scene{Width: s.Width, Height: s.Height, Items: append([]scene.Item{ground}, s.Items...)}
}

// wornPixels bounds the pictures in a small drawing.
const wornPixels = 160

// Says is a summary with its object set strong or in mono, as addresses are.
type Says struct{ Verb, Object string }

// SaysOf sums up what a content does.
func SaysOf(c content.Content) Says { s := c.Summary(); return Says{s.Verb, s.Object} }

// Ago says when, the way people do.
func Ago(now, t time.Time) string {
	d := now.Sub(t)
	day := func(t time.Time) time.Time { y, m, d := t.Date(); return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }
	switch days := int(day(now).Sub(day(t)).Hours() / 24); {
	case d < time.Minute:
		return "now"
	case d < time.Hour:
		return strconv.Itoa(int(d.Minutes())) + " min ago"
	case days == 0:
		return strconv.Itoa(int(d.Hours())) + " h ago"
	case days == 1:
		return "yesterday"
	case t.Year() == now.Year() || days < 300:
		return t.Format("2 Jan")
	}
	return t.Format("2 Jan 2006")
}

// VerdictWords are the short words of the ledger.
func VerdictWords(v proof.Verdict) string {
	return map[proof.Verdict]string{proof.Safe: "safe", proof.Care: "with care", proof.Stop: "do not print",
		proof.Flat: "reads flat", proof.Unknown: "not proved", "": "not proved"}[v]
}
