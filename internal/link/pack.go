package link

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
)

// Live are all short links of a workspace that were handed over, with what is live of each, by their addresses.
func (s *Store) Live(ctx context.Context, actor access.Actor) (out []leave.Link, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT k.host, k.path, l.value, c.name FROM live_links l
			JOIN links k ON k.workspace = l.workspace AND k.host || '/' || k.path = l.link
			JOIN codes c ON c.workspace = k.workspace AND c.id = k.code
			WHERE l.workspace = $1 AND k.place IS NOT NULL ORDER BY k.host, k.path`, actor.Workspace)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (l leave.Link, err error) {
			var value []byte
			if err = r.Scan(&l.Host, &l.Path, &value, &l.Code); err != nil {
				return l, err
			}
			if value, err = s.Codes.Seal.Open(value, place(actor.Workspace, l.Host+"/"+l.Path, "answer")); err == nil {
				l.Live, err = leads.Decode(value)
			}
			return l, err
		})
		return err
	})
	return out, err
}

// Pack writes the leaving pack of a workspace as a ZIP file, with the files that links lead to.
func (s *Store) Pack(ctx context.Context, actor access.Actor, w io.Writer) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	_, err := s.pack(ctx, actor, w, true)
	return err
}

// Rehearsed is the leaving pack without those files, and the links in it.
func (s *Store) Rehearsed(ctx context.Context, actor access.Actor) (pack []byte, links []leave.Link, at time.Time, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, nil, at, err
	}
	var b bytes.Buffer
	links, err = s.pack(ctx, actor, &b, false)
	return b.Bytes(), links, s.Codes.Now(), err
}

func (s *Store) pack(ctx context.Context, actor access.Actor, w io.Writer, whole bool) (links []leave.Link, err error) {
	if links, err = s.Live(ctx, actor); err != nil {
		return nil, err
	}
	at := s.Codes.Now()
	z := zip.NewWriter(w)
	put := func(name string, data []byte, method uint16) error {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: at})
		if err == nil {
			_, err = w.Write(data)
		}
		return err
	}
	for _, f := range leave.Pack(links, at) {
		if err := put(f.Name, f.Data, zip.Deflate); err != nil {
			return nil, err
		}
	}
	if whole && s.Figures != nil {
		figures, err := s.Figures(ctx, actor)
		if err == nil {
			err = put("figures.csv", figures, zip.Deflate)
		}
		if err != nil {
			return nil, err
		}
	}
	if whole {
		if err := s.files(ctx, actor, func(host, path string, data []byte) error {
			return put(leave.Below(host)+path, data, zip.Store) // most are packed already
		}); err != nil {
			return nil, err
		}
	}
	return links, z.Close()
}

// Since says of each code of a workspace that leads somewhere when it first did.
func (s *Store) Since(ctx context.Context, actor access.Actor) (map[string]time.Time, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	out := map[string]time.Time{}
	err := s.Codes.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT code, min(at) FROM lead_versions WHERE workspace = $1 GROUP BY code`, actor.Workspace).Query(func(rows pgx.Rows) error {
			var id string
			var at time.Time
			_, err := pgx.ForEachRow(rows, []any{&id, &at}, func() error {
				out[id] = at
				return nil
			})
			return err
		})
	})
	return out, err
}
