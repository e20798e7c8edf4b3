package code

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/compose"
	"sodrik/internal/proving"
)

// Rotation is what a change of the key went through.
type Rotation struct{ Sealed, Digests int }

// rotationWait is how long instances may take to see that digests depend on another key.
const rotationWait = 2 * keyringEvery

// keyringEvery is how often an instance looks which key digests depend on.
const keyringEvery = 5 * time.Second

// Rotate seals everything anew under the newest key and has digests depend on it, while instances that have both keys go on
// serving. Afterwards the older keys open nothing that is kept. wait says how long instances are given to follow; 0 is as
// long as they take.
func (s Upkeep) Rotate(ctx context.Context, wait time.Duration) (r Rotation, err error) {
	if wait == 0 {
		wait = rotationWait
	}
	if err := s.FollowKeyring(ctx); err != nil {
		return r, err
	}
	for pass := range 2 { // the second takes what instances wrote that had not followed yet
		if pass == 1 {
			select {
			case <-time.After(wait):
			case <-ctx.Done():
				return r, ctx.Err()
			}
		}
		if err := s.useNewest(ctx); err != nil {
			return r, err
		}
		if err := s.eachWorkspace(ctx, func(workspace string) error {
			n, err := s.sealAnew(ctx, workspace)
			if err != nil {
				return err
			}
			d, err := s.digestAnew(ctx, workspace)
			r.Sealed, r.Digests = r.Sealed+n, r.Digests+d
			return err
		}); err != nil {
			return r, err
		}
	}
	return r, nil
}

func (s Upkeep) useNewest(ctx context.Context) error {
	if _, err := s.DB.Pool.Exec(ctx, `INSERT INTO keyring (digests) VALUES ($1)
		ON CONFLICT (one) DO UPDATE SET digests = excluded.digests`, s.Seal.Newest()); err != nil {
		return err
	}
	return s.Seal.UseDigests(s.Seal.Newest())
}

// FollowKeyring has digests depend on the key that the database says.
func (s Upkeep) FollowKeyring(ctx context.Context) error {
	var id string
	err := s.DB.Pool.QueryRow(ctx, `SELECT digests FROM keyring`).Scan(&id)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil || id == s.Seal.Digests() {
		return err
	}
	if err := s.Seal.UseDigests(id); err != nil {
		return fmt.Errorf("digests in the database depend on the key %s, which SODRIK_KEY does not hold: %w", id, err)
	}
	return nil
}

// eachWorkspace does something for every workspace, however many there are.
func (s Upkeep) eachWorkspace(ctx context.Context, f func(workspace string) error) error {
	for after := ""; ; {
		rows, err := s.DB.Pool.Query(ctx, `SELECT id FROM workspaces WHERE id > $1 ORDER BY id LIMIT 500`, after)
		if err != nil {
			return err
		}
		ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			if err := f(id); err != nil {
				return err
			}
			after = id
		}
	}
}

// Sealed is a column whose contents stand sealed, at a place of the workspace, what ID gives of a row, and What.
type Sealed struct{ Table, ID, Column, What string }

// SealedIn are the sealed columns of a table.
func SealedIn(table string) (out []Sealed) {
	for _, c := range sealedColumns {
		if c.Table == table {
			out = append(out, c)
		}
	}
	return out
}

// Place is where the column of a row is sealed, by what ID gives of it.
func (c Sealed) Place(workspace, id string) string { return place(workspace, id, c.What) }

// sealedColumns are all of them, each under the name that its place ends with.
var sealedColumns = []Sealed{
	{"codes", "id", "draft", "draft"}, {"codes", "id", "last_good", "good"}, {"codes", "id", "unparsed", "unparsed"},
	{"codes", "id", "summary", "summary"},
	{"edits", "code", "patch", "patch"}, {"edits", "code", "inverse", "inverse"}, {"edits", "code", "words", "words"},
	{"issued_versions", "code", "job", "version"},
	{"leads", "code", "draft", "lead"}, {"leads", "code", "refused", "refused"},
	{"lead_versions", "code", "lead", "live"}, {"live_links", "link", "value", "answer"},
	{"links", "host || '/' || path", "place", "place"}, {"files", "id", "data", "file"},
	{"hangings", "link", "noted", "hanging"}, {"notices", "key", "words", "notice"},
	{"goal_keys", "workspace", "key", "goals"},
	{"batches", "id", "plan", "plan"}, {"batch_rows", "batch || '/' || n", "cells", "cells"},
	{"batch_rows", "batch || '/' || n", "line", "line"}, {"batch_runs", "id", "asked", "asked"},
	{"batch_pieces", "run || '/' || part || '/' || piece", "data", "piece"},
	{"batch_undos", "batch", "plan", "plan"}, {"batch_undo_rows", "batch || '/' || n", "cells", "cells"},
	{"shown_pictures", "token", "sealed", "token"}, {"shared_overviews", "token", "sealed", "token"},
	{"webhooks", "id", "address", "address"}, {"webhooks", "id", "keys", "keys"}, {"webhook_calls", "id", "body", "call"},
}

// atOnce is how many texts of a table are sealed anew at once; files may be large.
func atOnce(table string) int {
	if table == "files" || table == "batch_pieces" {
		return 2
	}
	return 200
}

// sealAnew seals what is under an older key. Each text is replaced only where it is still the one that was read, so that
// nothing written meanwhile is lost.
func (s Upkeep) sealAnew(ctx context.Context, workspace string) (n int, err error) {
	newest := s.Seal.Seal(nil, "")[:5] // form and id of the key
	for _, c := range sealedColumns {
		for more := true; more; {
			err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
				rows, err := tx.Query(ctx, fmt.Sprintf(`SELECT ctid::text, %s, %s FROM %s
					WHERE workspace = $1 AND substring(%s from 1 for 5) <> $2 ORDER BY 2 LIMIT $3 FOR UPDATE`, c.ID, c.Column, c.Table,
					c.Column), workspace, newest, atOnce(c.Table))
				if err != nil {
					return err
				}
				type sealed struct {
					At, Code string
					Text     []byte
				}
				list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[sealed])
				if err != nil {
					return err
				}
				for _, one := range list {
					text, err := s.Seal.Open(one.Text, place(workspace, one.Code, c.What))
					if err != nil {
						return fmt.Errorf("%s of %s: %w", c.Column, one.Code, err)
					}
					if _, err := tx.Exec(ctx, fmt.Sprintf(`UPDATE %s SET %s = $3 WHERE workspace = $1 AND ctid = $2::tid`,
						c.Table, c.Column), workspace, one.At, s.seal(workspace, one.Code, c.What, text)); err != nil {
						return err
					}
				}
				n, more = n+len(list), len(list) > 0
				return nil
			})
			if err != nil {
				return n, err
			}
		}
	}
	return n, nil
}

// digestAnew makes the keyed digests of codes and versions again, and those of what was proved and tried of them. Proofs of
// what no code is any more are dropped.
func (s Upkeep) digestAnew(ctx context.Context, workspace string) (n int, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
		n, err = s.digestAnewIn(ctx, tx, workspace)
		return err
	})
	return n, err
}

func (s Upkeep) digestAnewIn(ctx context.Context, tx pgx.Tx, workspace string) (n int, err error) {
	became := map[string]string{}
	type row struct {
		Code            string
		N               int
		Job             []byte
		Digest, Payload string
		Proofs          []string
	}
	find := s.Within(ctx, tx, workspace)
	for _, part := range []struct{ sql, what, update string }{
		{`SELECT id, 0, last_good, digest, payload_mac, proofs FROM codes WHERE workspace = $1 ORDER BY id FOR UPDATE`, "good", `UPDATE
				codes SET digest = $4, payload_mac = $5, proofs = $6 WHERE workspace = $1 AND id = $2 AND $3 = 0`},
		{`SELECT code, n, job, digest, payload_mac, proofs FROM issued_versions WHERE workspace = $1
			ORDER BY code, n FOR UPDATE`, "version",
			`UPDATE issued_versions SET digest = $4, payload_mac = $5, proofs = $6
					WHERE workspace = $1 AND code = $2 AND n = $3`},
	} {
		rows, err := tx.Query(ctx, part.sql, workspace)
		if err != nil {
			return n, err
		}
		list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
		if err != nil {
			return n, err
		}
		for _, r := range list {
			text, err := s.Seal.Open(r.Job, place(workspace, r.Code, part.what))
			if err != nil {
				return n, err
			}
			made, problems := compose.Parse(text, find)
			if len(problems) > 0 {
				return n, unmade("a job of "+r.Code, problems)
			}
			digest, payload := s.Seal.Mac(made.Job.Digest()), s.Seal.Mac(made.Payload)
			became[r.Digest] = digest
			keys := s.proofsOf(made)
			for i, was := range r.Proofs {
				if i < len(keys) {
					became[was] = keys[i]
				}
			}
			if digest == r.Digest && payload == r.Payload {
				continue
			}
			n++
			if _, err := tx.Exec(ctx, part.update, workspace, r.Code, r.N, digest, payload, keys); err != nil {
				return n, err
			}
		}
	}
	if err := s.proofsAnew(ctx, tx, workspace, became); err != nil {
		return n, err
	}
	for was, is := range became {
		if _, err := tx.Exec(ctx, `UPDATE trials SET digest = $3 WHERE workspace = $1 AND digest = $2`, workspace, was,
			is); err != nil {
			return n, err
		}
	}
	return n, nil
}

// proofsAnew keeps the proofs of what codes are now, under their new digests and sealed anew.
func (s Upkeep) proofsAnew(ctx context.Context, tx pgx.Tx, workspace string, became map[string]string) error {
	rows, err := tx.Query(ctx, `SELECT key, panel, proof FROM proofs WHERE workspace = $1 FOR UPDATE`, workspace)
	if err != nil {
		return err
	}
	type row struct {
		Key, Panel string
		Proof      []byte
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return err
	}
	for _, r := range list {
		is, known := became[r.Key]
		if known && is == r.Key && !s.Seal.Stale(r.Proof) {
			continue
		}
		if !known {
			if _, err := tx.Exec(ctx, `DELETE FROM proofs WHERE workspace = $1 AND key = $2 AND panel = $3`, workspace, r.Key,
				r.Panel); err != nil {
				return err
			}
			continue
		}
		text, err := s.Seal.Open(r.Proof, proving.Place(workspace, r.Key))
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `UPDATE proofs SET key = $4, proof = $5 WHERE workspace = $1 AND key = $2 AND panel = $3`,
			workspace, r.Key, r.Panel,
			is, s.Seal.Seal(text, proving.Place(workspace, is))); err != nil {
			return err
		}
	}
	return nil
}
