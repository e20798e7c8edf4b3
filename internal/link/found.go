package link

import (
	"context"
	"errors"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
)

// findable keeps the words by which a code is found that leads somewhere: what is searched for of its destinations, draft and
// live, and its short links, those that hang and are not its own any more too.
func (s *Store) findable(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	l, err := s.read(ctx, tx, workspace, id)
	if err != nil {
		return err
	}
	var words []string
	if l != nil {
		of := l.Draft.Destinations()
		if l.Live != nil {
			of = append(of, l.Live.Lead.Destinations()...)
		}
		for _, d := range of {
			if d.To != nil {
				words = append(words, content.Search(d.To))
			}
		}
	}
	_, err = tx.Exec(ctx, `UPDATE codes SET leads = lower($3 || ' ' || coalesce((SELECT string_agg(host || '/' || path, ' ')
		FROM links WHERE workspace = $1 AND code = $2), '')) WHERE workspace = $1 AND id = $2`, workspace, id, strings.Join(words, " "))
	return err
}

// handedOver keeps the words by which a fixed code is found that left as it is: what is in print may be looked for once the
// draft says something else.
func (s *Store) handedOver(ctx context.Context, tx pgx.Tx, workspace string, c *code.Code) error {
	words := strings.ToLower(content.Search(c.Rendition.Job.Content))
	if words == "" {
		return nil
	}
	_, err := tx.Exec(ctx, `UPDATE codes SET leads = leads || ' ' || $3 WHERE workspace = $1 AND id = $2
		AND position($3 in leads) = 0`, workspace, c.ID, words)
	return err
}

// Reindex makes codes found by where they lead that were kept before that was so, and gives how many those were.
func (s *Store) Reindex(ctx context.Context) (n int64, err error) {
	rows, err := s.Codes.DB.Pool.Query(ctx, `SELECT c.workspace, c.id FROM codes c JOIN leads l ON l.workspace = c.workspace
		AND l.code = c.id WHERE c.leads = ''`)
	if err != nil {
		return 0, err
	}
	type row struct{ Workspace, ID string }
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	for _, one := range all {
		bad := s.Codes.DB.InWorkspace(ctx, one.Workspace, func(tx pgx.Tx) error {
			return s.findable(ctx, tx, one.Workspace, one.ID)
		})
		if bad == nil {
			n++
		}
		err = errors.Join(err, bad)
	}
	return n, err
}
