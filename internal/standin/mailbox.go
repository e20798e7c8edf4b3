package standin

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db"
	"sodrik/internal/mailer"
)

// Mailbox stands in for a mail server: what is sent can be read at /mailbox of the demonstration.
type Mailbox struct {
	DB  *db.DB
	Now func() time.Time
}

// Mail is one mail in the box.
type Mail struct {
	ID                int64
	To, Subject, Body string
	At                time.Time
	Files             []string // names
}

// Gone begins the addresses that refuse mails, as those of people who have left do.
const Gone = "gone@"

// Post keeps a letter, or refuses it where nobody is at an address.
func (m *Mailbox) Post(ctx context.Context, l mailer.Letter) error {
	for _, to := range l.To {
		if strings.HasPrefix(to, Gone) {
			return fmt.Errorf("%w: 550 5.1.1 %s: there is no such mailbox", mailer.ErrBounced, to)
		}
	}
	return pgx.BeginFunc(ctx, m.DB.Pool, func(tx pgx.Tx) error {
		var id int64
		if err := tx.QueryRow(ctx, `INSERT INTO mailbox (recipient, subject, body, at) VALUES ($1, $2, $3, $4) RETURNING id`,
			strings.Join(l.To, ", "), l.Subject, l.Body, m.Now()).Scan(&id); err != nil {
			return err
		}
		for i, f := range l.Files {
			if _, err := tx.Exec(ctx, `INSERT INTO mailbox_files (mail, k, name, kind, data) VALUES ($1, $2, $3, $4, $5)`, id, i,
				f.Name, f.Type, f.Data); err != nil {
				return err
			}
		}
		return nil
	})
}

// File gives a file of a mail; an error of pgx where there is none.
func (m *Mailbox) File(ctx context.Context, mail int64, k int) (f mailer.File, err error) {
	err = m.DB.Pool.QueryRow(ctx, `SELECT name, kind, data FROM mailbox_files WHERE mail = $1 AND k = $2`, mail, k).Scan(&f.Name,
		&f.Type, &f.Data)
	return f, err
}

// Send keeps a mail.
func (m *Mailbox) Send(ctx context.Context, to, subject, body string) error {
	_, err := m.DB.Pool.Exec(ctx, `INSERT INTO mailbox (recipient, subject, body, at) VALUES ($1, $2, $3, $4)`, to, subject,
		body, m.Now())
	return err
}

// Newest gives the last mails, newest first.
func (m *Mailbox) Newest(ctx context.Context) ([]Mail, error) {
	rows, err := m.DB.Pool.Query(ctx, `SELECT id, recipient, subject, body, at,
		ARRAY(SELECT name FROM mailbox_files WHERE mail = mailbox.id ORDER BY k) FROM mailbox ORDER BY id DESC LIMIT 50`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (out Mail, err error) {
		err = r.Scan(&out.ID, &out.To, &out.Subject, &out.Body, &out.At, &out.Files)
		return out, err
	})
}
