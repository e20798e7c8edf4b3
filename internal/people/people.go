// Package people is who may do what: people, their sign-ins and passwords, workspaces and the roles in them, invitations
// and recovery by mail. It owns the rules and the SQL of these; how a browser proves who it is stands in package web.
package people

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"log/slog"
	"net/mail"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/problem"
	"sodrik/internal/db"
	"sodrik/internal/seal"
)

// Role and Right are those of package access.
type (
	Role  = access.Role
	Right = access.Right
)

// Roles, from most to least, and rights.
const (
	Owner   = access.Owner
	Editor  = access.Editor
	Printer = access.Printer
	Viewer  = access.Viewer

	Files  = access.Files
	Look   = access.Look
	Change = access.Change
	Manage = access.Manage
)

// Roles in the order in which they are offered.
var Roles = []Role{Owner, Editor, Viewer, Printer}

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
	// Later does what nobody waits for.
	Later func(func()) `optional:"a goroutine of its own does it"`
}

// later does something that nobody waits for. What goes wrong is for the log.
func (s *Store) later(ctx context.Context, what string, f func(ctx context.Context) error) {
	do := func() {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute)
		defer cancel()
		var err error
		func() {
			defer caught.To(&err)
			err = f(ctx)
		}()
		if err != nil {
			slog.Error(what, "error", err)
		}
	}
	if s.Later != nil {
		s.Later(do)
		return
	}
	go do()
}

// Errors of this package.
var (
	ErrNotFound = errors.New("there is no such person")
	// ErrLink is given for a one-time link that is unknown, used or too old; it does not tell which.
	ErrLink = errors.New("this link has been used or is too old; ask for a new one")
	// ErrSignIn does not tell whether the address or the password was wrong.
	ErrSignIn = errors.New("the e-mail address or the password is wrong")
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
	if err != nil || a.Address != email || !strings.Contains(email[strings.LastIndex(email, "@")+1:], ".") ||
		len(email) > maxEmail {
		problems.Add("/email", "person.email", "is no e-mail address; write one such as tamsin@marrowby.example")
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
	email, name, hash, err := registration(email, name, password)
	if err != nil {
		return nil, err
	}
	return s.insert(ctx, s.DB.Pool, email, name, hash)
}

// registration checks what a new person gives, and gives it as it is kept.
func registration(email, name, password string) (string, string, string, error) {
	email, name, problems := details(email, name)
	if password != "" {
		problems = append(problems, passwordProblems(password, email, name)...)
	}
	if len(problems) > 0 {
		return "", "", "", problems
	}
	if password == "" {
		return email, name, "", nil
	}
	return email, name, hashPassword(password), nil
}

func (s *Store) insert(ctx context.Context, q executor, email, name, hash string) (*Person, error) {
	p := &Person{ID: newID(), Email: email, Name: name, HasPassword: hash != ""}
	tag, err := q.Exec(ctx, `INSERT INTO people (id, email, name, password, created_at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT DO NOTHING`,
		p.ID, email, name, hash, s.Now())
	if err == nil && tag.RowsAffected() == 0 {
		return nil, problem.List{{Field: "/email", Code: "person.taken",
			Message: "belongs to somebody here already; sign in instead"}}
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
	return scanPerson(s.DB.Pool.QueryRow(ctx, `SELECT `+personColumns+` FROM people WHERE lower(email) = lower($1)`,
		strings.TrimSpace(email)))
}

// Limits of tries that failed within window. An account is guessed at from one network, so the two are counted together; what
// comes from many networks at one account, or from one at many accounts, is stopped later, and never on a device that its
// person has signed in from before.
const (
	window         = 15 * time.Minute
	triesPair      = 8
	triesAccount   = 100
	triesNetwork   = 100
	triesDevice    = 20
	triesAgain     = 8
	linkLife       = time.Hour
	invitationLife = 14 * 24 * time.Hour
)

// throttle counts a try against its keys, each with how many are let through within the window, and refuses one too many.
// forget takes the try back that went well, and with it all of cleared.
func (s *Store) throttle(ctx context.Context, keys map[string]int, cleared ...string) (forget func() error, err error) {
	now := s.Now()
	names := make([]string, 0, len(keys))
	for key := range keys {
		names = append(names, key)
	}
	slices.Sort(names)
	rows, err := s.DB.Pool.Query(ctx, `WITH noted AS (INSERT INTO attempts (key, at) SELECT k, $2 FROM unnest($1::text[]) k)
		SELECT k, (SELECT count(*) FROM attempts WHERE key = k AND at > $3) FROM unnest($1::text[]) k`, names, now,
		now.Add(-window))
	if err != nil {
		return nil, err
	}
	type count struct {
		Key string
		N   int
	}
	counts, err := pgx.CollectRows(rows, pgx.RowToStructByPos[count])
	if err != nil {
		return nil, err
	}
	for _, c := range counts {
		if c.N >= keys[c.Key] {
			return nil, ErrThrottled
		}
	}
	return func() error {
		_, err := s.DB.Pool.Exec(ctx, `DELETE FROM attempts WHERE key = ANY ($1) OR key = ANY ($2) AND at = $3`,
			cleared, names, now)
		return err
	}, nil
}

// Mark is what a device keeps of a sign-in: it lets nobody in, and only says that the account was signed in to from there
// before. "" where nothing signs.
func (s *Store) Mark(email string) string {
	if s.Seal == nil {
		return ""
	}
	nonce := newID()
	return nonce + "." + s.Seal.Mac("device "+nonce+" "+account(email))
}

// Marked says whether a mark is one of ours for an account.
func (s *Store) Marked(mark, email string) bool {
	nonce, mac, ok := strings.Cut(mark, ".")
	return ok && s.Seal != nil && hmac.Equal([]byte(mac), []byte(s.Seal.Mac("device "+nonce+" "+account(email))))
}

// account is what an account's tries are counted by.
func account(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// maxEmail bounds an address (RFC 5321, 4.5.3.1.3).
const maxEmail = 254

// SignIn checks a password. Tries that fail count against the account and the network they come from; device is the mark of
// an earlier sign-in from the same device, "" for none.
func (s *Store) SignIn(ctx context.Context, email, password, network, device string) (*Person, error) {
	if len(email) > maxEmail {
		return nil, ErrSignIn
	}
	pair := "sign-in " + account(email) + " from " + network
	keys := map[string]int{pair: triesPair, "sign-in " + account(email): triesAccount, "sign-in from " + network: triesNetwork}
	if device != "" && s.Marked(device, email) {
		nonce, _, _ := strings.Cut(device, ".")
		pair = "device " + nonce
		keys = map[string]int{pair: triesDevice}
	}
	forget, err := s.throttle(ctx, keys, pair)
	if err != nil {
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
	return p, forget()
}

// SetPassword gives a person a new password. It ends every sign-in but the one named keep, every token of the API and every
// link to set another.
func (s *Store) SetPassword(ctx context.Context, person, password, keep string) error {
	p, err := s.Get(ctx, person)
	if err != nil {
		return err
	}
	if problems := passwordProblems(password, p.Email, p.Name); len(problems) > 0 {
		return problems
	}
	hash := hashPassword(password)
	return pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error { return setPassword(ctx, tx, person, hash, keep) })
}

// setPassword stores a hash, and ends what somebody who knew the old password may hold: sign-ins, tokens of the API, and
// links to set another.
func setPassword(ctx context.Context, tx pgx.Tx, person, hash, keep string) error {
	for _, step := range []struct {
		sql  string
		args []any
	}{
		{`UPDATE people SET password = $2 WHERE id = $1`, []any{person, hash}},
		{`DELETE FROM sign_ins WHERE person = $1 AND id <> $2`, []any{person, keep}},
		{`DELETE FROM api_tokens WHERE person = $1`, []any{person}},
		{`DELETE FROM one_time_links WHERE person = $1 AND purpose = 'recovery'`, []any{person}},
	} {
		if _, err := tx.Exec(ctx, step.sql, step.args...); err != nil {
			return err
		}
	}
	return nil
}

// CheckPassword says whether a password is the person's, for acts that ask for it again.
func (s *Store) CheckPassword(ctx context.Context, person, password string) (bool, error) {
	forget, err := s.throttle(ctx, map[string]int{"again " + person: triesAgain}, "again "+person)
	if err != nil {
		return false, err
	}
	var hash string
	if err := s.DB.Pool.QueryRow(ctx, `SELECT password FROM people WHERE id = $1`, person).Scan(&hash); err != nil {
		return false, err
	}
	fits, err := checkPassword(hash, password)
	if err == nil && fits {
		err = forget()
	}
	return fits, err
}

// Confirm asks a person for their password again, before they hand themselves something that lasts. Whoever has none has
// nothing to be asked for.
func (s *Store) Confirm(ctx context.Context, p *Person, password string) error {
	if !p.HasPassword {
		return nil
	}
	fits, err := s.CheckPassword(ctx, p.ID, password)
	if err == nil && !fits {
		err = problem.List{{Field: "/confirm", Code: "password.old",
			Message: "is not your password; it is asked for again, since what you make here lets others in as you"}}
	}
	return err
}
