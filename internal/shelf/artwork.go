package shelf

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/problem"
	"sodrik/internal/ground"
	"sodrik/internal/heavy"
)

// PageMark stands between the source of a PDF and the number of a page of it (RFC 8118, 3).
const PageMark = "#page="

// errNoPages is what there is where nothing draws pages.
var errNoPages = errors.New("is a PDF, and nothing that draws its pages is installed here; give it as SVG or PNG")

// UploadArtwork takes in what a code lies on: the first page of a PDF, an SVG or a picture. The file is kept as it is, and
// never handed out but with a code on it. Problems name the field file.
func (s *Shelf) UploadArtwork(ctx context.Context, actor access.Actor, name string, data []byte) (a Asset, err error) {
	if err := actor.Need(access.Change); err != nil {
		return a, err
	}
	workspace := actor.Workspace
	if err := s.room(ctx, workspace); err != nil {
		return a, err
	}
	ctx, release, err := heavy.Enter(ctx, true)
	if err != nil {
		return a, err
	}
	defer release()
	if pdfpage.Is(data) && len(data) <= artwork.MaxBytes {
		source := artworkKey(data)
		sheet, picture, err := s.page(ctx, data, 1)
		if err == nil { // one that cannot be opened says why first
			err = pdfpage.Quiet(data)
		}
		if err != nil {
			return Asset{}, refused(err)
		}
		a := Asset{Source: source + PageMark + "1", Name: tidyName(name, "artwork"), Is: sheet, At: s.Now(), Left: sheet.Left}
		whole := a
		whole.Source = source
		err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			if err := insertAsset(ctx, tx, actor, "artwork", data, whole); err != nil {
				return err
			}
			return insertAsset(ctx, tx, actor, "page", picture, a)
		})
		return a, err
	}
	sheet, err := artwork.ReadSheet(data)
	if err != nil {
		return Asset{}, refused(err)
	}
	a = Asset{Source: artworkKey(data), Name: tidyName(name, "artwork"), Is: sheet, At: s.Now(), Left: sheet.Left}
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return insertAsset(ctx, tx, actor, "artwork", data, a)
	})
	return a, err
}

// artworkKey is the source of artwork: the digest of its file, told from that of a mark of the same bytes.
func artworkKey(data []byte) string {
	sum := sha256.Sum256(append([]byte("artwork\x00"), data...))
	return "asset:sha256-" + hex.EncodeToString(sum[:])
}

func refused(err error) error {
	var problems problem.List
	if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	if errors.As(err, &problems) {
		if problems[0].Field == "" {
			problems[0].Field = "/file"
		}
		return problems
	}
	return problem.List{{Field: "/file", Code: "artwork", Message: err.Error()}}
}

// page opens a page and has it drawn.
func (s *Shelf) page(ctx context.Context, file []byte, number int) (*artwork.Sheet, []byte, error) {
	p, err := pdfpage.Open(file, number)
	if err != nil {
		return nil, nil, err
	}
	if w, h := p.Shown(p.Media); w > artwork.MaxSheet || h > artwork.MaxSheet || w < 1 || h < 1 {
		return nil, nil, fmt.Errorf(
			"is %.1f × %.1f mm; artwork lies between %d mm and %d m a side",
			w,
			h,
			artwork.MinSheet,
			artwork.MaxSheet/1000,
		)
	}
	if s.Pages == nil {
		return nil, nil, errNoPages
	}
	picture, err := s.Pages(ctx, file, number, p.Dots(artwork.MaxSheetPx))
	if err != nil {
		return nil, nil, err
	}
	sheet, err := artwork.ReadPage(file, number, picture)
	return sheet, picture, err
}

// ArtworkPage makes another page of a PDF that was taken in one that can be named, and gives its source.
func (s *Shelf) ArtworkPage(ctx context.Context, actor access.Actor, source string, number int) (string, error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	workspace := actor.Workspace
	bare, _, isPage := strings.Cut(source, PageMark)
	if !isPage {
		return "", problem.List{{Field: "/page", Code: "artwork.page", Message: "is only for a PDF"}}
	}
	var data []byte
	var name string
	next := bare + PageMark + strconv.Itoa(number)
	err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT data, name FROM assets WHERE workspace = $1 AND source = $2 AND kind = 'artwork'`,
			workspace, bare).
			Scan(&data, &name)
	})
	if errors.Is(err, pgx.ErrNoRows) {
		return "", ground.ErrNotFound
	}
	if err != nil {
		return "", err
	}
	var sheet *artwork.Sheet
	var picture []byte
	err = heavy.Do(ctx, func(ctx context.Context) (err error) {
		sheet, picture, err = s.page(ctx, data, number)
		return err
	})
	if err != nil {
		var problems problem.List
		if errors.As(refused(err), &problems) {
			problems[0].Field = "/page"
		}
		return "", problems
	}
	a := Asset{Source: next, Name: name, At: s.Now(), Is: sheet}
	return next, s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return insertAsset(ctx, tx, actor, "page", picture, a)
	})
}

// Artworks lists the newest artwork that was taken in; of a PDF, its first page.
func (s *Shelf) Artworks(ctx context.Context, actor access.Actor) (out []Asset, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(
			ctx,
			`SELECT source, name, at FROM assets WHERE workspace = $1
				AND (kind = 'artwork' AND substring(data from 1 for 5) <> '\x255044462d'::bytea
			OR kind = 'page' AND source LIKE '%#page=1') ORDER BY at DESC, source LIMIT $2`,
			workspace,
			maxArtworks,
		)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, listed)
		return err
	})
	return out, err
}

const maxArtworks = 12

// openSheet opens artwork that is kept.
func openSheet(source string, k keptFile) (*artwork.Sheet, error) {
	_, page, isPage := strings.Cut(source, PageMark)
	if !isPage {
		return artwork.ReadSheet(k.data)
	}
	number, err := strconv.Atoi(page)
	if err != nil {
		return nil, err
	}
	return artwork.ReadPage(k.pdf, number, k.data)
}
