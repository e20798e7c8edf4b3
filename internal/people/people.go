// Package people is who may do what: people, their sign-ins and passwords, workspaces and the roles in them, invitations
// and recovery by mail. It owns the rules and the SQL of these; how a browser proves who it is stands in package web.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/mail"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/problem"
	"sodrik/internal/db"
	"sodrik/internal/seal"
)

// Role is what a person is in a workspace.
type Role string

// Roles, from most to least.
const (
	Owner   Role = "owner"   // everything, people too
	Editor  Role = "editor"  // makes and changes codes, hands over files
	Printer Role = "printer" // sees issued versions and their files, nothing else
	Viewer  Role = "viewer"  // looks at everything, changes nothing
)

// Roles in the order in which they are offered.
var Roles = []Role{Owner, Editor, Viewer, Printer}

// Words says what a role may do.
func (r Role) Words() string {
	return map[Role]string{Owner: "owner: everything, people too", Editor: "editor: makes and changes codes", Viewer: "viewer: looks, changes nothing",
		Printer: "printer: issued versions and their files only"}[r]
}

// Right is what a request needs.
type Right uint8

// Rights, each for itself; a role has a set of them.
const (
	Files  Right = iota // see issued versions and take their files
	Look                // see codes, drafts, history
	Change              // make and change codes, issue versions
	Manage              // invite and remove people
)

// May says whether a role has a right.
func (r Role) May(right Right) bool {
	switch right {
	case Files:
		return r == Owner || r == Editor || r == Viewer || r == Printer
	case Look:
		return r == Owner || r == Editor || r == Viewer
	case Change:
		return r == Owner || r == Editor
	case Manage:
		return r == Owner
	}
	return false
}

// Person is somebody who can sign in.
type Person struct {
	ID, Email, Name string
	HasPassword     bool
}

// Membership is a person's role in one workspace.
type Membership struct {
	Workspace, WorkspaceName string
	Role                     Role
}

// Member is a person in a workspace.
type Member struct {
	Person
	Role  Role
	Since time.Time
}

// Invitation is one that has not been taken up.
type Invitation struct {
	Hash, Email string
	Role        Role
	Expires     time.Time
}

// Mailer sends a mail in plain text.
type Mailer interface {
	Send(ctx context.Context, to, subject, body string) error
}

// Store carries out the use cases.
type Store struct {
	DB   *db.DB
	Now  func() time.Time
	Mail Mailer
	Seal *seal.Box // for kept answers of the API, which hold contents
	Base string    // address of the application, for links in mails: "https://sodrik.marrowby.example"
}

// Errors of this package.
var (
	ErrNotFound = errors.New("there is no such person")
	// ErrLink is given for a one-time link that is unknown, used or too old; it does not tell which.
	ErrLink = errors.New("this link has been used or is too old; ask for a new one")
	// ErrSignIn does not tell whether the address or the password was wrong.
	ErrSignIn = errors.New("the address and the password do not fit together")
	// ErrThrottled says that there were too many tries.
	ErrThrottled = errors.New("there were too many tries; wait a quarter of an hour, or use Forgot the password")
	// ErrLastOwner keeps a workspace from being left without one.
	ErrLastOwner = errors.New("a workspace needs an owner; make somebody else owner first")
)

func newID() string { return strings.ToLower(rand.Text()[:12]) }

// secret makes a secret for a link and the hash under which it is kept.
func secret() (text, hash string) {
	text = strings.ToLower(rand.Text())
	return text, hashOf(text)
}

func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(strings.ToLower(strings.TrimSpace(secret))))
	return hex.EncodeToString(sum[:])
}

// details checks name and address of a person.
func details(email, name string) (string, string, problem.List) {
	var problems problem.List
	email, name = strings.TrimSpace(email), strings.Join(strings.Fields(name), " ")
	a, err := mail.ParseAddress(email)
	if err != nil || a.Address != email || !strings.Contains(email[strings.LastIndex(email, "@")+1:], ".") || len(email) > 254 {
		problems.Add("/email", "person.email", "is not a mail address; write it like tamsin@marrowby.example")
	}
	if name == "" {
		problems.Add("/name", "person.name", "is missing; it stands beside your changes")
	} else if len(name) > 80 {
		problems.Add("/name", "person.name", "is longer than 80 bytes; a shorter one does")
	}
	return email, name, problems
}

// Register makes a person with a password, or without one where password is empty and the caller lets them in otherwise.
func (s *Store) Register(ctx context.Context, email, name, password string) (*Person, error) {
	email, name, problems := details(email, name)
	hash := ""
	if password != "" {
		problems = append(problems, passwordProblems(password, email, name)...)
	}
	if len(problems) > 0 {
		return nil, problems
	}
	if password != "" {
		hash = hashPassword(password)
	}
	p := &Person{ID: newID(), Email: email, Name: name, HasPassword: hash != ""}
	tag, err := s.DB.Pool.Exec(ctx, `INSERT INTO people (id, email, name, password, created_at) VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`,
		p.ID, email, name, hash, s.Now())
	if err == nil && tag.RowsAffected() == 0 {
		problems.Add("/email", "person.taken", "belongs to somebody here already; sign in instead")
		return nil, problems
	}
	return p, err
}

const personColumns = `id, email, name, password <> ''`

func scanPerson(row pgx.Row) (*Person, error) {
	var p Person
	err := row.Scan(&p.ID, &p.Email, &p.Name, &p.HasPassword)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotFound
	}
	return &p, err
}

// Get reads a person.
func (s *Store) Get(ctx context.Context, id string) (*Person, error) {
	return scanPerson(s.DB.Pool.QueryRow(ctx, `SELECT `+personColumns+` FROM people WHERE id = $1`, id))
}

// ByEmail finds a person by address, in either case.
func (s *Store) ByEmail(ctx context.Context, email string) (*Person, error) {
	return scanPerson(s.DB.Pool.QueryRow(ctx, `SELECT `+personColumns+` FROM people WHERE lower(email) = lower($1)`, strings.TrimSpace(email)))
}

// Limits of tries within window.
const (
	window          = 15 * time.Minute
	triesAccount    = 8
	triesAddress    = 40
	linkLife        = time.Hour
	invitationLife  = 14 * 24 * time.Hour
	attemptsKeptFor = 24 * time.Hour
)

// throttle counts a try against its keys and refuses one too many.
func (s *Store) throttle(ctx context.Context, keys map[string]int) error {
	now := s.Now()
	for key, most := range keys {
		var n int
		if err := s.DB.Pool.QueryRow(ctx, `WITH noted AS (INSERT INTO attempts (key, at) VALUES ($1, $2))
			SELECT count(*) FROM attempts WHERE key = $1 AND at > $3`, key, now, now.Add(-window)).Scan(&n); err != nil {
			return err
		}
		if n >= most {
			return ErrThrottled
		}
	}
	return nil
}

// SignIn checks a password. Tries count against the account and against the network address they come from.
func (s *Store) SignIn(ctx context.Context, email, password, address string) (*Person, error) {
	account := "account " + strings.ToLower(strings.TrimSpace(email))
	if err := s.throttle(ctx, map[string]int{account: triesAccount, "address " + address: triesAddress}); err != nil {
		return nil, err
	}
	p, err := s.ByEmail(ctx, email)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return nil, err
	}
	hash := ""
	if p != nil {
		if err := s.DB.Pool.QueryRow(ctx, `SELECT password FROM people WHERE id = $1`, p.ID).Scan(&hash); err != nil {
			return nil, err
		}
	}
	fits, err := checkPassword(hash, password)
	switch {
	case err != nil:
		return nil, err
	case !fits:
		return nil, ErrSignIn
	}
	_, err = s.DB.Pool.Exec(ctx, `DELETE FROM attempts WHERE key = $1 OR at < $2`, account, s.Now().Add(-attemptsKeptFor))
	return p, err
}

// SetPassword gives a person a new password and ends every sign-in but the one named keep.
func (s *Store) SetPassword(ctx context.Context, person, password, keep string) error {
	p, err := s.Get(ctx, person)
	if err != nil {
		return err
	}
	if problems := passwordProblems(password, p.Email, p.Name); len(problems) > 0 {
		return problems
	}
	hash := hashPassword(password)
	return pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `UPDATE people SET password = $2 WHERE id = $1`, person, hash); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `DELETE FROM sign_ins WHERE person = $1 AND id <> $2`, person, keep)
		return err
	})
}

// CheckPassword says whether a password is the person's, for acts that ask for it again.
func (s *Store) CheckPassword(ctx context.Context, person, password string) (bool, error) {
	if err := s.throttle(ctx, map[string]int{"again " + person: triesAccount}); err != nil {
		return false, err
	}
	var hash string
	if err := s.DB.Pool.QueryRow(ctx, `SELECT password FROM people WHERE id = $1`, person).Scan(&hash); err != nil {
		return false, err
	}
	return checkPassword(hash, password)
}
