package records

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
)

// Limits of mails of a workspace.
const (
	maxMails     = 60
	mailsWithin  = time.Hour
	MaxMailBytes = 15 << 20
)

// BeginMail counts a mail of a workspace before it goes out, so that of many at once no more go than may; where it may not,
// the problem says when. The mail is on record once sent is called, and taken off again by unsent.
func (s *Records) BeginMail(ctx context.Context, actor access.Actor, id, recipient string) (m *Mail, err error) {
	if err := actor.Need(access.Change); err != nil {
		return m, err
	}
	workspace := actor.Workspace
	m = &Mail{records: s, workspace: workspace}
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('mails ' || $1, 0))`, workspace); err != nil {
			return err
		}
		n := 0
		if err := tx.QueryRow(ctx, `SELECT count(*) FROM handed_over WHERE workspace = $1 AND way = 'mail' AND at > $2`,
			workspace, s.Now().Add(-mailsWithin)).Scan(&n); err != nil {
			return err
		}
		if n >= maxMails {
			return problem.List{
				{
					Field: "/to",
					Code:  "mail.many",
					Message: fmt.Sprintf(
						"has had its mails: %d went out within the last hour. Try again later, or download the files",
						n,
					),
				},
			}
		}
		return tx.QueryRow(ctx, `INSERT INTO handed_over (workspace, code, n, way, files, recipient, at, who, who_id, sent)
			VALUES ($1, $2, 0, $3, '{}', $4, $5, $6, $7, false) RETURNING id`,
			workspace, id, ByMail, recipient, s.Now(), actor.Name, actor.ID).
			Scan(&m.id)
	})
	return m, err
}

// Mail is one that is counted and not sent yet.
type Mail struct {
	records   *Records
	workspace string
	id        int64
}

// Sending puts on record what a mail hands over, before it goes out: where the process ends between the mail server's answer
// and Sent, it is known that the files may be out.
func (m *Mail) Sending(ctx context.Context, h HandOver) error {
	return m.records.DB.InWorkspace(ctx, m.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `UPDATE handed_over SET n = $3, files = $4, medium = $5 WHERE workspace = $1 AND id = $2`,
			m.workspace, m.id, h.N,
			h.Files, h.Medium)
		return err
	})
}

// Sent puts a mail on record with what was handed over.
func (m *Mail) Sent(ctx context.Context, h HandOver) error {
	return m.records.DB.InWorkspace(ctx, m.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`UPDATE handed_over SET n = $3, files = $4, medium = $5, sent = true WHERE workspace = $1 AND id = $2`,
			m.workspace,
			m.id,
			h.N,
			h.Files,
			h.Medium,
		)
		return err
	})
}

// Unsent takes a mail off again that did not go out; one that is on record stays.
func (m *Mail) Unsent(ctx context.Context) error {
	return m.records.DB.InWorkspace(ctx, m.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `DELETE FROM handed_over WHERE workspace = $1 AND id = $2 AND NOT sent`, m.workspace, m.id)
		return err
	})
}
