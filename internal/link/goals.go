package link

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// goalKeyBytes is how long a key is with which servers sign.
const goalKeyBytes = 32

// GoalKey is the key with which the servers of a workspace sign that something was reached, in hexadecimal; "" where none was
// made.
func (s *Store) GoalKey(ctx context.Context, actor access.Actor) (key string, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return "", err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		raw, err := s.goalKey(ctx, tx, actor.Workspace)
		key = hex.EncodeToString(raw)
		return err
	})
	return key, err
}

// MakeGoalKey makes a key, in place of the one before, which counts no longer.
func (s *Store) MakeGoalKey(ctx context.Context, actor access.Actor) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	key := make([]byte, goalKeyBytes)
	rand.Read(key)
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `INSERT INTO goal_keys (workspace, key) VALUES ($1, $2)
			ON CONFLICT (workspace) DO UPDATE SET key = excluded.key`, actor.Workspace,
			s.Codes.Seal.Seal(key, place(actor.Workspace, actor.Workspace, "goals"))); err != nil {
			return err
		}
		return s.Dress(ctx, tx, actor.Workspace)
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return err
}

func (s *Store) goalKey(ctx context.Context, tx pgx.Tx, workspace string) ([]byte, error) {
	var sealed []byte
	err := tx.QueryRow(ctx, `SELECT key FROM goal_keys WHERE workspace = $1`, workspace).Scan(&sealed)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return s.Codes.Seal.Open(sealed, place(workspace, workspace, "goals"))
}
