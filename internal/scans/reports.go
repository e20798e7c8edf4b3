package scans

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
)

// Report is what somebody said about a link.
type Report struct {
	Workspace, ID, Link, Code, Words string
	At                               time.Time
}

// maxReports is how many reports a mail and a page show.
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

// toldEvery is how long after a mail of reports a workspace gets the next, which gathers what came in between.
const toldEvery = time.Hour

// Told are the reports of a workspace that one mail tells: the newest so many, and how many there are.
type Told struct {
	Workspace string
	Reports   []Report
	All       int
}

// Tell tells each report once that came within the last week, gathered for each workspace, an hour apart at least, and gives
// how many those were. What fails to be told is told again, and keeps no other workspace waiting.
func (s *Store) Tell(ctx context.Context, tell func(ctx context.Context, t Told) error) (n int64, err error) {
	now := s.Now()
	rows, err := s.DB.Pool.Query(ctx, `SELECT s.workspace, array_agg(s.id::text ORDER BY s.id DESC) FROM scans s
		WHERE s.kind = $1 AND s.id >= $2 AND NOT EXISTS (SELECT 1 FROM reports_told t WHERE t.workspace = s.workspace AND t.id = s.id)
		AND NOT EXISTS (SELECT 1 FROM reports_told t WHERE t.workspace = s.workspace AND t.told_at > $3)
		GROUP BY s.workspace ORDER BY s.workspace`, string(scan.Report), firstID(now.AddDate(0, 0, -7)), now.Add(-toldEvery))
	if err != nil {
		return 0, err
	}
	type due struct {
		Workspace string
		IDs       []string
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[due])
	if err != nil {
		return 0, err
	}
	for _, d := range list {
		failed := s.tell(ctx, d.Workspace, d.IDs, tell)
		if err = errors.Join(err, failed); failed == nil {
			n += int64(len(d.IDs))
		}
	}
	return n, err
}

func (s *Store) tell(ctx context.Context, workspace string, ids []string, tell func(ctx context.Context, t Told) error) error {
	rows, err := s.DB.Pool.Query(ctx, `SELECT workspace, id::text, link, code, words, at FROM scans
		WHERE workspace = $1 AND id = ANY ($2::text[]::uuid[]) ORDER BY id DESC`, workspace, ids[:min(len(ids), maxReports)])
	if err != nil {
		return err
	}
	told := Told{Workspace: workspace, All: len(ids)}
	if told.Reports, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Report]); err != nil {
		return err
	}
	if err := tell(ctx, told); err != nil {
		return err
	}
	_, err = s.DB.Pool.Exec(ctx, `INSERT INTO reports_told (workspace, id, told_at) SELECT $1, unnest($2::text[])::uuid, $3
		ON CONFLICT DO NOTHING`, workspace, ids, s.Now())
	return err
}

// Letter is what a mail says of reports. What strangers wrote stands in it so that no link opens.
func (t Told) Letter(base string) (subject, body string) {
	subject = "Somebody reported " + t.Reports[0].Link
	if t.All > 1 {
		subject = fmt.Sprintf("%d reports of your links", t.All)
	}
	var b strings.Builder
	for _, r := range t.Reports {
		fmt.Fprintf(&b, "%s\n\nAbout %s, on %s. Its desk: %s\n\n", dead(r.Words), r.Link,
			r.At.UTC().Format("2 January 2006, 15:04 UTC"),
			base+"/codes/"+r.Code)
	}
	if more := t.All - len(t.Reports); more > 0 {
		fmt.Fprintf(&b, "And %d more. The newest stand at %s/hosts\n\n", more, base)
	}
	b.WriteString("Strangers wrote this. Links in their words do not open. The next mail of reports comes in an hour at the earliest.\n")
	return subject, b.String()
}

// dead is a text in which no program finds a link or an address to open: dots and signs that make one stand in brackets.
func dead(text string) string {
	r := []rune(text)
	var b strings.Builder
	for i, c := range r {
		joins := i+1 < len(r) && !unicode.IsSpace(r[i+1])
		switch {
		case strings.ContainsRune(".。．｡", c) && joins, c == '@' || c == '＠', (c == ':' || c == '：') && joins:
			b.WriteString("[" + string(c) + "]")
		default:
			b.WriteRune(c)
		}
	}
	return b.String()
}
