package people

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"sodrik/internal/core/problem"
)

// Memberships lists the workspaces of a person, by name.
func (s *Store) Memberships(ctx context.Context, person string) ([]Membership, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT m.workspace, w.name, m.role FROM members m JOIN workspaces w ON w.id = m.workspace
		WHERE m.person = $1 ORDER BY w.name, w.id`, person)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (m Membership, err error) {
		err = r.Scan(&m.Workspace, &m.WorkspaceName, &m.Role)
		return m, err
	})
}

// Members lists the people of a workspace, owners first.
func (s *Store) Members(ctx context.Context, workspace string) ([]Member, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT p.id, p.email, p.name, p.password <> '', m.role, m.since FROM members m
		JOIN people p ON p.id = m.person
		WHERE m.workspace = $1 ORDER BY array_position('{owner,editor,viewer,printer}', m.role), p.name`, workspace)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (m Member, err error) {
		err = r.Scan(&m.ID, &m.Email, &m.Name, &m.HasPassword, &m.Role, &m.Since)
		return m, err
	})
}

// TellOwners sends a mail to each owner of a workspace.
func (s *Store) TellOwners(ctx context.Context, workspace, subject, body string) error {
	list, err := s.Members(ctx, workspace)
	for _, m := range list {
		if err == nil && m.Role == Owner {
			err = s.Mail.Send(ctx, m.Email, subject, body)
		}
	}
	return err
}

// Join makes a person a member, or gives a member another role; an owner who joins again stays owner.
func (s *Store) Join(ctx context.Context, workspace, person string, role Role) error {
	return s.join(ctx, s.DB.Pool, workspace, person, role)
}

type executor interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

func (s *Store) join(ctx context.Context, q executor, workspace, person string, role Role) error {
	_, err := q.Exec(ctx, `INSERT INTO members (workspace, person, role, since) VALUES ($1, $2, $3, $4)
		ON CONFLICT (workspace, person) DO UPDATE SET role = CASE WHEN members.role = 'owner' THEN 'owner' ELSE excluded.role END`, workspace, person, role, s.Now())
	return err
}

// SetRole changes a member's role; "" removes the member. The last owner can be neither.
func (s *Store) SetRole(ctx context.Context, workspace, person string, role Role) error {
	if role != "" && role.Words() == "" {
		return problem.List{{Field: "/role", Code: "role",
			Message: fmt.Sprintf("%q is not a role; owner, editor, viewer and printer are", role)}}
	}
	return pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		var owners []string
		rows, err := tx.Query(ctx, `SELECT person FROM members WHERE workspace = $1 AND role = 'owner' FOR UPDATE`, workspace)
		if err == nil {
			owners, err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		if err != nil {
			return err
		}
		if len(owners) == 1 && owners[0] == person && role != Owner {
			return ErrLastOwner
		}
		sql, args := `UPDATE members SET role = $3 WHERE workspace = $1 AND person = $2`, []any{workspace, person, role}
		if role == "" {
			sql, args = `DELETE FROM members WHERE workspace = $1 AND person = $2`, args[:2]
		}
		tag, err := tx.Exec(ctx, sql, args...)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		return err
	})
}

// Invite sends a link that makes whoever opens it a member. Inviting the same address again replaces the link.
func (s *Store) Invite(ctx context.Context, workspace, workspaceName, by, email string, role Role) error {
	email, _, problems := details(email, "x")
	if role.Words() == "" {
		problems.Add("/role", "role", "%q is not a role; owner, editor, viewer and printer are", role)
	}
	if len(problems) > 0 {
		return problems
	}
	text, hash := secret()
	now := s.Now()
	err := pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `DELETE FROM one_time_links
			WHERE purpose = 'invitation' AND workspace = $1 AND lower(email) = lower($2)`, workspace, email); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `INSERT INTO one_time_links (hash, purpose, email, workspace, role, made_at, expires)
			VALUES ($1, 'invitation', $2, $3, $4, $5, $6)`,
			hash, email, workspace, role, now, now.Add(invitationLife))
		return err
	})
	if err != nil {
		return err
	}
	return s.Mail.Send(ctx, email, by+" invites you to "+workspaceName,
		fmt.Sprintf(
			"%s asks you to join %s on Sodrik as %s.\n\nOpen this link within two weeks; it works "+
				"once:\n%s/invitation/%s\n\nIf you do not know %s, do nothing.\n",
			by, workspaceName, role, s.Base, text, by))
}

// Invitations lists those of a workspace that are still open.
func (s *Store) Invitations(ctx context.Context, workspace string) ([]Invitation, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT hash, email, role, expires FROM one_time_links
		WHERE purpose = 'invitation' AND workspace = $1 AND expires > $2 ORDER BY made_at DESC`, workspace, s.Now())
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (i Invitation, err error) {
		err = r.Scan(&i.Hash, &i.Email, &i.Role, &i.Expires)
		return i, err
	})
}

// Withdraw takes an open invitation back.
func (s *Store) Withdraw(ctx context.Context, workspace, hash string) error {
	_, err := s.DB.Pool.Exec(ctx, `DELETE FROM one_time_links WHERE purpose = 'invitation' AND workspace = $1 AND hash = $2`,
		workspace, hash)
	return err
}

// Link is an open one-time link.
type Link struct {
	Purpose                  string // "owner", "invitation", "recovery"
	Email                    string
	Person                   string // of a recovery
	Workspace, WorkspaceName string
	Role                     Role
}

// Link looks a one-time link up without using it.
func (s *Store) Link(ctx context.Context, purpose, text string) (*Link, error) {
	return s.link(ctx, s.DB.Pool, purpose, text, "")
}

type querier interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}

func (s *Store) link(ctx context.Context, q querier, purpose, text, lock string) (*Link, error) {
	var l Link
	var person, workspace *string
	err := q.QueryRow(ctx, `SELECT purpose, email, person, workspace, role,
		coalesce((SELECT name FROM workspaces w WHERE w.id = l.workspace), '')
		FROM one_time_links l WHERE hash = $1 AND purpose = $2 AND expires > $3 `+lock, hashOf(text), purpose, s.Now()).
		Scan(&l.Purpose, &l.Email, &person, &workspace, &l.Role, &l.WorkspaceName)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrLink
	}
	if person != nil {
		l.Person = *person
	}
	if workspace != nil {
		l.Workspace = *workspace
	}
	return &l, err
}

// use takes a link out of the world within a transaction and gives what it was; of two who try at once, one gets it.
func (s *Store) use(ctx context.Context, tx pgx.Tx, purpose, text string) (*Link, error) {
	l, err := s.link(ctx, tx, purpose, text, "FOR UPDATE")
	if err != nil {
		return nil, err
	}
	_, err = tx.Exec(ctx, `DELETE FROM one_time_links WHERE hash = $1`, hashOf(text))
	return l, err
}

// FirstOwnerLink gives the path that makes the first owner of a workspace, while it has none; "" where it has one.
func (s *Store) FirstOwnerLink(ctx context.Context, workspace string) (string, error) {
	var owned bool
	if err := s.DB.Pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM members WHERE workspace = $1 AND role = 'owner')`, workspace).
		Scan(&owned); err != nil || owned {
		return "", err
	}
	text, hash := secret()
	now := s.Now()
	return "/first/" + text, pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `DELETE FROM one_time_links WHERE purpose = 'owner' AND workspace = $1`,
			workspace); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `INSERT INTO one_time_links (hash, purpose, workspace, role, made_at, expires)
			VALUES ($1, 'owner', $2, 'owner', $3, $4)`,
			hash, workspace, now, now.Add(invitationLife))
		return err
	})
}

// Registration is what somebody says who has no account yet.
type Registration struct{ Email, Name, Password string }

// Accept takes up an invitation, or the first owner's link, all of it or nothing. A person who is signed in (by) joins as
// they are; somebody new gives name, address and password. An invitation is for the address that it was sent to, and for
// nobody else.
func (s *Store) Accept(ctx context.Context, purpose, text string, by *Person, who Registration) (p *Person, workspace string,
	err error) {
	email, name, password := who.Email, who.Name, who.Password
	l, err := s.Link(ctx, purpose, text)
	if err != nil {
		return nil, "", err
	}
	hash := ""
	if by == nil {
		if l.Email != "" {
			email = l.Email
		}
		if password == "" {
			return nil, "", problem.List{{Field: "/password", Code: "password.short",
				Message: "is missing; choose one of ten characters or more"}}
		}
		if email, name, hash, err = registration(email, name, password); err != nil {
			return nil, "", err
		}
	} else if l.Email != "" && account(l.Email) != account(by.Email) {
		return nil, "", problem.List{{Field: "/email", Code: "invitation.other",
			Message: fmt.Sprintf("is for %s, and you are signed in as %s; sign out first, or ask for an invitation to %s",
				l.Email, by.Email, by.Email)}}
	}
	err = pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		used, err := s.use(ctx, tx, purpose, text)
		if err != nil {
			return err
		}
		if p = by; p == nil {
			if p, err = s.insert(ctx, tx, email, name, hash); err != nil {
				return err
			}
		}
		workspace = used.Workspace
		return s.join(ctx, tx, used.Workspace, p.ID, used.Role)
	})
	if err != nil {
		return nil, "", err
	}
	return p, workspace, nil
}

// Recover mails a link to set a new password. It does the same, as far as anyone can tell and in the same time, for an
// address nobody has: what differs is done afterwards.
func (s *Store) Recover(ctx context.Context, email, network string) error {
	if _, _, problems := details(email, "x"); len(problems) > 0 {
		return problems
	}
	if _, err := s.throttle(ctx, map[string]int{"recover " + account(email): 4, "recover from " + network: 20}); err != nil {
		return err
	}
	s.later(ctx, "a mail to set a new password", func(ctx context.Context) error { return s.mailRecovery(ctx, email) })
	return nil
}

func (s *Store) mailRecovery(ctx context.Context, email string) error {
	p, err := s.ByEmail(ctx, email)
	if errors.Is(err, ErrNotFound) {
		return nil
	} else if err != nil {
		return err
	}
	text, hash := secret()
	now := s.Now()
	if _, err := s.DB.Pool.Exec(ctx, `INSERT INTO one_time_links (hash, purpose, person, email, made_at, expires)
		VALUES ($1, 'recovery', $2, $3, $4, $5)`,
		hash, p.ID, p.Email, now, now.Add(linkLife)); err != nil {
		return err
	}
	return s.Mail.Send(ctx, p.Email, "A new password for Sodrik",
		fmt.Sprintf(
			"Somebody, most likely you, asked to set a new password.\n\nOpen this link within an hour; it works "+
				"once:\n%s/new-password/%s\n\nIf it was not you, do nothing: your password stays as it is.\n", s.Base, text))
}

// Reset sets a new password through a recovery link, and ends every sign-in: all of it or nothing.
func (s *Store) Reset(ctx context.Context, text, password string) (*Person, error) {
	l, err := s.Link(ctx, "recovery", text)
	if err != nil {
		return nil, err
	}
	p, err := s.Get(ctx, l.Person)
	if err != nil {
		return nil, err
	}
	if problems := passwordProblems(password, p.Email, p.Name); len(problems) > 0 {
		return nil, problems
	}
	hash := hashPassword(password)
	err = pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		if _, err := s.use(ctx, tx, "recovery", text); err != nil {
			return err
		}
		if err := setPassword(ctx, tx, p.ID, hash, ""); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `DELETE FROM attempts WHERE starts_with(key, $1) OR key = $2`,
			"sign-in "+account(l.Email)+" from ", "sign-in "+account(l.Email))
		return err
	})
	if err != nil {
		return nil, err
	}
	return s.Get(ctx, p.ID)
}

// maxWorkspaceName is how many characters the name of a workspace has at most.
const maxWorkspaceName = 60

// Name gives a workspace another name.
func (s *Store) Name(ctx context.Context, workspace, name string) error {
	switch name = strings.TrimSpace(name); {
	case name == "":
		return problem.List{{Field: "/name", Code: "workspace.name", Message: "is missing; write what the house is called"}}
	case utf8.RuneCountInString(name) > maxWorkspaceName:
		return problem.List{{Field: "/name", Code: "workspace.name",
			Message: fmt.Sprintf("is longer than %d characters; a shorter one does", maxWorkspaceName)}}
	}
	_, err := s.DB.Pool.Exec(ctx, `UPDATE workspaces SET name = $2 WHERE id = $1`, workspace, name)
	return err
}
