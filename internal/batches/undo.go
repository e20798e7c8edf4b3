package batches

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
)

// undosKept is how many acts upon a batch can be taken back.
const undosKept = 20

// before keeps a batch as it stands, so that what is done to it next can be taken back by words. Rows that are changed
// or taken out are kept by keepRows.
func (s *Store) before(ctx context.Context, tx pgx.Tx, actor access.Actor, id, words string) (undo int64, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO batch_undos (workspace, batch, words, name, campaign, plan, last_row, at, who, who_id)
		SELECT b.workspace, b.id, $3, b.name, b.campaign, b.plan,
		coalesce((SELECT max(n) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id), 0), $4, $5, $6
		FROM batches b WHERE b.workspace = $1 AND b.id = $2 RETURNING id`, actor.Workspace, id, words, s.Codes.Now(), actor.Name,
		actor.ID).Scan(&undo)
	if err == nil {
		_, err = tx.Exec(ctx, `DELETE FROM batch_undos WHERE workspace = $1 AND batch = $2 AND id <= (SELECT id FROM batch_undos
			WHERE workspace = $1 AND batch = $2 ORDER BY id DESC OFFSET $3 LIMIT 1)`, actor.Workspace, id, undosKept)
	}
	return undo, err
}

// keepRows keeps rows, nil for all, as they stand, for an act that is about to change them or take them out.
func keepRows(ctx context.Context, tx pgx.Tx, workspace, id string, undo int64, ns []int) error {
	_, err := tx.Exec(ctx, `INSERT INTO batch_undo_rows (workspace, undo, batch, n, cells, code, linked)
		SELECT workspace, $3, batch, n, cells, code, linked FROM batch_rows WHERE workspace = $1 AND batch = $2
		AND ($4::int[] IS NULL OR n = ANY ($4))`, workspace, id, undo, ns)
	return err
}

// nothing takes back that something can be taken back: the act changed nothing.
func nothing(ctx context.Context, tx pgx.Tx, workspace string, undo int64) error {
	_, err := tx.Exec(ctx, `DELETE FROM batch_undos WHERE workspace = $1 AND id = $2`, workspace, undo)
	return err
}

// same says whether two states of what is kept of a batch are one.
func same(a, b Doc) bool {
	x, err := json.Marshal(a)
	y, err2 := json.Marshal(b)
	return err == nil && err2 == nil && string(x) == string(y)
}

// Undo takes back what was done last to a batch, whoever did it, and says in words what that was; code.ErrNothing
// where nothing was. Codes on desks and short links stay as they are.
func (s *Store) Undo(ctx context.Context, actor access.Actor, id string) (words string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		var undo int64
		var campaign *string
		var plan []byte
		last := 0
		err = tx.QueryRow(ctx, `SELECT id, words, name, campaign, plan, last_row FROM batch_undos WHERE workspace = $1 AND batch = $2
			ORDER BY id DESC LIMIT 1`, actor.Workspace, id).Scan(&undo, &words, &b.Name, &campaign, &plan, &last)
		if errors.Is(err, pgx.ErrNoRows) {
			return code.ErrNothing
		}
		if err != nil {
			return err
		}
		links := b.Links
		if b.Doc, err = s.openDoc(plan, actor.Workspace, id); err != nil {
			return err
		}
		b.Links = links
		b.Rev++
		if err := s.rowsBack(ctx, tx, actor.Workspace, id, undo, last); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `UPDATE batches SET campaign = $3 WHERE workspace = $1 AND id = $2`, actor.Workspace, id,
			campaign); err != nil {
			return err
		}
		if err := nothing(ctx, tx, actor.Workspace, undo); err != nil {
			return err
		}
		return s.store(ctx, tx, actor.Workspace, b)
	})
	if err != nil {
		return "", err
	}
	return words, s.checkSoon(ctx, actor, id)
}

// rowsBack brings back the rows that an act changed or took out, and takes out those that it added, unless they have a
// code by now. Where a row's link was led last is kept: links are not led back.
func (s *Store) rowsBack(ctx context.Context, tx pgx.Tx, workspace, id string, undo int64, last int) error {
	if _, err := tx.Exec(ctx, `DELETE FROM batch_rows WHERE workspace = $1 AND batch = $2 AND n > $3 AND code IS NULL`, workspace, id,
		last); err != nil {
		return err
	}
	rows, err := tx.Query(ctx, `SELECT u.n, u.cells, r.cells FROM batch_undo_rows u LEFT JOIN batch_rows r ON r.workspace = u.workspace
		AND r.batch = u.batch AND r.n = u.n WHERE u.workspace = $1 AND u.undo = $2 ORDER BY u.n`, workspace, undo)
	if err != nil {
		return err
	}
	type row struct {
		N       int
		Was, Is []byte
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return err
	}
	var ns []int
	var kept [][]byte
	for _, r := range list {
		if r.Is != nil {
			var was, is cells
			if err := errors.Join(s.open(r.Was, workspace, rowID(id, r.N), "cells", &was),
				s.open(r.Is, workspace, rowID(id, r.N), "cells", &is)); err != nil {
				return err
			}
			was.Led = is.Led
			if r.Was, err = s.seal(workspace, rowID(id, r.N), "cells", was); err != nil {
				return err
			}
		}
		ns, kept = append(ns, r.N), append(kept, r.Was)
	}
	_, err = tx.Exec(ctx, `INSERT INTO batch_rows (workspace, batch, n, cells, code, linked)
		SELECT $1, $2, u.n, k.cells, u.code, u.linked FROM batch_undo_rows u JOIN unnest($4::int[], $5::bytea[]) AS k (n, cells)
		ON k.n = u.n WHERE u.workspace = $1 AND u.undo = $3
		ON CONFLICT (workspace, batch, n) DO UPDATE SET cells = excluded.cells, rev = 0`, workspace, id, undo, ns, kept)
	return err
}
