package code

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/job"
)

// Out is a version that may hang somewhere: one that is said to be in print, or the newest that was handed over.
type Out struct {
	Code, Name, Campaign string
	N                    int
	At                   time.Time // when it was handed over
	Who                  string    // by whom
	Printed              *Printing // nil where nobody said so
	Job                  *job.Job
}

// Out gives the versions of codes in use that may hang somewhere, campaign by campaign, one after the other to each. Codes of
// batches are left out: what is out there of them are files of many.
func (s *Store) Out(ctx context.Context, actor access.Actor, each func(Out) error) error {
	if err := actor.Need(access.Look); err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT v.code, c.name, coalesce(m.name, ''), v.n, v.at, coalesce(v.who, ''), v.job, v.printed_on,
			v.printer, v.quantity FROM issued_versions v
			JOIN codes c ON c.workspace = v.workspace AND c.id = v.code AND c.state = 'active' AND c.batch IS NULL
			LEFT JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
			WHERE v.workspace = $1 AND (v.printed_on IS NOT NULL OR v.n = (SELECT max(n) FROM issued_versions w
			WHERE w.workspace = v.workspace AND w.code = v.code))
			ORDER BY m.name NULLS LAST, m.id, c.name, c.id, v.n`, actor.Workspace)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			var o Out
			var sealed []byte
			var on *time.Time
			var p Printing
			if err := rows.Scan(&o.Code, &o.Name, &o.Campaign, &o.N, &o.At, &o.Who, &sealed, &on, &p.Printer,
				&p.Quantity); err != nil {
				return err
			}
			if on != nil {
				p.On, o.Printed = *on, &p
			}
			text, err := s.Seal.Open(sealed, place(actor.Workspace, o.Code, "version"))
			if err != nil {
				return err
			}
			made, problems := job.Parse(text)
			if len(problems) > 0 {
				return unmade("version", problems)
			}
			if o.Job = made; o.Name == "" {
				o.Name = NameOf(made)
			}
			if err := each(o); err != nil {
				return err
			}
		}
		return rows.Err()
	})
}
