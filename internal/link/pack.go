package link

import (
	"archive/zip"
	"bytes"
	"context"
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
			WHERE l.workspace = $1 ORDER BY k.host, k.path`, actor.Workspace)
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

// Pack is the leaving pack of a workspace as a ZIP file, and the links in it.
func (s *Store) Pack(ctx context.Context, actor access.Actor) (file []byte, links []leave.Link, at time.Time, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, nil, at, err
	}
	if links, err = s.Live(ctx, actor); err != nil {
		return nil, nil, at, err
	}
	at = s.Codes.Now()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range leave.Pack(links, at) {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: at})
		if err == nil {
			_, err = w.Write(f.Data)
		}
		if err != nil {
			return nil, nil, at, err
		}
	}
	err = z.Close()
	return b.Bytes(), links, at, err
}
