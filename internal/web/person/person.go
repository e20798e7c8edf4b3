// Package person is the screens of who is here: signing in, the first owner, invitations, recovery, one's account, and the
// people of a workspace.
package person

import (
	"context"
	"embed"
	"errors"
	"mime"
	"net/http"
	"net/url"
	"path"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/mailer"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Mail is one mail of a mailbox that can be read here.
type Mail struct {
	ID                int64
	To, Subject, Body string
	At                time.Time
	Files             []string // names
}

// Handler serves the screens.
type Handler struct {
	Store    *people.Store
	Sessions *scs.SessionManager
	Key      string // under which a session keeps its sign-in
	// Guests are people whom anybody may enter as, by one click: the demonstration's. Empty otherwise.
	Guests []Guest
	// Mailbox reads the stand-in mailbox; nil where mails really go out.
	Mailbox func(ctx context.Context) ([]Mail, error)
	// MailFile gives a file of a mail there.
	MailFile func(ctx context.Context, mail int64, k int) (mailer.File, error)
}

// Guest is somebody to enter the demonstration as.
type Guest struct{ Email, Words string }

// Routes mounts the screens. signedIn lets through who is signed in; may, who has a right.
func (h *Handler) Routes(r chi.Router, signedIn func(http.Handler) http.Handler,
	may func(people.Right) func(http.Handler) http.Handler) {
	r.Get("/sign-in", h.signInPage)
	r.Post("/sign-in", h.signIn)
	r.Post("/enter", h.enter)
	r.Post("/sign-out", h.signOut)
	r.Post("/passkey/ask", h.askPasskey)
	r.Post("/passkey/use", h.usePasskey)
	r.Get("/forgot", h.forgotPage)
	r.Post("/forgot", h.forgot)
	r.Get("/new-password/{secret}", h.linkPage("recovery"))
	r.Post("/new-password/{secret}", h.reset)
	r.Get("/first/{secret}", h.linkPage("owner"))
	r.Post("/first/{secret}", h.accept("owner"))
	r.Get("/invitation/{secret}", h.linkPage("invitation"))
	r.Post("/invitation/{secret}", h.accept("invitation"))
	own := r.With(signedIn)
	own.Get("/mailbox", h.mailbox)
	own.Get("/mailbox/{mail}/{k}", h.mailFile)
	own.Get("/account", h.account)
	own.Post("/account/password", h.password)
	own.Post("/account/end", h.end)
	own.Post("/account/workspace", h.change)
	own.Post("/account/passkey/new", h.newPasskey)
	own.Post("/account/passkey/add", h.addPasskey)
	own.Post("/account/passkey/remove", h.removePasskey)
	own.Post("/account/token", h.newToken)
	own.Post("/account/revoke", h.revoke)
	manage := r.With(may(people.Manage))
	manage.Get("/people", h.people)
	manage.Post("/people/invite", h.invite)
	manage.Post("/people/withdraw", h.withdraw)
	manage.Post("/people/role", h.role)
}

// form is the view of the pages with a short form; what was typed comes back with what is wrong.
type form struct {
	ui.Frame
	Problems    problem.List
	Alert       string
	Done        string
	Email, Name string
	Next        string
	Secret      string
	Link        *people.Link
	Guests      []Guest
	Mailbox     bool
	Token       string
}

// At gives what is wrong with a field.
func (f form) At(field string) string {
	if list := f.Problems.At(field); len(list) > 0 {
		return strings.ToUpper(list[0].Message[:1]) + list[0].Message[1:] + "."
	}
	return ""
}

// fill takes an error into a form; false where it is not one that a person can put right.
func (f *form) fill(err error) bool {
	if list, ok := code.IsProblem(err); ok {
		f.Problems = list
		return true
	}
	for _, known := range []error{people.ErrSignIn, people.ErrThrottled, people.ErrLink, people.ErrLastOwner} {
		if errors.Is(err, known) {
			f.Alert = strings.ToUpper(known.Error()[:1]) + known.Error()[1:] + "."
			return true
		}
	}
	return false
}

func (h *Handler) render(w http.ResponseWriter, r *http.Request, status int, name, title string, f form) {
	f.Frame = ui.FrameOf(r, title, "person")
	f.Guests, f.Mailbox = h.Guests, h.Mailbox != nil
	ui.Render(w, status, pages, name, f)
}

// plainPath is a path of this application as it may be led to: what browsers would read as another host does not begin with a
// letter or a digit.
var plainPath = regexp.MustCompile(`^/([a-zA-Z0-9][^\\\x00-\x20\x7f]*)?$`)

// next is where to go after signing in: a path of this application, nothing else.
func next(r *http.Request) string {
	n := r.FormValue("next")
	u, err := url.Parse(n)
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || !plainPath.MatchString(n) ||
		strings.ContainsAny(u.Path, "\\\t\r\n") || path.Clean(u.Path) != strings.TrimSuffix(u.Path, "/") && u.Path != "/" {
		return "/codes"
	}
	return n
}

func (h *Handler) signInPage(w http.ResponseWriter, r *http.Request) {
	if ui.Who(r) != nil {
		http.Redirect(w, r, next(r), http.StatusSeeOther)
		return
	}
	h.render(w, r, http.StatusOK, "sign-in", "Sign in", form{Next: next(r)})
}

// begin signs a person in with a fresh cookie.
func (h *Handler) begin(r *http.Request, p *people.Person, workspace string) error {
	id, err := h.Store.Begin(r.Context(), p.ID, workspace, r.UserAgent(), ui.Address(r))
	if err != nil {
		return err
	}
	if err := h.Sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	h.Sessions.SetDeadline(r.Context(), h.Store.Now().Add(signedInFor))
	h.Sessions.Put(r.Context(), h.Key, id)
	return nil
}

func (h *Handler) signIn(w http.ResponseWriter, r *http.Request) {
	f := form{Email: r.PostFormValue("email"), Next: next(r)}
	p, err := h.Store.SignIn(r.Context(), f.Email, r.PostFormValue("password"), ui.Network(r), h.device(r, f.Email))
	if err == nil {
		err = h.begin(r, p, "")
	}
	switch {
	case err == nil:
		h.remember(w, r, p)
		http.Redirect(w, r, f.Next, http.StatusSeeOther)
	case f.fill(err):
		h.render(w, r, http.StatusUnprocessableEntity, "sign-in", "Sign in", f)
	default:
		ui.Fail(w, r, err)
	}
}

// enter signs in as one of the demonstration's people.
func (h *Handler) enter(w http.ResponseWriter, r *http.Request) {
	for _, g := range h.Guests {
		if g.Email != r.PostFormValue("as") {
			continue
		}
		p, err := h.Store.ByEmail(r.Context(), g.Email)
		if err == nil {
			err = h.begin(r, p, "")
		}
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		http.Redirect(w, r, next(r), http.StatusSeeOther)
		return
	}
	ui.Fail(w, r, ui.ErrForbidden)
}

func (h *Handler) signOut(w http.ResponseWriter, r *http.Request) {
	if p := ui.Who(r); p != nil {
		if err := h.Store.End(r.Context(), p.Person.ID, p.SignIn); err != nil {
			ui.Fail(w, r, err)
			return
		}
	}
	if err := h.Sessions.Destroy(r.Context()); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
}

func (h *Handler) forgotPage(w http.ResponseWriter, r *http.Request) {
	h.render(w, r, http.StatusOK, "forgot", "A new password", form{})
}

func (h *Handler) forgot(w http.ResponseWriter, r *http.Request) {
	f := form{Email: r.PostFormValue("email")}
	err := h.Store.Recover(r.Context(), f.Email, ui.Network(r))
	switch {
	case err == nil:
		f.Done = "If somebody here has that address, a mail with a link is on its way. It works once, for an hour."
		h.render(w, r, http.StatusOK, "forgot", "A new password", f)
	case f.fill(err):
		h.render(w, r, http.StatusUnprocessableEntity, "forgot", "A new password", f)
	default:
		ui.Fail(w, r, err)
	}
}

var linkTitles = map[string]string{"recovery": "A new password", "owner": "The first owner", "invitation": "Join"}

// linkPage shows what a one-time link is for.
func (h *Handler) linkPage(purpose string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		f := form{Secret: chi.URLParam(r, "secret")}
		l, err := h.Store.Link(r.Context(), purpose, f.Secret)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		f.Link, f.Email = l, l.Email
		h.render(w, r, http.StatusOK, "link-"+purpose, linkTitles[purpose], f)
	}
}

func (h *Handler) reset(w http.ResponseWriter, r *http.Request) {
	f := form{Secret: chi.URLParam(r, "secret")}
	p, err := h.Store.Reset(r.Context(), f.Secret, r.PostFormValue("password"))
	if err == nil {
		err = h.begin(r, p, "")
	}
	switch {
	case err == nil:
		http.Redirect(w, r, "/codes", http.StatusSeeOther)
	case f.fill(err):
		f.Link = &people.Link{}
		h.render(w, r, http.StatusUnprocessableEntity, "link-recovery", linkTitles["recovery"], f)
	default:
		ui.Fail(w, r, err)
	}
}

// accept takes up an invitation or the first owner's link.
func (h *Handler) accept(purpose string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		f := form{Secret: chi.URLParam(r, "secret"), Email: r.PostFormValue("email"), Name: r.PostFormValue("name")}
		var by *people.Person
		who := ui.Who(r)
		if who != nil {
			by = &who.Person
		}
		p, workspace, err := h.Store.Accept(r.Context(), purpose, f.Secret, by,
			people.Registration{Email: f.Email, Name: f.Name, Password: r.PostFormValue("password")})
		switch {
		case err == nil && who != nil:
			err = h.Store.Switch(r.Context(), who.SignIn, workspace)
		case err == nil:
			err = h.begin(r, p, workspace)
		}
		switch {
		case err == nil && purpose == "owner": // of a house that has nothing yet
			http.Redirect(w, r, "/style/first", http.StatusSeeOther)
		case err == nil:
			http.Redirect(w, r, "/codes", http.StatusSeeOther)
		case f.fill(err):
			if l, err := h.Store.Link(r.Context(), purpose, f.Secret); err == nil {
				f.Link = l
				if l.Email != "" {
					f.Email = l.Email
				}
			} else {
				ui.Fail(w, r, err)
				return
			}
			h.render(w, r, http.StatusUnprocessableEntity, "link-"+purpose, linkTitles[purpose], f)
		default:
			ui.Fail(w, r, err)
		}
	}
}

// mailFile hands over a file of a mail in the stand-in mailbox.
func (h *Handler) mailFile(w http.ResponseWriter, r *http.Request) {
	mail, err := strconv.ParseInt(chi.URLParam(r, "mail"), 10, 64)
	k, errK := strconv.Atoi(chi.URLParam(r, "k"))
	if h.MailFile == nil || err != nil || errK != nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	f, err := h.MailFile(r.Context(), mail, k)
	if err != nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	w.Header().Set("Content-Type", f.Type)
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}))
	w.Write(f.Data)
}

func (h *Handler) mailbox(w http.ResponseWriter, r *http.Request) {
	if h.Mailbox == nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	mails, err := h.Mailbox(r.Context())
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	type line struct {
		Mail
		When string
		Link string // the first address in the body, to be followed
	}
	var lines []line
	for _, m := range mails {
		l := line{Mail: m, When: ui.Ago(h.Store.Now(), m.At)}
		for _, word := range strings.Fields(m.Body) {
			if strings.HasPrefix(word, h.Store.Base+"/") && l.Link == "" {
				l.Link = strings.TrimPrefix(word, h.Store.Base)
			}
		}
		lines = append(lines, l)
	}
	ui.Render(w, http.StatusOK, pages, "mailbox", struct {
		ui.Frame
		Mails []line
	}{ui.FrameOf(r, "Mailbox", "person"), lines})
}
