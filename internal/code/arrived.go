package code

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
)

// maxArrived bounds what an archive brings of one code, in bytes of a draft, of its text that no job holds, or of an edit.
const maxArrived = 1 << 20

// ArrivedIn takes the codes of an archive through the doors that those of people pass, within the transaction that brought
// their rows: drafts, versions and edits are read and bounded; names, summaries, what can be found and digests are made anew of
// them. What is wrong is a problem that names the code.
func (s Upkeep) ArrivedIn(ctx context.Context, tx pgx.Tx, workspace string) error {
	if err := s.houses(ctx, tx, workspace); err != nil {
		return err
	}
	ids, err := s.drafts(ctx, tx, workspace)
	if err != nil {
		return err
	}
	if err := s.arrivedEdits(ctx, tx, workspace); err != nil {
		return err
	}
	if _, err := s.digestAnewIn(ctx, tx, workspace); err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.reindexIn(ctx, tx, workspace, id); err != nil {
			return err
		}
	}
	return nil
}

// unfit is a problem of an archive.
func unfit(format string, args ...any) error {
	return problem.List{{Field: "/file", Code: "archive.rows", Message: fmt.Sprintf(format, args...)}}
}

func (s Upkeep) houses(ctx context.Context, tx pgx.Tx, workspace string) error {
	for _, table := range []string{"house_styles", "house_style_history"} {
		rows, err := tx.Query(ctx, `SELECT rev, style FROM `+table+` WHERE workspace = $1`, workspace)
		if err != nil {
			return err
		}
		var rev int64
		var text []byte
		if _, err := pgx.ForEachRow(rows, []any{&rev, &text}, func() error {
			if _, problems := style.Parse(text); len(problems) > 0 {
				return unfit("has a house style that is none, as of change %d: %v", rev, problems)
			}
			return nil
		}); err != nil {
			return err
		}
	}
	return nil
}

func (s Upkeep) drafts(ctx context.Context, tx pgx.Tx, workspace string) (ids []string, err error) {
	rows, err := tx.Query(ctx, `SELECT id, draft, unparsed FROM codes WHERE workspace = $1 ORDER BY id`, workspace)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[struct {
		ID              string
		Draft, Unparsed []byte
	}])
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		draft, err := s.Seal.Open(r.Draft, place(workspace, r.ID, "draft"))
		if err != nil {
			return nil, err
		}
		text, err := s.Seal.Open(r.Unparsed, place(workspace, r.ID, "unparsed"))
		if err != nil {
			return nil, err
		}
		v, err := fields.Decode(draft)
		doc, is := v.(map[string]any)
		if err != nil || !is || len(draft) > maxArrived {
			return nil, unfit("has a draft of the code %q that is no job, or longer than %d MB", r.ID, maxArrived>>20)
		}
		if places, _ := doc["placements"].([]any); len(places) > job.MaxPlacements {
			return nil, unfit("has a code %q with %d places; a code has %d at most", r.ID, len(places), job.MaxPlacements)
		}
		var unparsed map[string]string
		if err := json.Unmarshal(text, &unparsed); err != nil || len(text) > maxArrived {
			return nil, unfit("has typed text of the code %q that is none", r.ID)
		}
		ids = append(ids, r.ID)
	}
	return ids, nil
}

func (s Upkeep) arrivedEdits(ctx context.Context, tx pgx.Tx, workspace string) error {
	rows, err := tx.Query(ctx, `SELECT code, rev, patch, inverse FROM edits WHERE workspace = $1`, workspace)
	if err != nil {
		return err
	}
	var id string
	var rev int64
	var there, back []byte
	_, err = pgx.ForEachRow(rows, []any{&id, &rev, &there, &back}, func() error {
		for _, one := range []struct {
			sealed []byte
			what   string
		}{{there, "patch"}, {back, "inverse"}} {
			text, err := s.Seal.Open(one.sealed, place(workspace, id, one.what))
			if err != nil {
				return err
			}
			var ops []patch.Op
			if err := json.Unmarshal(text, &ops); err != nil || len(text) > maxArrived {
				return unfit("has a change %d of the code %q that is none", rev, id)
			}
		}
		return nil
	})
	return err
}
