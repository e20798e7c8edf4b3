// Package web is the pages: the router, what holds for every answer, and one folder a screen.
package web

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/netip"
	"runtime/debug"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"sodrik/internal/api"
	"sodrik/internal/archive"
	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/shortlink"
	stylecore "sodrik/internal/core/style"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/mailer"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/records"
	"sodrik/internal/scans"
	"sodrik/internal/web/batched"
	"sodrik/internal/web/bench"
	"sodrik/internal/web/desk"
	"sodrik/internal/web/destinations"
	"sodrik/internal/web/hooks"
	"sodrik/internal/web/hosts"
	"sodrik/internal/web/leaving"
	"sodrik/internal/web/ledger"
	"sodrik/internal/web/outthere"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/person"
	"sodrik/internal/web/reference"
	"sodrik/internal/web/scanned"
	"sodrik/internal/web/style"
	"sodrik/internal/web/ui"
	"sodrik/internal/webhooks"
)

// Limits on every request.
const (
	maxBody    = 1 << 20
	maxSeconds = 45
)

// packing is how hard pages are packed for their way; harder ones save little more and take longer.
const packing = 2

// Options of New.
type Options struct {
	Codes  *code.Store
	People *people.Store
	Secure bool // cookies over TLS only: everywhere but on loopback
	// BeyondAsked keeps hard conditions, abuse and the range of a proof until somebody asks for them, where processors are
	// scarce.
	BeyondAsked bool
	// Post sends files by mail; nil where no mail goes out.
	Post handover.Post
	// MailFile gives a file of a mail in the stand-in mailbox; nil where mails really go out.
	MailFile func(ctx context.Context, mail int64, k int) (mailer.File, error)
	// Guests are whom anybody may enter as, in the demonstration.
	Guests []person.Guest
	// Proxies are the networks of proxies in front, whose X-Forwarded-For is believed.
	Proxies []netip.Prefix
	// Bench lets anybody make static codes on the front page, without an account.
	Bench bool
	// Batches are the use cases of many codes at once; nil makes everything within the request.
	Batches *batches.Store
	// Links are the use cases of dynamic codes, and Follow answers their links within this process: what a phone would get.
	Links  *link.Store
	Follow desk.Follower
	// LinksAt is where links can be tried on this machine, in place of their host; nil for nowhere else.
	LinksAt func(shortlink.Address) string
	// Scans count what is scanned, and Notices tell what of it is to be known.
	Scans   *scans.Store
	Notices *notices.Store
	// Phones are made-up ones, nil but in the demonstration.
	Phones scanned.Phones
	// Webhooks tell others what happens; with nil nobody makes the calls.
	Webhooks *webhooks.Store
	// Metrics counts requests; nil keeps counts that nobody reads.
	Metrics *Metrics
	// Mailbox reads the stand-in mailbox; nil where mails really go out.
	Mailbox func(ctx context.Context) ([]person.Mail, error)
}

// New gives the handler of the whole application.
func New(o Options) chi.Router {
	store := o.Codes
	if o.Links == nil {
		o.Links = link.New(store, "")
	}
	sessions := newSessions(store.DB.Pool, o.Secure)
	all := chi.NewRouter()
	m := o.Metrics
	if m == nil {
		m = NewMetrics(store.DB)
	}
	all.Use(m.observe, recoverer, headers(o.Secure), client(o.Proxies), http.NewCrossOriginProtection().Handler, deadline)
	all.Use(bounded, door, middleware.GetHead)
	r := all.With(middleware.Compress(packing, "text/html"), sessions.LoadAndSave, identify(sessions, o.People))
	r.Get("/", front(o.Bench, r, store))
	all.Get("/static/*", static)
	all.Get("/healthz", func(w http.ResponseWriter, r *http.Request) { w.Write([]byte("ok\n")) })
	all.Get("/readyz", func(w http.ResponseWriter, r *http.Request) {
		if err := store.DB.Ready(r.Context()); err != nil {
			slog.Error("not ready", "error", err)
			http.Error(w, "the database does not answer as it should", http.StatusServiceUnavailable)
			return
		}
		if err := m.notReady(); err != nil {
			slog.Error("not ready", "error", err)
			http.Error(w, err.Error(), http.StatusServiceUnavailable)
			return
		}
		w.Write([]byte("ready\n"))
	})
	if o.Scans == nil {
		o.Scans = &scans.Store{DB: store.DB, Now: store.Now, Seal: store.Seal}
	}
	if o.Notices == nil {
		o.Notices = &notices.Store{DB: store.DB, Seal: store.Seal, Now: store.Now, Links: o.Links, Scans: o.Scans}
	}
	counts, told := o.Scans, o.Notices
	house := &housestyle.Store{DB: store.DB, Now: store.Now, Changed: o.Links.Dress}
	files := &handover.Door{Codes: store, Records: records.Of(store), House: house, Post: o.Post}
	(&style.Handler{Codes: store, House: house, People: o.People}).Routes(r, may)
	if o.Batches == nil {
		o.Batches = &batches.Store{Codes: store, Links: o.Links}
	}
	(&ledger.Handler{Store: store, Links: o.Links, Scans: counts, House: house, Door: files, Batches: o.Batches}).Routes(r, may)
	(&batched.Handler{Batches: o.Batches, Codes: store, House: house}).Routes(r, may)
	(&desk.Handler{Store: store, House: house, Door: files, Asked: o.BeyondAsked, Base: o.People.Base, Members: o.People.Members,
		Links: o.Links, Scans: counts, Follow: o.Follow, LinksAt: o.LinksAt}).Routes(r, may)
	(&destinations.Handler{Links: o.Links}).Routes(r, may)
	(&scanned.Handler{Codes: store, Links: o.Links, Scans: counts, Notices: told, Base: o.People.Base, Phones: o.Phones}).Routes(
		r,
		may,
	)
	(&hosts.Handler{Links: o.Links, Scans: counts}).Routes(r, may)
	if o.Webhooks == nil {
		o.Webhooks = &webhooks.Store{DB: store.DB, Seal: store.Seal, Now: store.Now, Scans: counts}
	}
	(&hooks.Handler{Webhooks: o.Webhooks}).Routes(r, may)
	(&leaving.Handler{Archive: &archive.Store{Codes: store, Links: o.Links}, Links: o.Links, Follow: o.Follow}).Routes(r, may)
	(&outthere.Handler{Codes: store, Links: o.Links, Batches: o.Batches}).Routes(r, may)
	reference.Routes(r, may)
	(&api.Handler{Codes: store, Batches: o.Batches, Links: o.Links, Scans: counts, People: o.People, Door: files}).Routes(all)
	(&person.Handler{Store: o.People, Sessions: sessions, Key: signInKey, Guests: o.Guests, Mailbox: o.Mailbox,
		MailFile: o.MailFile}).Routes(r, signedIn, may)
	all.NotFound(func(w http.ResponseWriter, r *http.Request) { ui.Fail(w, r, code.ErrNotFound) })
	return all
}

// front leads members to their codes, and strangers there too, to sign in, or to the bench where it is open.
func front(open bool, r chi.Router, codes *code.Store) http.HandlerFunc {
	if !open {
		return func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/codes", http.StatusSeeOther) }
	}
	strangers := bench.New(codes.Prover)
	strangers.Routes(r, bench.UsualRates)
	return func(w http.ResponseWriter, r *http.Request) {
		if ui.Who(r) != nil {
			http.Redirect(w, r, "/codes", http.StatusSeeOther)
			return
		}
		strangers.Front(w, r)
	}
}

// policy allows what the application ships and nothing else: no inline script or style, no other host.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; " +
	"connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// headers hold for every answer; over TLS, that the host is asked over TLS alone (RFC 6797).
func headers(secure bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if secure {
				w.Header().Set("Strict-Transport-Security", "max-age=31536000")
			}
			setHeaders(w.Header())
			next.ServeHTTP(w, r)
		})
	}
}

func setHeaders(h http.Header) {
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if h.Get("Cache-Control") == "" {
		h.Set("Cache-Control", "no-store")
	}
}

func deadline(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), maxSeconds*time.Second)
		defer cancel()
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}

// bounded keeps the bodies of pages small; the API bounds its own, operation by operation.
func bounded(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/api/") {
			next.ServeHTTP(w, r)
			return
		}
		limit := int64(maxBody)
		if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
			switch at := r.URL.Path; {
			case at == "/find":
				limit = paste.MaxFile + 1<<16 // a picture with the form around it
			case strings.HasPrefix(at, "/batches"):
				limit = batched.MaxFile + 1<<20
			case at == "/codes/file", strings.HasPrefix(at, "/codes/") && strings.HasSuffix(at, "/lead/file"):
				limit = leads.MaxServed + 1<<16
			case strings.HasPrefix(at, "/codes/") && (strings.HasSuffix(at, "/mark") || strings.HasSuffix(at, "/artwork")),
				strings.HasPrefix(at, "/style/"):
				limit = stylecore.MaxKit + 1<<20
			}
		}
		r.Body = http.MaxBytesReader(w, r.Body, limit)
		next.ServeHTTP(w, r)
	})
}

func recoverer(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			switch v := recover(); v {
			case nil:
			case http.ErrAbortHandler:
				panic(v)
			default:
				slog.Error("panic", "route", ui.Route(r), "value", fmt.Sprint(v), "stack", string(debug.Stack()))
				http.Error(w, "Something went wrong here. Nothing was changed.", http.StatusInternalServerError)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
