package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
)

// Report is what somebody said about a link.
type Report struct {
	Workspace, ID, Link, Code, Words string
	At                               time.Time
}

// maxReports is how many reports are told at once.
const maxReports = 50

// Reports are the newest of a workspace.
func (s *Store) Reports(ctx context.Context, actor access.Actor) (out []Report, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT workspace, id::text, link, code, words, at FROM scans WHERE workspace = $1 AND kind = 'report'
			ORDER BY id DESC LIMIT $2`, actor.Workspace, maxReports).Query(func(rows pgx.Rows) (err error) {
			out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Report])
			return err
		})
	})
	return out, err
}

// Tell tells each report once that came within the last week, and gives how many those were. One whose telling fails is told
// again.
func (s *Store) Tell(ctx context.Context, tell func(ctx context.Context, r Report) error) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT s.workspace, s.id::text, s.link, s.code, s.words, s.at FROM scans s
		WHERE s.kind = $1 AND s.id >= $2 AND NOT EXISTS (SELECT 1 FROM reports_told t WHERE t.workspace = s.workspace AND t.id = s.id)
		ORDER BY s.id LIMIT $3`, string(scan.Report), firstID(s.Now().AddDate(0, 0, -7)), maxReports)
	if err != nil {
		return 0, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Report])
	if err != nil {
		return 0, err
	}
	for _, r := range list {
		if err := tell(ctx, r); err != nil {
			return n, err
		}
		if _, err := s.DB.Pool.Exec(ctx, `INSERT INTO reports_told (workspace, id, told_at) VALUES ($1, $2, $3)
			ON CONFLICT DO NOTHING`, r.Workspace, r.ID, s.Now()); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
