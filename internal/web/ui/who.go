package ui

import (
	"context"
	"net/http"

	"sodrik/internal/access"
	"sodrik/internal/people"
)

type presentKey struct{}

// WithPresent puts who makes a request into its context.
func WithPresent(ctx context.Context, p *people.Present) context.Context {
	return context.WithValue(ctx, presentKey{}, p)
}

// Who is the signed-in person of a request, nil for a stranger.
func Who(r *http.Request) *people.Present {
	p, _ := r.Context().Value(presentKey{}).(*people.Present)
	return p
}

// NameOf is the name that a person's changes are signed with, "" for a stranger.
func NameOf(r *http.Request) string {
	if p := Who(r); p != nil {
		return p.Person.Name
	}
	return ""
}

// Workspace is the workspace a request works in; "" for a stranger, whom no query finds anything for.
func Workspace(r *http.Request) string {
	if p := Who(r); p != nil {
		return p.Workspace
	}
	return ""
}

// Actor is who acts in a request; a stranger has no right to anything.
func Actor(r *http.Request) access.Actor {
	if p := Who(r); p != nil {
		return p.Actor()
	}
	return access.Actor{}
}

// May says whether the person of a request has a right.
func May(r *http.Request, right people.Right) bool {
	p := Who(r)
	return p != nil && p.Role.May(right)
}

// FrameOf fills the frame of a page from the request.
func FrameOf(r *http.Request, title, section string) Frame {
	f := Frame{Title: title, Section: section}
	if p := Who(r); p != nil {
		f.Workspace, f.Person, f.Initial, f.Role = p.Name, p.Person.Name, string([]rune(p.Person.Name)[:1]), string(p.Role)
		f.MayLook, f.MayManage, f.Others = p.Role.May(people.Look), p.Role.May(people.Manage), p.Others
	}
	return f
}

// MailOf is the mail address of the person of a request, "" for a stranger.
func MailOf(r *http.Request) string {
	if p := Who(r); p != nil {
		return p.Person.Email
	}
	return ""
}
