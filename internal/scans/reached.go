package scans

import (
	"context"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// Reached is how often a goal was reported within a span: by servers that sign, and by pages, which anybody can forge.
type Reached struct {
	Goal             string
	Signed, Unsigned int
}

// Reached gives the goals, those that are signed first, of links, or of codes where no links are named, within a span whose days
// are those of UTC; none named is the whole workspace.
func (s *Store) Reached(ctx context.Context, actor access.Actor, of Which, span Span) (out []Reached, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	var links, codes []string
	for _, k := range of.Links {
		if k.Link == "" { // all of its code
			codes = append(codes, k.Code)
		} else {
			links = append(links, k.Link)
		}
	}
	codes = append(codes, of.Codes...)
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT goal, coalesce(sum(n) FILTER (WHERE signed), 0)::int, coalesce(sum(n) FILTER (WHERE NOT signed), 0)::int
			FROM scan_reached WHERE workspace = $1 AND day >= $2 AND day < $3
			AND ($6 OR link = ANY ($4) OR code = ANY ($5)) GROUP BY goal ORDER BY 2 DESC, 3 DESC, goal LIMIT 20`, actor.Workspace,
			span.From.Format("2006-01-02"), span.To.Format("2006-01-02"), links, codes, of.Links == nil && of.Codes == nil).
			Query(func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Reached])
				return err
			})
	})
	return out, err
}
