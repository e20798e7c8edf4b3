package people

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
)

// Scope is what a token of the API may be used for.
type Scope string

// Scopes.
const (
	ScopeMake  Scope = "make"        // encode, draw, prove, read: nothing is stored
	ScopeRead  Scope = "codes:read"  // codes and their versions
	ScopeWrite Scope = "codes:write" // make and change codes, issue versions
)

// Scopes in the order in which they are offered.
var Scopes = []Scope{ScopeMake, ScopeRead, ScopeWrite}

// Words says what a scope allows.
func (s Scope) Words() string {
	return map[Scope]string{ScopeMake: "encode, draw, prove, read", ScopeRead: "read codes and versions",
		ScopeWrite: "make and change codes"}[s]
}

// right is what a person must be allowed for a token of theirs to have a scope.
func (s Scope) right() Right { return s.rights()[0] }

// rights are those that a scope gives, the one that a role has to have for it first. Whoever changes a code is shown it.
func (s Scope) rights() []Right {
	return map[Scope][]Right{ScopeMake: {access.Make}, ScopeRead: {Look, Files}, ScopeWrite: {Change, Look, Files}}[s]
}

// Token is a token of the API, without its secret.
type Token struct {
	ID, Name, Workspace, Person, PersonName string
	Scopes                                  []Scope
	Created, Expires                        time.Time
	Used                                    *time.Time

	role Role // of its person
}

// Actor is the token, acting for its person with the rights of its scopes.
func (t *Token) Actor() access.Actor {
	a := access.Actor{Kind: access.Token, ID: t.ID, Name: t.PersonName + " by " + t.Name, Workspace: t.Workspace, Role: t.role,
		Only: []Right{}}
	for _, s := range t.Scopes {
		a.Only = append(a.Only, s.rights()...)
	}
	return a
}

// May says whether the token has a scope.
func (t *Token) May(s Scope) bool { return slices.Contains(t.Scopes, s) }

// tokenMark starts every token's text, so that one that leaked is recognised as such.
const tokenMark = "sodrik_"

// maxTokenDays bounds the life of a token.
const maxTokenDays = 366

// NewToken makes a token for a person in a workspace and gives its text, which is not kept.
func (s *Store) NewToken(ctx context.Context, p *Present, name string, scopes []Scope, days int) (text string, err error) {
	var problems problem.List
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 80 {
		problems.Add("/name", "token.name",
			"is missing or longer than 80 bytes; say what uses the token, such as price list script")
	}
	if days < 1 || days > maxTokenDays {
		problems.Add("/days", "token.days", "must be from 1 to %d", maxTokenDays)
	}
	if len(scopes) == 0 {
		problems.Add("/scopes", "token.scopes", "none is chosen; choose what the token may do")
	}
	for _, sc := range scopes {
		if sc.Words() == "" {
			problems.Add("/scopes", "token.scopes", "%q is not a scope; make, codes:read and codes:write are", sc)
		} else if !p.Role.May(sc.right()) {
			problems.Add("/scopes", "token.scopes", "%s is more than you may do yourself as %s", sc, p.Role)
		}
	}
	if len(problems) > 0 {
		return "", problems
	}
	secretText, _ := secret()
	text = tokenMark + secretText
	now := s.Now()
	_, err = s.DB.Pool.Exec(ctx, `INSERT INTO api_tokens (id, workspace, person, name, hash, scopes, created_at, expires_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
		newID(), p.Workspace, p.Person.ID, name, hashOf(text), scopes, now, now.AddDate(0, 0, days))
	return text, err
}

// Tokens lists a person's tokens in a workspace, newest first.
func (s *Store) Tokens(ctx context.Context, workspace, person string) ([]Token, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT id, name, workspace, person, '', scopes, created_at, expires_at, used_at
		FROM api_tokens
		WHERE workspace = $1 AND person = $2 ORDER BY created_at DESC`, workspace, person)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, scanToken)
}

func scanToken(r pgx.CollectableRow) (t Token, err error) {
	err = r.Scan(&t.ID, &t.Name, &t.Workspace, &t.Person, &t.PersonName, &t.Scopes, &t.Created, &t.Expires, &t.Used)
	return t, err
}

// Revoke ends a token of a person.
func (s *Store) Revoke(ctx context.Context, person, id string) error {
	_, err := s.DB.Pool.Exec(ctx, `DELETE FROM api_tokens WHERE person = $1 AND id = $2`, person, id)
	return err
}

// TokenOf finds the token that a request carries. One that is expired, or whose person has left the workspace, is
// ErrNotFound; scopes that the person's role does not allow any more are gone from it.
func (s *Store) TokenOf(ctx context.Context, text string) (*Token, error) {
	if !strings.HasPrefix(text, tokenMark) {
		return nil, ErrNotFound
	}
	var t Token
	now := s.Now()
	err := s.DB.Pool.QueryRow(ctx, `UPDATE api_tokens t SET used_at = CASE WHEN used_at > $2::timestamptz - interval '1 minute'
		THEN used_at ELSE $2 END
		FROM members m JOIN people p ON p.id = m.person
		WHERE t.hash = $1 AND t.expires_at > $2 AND m.workspace = t.workspace AND m.person = t.person
		RETURNING t.id, t.name, t.workspace, t.person, p.name, t.scopes, t.created_at, t.expires_at, t.used_at, m.role`,
		hashOf(text), now).
		Scan(&t.ID, &t.Name, &t.Workspace, &t.Person, &t.PersonName, &t.Scopes, &t.Created, &t.Expires, &t.Used, &t.role)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotFound
	}
	t.Scopes = slices.DeleteFunc(t.Scopes, func(sc Scope) bool { return !t.role.May(sc.right()) })
	return &t, err
}

// PerMinute is how many requests a token may make in a minute.
const PerMinute = 240

// Count notes a request of a token and says how many are left in this minute; below zero there were too many.
func (s *Store) Count(ctx context.Context, token string) (left int, reset time.Duration, err error) {
	now := s.Now().UTC()
	minute := now.Truncate(time.Minute)
	var n int
	err = s.DB.Pool.QueryRow(ctx, `INSERT INTO api_minutes (token, minute, n) VALUES ($1, $2, 1)
		ON CONFLICT (token, minute) DO UPDATE SET n = api_minutes.n + 1 RETURNING n`, token, minute).Scan(&n)
	if err == nil && n == 1 {
		_, err = s.DB.Pool.Exec(ctx, `DELETE FROM api_minutes WHERE token = $1 AND minute < $2`, token, minute)
	}
	return PerMinute - n, minute.Add(time.Minute).Sub(now), err
}

// Answer is one kept for a repeated request.
type Answer struct {
	Status      int
	Kind, Place string // Content-Type and Location
	Body        []byte
}

// Errors of Recall.
var (
	// ErrOtherRequest says that the key was used for a request with another body.
	ErrOtherRequest = errors.New("this Idempotency-Key was used for another request; choose a new one")
	// ErrUnderWay says that the first request with the key has not been answered yet.
	ErrUnderWay = errors.New("the first request with this Idempotency-Key is still under way; repeat in a moment")
)

// leaseTime is how long a request may take that holds a key and has done nothing yet; after that, another takes the key up.
const leaseTime = time.Minute

// Lease is a key that is held: only its holder may say what was done under it.
type Lease struct {
	Token, Key string
	until      time.Time
}

// Effect is what a request has done whose answer was not kept, because its process died in between.
type Effect struct {
	Code    string `json:"code"`
	Rev     int64  `json:"rev"`
	Version int    `json:"version"`
}

// Recall takes a lease on an idempotency key, or gives the answer that was kept under it, or what was done under it.
func (s *Store) Recall(ctx context.Context, token, key, request string) (lease *Lease, kept *Answer, done *Effect, err error) {
	now := s.Now()
	until := now.Add(leaseTime).Truncate(time.Microsecond)
	if _, err := s.DB.Pool.Exec(ctx, `DELETE FROM api_answers WHERE token = $1 AND at < $2`, token,
		now.Add(-24*time.Hour)); err != nil {
		return nil, nil, nil, err
	}
	tag, err := s.DB.Pool.Exec(ctx, `INSERT INTO api_answers (token, key, request, at, lease) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (token, key) DO UPDATE SET lease = excluded.lease
		WHERE api_answers.request = excluded.request AND api_answers.status = 0 AND api_answers.effect IS NULL
		AND api_answers.lease < $4`,
		token, key, request, now, until)
	if err != nil {
		return nil, nil, nil, err
	}
	if tag.RowsAffected() == 1 {
		return &Lease{token, key, until}, nil, nil, nil
	}
	var was string
	var effect []byte
	var a Answer
	err = s.DB.Pool.QueryRow(ctx, `SELECT request, status, kind, place, body, effect FROM api_answers
		WHERE token = $1 AND key = $2`, token, key).Scan(&was, &a.Status, &a.Kind, &a.Place, &a.Body, &effect)
	switch {
	case err != nil:
		return nil, nil, nil, err
	case was != request:
		return nil, nil, nil, ErrOtherRequest
	case a.Status == 0 && effect != nil:
		done = &Effect{}
		return nil, nil, done, json.Unmarshal(effect, done)
	case a.Status == 0:
		return nil, nil, nil, ErrUnderWay
	}
	a.Body, err = s.Seal.Open(a.Body, token+"/answers/"+key)
	return nil, &a, nil, err
}

// Done notes within the transaction of an effect what it is. It is an error, which undoes the effect, where the lease has run
// out and the key is another's by now.
func (s *Store) Done(ctx context.Context, tx pgx.Tx, l *Lease, e Effect) error {
	text, err := json.Marshal(e)
	if err != nil {
		return err
	}
	// The transaction may run as a workspace's role, which knows nothing of tokens.
	var role string
	if err := tx.QueryRow(ctx, `SELECT current_setting('role')`).Scan(&role); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `SELECT set_config('role', 'none', true)`); err != nil {
		return err
	}
	tag, err := tx.Exec(ctx, `UPDATE api_answers SET effect = $4 WHERE token = $1 AND key = $2 AND lease = $3 AND effect IS NULL`,
		l.Token, l.Key, l.until, text)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrUnderWay
	}
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `SELECT set_config('role', $1, true)`, role)
	return err
}

// Remember keeps the answer to a request with a key; a failure of the server's own, which has done nothing, frees the key again.
func (s *Store) Remember(ctx context.Context, token, key string, a Answer) error {
	if a.Status >= 500 {
		_, err := s.DB.Pool.Exec(ctx, `DELETE FROM api_answers WHERE token = $1 AND key = $2 AND effect IS NULL`, token, key)
		return err
	}
	_, err := s.DB.Pool.Exec(ctx, `UPDATE api_answers SET status = $3, kind = $4, place = $5, body = $6
		WHERE token = $1 AND key = $2`, token, key, a.Status, a.Kind, a.Place, s.Seal.Seal(a.Body, token+"/answers/"+key))
	return err
}

// SealAnew seals kept answers under the newest key, and says how many.
func (s *Store) SealAnew(ctx context.Context) (n int, err error) {
	err = pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT token, key, body FROM api_answers WHERE status <> 0 FOR UPDATE`)
		if err != nil {
			return err
		}
		type answer struct {
			Token, Key string
			Body       []byte
		}
		list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[answer])
		if err != nil {
			return err
		}
		for _, a := range list {
			if !s.Seal.Stale(a.Body) {
				continue
			}
			text, err := s.Seal.Open(a.Body, a.Token+"/answers/"+a.Key)
			if err != nil {
				return err
			}
			if _, err := tx.Exec(ctx, `UPDATE api_answers SET body = $3 WHERE token = $1 AND key = $2`, a.Token, a.Key,
				s.Seal.Seal(text, a.Token+"/answers/"+a.Key)); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}
