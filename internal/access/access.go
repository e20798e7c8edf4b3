// Package access is who acts, and what they may do: roles, rights and actors. Every use case is handed an actor and checks
// the right itself; the routes of pages and API check it as well. The package is a leaf.
package access

import "errors"

// Role is what a person is in a workspace.
type Role string

// Roles.
const (
	Owner   Role = "owner"
	Editor  Role = "editor"
	Viewer  Role = "viewer"
	Printer Role = "printer"
)

// Words says what a role may do, "" for what is none.
func (r Role) Words() string {
	return map[Role]string{Owner: "owner: everything, people too", Editor: "editor: makes and changes codes",
		Viewer:  "viewer: looks, changes nothing",
		Printer: "printer: issued versions and their files only"}[r]
}

// Right is what a use case needs.
type Right uint8

// Rights, each for itself; a role has a set of them.
const (
	Files  Right = iota // see issued versions and take their files
	Look                // see codes, drafts, history
	Change              // make and change codes, issue versions
	Manage              // invite and remove people, set the rules of the house
	Make                // encode, draw and prove a job: nothing is kept of it
)

// rights of each role.
var rights = map[Role][]Right{Owner: {Files, Look, Change, Manage, Make}, Editor: {Files, Look, Change, Make},
	Viewer: {Files, Look, Make}, Printer: {Files}}

// May says whether a role has a right.
func (r Role) May(right Right) bool {
	for _, have := range rights[r] {
		if have == right {
			return true
		}
	}
	return false
}

// Kind tells persons from what acts for them.
type Kind string

// Kinds of actors.
const (
	Person  Kind = "person"
	Token   Kind = "token"   // of the API, which a person has made
	Program Kind = "program" // the command line, the demonstration, upkeep: whoever runs the server
)

// Actor is who does something in a workspace. What is kept of it is the id, with the name at the time.
type Actor struct {
	Kind      Kind
	ID, Name  string // of the person or the token; a program has no id
	Workspace string
	Role      Role    // of the person, or of the person whose token it is
	Only      []Right // of a token, nil for all that the role has
}

// ErrForbidden is what an actor has no right to.
//
//lint:ignore ST1005 it is a sentence on the page
var ErrForbidden = errors.New("Your role in this workspace does not allow that. An owner can change it.")

// May says whether an actor has a right. One without a workspace has none.
func (a Actor) May(right Right) bool {
	if a.Workspace == "" || !a.Role.May(right) {
		return false
	}
	for _, have := range a.Only {
		if have == right {
			return true
		}
	}
	return a.Only == nil
}

// Need is ErrForbidden where an actor has not a right.
func (a Actor) Need(right Right) error {
	if !a.May(right) {
		return ErrForbidden
	}
	return nil
}

// Same says that two records are of the same actor: by id, or by name where one was kept before ids were.
func Same(id, name, otherID, otherName string) bool {
	if id != "" && otherID != "" {
		return id == otherID
	}
	return name == otherName
}

// OfProgram is the program itself in a workspace, which may do everything.
func OfProgram(workspace, name string) Actor {
	return Actor{Kind: Program, Name: name, Workspace: workspace, Role: Owner}
}
