package archive

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// Bounds of what is read.
const (
	mostLine = 64 << 20 // bytes of a row
	mostText = 64 << 10 // of a text that is not sealed
	mostName = 1000     // of a name
	mostFile = 64 << 20 // of a file
	mostAll  = 2 << 30  // of all files
	atOnce   = 500      // rows
	bytesOf  = 8 << 20  // of rows, at once
)

// bad is a problem with an archive.
func bad(code, format string, args ...any) error {
	return problem.List{{Field: "/file", Code: "archive." + code, Message: fmt.Sprintf(format, args...)}}
}

// Import reads an archive into a workspace that holds no codes yet: all of it, or nothing. Webhooks arrive paused, and people are
// invited anew.
func (s *Store) Import(ctx context.Context, actor access.Actor, r io.ReaderAt, size int64) (about About, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return about, err
	}
	z, err := zip.NewReader(r, size)
	if err != nil {
		return about, bad("zip", "is no ZIP file, or was cut off")
	}
	if about, err = s.about(ctx, z); err != nil {
		return about, err
	}
	err = pgx.BeginFunc(ctx, s.Codes.DB.Pool, func(tx pgx.Tx) error {
		if err := s.clear(ctx, tx, actor.Workspace); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `UPDATE workspaces SET name = $2 WHERE id = $1`, actor.Workspace, about.Name); err != nil {
			return err
		}
		for _, t := range tables {
			c, err := columnsOf(ctx, tx, t)
			if err == nil {
				err = s.take(ctx, tx, z, c, actor.Workspace, about)
			}
			if err != nil {
				return said(t.name, err)
			}
		}
		_, err := tx.Exec(ctx, `UPDATE webhooks SET paused_at = $2, paused_why = 'It moved in with the workspace.' WHERE workspace = $1
			AND paused_at IS NULL`, actor.Workspace, s.Codes.Now())
		if err == nil {
			_, err = tx.Exec(ctx, `INSERT INTO reports_told (workspace, id, told_at) SELECT workspace, id, $2 FROM scans
				WHERE workspace = $1 AND kind = 'report' ON CONFLICT DO NOTHING`, actor.Workspace, s.Codes.Now())
		}
		if err == nil {
			err = s.Codes.Upkeep().ArrivedIn(ctx, tx, actor.Workspace)
		}
		if err == nil {
			err = s.Links.Arrived(ctx, tx, actor.Workspace)
		}
		return asProblem(err)
	})
	if err == nil && s.Links.Soon != nil {
		s.Links.Soon()
	}
	return about, err
}

// asProblem says what the doors refuse as a problem of the archive.
func asProblem(err error) error {
	var problems problem.List
	if errors.As(err, &problems) && len(problems) > 0 && problems[0].Field != "/file" {
		return bad("rows", "holds what is refused here: %s", strings.ReplaceAll(err.Error(), "\n", "; "))
	}
	return err
}

// about reads what an archive says of itself.
func (s *Store) about(ctx context.Context, z *zip.Reader) (about About, err error) {
	f, err := z.Open(aboutFile)
	if err != nil {
		return about, bad("form", "holds no workspace.json: it is no archive of a workspace")
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, 1<<20))
	if err == nil {
		err = json.Unmarshal(text, &about)
	}
	if err != nil || about.Format != format {
		return about, bad("form", "has a workspace.json that cannot be read: it is no archive of a workspace")
	}
	here := int64(0)
	if err := s.Codes.DB.Pool.QueryRow(ctx,
		`SELECT max(version_id) FROM goose_db_version WHERE is_applied`).Scan(&here); err != nil {
		return about, err
	}
	if about.Version > version || about.Schema > here {
		return about, bad("newer", "was written by a newer release; bring this server up to date first")
	}
	return about, nil
}

// clear makes room in a workspace that holds nothing anybody has made.
func (s *Store) clear(ctx context.Context, tx pgx.Tx, workspace string) error {
	n := 0
	if err := tx.QueryRow(ctx, `SELECT (SELECT count(*) FROM codes WHERE workspace = $1) + (SELECT count(*) FROM batches
		WHERE workspace = $1) + (SELECT count(*) FROM links WHERE workspace = $1)`, workspace).Scan(&n); err != nil {
		return err
	}
	if n > 0 {
		return problem.List{{Field: "/workspace", Code: "archive.full",
			Message: "holds codes already; an archive is read into an empty one"}}
	}
	for _, t := range slices.Backward(tables) {
		if _, err := tx.Exec(ctx, `DELETE FROM `+t.name+` WHERE workspace = $1`, workspace); err != nil {
			return err
		}
	}
	return nil
}

// takenLink names the link of which the database says "Key (host, path)=(go.marrowby.example, FAIR) already exists."
func takenLink(detail string) string {
	_, rest, ok := strings.Cut(detail, ")=(")
	pair, _, end := strings.Cut(rest, ")")
	if !ok || !end {
		return ""
	}
	return ": " + strings.Replace(pair, ", ", "/", 1)
}

// said makes what the database refuses a problem of the archive.
func said(table string, err error) error {
	var refused *pgconn.PgError
	if !errors.As(err, &refused) {
		return err
	}
	if refused.Code == "23505" && table == "links" {
		return bad("links", "holds a short link that stands on this server already, in another workspace%s",
			takenLink(refused.Detail))
	}
	if strings.HasPrefix(refused.Code, "22") || strings.HasPrefix(refused.Code, "23") {
		return bad("rows", "does not fit at the table %s: %s", table, refused.Message)
	}
	return fmt.Errorf("archive: %s: %w", table, err)
}

// take reads the rows of a table.
func (s *Store) take(ctx context.Context, tx pgx.Tx, z *zip.Reader, c columns, workspace string, about About) error {
	f, err := z.Open(rowsBelow + c.name + rowsEnding)
	if err != nil {
		if about.Rows[c.name] > 0 {
			return bad("table", "lacks the table %s", c.name)
		}
		return nil // of an older release
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, mostLine)
	var rows []map[string]json.RawMessage
	n, held := 0, 0
	put := func() error {
		err := s.put(ctx, tx, z, c, workspace, rows)
		rows, held = rows[:0], 0
		return err
	}
	for lines.Scan() {
		n++
		row := map[string]json.RawMessage{}
		if err := json.Unmarshal(lines.Bytes(), &row); err != nil {
			return bad("rows", "has no JSON object at line %d of the table %s", n, c.name)
		}
		for name, value := range row {
			if most := mostOf(name); slices.Contains(c.plain, name) && len(value) > most && value[0] == '"' {
				return bad("rows", "has more than %d bytes in the column %s at line %d of the table %s", most, name, n, c.name)
			}
			if !slices.Contains(c.all(), name) {
				return bad("rows", "has a column %q at line %d of the table %s, which is not known", name, n, c.name)
			}
		}
		rows, held = append(rows, row), held+len(lines.Bytes())
		if len(rows) == atOnce || held > bytesOf || c.file != "" { // a file may be large
			if err := put(); err != nil {
				return err
			}
		}
	}
	if err := lines.Err(); err != nil {
		return bad("rows", "cannot be read at line %d of the table %s", n+1, c.name)
	}
	if want := about.Rows[c.name]; n != want {
		return bad("rows", "has %d rows in the table %s, and says that it has %d", n, c.name, want)
	}
	if len(rows) > 0 {
		return put()
	}
	return nil
}

// mostOf is how many bytes a text in a column of such a name has at most.
func mostOf(column string) int {
	switch column {
	case "name", "who", "title", "label", "printer", "recipient", "medium", "key", "head", "place", "keeper", "phone", "source":
		return mostName
	}
	return mostText
}

// put writes rows, with what is to be sealed sealed for the workspace that they arrive in.
func (s *Store) put(ctx context.Context, tx pgx.Tx, z *zip.Reader, c columns, workspace string,
	rows []map[string]json.RawMessage) error {
	for _, row := range rows {
		row["workspace"] = marshal(workspace)
	}
	all, err := json.Marshal(bare(c, rows))
	if err != nil {
		return err
	}
	from := ` FROM jsonb_populate_recordset(NULL::` + c.name + `, $1) WITH ORDINALITY t`
	for _, one := range c.sealed {
		list, err := tx.Query(ctx, `SELECT (`+one.ID+`)::text`+from+` ORDER BY ordinality`, all)
		if err != nil {
			return err
		}
		ids, err := pgx.CollectRows(list, pgx.RowTo[*string])
		if err != nil {
			return err
		}
		for i, row := range rows {
			value, there := row[one.Column]
			if !there || string(value) == "null" {
				continue
			}
			if ids[i] == nil {
				return bad("rows", "has a row without a key in the table %s", c.name)
			}
			if row[one.Column], err = s.sealed(z, one, c, workspace, *ids[i], value); err != nil {
				return err
			}
		}
	}
	if c.file != "" && !slices.ContainsFunc(c.sealed, func(one code.Sealed) bool { return one.Column == c.file }) {
		for _, row := range rows {
			data, err := fileIn(z, row[c.file])
			if err != nil {
				return err
			}
			row[c.file] = bytea(data)
		}
	}
	if all, err = json.Marshal(rows); err != nil {
		return err
	}
	var names []string
	for name := range rows[0] {
		names = append(names, name)
	}
	slices.Sort(names)
	list := strings.Join(quoted(names, ""), ", ")
	_, err = tx.Exec(ctx, `INSERT INTO `+c.name+` (`+list+`) SELECT `+list+from+` ORDER BY ordinality`, all)
	return err
}

// bare are rows without what is sealed, which JSON has no bytes for.
func bare(c columns, rows []map[string]json.RawMessage) []map[string]json.RawMessage {
	out := make([]map[string]json.RawMessage, len(rows))
	for i, row := range rows {
		out[i] = map[string]json.RawMessage{}
		for _, name := range c.plain {
			if value, there := row[name]; there {
				out[i][name] = value
			}
		}
	}
	return out
}

// sealed seals the contents of a column, or of the file that it names.
func (s *Store) sealed(z *zip.Reader, one code.Sealed, c columns, workspace, id string,
	value json.RawMessage) (json.RawMessage, error) {
	if one.Column == c.file {
		data, err := fileIn(z, value)
		if err != nil {
			return nil, err
		}
		return bytea(s.Codes.Seal.Seal(data, one.Place(workspace, id))), nil
	}
	text, raw, err := read(value)
	if err != nil {
		return nil, bad("rows", "has no contents in the column %s of the table %s", one.Column, c.name)
	}
	if raw {
		return bytea(text), nil
	}
	return bytea(s.Codes.Seal.Seal(text, one.Place(workspace, id))), nil
}

func bytea(data []byte) json.RawMessage { return marshal(`\x` + hex.EncodeToString(data)) }

// fileIn reads the file that a value names.
func fileIn(z *zip.Reader, value json.RawMessage) ([]byte, error) {
	var marked map[string]string
	if err := json.Unmarshal(value, &marked); err != nil || marked[fileMark] == "" {
		return nil, bad("files", "has a row without its file")
	}
	name := marked[fileMark]
	f, err := z.Open(name)
	if err != nil {
		return nil, bad("files", "lacks the file %s", name)
	}
	defer f.Close()
	var b bytes.Buffer
	n, err := io.Copy(&b, io.LimitReader(f, mostFile+1))
	if err != nil || n > mostFile {
		return nil, bad("files", "has a file %s that cannot be read", name)
	}
	return b.Bytes(), nil
}
