package code

import (
	"context"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/compose"
	"sodrik/internal/shelf"
)

// How long things are kept that nobody needs.
const (
	uploadGrace = 24 * time.Hour
	proofGrace  = 7 * 24 * time.Hour // what undo may come back to
)

var assetSource = regexp.MustCompile(`asset:sha256-[0-9a-f]{64}(?:#page=[0-9]+)?`)

// SweepUploads takes away the uploads of every workspace that no draft, version, state of the history or house style names,
// once they are a day old.
func (s Upkeep) SweepUploads(ctx context.Context) (n int64, err error) {
	err = s.eachWorkspace(ctx, func(workspace string) error {
		return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			old := 0
			before := s.Now().Add(-uploadGrace)
			if err := tx.QueryRow(ctx, `SELECT count(*) FROM assets WHERE workspace = $1 AND at < $2`, workspace, before).
				Scan(&old); err != nil || old == 0 {
				return err
			}
			named, err := s.named(ctx, tx, workspace)
			if err != nil {
				return err
			}
			tag, err := tx.Exec(ctx, `DELETE FROM assets WHERE workspace = $1 AND at < $2 AND NOT source = ANY ($3)`, workspace,
				before, named)
			n += tag.RowsAffected()
			return err
		})
	})
	return n, err
}

// named are the sources that anything kept of a workspace names; with a page of a PDF, the file too.
func (s Upkeep) named(ctx context.Context, tx pgx.Tx, workspace string) ([]string, error) {
	found := map[string]bool{}
	take := func(text []byte) {
		for _, b := range assetSource.FindAll(text, -1) {
			found[string(b)] = true
			bare, _, _ := strings.Cut(string(b), shelf.PageMark)
			found[bare] = true
		}
	}
	for _, c := range sealedColumns {
		if c.What == "words" || c.What == "piece" || c.What == "line" || strings.HasPrefix(c.Table, "webhook") {
			continue
		}
		rows, err := tx.Query(ctx, `SELECT `+c.ID+`, `+c.Column+` FROM `+c.Table+` WHERE workspace = $1`, workspace)
		if err != nil {
			return nil, err
		}
		var code string
		var sealed []byte
		if _, err := pgx.ForEachRow(rows, []any{&code, &sealed}, func() error {
			text, err := s.Seal.Open(sealed, place(workspace, code, c.What))
			take(text)
			return err
		}); err != nil {
			return nil, err
		}
	}
	for _, table := range []string{"house_styles", "house_style_history"} {
		rows, err := tx.Query(ctx, `SELECT style::text FROM `+table+` WHERE workspace = $1`, workspace)
		if err != nil {
			return nil, err
		}
		var text string
		if _, err := pgx.ForEachRow(rows, []any{&text}, func() error { take([]byte(text)); return nil }); err != nil {
			return nil, err
		}
	}
	out := make([]string, 0, len(found))
	for source := range found {
		out = append(out, source)
	}
	slices.Sort(out)
	return out, nil
}

// SweepProofs takes away proofs that nobody has asked for in a week, those of drafts on their way, unless they are of a code
// or a version as it is; those by another panel or another model nobody will ask for.
func (s Upkeep) SweepProofs(ctx context.Context) (n int64, err error) {
	err = s.eachWorkspace(ctx, func(workspace string) error {
		return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			tag, err := tx.Exec(ctx, `DELETE FROM proofs p WHERE workspace = $1 AND asked < $2 AND (panel <> $3
				OR NOT EXISTS (SELECT 1 FROM codes c WHERE c.workspace = p.workspace AND c.proofs @> ARRAY[p.key])
				AND NOT EXISTS (SELECT 1 FROM issued_versions v WHERE v.workspace = p.workspace AND v.proofs @> ARRAY[p.key]))`,
				workspace, s.Now().Add(-proofGrace), s.PanelVersion)
			n += tag.RowsAffected()
			return err
		})
	})
	return n, err
}

// Reindex brings what can be found of codes up to the present rules.
func (s Upkeep) Reindex(ctx context.Context) (n int, err error) {
	err = s.eachWorkspace(ctx, func(workspace string) error {
		for {
			var ids []string
			err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
				rows, err := tx.Query(ctx, `SELECT id FROM codes WHERE workspace = $1 AND findable < $2 ORDER BY id LIMIT 200`,
					workspace, findable)
				if err == nil {
					ids, err = pgx.CollectRows(rows, pgx.RowTo[string])
				}
				return err
			})
			if err != nil || len(ids) == 0 {
				return err
			}
			for _, id := range ids {
				if err := s.reindex(ctx, workspace, id); err != nil {
					return err
				}
			}
			n += len(ids)
		}
	})
	return n, err
}

// SealTokens hides addresses of shown pictures and shared overviews that were kept in the clear, and gives how many those were.
func (s Upkeep) SealTokens(ctx context.Context) (n int64, err error) {
	for _, table := range []string{"shown_pictures", "shared_overviews"} {
		rows, err := s.DB.Pool.Query(ctx, `SELECT workspace, token FROM `+table+` WHERE sealed IS NULL`)
		if err != nil {
			return n, err
		}
		list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[struct{ Workspace, Token string }])
		if err != nil {
			return n, err
		}
		for _, r := range list {
			hash, sealed := s.Seal.Token(r.Workspace, r.Token)
			tag, err := s.DB.Pool.Exec(ctx,
				`UPDATE `+table+` SET token = $3, sealed = $4 WHERE workspace = $1 AND token = $2 AND sealed IS NULL`,
				r.Workspace, r.Token, hash, sealed)
			if err != nil {
				return n, err
			}
			n += tag.RowsAffected()
		}
	}
	return n, nil
}

func (s Upkeep) reindex(ctx context.Context, workspace, id string) error {
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error { return s.reindexIn(ctx, tx, workspace, id) })
}

func (s Upkeep) reindexIn(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	var good []byte
	if err := tx.QueryRow(ctx, `SELECT last_good FROM codes WHERE workspace = $1 AND id = $2 FOR UPDATE`, workspace, id).
		Scan(&good); err != nil {
		return err
	}
	text, err := s.Seal.Open(good, place(workspace, id, "good"))
	if err != nil {
		return err
	}
	made, problems := compose.Parse(text, s.Within(ctx, tx, workspace))
	if len(problems) > 0 {
		return unmade("the stored job of "+id, problems)
	}
	summary, err := s.summed(workspace, id, made)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `UPDATE codes SET name = $3, search = $4, findable = $5, summary = $6, modules = $7, proofs = $8
			WHERE workspace = $1 AND id = $2`,
		workspace, id, inLists(made.Job), search(made), findable, summary, made.Symbol.Size, s.proofsOf(made))
	return err
}
