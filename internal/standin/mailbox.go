package standin

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db"
)

// Mailbox stands in for a mail server: what is sent can be read at /mailbox of the demonstration.
type Mailbox struct {
	DB  *db.DB
	Now func() time.Time
}

// Mail is one mail in the box.
type Mail struct {
	To, Subject, Body string
	At                time.Time
}

// Send keeps a mail.
func (m *Mailbox) Send(ctx context.Context, to, subject, body string) error {
	_, err := m.DB.Pool.Exec(ctx, `INSERT INTO mailbox (recipient, subject, body, at) VALUES ($1, $2, $3, $4)`, to, subject, body, m.Now())
	return err
}

// Newest gives the last mails, newest first.
func (m *Mailbox) Newest(ctx context.Context) ([]Mail, error) {
	rows, err := m.DB.Pool.Query(ctx, `SELECT recipient, subject, body, at FROM mailbox ORDER BY id DESC LIMIT 50`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (out Mail, err error) {
		err = r.Scan(&out.To, &out.Subject, &out.Body, &out.At)
		return out, err
	})
}
