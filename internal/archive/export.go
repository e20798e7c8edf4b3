package archive

import (
	"archive/zip"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// Export writes everything of a workspace, as it is at one moment.
func (s *Store) Export(ctx context.Context, actor access.Actor, w io.Writer) (About, error) {
	about := About{Format: format, Version: version, ID: actor.Workspace, People: []Member{}, Rows: map[string]int{}}
	if err := actor.Need(access.Manage); err != nil {
		return about, err
	}
	about.At = s.Codes.Now().UTC()
	if err := s.around(ctx, &about); err != nil {
		return about, err
	}
	z := &writer{Writer: zip.NewWriter(w), at: about}
	if err := z.put(readmeFile, []byte(readme)); err != nil {
		return about, err
	}
	err := s.Codes.DB.Snapshot(ctx, actor.Workspace, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `SELECT name FROM workspaces WHERE id = $1`, actor.Workspace).Scan(&about.Name)
		if errors.Is(err, pgx.ErrNoRows) {
			return problem.List{{Field: "/workspace", Code: "archive.workspace", Message: "is not there: " + actor.Workspace}}
		}
		if err != nil {
			return err
		}
		for _, t := range tables {
			c, err := columnsOf(ctx, tx, t)
			if err != nil {
				return err
			}
			if about.Rows[t.name], err = s.rows(ctx, tx, z, c, actor.Workspace); err != nil {
				return fmt.Errorf("archive: %s: %w", t.name, err)
			}
			if err := s.contents(ctx, tx, z, c, actor.Workspace); err != nil {
				return fmt.Errorf("archive: files of %s: %w", t.name, err)
			}
		}
		return nil
	})
	if err != nil {
		return about, err
	}
	text, err := json.MarshalIndent(about, "", "  ")
	if err == nil {
		err = z.put(aboutFile, append(text, '\n'))
	}
	if err != nil {
		return about, err
	}
	return about, z.Close()
}

// around reads what no workspace may read by itself.
func (s *Store) around(ctx context.Context, about *About) error {
	if err := s.Codes.DB.Pool.QueryRow(ctx, `SELECT max(version_id) FROM goose_db_version WHERE is_applied`).
		Scan(&about.Schema); err != nil {
		return err
	}
	rows, err := s.Codes.DB.Pool.Query(ctx, `SELECT p.name, p.email, m.role FROM members m JOIN people p ON p.id = m.person
		WHERE m.workspace = $1 ORDER BY m.since, p.email`, about.ID)
	if err != nil {
		return err
	}
	people, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Member])
	about.People = append(about.People, people...)
	return err
}

// writer is a ZIP file all of whose entries are of one time.
type writer struct {
	*zip.Writer
	at About
}

func (z *writer) entry(name string, method uint16) (io.Writer, error) {
	return z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: z.at.At})
}

func (z *writer) put(name string, data []byte) error {
	w, err := z.entry(name, zip.Deflate)
	if err == nil {
		_, err = w.Write(data)
	}
	return err
}

// rows writes the rows of a table.
func (s *Store) rows(ctx context.Context, tx pgx.Tx, z *writer, c columns, workspace string) (n int, err error) {
	sealed := c.rows()
	names := ""
	if c.file != "" {
		names = ", " + fileID(c)
	}
	var open strings.Builder
	for _, one := range sealed {
		fmt.Fprintf(&open, ", %s, (%s)::text", one.Column, one.ID)
	}
	rows, err := tx.Query(ctx, `SELECT (SELECT to_jsonb(x) FROM (SELECT `+strings.Join(quoted(c.plain, "t."), ", ")+`) x)`+names+
		open.String()+` FROM `+c.name+` t WHERE workspace = $1 ORDER BY `+c.order, workspace)
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	w, err := z.entry(rowsBelow+c.name+rowsEnding, zip.Deflate)
	if err != nil {
		return 0, err
	}
	values := make([][]byte, len(sealed))
	ids := make([]string, len(sealed))
	for rows.Next() {
		var plain []byte
		var name string
		to := []any{&plain}
		if c.file != "" {
			to = append(to, &name)
		}
		for i := range sealed {
			to = append(to, &values[i], &ids[i])
		}
		if err := rows.Scan(to...); err != nil {
			return n, err
		}
		row := map[string]json.RawMessage{}
		if err := json.Unmarshal(plain, &row); err != nil {
			return n, err
		}
		if c.file != "" {
			row[c.file] = marshal(map[string]string{fileMark: c.fileName(name)})
		}
		for i, one := range sealed {
			if row[one.Column], err = s.opened(one, workspace, ids[i], values[i]); err != nil {
				return n, fmt.Errorf("%s of %s: %w", one.Column, ids[i], err)
			}
		}
		if _, err := w.Write(append(marshal(row), '\n')); err != nil {
			return n, err
		}
		n++
	}
	return n, rows.Err()
}

func (s *Store) opened(c code.Sealed, workspace, id string, value []byte) (json.RawMessage, error) {
	switch {
	case value == nil:
		return json.RawMessage("null"), nil
	case len(value) == 0:
		return marshal(map[string]string{rawMark: base64.StdEncoding.EncodeToString(value)}), nil
	}
	text, err := s.Codes.Seal.Open(value, c.Place(workspace, id))
	if err != nil {
		return nil, err
	}
	return shown(text), nil
}

// contents writes the files of a table.
func (s *Store) contents(ctx context.Context, tx pgx.Tx, z *writer, c columns, workspace string) error {
	if c.file == "" {
		return nil
	}
	rows, err := tx.Query(ctx, `SELECT `+fileID(c)+`, `+c.file+` FROM `+c.name+` t WHERE workspace = $1 ORDER BY `+c.order,
		workspace)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		var data []byte
		if err := rows.Scan(&name, &data); err != nil {
			return err
		}
		for _, one := range c.sealed {
			if one.Column == c.file {
				if data, err = s.Codes.Seal.Open(data, one.Place(workspace, name[:strings.Index(name, "\n")])); err != nil {
					return err
				}
			}
		}
		w, err := z.entry(c.fileName(name), zip.Store) // most are packed already
		if err == nil {
			_, err = w.Write(data)
		}
		if err != nil {
			return err
		}
	}
	return rows.Err()
}

// fileID is SQL for what a file is told by: its key, and after a line break the name that it came with.
func fileID(c columns) string {
	key, _, _ := strings.Cut(c.order, ",")
	return key + ` || E'\n' || name`
}

var unsafe = regexp.MustCompile(`[^A-Za-z0-9._-]+`)

// fileName is where a file stands in the archive.
func (c columns) fileName(id string) string {
	key, name, _ := strings.Cut(id, "\n")
	return c.folder + "/" + unsafe.ReplaceAllString(key, "-") + unsafe.ReplaceAllString(strings.ToLower(path.Ext(name)), "")
}

func quoted(names []string, before string) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = before + pgx.Identifier{n}.Sanitize()
	}
	return out
}
