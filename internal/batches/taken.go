package batches

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
)

// Taken is a file of a batch that was handed over. It is known after the file itself is gone.
type Taken struct {
	Batch, Run string
	What       string // AsSheets, AsPages or AsZip
	Labels     int
	Medium     string
	WidthMM    float64 // 0 where it is not known
	At         time.Time
	Who        string
	Printed    *code.Printing // nil where nobody said so
	PrintedWho string
}

// Out is a file of a batch whose labels may hang somewhere: one that is said to be in print, or the newest that was handed over.
type Out struct {
	Taken
	Name, Campaign string
	Says           string // what differs, with its blanks, as in "marrowby.example/p/{Number}"; "" where it is secret
	Links          bool   // each label leads through a short link of its own
}

// noteTaken puts down that a file left, the first time.
func (s *Store) noteTaken(ctx context.Context, actor access.Actor, r *Run) error {
	if r.Asked.As == AsTable { // nothing hangs of a table
		return nil
	}
	medium, width := "", 0.0
	if p := r.Asked.Doc.Plan.Job; p != nil {
		if v, ok := patch.Get(p, "/placements/0/medium"); ok {
			medium, _ = v.(string)
		}
		if v, ok := patch.Get(p, "/placements/0/width_mm"); ok {
			width, _ = v.(float64)
		}
	}
	_, err := s.exec(ctx, actor.Workspace, `INSERT INTO batch_taken (workspace, batch, run, what, labels, medium, width_mm, at, who,
		who_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) ON CONFLICT DO NOTHING`, actor.Workspace, r.Batch, r.ID, r.Asked.As,
		r.Labels, medium, width, s.Codes.Now(), actor.Name, actor.ID)
	return err
}

const takenColumns = `t.batch, t.run, t.what, t.labels, t.medium, t.width_mm, t.at, t.who, t.printed_on, t.printer, t.quantity,
	t.printed_who`

// into says where to scan takenColumns; call finish afterwards.
func (t *Taken) into() (to []any, finish func()) {
	var on *time.Time
	var p code.Printing
	return []any{&t.Batch, &t.Run, &t.What, &t.Labels, &t.Medium, &t.WidthMM, &t.At, &t.Who, &on, &p.Printer, &p.Quantity,
			&t.PrintedWho}, func() {
			if on != nil {
				p.On, t.Printed = *on, &p
			}
		}
}

// Taken gives what was handed over of a batch, the newest first.
func (s *Store) Taken(ctx context.Context, actor access.Actor, id string) (out []Taken, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT `+takenColumns+` FROM batch_taken t WHERE t.workspace = $1 AND t.batch = $2
			ORDER BY t.at DESC, t.run`, actor.Workspace, id)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (t Taken, err error) {
			to, finish := t.into()
			err = r.Scan(to...)
			finish()
			return t, err
		})
		return err
	})
	return out, err
}

// SayPrinted notes that a file of a batch is in print.
func (s *Store) SayPrinted(ctx context.Context, actor access.Actor, id, run string, p code.Printing) error {
	return s.notePrinting(ctx, actor, id, run, &p.On, p, actor.Name)
}

// TakePrintBack takes back that a file of a batch is in print.
func (s *Store) TakePrintBack(ctx context.Context, actor access.Actor, id, run string) error {
	return s.notePrinting(ctx, actor, id, run, nil, code.Printing{}, "")
}

func (s *Store) notePrinting(ctx context.Context, actor access.Actor, id, run string, on *time.Time, p code.Printing,
	who string,
) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	n, err := s.exec(ctx, actor.Workspace, `UPDATE batch_taken SET printed_on = $4, printer = $5, quantity = $6, printed_who = $7
		WHERE workspace = $1 AND batch = $2 AND run = $3`, actor.Workspace, id, run, on, p.Printer, p.Quantity, who)
	if err == nil && n == 0 {
		err = ErrNotFound
	}
	return err
}

// Out gives the files of batches in use whose labels may hang somewhere, one after the other to each.
func (s *Store) Out(ctx context.Context, actor access.Actor, each func(Out) error) error {
	if err := actor.Need(access.Look); err != nil {
		return err
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT `+takenColumns+`, b.name, coalesce(m.name, ''), b.plan FROM batch_taken t
			JOIN batches b ON b.workspace = t.workspace AND b.id = t.batch AND NOT b.retired
			LEFT JOIN campaigns m ON m.workspace = b.workspace AND m.id = b.campaign
			WHERE t.workspace = $1 AND (t.printed_on IS NOT NULL OR t.run = (SELECT x.run FROM batch_taken x
			WHERE x.workspace = t.workspace AND x.batch = t.batch ORDER BY x.at DESC, x.run LIMIT 1))
			ORDER BY m.name NULLS LAST, m.id, b.name, b.id, t.at, t.run`, actor.Workspace)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			var o Out
			var plan []byte
			to, finish := o.into()
			if err := rows.Scan(append(to, &o.Name, &o.Campaign, &plan)...); err != nil {
				return err
			}
			finish()
			d, err := s.openDoc(plan, actor.Workspace, o.Batch)
			if err != nil {
				return err
			}
			o.Says, o.Links = d.differs(), d.Links
			if err := each(o); err != nil {
				return err
			}
		}
		return rows.Err()
	})
}

// differs is the first text of what codes say that is another in each row, with its blanks; "" where all are secret.
func (d Doc) differs() string {
	for _, set := range d.Plan.Set {
		f := job.Field(d.Plan.Kind(), set.Path)
		if strings.HasPrefix(set.Path, "/content/") && (f == nil || !f.Secret) {
			return set.Text
		}
	}
	return ""
}
