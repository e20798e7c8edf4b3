package records

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// HandOver is what was given to somebody.
type HandOver struct {
	N         int // of the version
	Way       Way
	Files     []string // keys of formats
	Medium    string
	Recipient string
	Unsure    bool // the process ended while the mail went out, or it is going out just now
	At        time.Time
	Who       string
}

// Way is how files leave.
type Way string

// Ways.
const (
	ByFiles   Way = "files"   // downloaded from the desk
	ByMail    Way = "mail"    // sent to somebody
	ByVersion Way = "version" // taken from the page of a version
	ByAPI     Way = "api"
	ByAddress Way = "address" // shown at an address of its own
)

// Record keeps that files of a code's version were handed over.
func (s *Records) Record(ctx context.Context, actor access.Actor, id string, h HandOver) error {
	if err := actor.Need(access.Files); err != nil {
		return err
	}
	workspace := actor.Workspace
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`INSERT INTO handed_over (workspace, code, n, way, files, medium, recipient, at, who, who_id)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
			workspace,
			id,
			h.N,
			h.Way,
			h.Files,
			h.Medium,
			h.Recipient,
			s.Now(),
			actor.Name,
			actor.ID,
		)
		return err
	})
}

// Afterwards is what is known of handing over while a code is worked on: the set of files that was handed over last for a
// medium, nil where there was none, and what of the code was handed over last.
func (s *Records) Afterwards(
	ctx context.Context,
	actor access.Actor,
	id, medium string,
) (usual []string, handed []HandOver, err error) {
	if err := actor.Need(access.Look); err != nil {
		return usual, handed, err
	}
	workspace := actor.Workspace
	err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT files FROM handed_over WHERE workspace = $1 AND medium = $2 AND way = 'files' AND cardinality(files) > 1
			ORDER BY id DESC LIMIT 1`, workspace, medium).
			Query(func(rows pgx.Rows) error {
				for rows.Next() {
					if err := rows.Scan(&usual); err != nil {
						return err
					}
				}
				return rows.Err()
			})
		b.Queue(`SELECT n, way, files, medium, recipient, NOT sent, at, who FROM handed_over WHERE workspace = $1 AND code = $2 AND (sent OR n > 0)
			ORDER BY id DESC LIMIT 8`, workspace, id).
			Query(func(rows pgx.Rows) (err error) {
				handed, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (h HandOver, err error) {
					return h, r.Scan(&h.N, &h.Way, &h.Files, &h.Medium, &h.Recipient, &h.Unsure, &h.At, &h.Who)
				})
				return err
			})
	})
	return usual, handed, err
}
