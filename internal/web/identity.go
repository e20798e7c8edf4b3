package web

import (
	"errors"
	"net/http"
	"net/url"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/jackc/pgx/v5/pgxpool"

	"sodrik/internal/heavy"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// signInKey is where a session keeps the id of its sign-in record.
const signInKey = "sign-in"

// newSessions keeps cookies in the database, for a month. There is no idle time-out of the library's: it would write to the
// database with every request; sign-ins tell when they were last used.
func newSessions(pool *pgxpool.Pool, secure bool) *scs.SessionManager {
	s := scs.New()
	s.Store = pgxstore.NewWithCleanupInterval(pool, time.Hour)
	s.Lifetime = 30 * 24 * time.Hour
	s.Cookie.Name = "sodrik"
	s.Cookie.HttpOnly = true
	s.Cookie.SameSite = http.SameSiteLaxMode
	s.Cookie.Secure = secure
	s.HashTokenInStore = true
	s.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { ui.Fail(w, r, err) }
	return s
}

// identify tells who makes a request. A sign-in that has been ended is a stranger at once.
func identify(sessions *scs.SessionManager, store *people.Store) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			id := sessions.GetString(r.Context(), signInKey)
			if id != "" {
				p, err := store.Present(r.Context(), id)
				switch {
				case errors.Is(err, people.ErrNotFound):
					sessions.Destroy(r.Context())
				case err != nil:
					ui.Fail(w, r, err)
					return
				default:
					r = r.WithContext(heavy.For(ui.WithPresent(r.Context(), p), p.Workspace))
				}
			}
			next.ServeHTTP(w, r)
		})
	}
}

// may lets a request through where its person has a right in the workspace. A stranger who asks for a page is led to the
// sign-in and back.
func may(right people.Right) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return signedIn(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !ui.May(r, right) {
				ui.Fail(w, r, ui.ErrForbidden)
				return
			}
			if !doorOfFiles(w, r) {
				return
			}
			next.ServeHTTP(w, r)
		}))
	}
}

// signedIn lets everybody through who is signed in.
func signedIn(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case ui.Who(r) != nil:
			next.ServeHTTP(w, r)
		case r.Method == http.MethodGet && r.Header.Get("HX-Request") == "":
			http.Redirect(w, r, "/sign-in?next="+url.QueryEscape(r.URL.RequestURI()), http.StatusSeeOther)
		default:
			http.Error(w,
				"You are not signed in any more. Sign in in another tab, then try again here; what you typed is still there.",
				http.StatusUnauthorized)
		}
	})
}
