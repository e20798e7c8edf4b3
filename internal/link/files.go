package link

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
)

// maxFiles is how many bytes of files a workspace may have.
const maxFiles = 1 << 30

// fileID is a name that nobody guesses: 80 random bits as a path of letters.
func fileID() string { return strings.ToLower(rand.Text()[:16]) }

// digestOf is the SHA-256 of a file, in hexadecimal.
func digestOf(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// Keep keeps a file that short links may lead to, and gives its address, on the host where new links are drawn. Those who answer
// scans have it within a second.
func (s *Store) Keep(ctx context.Context, actor access.Actor, name string, data []byte) (address string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	f, bad := leads.ServedOf(name, data)
	if bad != nil {
		return "", problem.List{*bad}
	}
	f.Digest, f.ID = digestOf(data), fileID()
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		base, err := s.base(ctx, tx, actor.Workspace)
		if err != nil {
			return err
		}
		if base == "" {
			return problem.List{{Field: "/file", Code: "link.host",
				Message: "cannot be opened by a code, since this server has no host for short links"}}
		}
		var kept int64
		if err := tx.QueryRow(ctx, `SELECT coalesce(sum(size), 0) FROM files WHERE workspace = $1`, actor.Workspace).
			Scan(&kept); err != nil {
			return err
		}
		if kept+int64(len(data)) > maxFiles {
			return problem.List{{Field: "/file", Code: "file.full",
				Message: "does not fit; a workspace has room for a gigabyte of files"}}
		}
		_, host, _ := strings.Cut(base, "://")
		if _, err := tx.Exec(ctx, `INSERT INTO files (workspace, id, host, name, size, data, made_at, who)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, actor.Workspace, f.ID, host, f.Name, len(data),
			s.Codes.Seal.Seal(data, place(actor.Workspace, f.ID, "file")), s.Codes.Now(), actor.Name); err != nil {
			return err
		}
		address = base + leads.FilesBelow + f.ID + "/" + f.Name
		return s.bring(ctx, tx, actor.Workspace, host+leads.FilesBelow+f.ID, f.Encode())
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return address, err
}

// Open makes a dynamic code that opens a file, called as the file is.
func (s *Store) Open(ctx context.Context, actor access.Actor, name string, data []byte) (id string, err error) {
	address, err := s.Keep(ctx, actor, name, data)
	if err != nil {
		return "", err
	}
	c, problems := content.New(map[string]any{"kind": "url", "url": address})
	if len(problems) > 0 {
		return "", problems
	}
	j := job.Default()
	j.Content = c
	if j.Name = name; strings.LastIndexByte(name, '.') > 0 {
		j.Name = name[:strings.LastIndexByte(name, '.')]
	}
	m, problems := compose.Make(&j, nil)
	if len(problems) > 0 {
		return "", problems
	}
	if id, err = s.Codes.Create(ctx, actor, m, ""); err != nil {
		return "", err
	}
	_, err = s.Turn(ctx, actor, id, code.Anyhow)
	return id, err
}

// LeadToFile makes a file the draft of where a code leads.
func (s *Store) LeadToFile(ctx context.Context, actor access.Actor, id, name string, data []byte) (*Led, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	address, err := s.Keep(ctx, actor, name, data)
	if err != nil {
		return nil, at(err, "/to")
	}
	return s.Edit(ctx, actor, id, map[string]string{"to": address}, "", 0)
}

// files tells each file of a workspace: its host, its path without the slash in front, and what it holds.
func (s *Store) files(ctx context.Context, actor access.Actor, tell func(host, path string, data []byte) error) error {
	var list []struct{ ID, Host, Name string }
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT id, host, name FROM files WHERE workspace = $1 ORDER BY host, id`, actor.Workspace)
		if err == nil {
			list, err = pgx.CollectRows(rows, pgx.RowToStructByPos[struct{ ID, Host, Name string }])
		}
		return err
	})
	for _, f := range list { // one after the other: together they may be large
		if err != nil {
			return err
		}
		var data []byte
		err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
			return tx.QueryRow(ctx, `SELECT data FROM files WHERE workspace = $1 AND id = $2`, actor.Workspace, f.ID).Scan(&data)
		})
		if err == nil {
			data, err = s.Codes.Seal.Open(data, place(actor.Workspace, f.ID, "file"))
		}
		if err == nil {
			err = tell(f.Host, strings.TrimPrefix(leads.FilesBelow, "/")+f.ID+"/"+f.Name, data)
		}
		if err != nil {
			err = fmt.Errorf("link: the file %s: %w", f.ID, err)
		}
	}
	return err
}
