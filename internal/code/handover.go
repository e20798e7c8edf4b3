package code

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"fmt"
	_ "image/jpeg"
	_ "image/png"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	_ "golang.org/x/image/webp"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
)

// HandOver is what was given to somebody.
type HandOver struct {
	N         int // of the version
	Way       Way
	Files     []string // keys of formats
	Medium    string
	Recipient string
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

// Limits of mails of a workspace.
const (
	maxMails     = 60
	mailsWithin  = time.Hour
	MaxMailBytes = 15 << 20
)

// Record keeps that files of a code's version were handed over.
func (s *Store) Record(ctx context.Context, actor access.Actor, id string, h HandOver) error {
	if err := actor.Need(access.Files); err != nil {
		return err
	}
	workspace := actor.Workspace
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `INSERT INTO handed_over (workspace, code, n, way, files, medium, recipient, at, who, who_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
			workspace, id, h.N, h.Way, h.Files, h.Medium, h.Recipient, s.Now(), actor.Name, actor.ID)
		return err
	})
}

// Afterwards is what is known of handing over while a code is worked on: the set of files that was handed over last for a medium, nil where there
// was none, and what of the code was handed over last.
func (s *Store) Afterwards(ctx context.Context, actor access.Actor, id, medium string) (usual []string, handed []HandOver, err error) {
	if err := actor.Need(access.Look); err != nil {
		return usual, handed, err
	}
	workspace := actor.Workspace
	err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT files FROM handed_over WHERE workspace = $1 AND medium = $2 AND way = 'files' AND cardinality(files) > 1 ORDER BY id DESC LIMIT 1`, workspace, medium).
			Query(func(rows pgx.Rows) error {
				for rows.Next() {
					if err := rows.Scan(&usual); err != nil {
						return err
					}
				}
				return rows.Err()
			})
		b.Queue(`SELECT n, way, files, medium, recipient, at, who FROM handed_over WHERE workspace = $1 AND code = $2 AND sent ORDER BY id DESC LIMIT 8`, workspace, id).
			Query(func(rows pgx.Rows) (err error) {
				handed, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (h HandOver, err error) {
					return h, r.Scan(&h.N, &h.Way, &h.Files, &h.Medium, &h.Recipient, &h.At, &h.Who)
				})
				return err
			})
	})
	return usual, handed, err
}

// BeginMail counts a mail of a workspace before it goes out, so that of many at once no more go than may; where it may not, the problem says when. The
// mail is on record once sent is called, and taken off again by unsent.
func (s *Store) BeginMail(ctx context.Context, actor access.Actor, id, recipient string) (m *Mail, err error) {
	if err := actor.Need(access.Change); err != nil {
		return m, err
	}
	workspace := actor.Workspace
	m = &Mail{store: s, workspace: workspace}
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('mails ' || $1, 0))`, workspace); err != nil {
			return err
		}
		n := 0
		if err := tx.QueryRow(ctx, `SELECT count(*) FROM handed_over WHERE workspace = $1 AND way = 'mail' AND at > $2`, workspace, s.Now().Add(-mailsWithin)).Scan(&n); err != nil {
			return err
		}
		if n >= maxMails {
			return problem.List{{Field: "/to", Code: "mail.many", Message: fmt.Sprintf("has had its mails: %d went out within the last hour. Try again later, or download the files", n)}}
		}
		return tx.QueryRow(ctx, `INSERT INTO handed_over (workspace, code, n, way, files, recipient, at, who, who_id, sent) VALUES ($1, $2, 0, $3, '{}', $4, $5, $6, $7, false) RETURNING id`,
			workspace, id, ByMail, recipient, s.Now(), actor.Name, actor.ID).Scan(&m.id)
	})
	return m, err
}

// Mail is one that is counted and not sent yet.
type Mail struct {
	store     *Store
	workspace string
	id        int64
}

// Sent puts a mail on record with what was handed over.
func (m *Mail) Sent(ctx context.Context, h HandOver) error {
	return m.store.DB.InWorkspace(ctx, m.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `UPDATE handed_over SET n = $3, files = $4, medium = $5, sent = true WHERE workspace = $1 AND id = $2`, m.workspace, m.id, h.N, h.Files, h.Medium)
		return err
	})
}

// Unsent takes a mail off again that did not go out; one that is on record stays.
func (m *Mail) Unsent(ctx context.Context) error {
	return m.store.DB.InWorkspace(ctx, m.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `DELETE FROM handed_over WHERE workspace = $1 AND id = $2 AND NOT sent`, m.workspace, m.id)
		return err
	})
}

// Newest stands for whichever version was handed over last.
const Newest = 0

// ShowPicture gives the token of a picture of an issued version, or of the newest one at any time, that has an address of its own; the same one every
// time.
func (s *Store) ShowPicture(ctx context.Context, actor access.Actor, id string, n, place int) (token string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return token, err
	}
	workspace := actor.Workspace
	var b [15]byte
	rand.Read(b[:])
	token = strings.ToLower(base32.StdEncoding.EncodeToString(b[:]))
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `INSERT INTO shown_pictures (token, workspace, code, n, place, at, who, who_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
			ON CONFLICT (workspace, code, n, place) DO UPDATE SET at = shown_pictures.at RETURNING token`, token, workspace, id, n, place, s.Now(), actor.Name, actor.ID).Scan(&token)
	})
	return token, err
}

// HidePictures takes the addresses of all pictures of a code away.
func (s *Store) HidePictures(ctx context.Context, actor access.Actor, id string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	workspace := actor.Workspace
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `DELETE FROM shown_pictures WHERE workspace = $1 AND code = $2`, workspace, id)
		return err
	})
}

// Shown is a picture by its token, for anybody who has it.
func (s *Store) Shown(ctx context.Context, token string) (st State, n, place int, err error) {
	var workspace, id string
	err = s.DB.Pool.QueryRow(ctx, `SELECT workspace, code, n, place FROM shown_pictures WHERE token = $1`, token).Scan(&workspace, &id, &n, &place)
	if errors.Is(err, pgx.ErrNoRows) {
		return st, 0, 0, ErrNotFound
	}
	if err != nil {
		return st, 0, 0, err
	}
	if n == Newest {
		if err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			return tx.QueryRow(ctx, `SELECT coalesce(max(n), 0) FROM issued_versions WHERE workspace = $1 AND code = $2`, workspace, id).Scan(&n)
		}); err != nil {
			return st, 0, 0, err
		}
	}
	st, err = s.At(ctx, access.OfProgram(workspace, "a shown picture"), id, fmt.Sprintf("v%d", n))
	if err == nil && (st.Rendition == nil || place >= len(st.Rendition.Job.Placements)) {
		err = ErrNotFound
	}
	return st, n, place, err
}
