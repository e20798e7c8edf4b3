// Package shelf is the use cases of uploads: marks, typefaces, and the artwork that codes lie on.
package shelf

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
	"sodrik/internal/ground"
	"sodrik/internal/heavy"
)

// Shelf keeps the uploads of workspaces.
type Shelf struct {
	*ground.Ground
	// UploadRoom is how many bytes of uploads a workspace may keep; 0 is MaxUploads.
	UploadRoom int64

	art    artwork.Shelf // drawings and typefaces, by workspace and source
	sheets artwork.Shelf // artwork, which is large
}

// Asset is an upload of a workspace.
type Asset struct {
	Source string // "asset:sha256-…", as a job names it
	Name   string // of the file that came in, without folders
	Is     artwork.Upload
	At     time.Time
	Left   []string // what of the file was left out; known at the upload only
}

// maxAssets bounds a list of uploads, maxNamed the length of a name.
const (
	maxAssets = 24
	maxNamed  = 80
)

// Upload takes in a drawing: what is kept of it is rebuilt, so that the same drawing is kept once. Problems name the field file.
func (s *Shelf) Upload(ctx context.Context, actor access.Actor, name string, data []byte) (Asset, error) {
	if err := actor.Need(access.Change); err != nil {
		return Asset{}, err
	}
	return s.UploadWithin(ctx, actor, name, data, artwork.NewBudget())
}

// UploadWithin is Upload of one of several drawings that share a budget.
func (s *Shelf) UploadWithin(
	ctx context.Context,
	actor access.Actor,
	name string,
	data []byte,
	budget *artwork.Budget,
) (Asset, error) {
	if err := actor.Need(access.Change); err != nil {
		return Asset{}, err
	}
	return s.keep(ctx, actor, name, "drawing", func() (artwork.Rebuilt, error) { return artwork.ReadWithin(data, budget) })
}

// UploadFace takes in a typeface, whose name is the one in the font. Problems name the field file.
func (s *Shelf) UploadFace(ctx context.Context, actor access.Actor, data []byte) (Asset, error) {
	if err := actor.Need(access.Change); err != nil {
		return Asset{}, err
	}
	return s.keep(ctx, actor, "", "typeface", func() (artwork.Rebuilt, error) { return artwork.ReadFace(data) })
}

func (s *Shelf) keep(
	ctx context.Context,
	actor access.Actor,
	name, kind string,
	read func() (artwork.Rebuilt, error),
) (Asset, error) {
	workspace := actor.Workspace
	if err := s.room(ctx, workspace); err != nil {
		return Asset{}, err
	}
	var is artwork.Rebuilt
	var data []byte
	var wrong error
	if err := heavy.Do(ctx, func(context.Context) error {
		if is, wrong = read(); wrong == nil {
			data = is.Normal()
		}
		return nil
	}); err != nil {
		return Asset{}, err
	}
	if wrong != nil {
		return Asset{}, problem.List{{Field: "/file", Code: "artwork", Message: wrong.Error()}}
	}
	if t, ok := is.(*artwork.Type); ok {
		name = t.Name
	}
	sum := sha256.Sum256(data)
	a := Asset{
		Source: "asset:sha256-" + hex.EncodeToString(sum[:]),
		Name:   tidyName(name, "mark"),
		Is:     is,
		At:     s.Now(),
		Left:   is.Leftout(),
	}
	err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return insertAsset(ctx, tx, actor, kind, data, a)
	})
	return a, err
}

// MaxUploads bounds what a workspace keeps of uploads, in bytes. What no code, version or house style names goes by itself
// after a while.
const MaxUploads = 1 << 30

// room refuses an upload of a workspace that has had its share.
func (s *Shelf) room(ctx context.Context, workspace string) error {
	var held int64
	err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT coalesce(sum(octet_length(data)), 0) FROM assets WHERE workspace = $1`, workspace).
			Scan(&held)
	})
	if err == nil && held >= s.maxUploads() {
		return problem.List{
			{
				Field: "/file",
				Code:  "asset.room",
				Message: fmt.Sprintf(
					"was not kept: the workspace holds %d MB of uploads, and %d MB are kept at most. Those that nothing uses "+
						"go by themselves within a day",
					held>>20,
					s.maxUploads()>>20,
				),
			},
		}
	}
	return err
}

func (s *Shelf) maxUploads() int64 {
	if s.UploadRoom > 0 {
		return s.UploadRoom
	}
	return MaxUploads
}

// insertAsset keeps a file; one that is there already becomes the newest.
func insertAsset(ctx context.Context, tx pgx.Tx, actor access.Actor, kind string, data []byte, a Asset) error {
	_, err := tx.Exec(
		ctx,
		`INSERT INTO assets (workspace, source, name, data, at, who, who_id, kind) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
		ON CONFLICT (workspace, source) DO UPDATE SET at = excluded.at, name = excluded.name`,
		actor.Workspace,
		a.Source,
		a.Name,
		data,
		a.At,
		actor.Name,
		actor.ID,
		kind,
	)
	return err
}

// tidyName is the name of a file without folders and without what cannot be printed.
func tidyName(name, none string) string {
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	if r := []rune(strings.Map(printable, name)); len(r) > maxNamed {
		return string(r[:maxNamed])
	} else if name = string(r); name == "" {
		return none
	}
	return name
}

func printable(r rune) rune {
	if r < ' ' || r == 0x7f {
		return -1
	}
	return r
}

// Uploads lists the newest drawings that were taken in.
func (s *Shelf) Uploads(ctx context.Context, actor access.Actor) (out []Asset, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(
			ctx,
			`SELECT source, name, at FROM assets WHERE workspace = $1 AND kind = 'drawing' ORDER BY at DESC, source LIMIT $2`,
			workspace,
			maxAssets,
		)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, listed)
		return err
	})
	find := s.In(ctx, workspace)
	for i := range out {
		out[i].Is, _ = find(out[i].Source)
	}
	return out, err
}

// Assets finds the uploads of a workspace for an actor who may see what is made of them; nothing for others.
func (s *Shelf) Assets(ctx context.Context, actor access.Actor) compose.Assets {
	if !actor.May(access.Files) && !actor.May(access.Make) {
		return func(string) (artwork.Upload, bool) { return nil, false }
	}
	return s.In(ctx, actor.Workspace)
}

// In finds the uploads of a workspace for use cases, which have asked for the right; for everybody else there is Assets.
// They are read from the database by the first who asks, and opened while no connection is held.
func (s *Shelf) In(ctx context.Context, workspace string) compose.Assets {
	return func(source string) (artwork.Upload, bool) {
		if a := s.shelved(workspace, source); a != nil {
			return a, true
		}
		var k keptFile
		var u artwork.Upload
		ok := false
		err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
			k, err = fetchFile(ctx, tx, workspace, source)
			return err
		})
		if err == nil {
			err = heavy.Do(ctx, func(context.Context) error {
				u, ok = s.opened(workspace, source, k)
				return nil
			})
		}
		return u, ok && err == nil
	}
}

// Within is In within a transaction.
func (s *Shelf) Within(ctx context.Context, tx pgx.Tx, workspace string) compose.Assets {
	return func(source string) (artwork.Upload, bool) {
		if a := s.shelved(workspace, source); a != nil {
			return a, true
		}
		k, err := fetchFile(ctx, tx, workspace, source)
		if err != nil {
			return nil, false // not there; or the transaction is lost, which its end tells
		}
		return s.opened(workspace, source, k)
	}
}

// shelved is what was read before, nil for what was not.
func (s *Shelf) shelved(workspace, source string) artwork.Upload {
	key := workspace + " " + source
	if a := s.art.Get(key); a != nil {
		return a
	}
	return s.sheets.Get(key)
}

// keptFile is an upload as it is kept; of a page of a PDF, its picture and the file.
type keptFile struct {
	kind      string
	data, pdf []byte
}

func fetchFile(ctx context.Context, tx pgx.Tx, workspace, source string) (k keptFile, err error) {
	bare, _, _ := strings.Cut(source, PageMark)
	err = tx.QueryRow(ctx, `SELECT a.kind, a.data, CASE WHEN a.kind = 'page' THEN (SELECT f.data FROM assets f
		WHERE f.workspace = a.workspace AND f.source = $3 AND f.kind = 'artwork') END
		FROM assets a WHERE a.workspace = $1 AND a.source = $2`, workspace, source, bare).
		Scan(&k.kind, &k.data, &k.pdf)
	return k, err
}

// opened opens an upload and shelves it.
func (s *Shelf) opened(workspace, source string, k keptFile) (artwork.Upload, bool) {
	key := workspace + " " + source
	if k.kind == "artwork" || k.kind == "page" {
		sheet, err := openSheet(source, k)
		if err != nil {
			return nil, false
		}
		s.sheets.Put(key, sheet)
		return sheet, true
	}
	a, err := artwork.Kept(k.data)
	if err != nil {
		return nil, false
	}
	s.art.Put(key, a)
	return a, true
}

// listed reads a line of a list of uploads.
func listed(r pgx.CollectableRow) (a Asset, err error) { return a, r.Scan(&a.Source, &a.Name, &a.At) }
