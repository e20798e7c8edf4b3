package proving

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/proof"
)

// Place is where a stored proof is sealed for.
func Place(workspace, key string) string { return workspace + "/proofs/" + key }

// storedProof reads a proof made before, nil where there is none.
func (pr *Prover) storedProof(ctx context.Context, workspace, key string) (*proof.Proof, error) {
	var b []byte
	err := pr.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		var asked time.Time
		if err := tx.QueryRow(ctx, `SELECT proof, asked FROM proofs WHERE workspace = $1 AND key = $2 AND panel = $3`,
			workspace, key, pr.PanelVersion).Scan(&b, &asked); err != nil {
			return err
		}
		if now := pr.Now(); now.Sub(asked) > 24*time.Hour {
			_, err := tx.Exec(
				ctx,
				`UPDATE proofs SET asked = $4 WHERE workspace = $1 AND key = $2 AND panel = $3`,
				workspace,
				key,
				pr.PanelVersion,
				now,
			)
			return err
		}
		return nil
	})
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	if b, err = pr.Seal.Open(b, Place(workspace, key)); err != nil {
		return nil, err
	}
	var p proof.Proof
	return &p, json.Unmarshal(b, &p)
}
