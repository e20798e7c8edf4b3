package records

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/seal"
)

// Newest stands for whichever version was handed over last.
const Newest = 0

// ShowPicture gives the token of a picture of an issued version, or of the newest one at any time, that has an address of its
// own; the same one every time.
func (s *Records) ShowPicture(ctx context.Context, actor access.Actor, id string, n, place int) (token string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return token, err
	}
	workspace := actor.Workspace
	var b [15]byte
	rand.Read(b[:])
	hash, sealed := s.Seal.Token(workspace, strings.ToLower(base32.StdEncoding.EncodeToString(b[:])))
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `INSERT INTO shown_pictures (token, workspace, code, n, place, at, who, who_id, sealed)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)
			ON CONFLICT (workspace, code, n, place) DO UPDATE SET at = shown_pictures.at RETURNING token, sealed`, hash, workspace, id,
			n, place, s.Now(), actor.Name, actor.ID, sealed).
			Scan(&hash, &sealed)
	})
	if err != nil {
		return "", err
	}
	return s.Seal.OpenToken(workspace, hash, sealed)
}

// HidePictures takes the addresses of all pictures of a code away.
func (s *Records) HidePictures(ctx context.Context, actor access.Actor, id string) error {
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
func (s *Records) Shown(ctx context.Context, token string) (st code.State, n, place int, err error) {
	var workspace, id string
	err = s.DB.Pool.QueryRow(ctx, `SELECT workspace, code, n, place FROM shown_pictures
		WHERE token = $1 OR token = $2 AND sealed IS NULL`, seal.Hash(token), token).
		Scan(&workspace, &id, &n, &place)
	if errors.Is(err, pgx.ErrNoRows) {
		return st, 0, 0, code.ErrNotFound
	}
	if err != nil {
		return st, 0, 0, err
	}
	if n == Newest {
		if err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			return tx.QueryRow(ctx, `SELECT coalesce(max(n), 0) FROM issued_versions WHERE workspace = $1 AND code = $2`,
				workspace, id).Scan(&n)
		}); err != nil {
			return st, 0, 0, err
		}
	}
	st, err = s.codes.At(ctx, access.OfProgram(workspace, "a shown picture"), id, fmt.Sprintf("v%d", n))
	if err == nil && (st.Rendition == nil || place >= len(st.Rendition.Job.Placements)) {
		err = code.ErrNotFound
	}
	return st, n, place, err
}
