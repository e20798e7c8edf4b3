package link

import (
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/leads"
	"sodrik/internal/housestyle"
)

// Allowed are the hosts that an owner allows links to lead to, each with all names below it; none for any.
func (s *Store) Allowed(ctx context.Context, actor access.Actor) (list []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.bars(ctx, tx, actor.Workspace)
		list = b.Allowed
		return err
	})
	return list, err
}

// Allow says which hosts links may lead to, as somebody types them; nothing for any. What is live stays as it is.
func (s *Store) Allow(ctx context.Context, actor access.Actor, text string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	list, problems := leads.Hosts(text)
	if len(problems) > 0 {
		return problems
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if len(list) == 0 {
			_, err := tx.Exec(ctx, `DELETE FROM link_rules WHERE workspace = $1`, actor.Workspace)
			return err
		}
		_, err := tx.Exec(ctx, `INSERT INTO link_rules (workspace, allowed) VALUES ($1, $2)
			ON CONFLICT (workspace) DO UPDATE SET allowed = excluded.allowed`, actor.Workspace, list)
		return err
	})
}

// bars are what keeps a destination from being chosen in a workspace.
func (s *Store) bars(ctx context.Context, tx pgx.Tx, workspace string) (b leads.Bars, err error) {
	err = tx.QueryRow(ctx, `SELECT (SELECT allowed FROM link_rules WHERE workspace = $1),
		ARRAY(SELECT host FROM link_hosts WHERE workspace = $1 AND proved_at IS NOT NULL)`, workspace).Scan(&b.Allowed, &b.Own)
	if name := s.server(); name != "" {
		b.Own = append(b.Own, name)
	}
	b.Blocked, b.Files = s.Blocked, leads.FilesBelow
	return b, err
}

// barred refuses to make live what an owner or the operator does not want. What is live already may be paused, and go on.
func (s *Store) barred(ctx context.Context, tx pgx.Tx, workspace string, next *leads.Lead, live *Version) error {
	if next.Paused || live != nil && slices.Equal(addresses(next), addresses(live.Lead)) {
		return nil
	}
	b, err := s.bars(ctx, tx, workspace)
	if err != nil {
		return err
	}
	if problems := b.Check(next); len(problems) > 0 {
		return problems
	}
	return nil
}

// addresses are all that a lead leads to.
func addresses(l *leads.Lead) []string {
	out := []string{l.Instead}
	for _, d := range l.Destinations() {
		out = append(out, d.To.Payload())
	}
	return out
}

// dressed dresses a workspace that never was; each change of its house style dresses it again.
func (s *Store) dressed(ctx context.Context, tx pgx.Tx, workspace string) error {
	var is bool
	err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM live_links WHERE workspace = $1 AND link = $2)`, workspace, "/"+workspace).
		Scan(&is)
	if err != nil || is {
		return err
	}
	return s.Dress(ctx, tx, workspace)
}

// Dress has quiet pages of a workspace stand in its colours, after a change of those, within its transaction.
func (s *Store) Dress(ctx context.Context, tx pgx.Tx, workspace string) error {
	style, _, err := housestyle.Read(ctx, tx, workspace)
	if err != nil {
		return err
	}
	h := leads.House{}
	if h.Key, err = s.goalKey(ctx, tx, workspace); err != nil {
		return err
	}
	if err := tx.QueryRow(ctx, `SELECT name FROM workspaces WHERE id = $1`, workspace).Scan(&h.Name); err != nil {
		return err
	}
	if on, paper, ok := style.Page(); ok {
		h.Ink, h.Paper = on.String(), paper.String()
	}
	return s.bring(ctx, tx, workspace, "/"+workspace, h.Encode())
}
