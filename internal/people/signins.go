package people

import (
	"context"
	"errors"
	"sodrik/internal/access"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// SignInRecord is one place where a person is signed in.
type SignInRecord struct {
	ID, Agent, Address string
	Created, Seen      time.Time
}

// Present is who makes a request: a signed-in person in one workspace.
type Present struct {
	Person    Person
	SignIn    string // id of the sign-in record
	Workspace string // "" where the person is in none
	Name      string // of the workspace
	Role      Role
	Others    int // further workspaces of the person
}

// Actor is the person, acting in the workspace.
func (p *Present) Actor() access.Actor {
	return access.Actor{Kind: access.Person, ID: p.Person.ID, Name: p.Person.Name, Workspace: p.Workspace, Role: p.Role}
}

// seenEvery is how often a sign-in's last use is written down.
const seenEvery = 5 * time.Minute

// Begin notes a new sign-in, in the person's first workspace, or the given one.
func (s *Store) Begin(ctx context.Context, person, workspace, agent, address string) (id string, err error) {
	agent = strings.ReplaceAll(strings.ToValidUTF8(agent[:min(len(agent), 300)], ""), "\x00", "")
	id = newID() + newID()
	now := s.Now()
	_, err = s.DB.Pool.Exec(ctx, `INSERT INTO sign_ins (id, person, workspace, agent, address, created_at, seen_at)
		VALUES ($1, $2, coalesce(nullif($3, ''), (SELECT workspace FROM members WHERE person = $2
		ORDER BY since, workspace LIMIT 1)), $4, $5, $6, $6)`,
		id, person, workspace, agent, address, now)
	return id, err
}

// Present reads who a sign-in is now: removed people and ended sign-ins are ErrNotFound, a lost membership shows at once.
func (s *Store) Present(ctx context.Context, signIn string) (*Present, error) {
	p := &Present{SignIn: signIn}
	var seen time.Time
	err := s.DB.Pool.QueryRow(ctx, `SELECT p.id, p.email, p.name, p.password <> '', coalesce(m.workspace, ''),
		coalesce(w.name, ''), coalesce(m.role, ''), i.seen_at,
			(SELECT count(*) FROM members o WHERE o.person = p.id AND o.workspace <> coalesce(m.workspace, ''))
		FROM sign_ins i JOIN people p ON p.id = i.person
		LEFT JOIN LATERAL (SELECT workspace, role FROM members WHERE person = p.id
		ORDER BY workspace = i.workspace DESC NULLS LAST, since LIMIT 1) m ON true
		LEFT JOIN workspaces w ON w.id = m.workspace WHERE i.id = $1`, signIn).
		Scan(&p.Person.ID, &p.Person.Email, &p.Person.Name, &p.Person.HasPassword, &p.Workspace, &p.Name, &p.Role,
			&seen, &p.Others)
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return nil, ErrNotFound
	case err != nil:
		return nil, err
	}
	if now := s.Now(); now.Sub(seen) > seenEvery {
		_, err = s.DB.Pool.Exec(ctx, `UPDATE sign_ins SET seen_at = $2 WHERE id = $1`, signIn, now)
	}
	return p, err
}

// Switch takes a sign-in to another workspace of the person.
func (s *Store) Switch(ctx context.Context, signIn, workspace string) error {
	tag, err := s.DB.Pool.Exec(ctx, `UPDATE sign_ins i SET workspace = $2 WHERE id = $1
		AND EXISTS (SELECT 1 FROM members m WHERE m.person = i.person AND m.workspace = $2)`, signIn, workspace)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// SignIns lists where a person is signed in, newest use first.
func (s *Store) SignIns(ctx context.Context, person string) ([]SignInRecord, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT id, agent, address, created_at, seen_at FROM sign_ins WHERE person = $1
		ORDER BY seen_at DESC`, person)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (i SignInRecord, err error) {
		err = r.Scan(&i.ID, &i.Agent, &i.Address, &i.Created, &i.Seen)
		return i, err
	})
}

// End ends one sign-in of a person.
func (s *Store) End(ctx context.Context, person, signIn string) error {
	_, err := s.DB.Pool.Exec(ctx, `DELETE FROM sign_ins WHERE person = $1 AND id = $2`, person, signIn)
	return err
}
