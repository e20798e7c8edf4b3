package person

import (
	"encoding/base64"
	"net/http"
	"strconv"
	"strings"

	"sodrik/internal/core/problem"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// accountView is one's own page.
type accountView struct {
	form
	You         people.Person
	SignIns     []signInLine
	Memberships []people.Membership
	Current     string
	Passkeys    []passkeyLine
	Tokens      []tokenLine
	Scopes      []people.Scope
	NewToken    string // the text of a token just made; shown this once
}

type passkeyLine struct{ ID, Name, Since, Last string }

type tokenLine struct {
	people.Token
	Until, Last string
}

type signInLine struct {
	ID, Where, Address, Began, Seen string
	This                            bool
}

func (h *Handler) account(w http.ResponseWriter, r *http.Request) {
	h.showAccount(w, r, http.StatusOK, form{})
}

func (h *Handler) showAccount(w http.ResponseWriter, r *http.Request, status int, f form) {
	p := ui.Who(r)
	v := accountView{form: f, You: p.Person, Current: p.Workspace}
	list, err := h.Store.SignIns(r.Context(), p.Person.ID)
	if err == nil {
		v.Memberships, err = h.Store.Memberships(r.Context(), p.Person.ID)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	now := h.Store.Now()
	keys, err := h.Store.Passkeys(r.Context(), p.Person.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, k := range keys {
		line := passkeyLine{base64.RawURLEncoding.EncodeToString(k.ID), k.Name, ui.Ago(now, k.Created), "never"}
		if k.Used != nil {
			line.Last = ui.Ago(now, *k.Used)
		}
		v.Passkeys = append(v.Passkeys, line)
	}
	tokens, err := h.Store.Tokens(r.Context(), p.Workspace, p.Person.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, t := range tokens {
		line := tokenLine{t, t.Expires.Format("2 January 2006"), "never"}
		if t.Used != nil {
			line.Last = ui.Ago(now, *t.Used)
		}
		v.Tokens = append(v.Tokens, line)
	}
	for _, s := range people.Scopes {
		if ui.May(r, people.Look) && (s != people.ScopeWrite || ui.May(r, people.Change)) {
			v.Scopes = append(v.Scopes, s)
		}
	}
	v.NewToken = f.Token
	for _, s := range list {
		v.SignIns = append(v.SignIns, signInLine{s.ID, browser(s.Agent), s.Address, ui.Ago(now, s.Created), ui.Ago(now, s.Seen),
			s.ID == p.SignIn})
	}
	v.Frame = ui.FrameOf(r, "Your account", "person")
	ui.Render(w, status, pages, "account", v)
}

// browser makes a few words of a user agent.
func browser(agent string) string {
	name, system := "A browser", ""
	for _, b := range [][2]string{{"Edg/", "Edge"}, {"Firefox/", "Firefox"}, {"Chrom", "Chromium or Chrome"},
		{"Safari/", "Safari"}} {
		if strings.Contains(agent, b[0]) {
			name = b[1]
			break
		}
	}
	for _, s := range [][2]string{{"Android", "Android"}, {"iPhone", "iPhone"}, {"iPad", "iPad"}, {"Windows", "Windows"},
		{"Mac OS", "macOS"}, {"Linux", "Linux"}} {
		if strings.Contains(agent, s[0]) {
			system = " on " + s[1]
			break
		}
	}
	return name + system
}

func (h *Handler) password(w http.ResponseWriter, r *http.Request) {
	p := ui.Who(r)
	var f form
	var err error
	fits := true
	if p.Person.HasPassword {
		fits, err = h.Store.CheckPassword(r.Context(), p.Person.ID, r.PostFormValue("old"))
	}
	if err == nil && !fits {
		err = problem.List{{Field: "/old", Code: "password.old", Message: "is not your present password"}}
	}
	if err == nil {
		err = h.Store.SetPassword(r.Context(), p.Person.ID, r.PostFormValue("password"), p.SignIn)
	}
	switch {
	case err == nil:
		f.Done = "The password is changed. Everywhere else you are signed out."
		h.showAccount(w, r, http.StatusOK, f)
	case f.fill(err):
		h.showAccount(w, r, http.StatusUnprocessableEntity, f)
	default:
		ui.Fail(w, r, err)
	}
}

func (h *Handler) end(w http.ResponseWriter, r *http.Request) {
	p := ui.Who(r)
	if err := h.Store.End(r.Context(), p.Person.ID, r.PostFormValue("id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/account", http.StatusSeeOther)
}

func (h *Handler) change(w http.ResponseWriter, r *http.Request) {
	if err := h.Store.Switch(r.Context(), ui.Who(r).SignIn, r.PostFormValue("workspace")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes", http.StatusSeeOther)
}

// newToken makes a token for the API and shows its text, once.
func (h *Handler) newToken(w http.ResponseWriter, r *http.Request) {
	var f form
	r.ParseForm()
	var scopes []people.Scope
	for _, s := range r.PostForm["scope"] {
		scopes = append(scopes, people.Scope(s))
	}
	days, _ := strconv.Atoi(r.PostFormValue("days"))
	text := ""
	err := h.Store.Confirm(r.Context(), &ui.Who(r).Person, r.PostFormValue("confirm"))
	if err == nil {
		text, err = h.Store.NewToken(r.Context(), ui.Who(r), r.PostFormValue("name"), scopes, days)
	}
	switch {
	case err == nil:
		f.Token = text
		h.showAccount(w, r, http.StatusOK, f)
	case f.fill(err):
		f.Name = r.PostFormValue("name")
		h.showAccount(w, r, http.StatusUnprocessableEntity, f)
	default:
		ui.Fail(w, r, err)
	}
}

func (h *Handler) revoke(w http.ResponseWriter, r *http.Request) {
	if err := h.Store.Revoke(r.Context(), ui.Who(r).Person.ID, r.PostFormValue("id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/account#tokens", http.StatusSeeOther)
}

// peopleView is the people of a workspace.
type peopleView struct {
	form
	Members     []memberLine
	Invitations []invitationLine
	Roles       []people.Role
	Asked       people.Role // chosen in the invitation
}

type memberLine struct {
	people.Member
	When string
	You  bool
}

type invitationLine struct {
	people.Invitation
	Until string
}

func (h *Handler) people(w http.ResponseWriter, r *http.Request) {
	h.showPeople(w, r, http.StatusOK, form{}, people.Editor)
}

func (h *Handler) showPeople(w http.ResponseWriter, r *http.Request, status int, f form, role people.Role) {
	p := ui.Who(r)
	v := peopleView{form: f, Roles: people.Roles, Asked: role}
	members, err := h.Store.Members(r.Context(), p.Workspace)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	invitations, err := h.Store.Invitations(r.Context(), p.Workspace)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	now := h.Store.Now()
	for _, m := range members {
		v.Members = append(v.Members, memberLine{m, ui.Ago(now, m.Since), m.ID == p.Person.ID})
	}
	for _, i := range invitations {
		v.Invitations = append(v.Invitations, invitationLine{i, i.Expires.Format("2 January")})
	}
	v.Frame = ui.FrameOf(r, "People", "person")
	ui.Render(w, status, pages, "people", v)
}

func (h *Handler) invite(w http.ResponseWriter, r *http.Request) {
	p := ui.Who(r)
	f, role := form{Email: r.PostFormValue("email")}, people.Role(r.PostFormValue("role"))
	err := h.Store.Invite(r.Context(), p.Workspace, p.Name, p.Person.Name, f.Email, role)
	switch {
	case err == nil:
		h.showPeople(w, r, http.StatusOK, form{Done: "The invitation to " + f.Email + " is on its way."}, role)
	case f.fill(err):
		h.showPeople(w, r, http.StatusUnprocessableEntity, f, role)
	default:
		ui.Fail(w, r, err)
	}
}

func (h *Handler) withdraw(w http.ResponseWriter, r *http.Request) {
	if err := h.Store.Withdraw(r.Context(), ui.Workspace(r), r.PostFormValue("hash")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/people", http.StatusSeeOther)
}

func (h *Handler) role(w http.ResponseWriter, r *http.Request) {
	var f form
	err := h.Store.SetRole(r.Context(), ui.Workspace(r), r.PostFormValue("person"), people.Role(r.PostFormValue("role")))
	switch {
	case err == nil:
		http.Redirect(w, r, "/people", http.StatusSeeOther)
	case f.fill(err):
		h.showPeople(w, r, http.StatusUnprocessableEntity, f, people.Editor)
	default:
		ui.Fail(w, r, err)
	}
}
