package code

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/proof"
)

// Unproved is a place of an active code that the ledger knows no verdict of. Index is 0 for a code without places.
type Unproved struct {
	Workspace, Code string
	Index           int
	Key             string // sealed, of the proof that is missing
}

// settled is how long a code has to be left alone before it is proved unasked.
const settled = time.Minute

// Unproved lists places of all workspaces without a proof by the present panel, at most limit, those changed last first.
func (s Upkeep) Unproved(ctx context.Context, limit int) ([]Unproved, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT c.workspace, c.id, (k.i - 1)::int, k.key
		FROM (SELECT workspace, id, proofs, changed_at FROM codes WHERE state = 'active' AND sound AND changed_at < $1) c,
		unnest(c.proofs) WITH ORDINALITY k(key, i)
		WHERE NOT EXISTS (SELECT 1 FROM proofs p WHERE p.workspace = c.workspace AND p.key = k.key AND p.panel = $2)
		ORDER BY c.changed_at DESC, c.id, k.i LIMIT $3`, s.Now().Add(-settled), s.PanelVersion, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Unproved])
}

// ErrUnreliable says that readers could not do their work.
var ErrUnreliable = errors.New("readers did not answer; there is no verdict")

// ProveUnproved proves a place, unless the code has changed there since. The program does so by itself, for nobody.
func (s Upkeep) ProveUnproved(ctx context.Context, u Unproved) error {
	actor := access.OfProgram(u.Workspace, "worker")
	c, err := s.Get(ctx, actor, u.Code)
	if err != nil {
		return err
	}
	if len(c.Rendition.Job.Placements) == 0 {
		u.Index = -1
	}
	if u.Index >= len(c.Rendition.Job.Placements) || s.Seal.Mac(c.Rendition.ProofKey(u.Index)) != u.Key {
		return nil
	}
	p, err := s.Prove(ctx, actor, c.Rendition, u.Index, proof.Ordinary)
	if err == nil && !p.Whole() {
		err = ErrUnreliable
	}
	return err
}
