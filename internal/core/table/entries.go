package table

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"sodrik/internal/core/job"
)

// Bounds of a file of cards or dates.
const (
	maxEntries = 16 << 20 // bytes of the file
	maxCards   = 100_000  // cards or dates in it
	maxLines   = 1000     // lines of one, without its pictures
)

// entries reads cards or dates: each is a row, each field that any of them has a column. It goes through the text twice, first
// for the columns, so that no more than one card is held at a time.
func entries(ctx context.Context, b *bufio.Reader, o Options) (*Rows, error) {
	in, _ := decoded(b, o.Encoding)
	text, err := io.ReadAll(io.LimitReader(in, maxEntries+1))
	if err != nil {
		return nil, err
	}
	if len(text) > maxEntries {
		return nil, bad("rows.large", "are more than %d MB of cards or dates; take them in several files", maxEntries>>20)
	}
	s := strings.TrimPrefix(string(text), "\ufeff")
	out := &Rows{Kind: "event"}
	if strings.Contains(strings.ToLower(s[:min(len(s), 200)]), "begin:vcard") {
		out.Kind = "contact"
	}
	has := map[string]bool{}
	all, n := &cards{text: s, kind: out.Kind}, 0
	for {
		one, err := all.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err == nil {
			err = ctx.Err()
		}
		if n++; err == nil && n > maxCards {
			err = bad("rows.many", "are more than %d cards or dates; take them in several files", maxCards)
		}
		if err != nil {
			return nil, err
		}
		for path := range one {
			if has[path] = true; len(has) > MaxColumns {
				return nil, bad("rows.columns", "need more than %d columns, by card %d; leave some of its lines out",
					MaxColumns, n)
			}
		}
	}
	if len(has) == 0 {
		return nil, bad("rows.none", "hold no card and no date")
	}
	var names []string
	for _, c := range columnsOf(out.Kind, has) {
		out.Paths, names = append(out.Paths, c.path), append(names, c.name)
	}
	if out.Columns, err = named(names); err != nil {
		return nil, err
	}
	all, n = &cards{text: s, kind: out.Kind}, 0
	out.next = func() (Row, error) {
		one, err := all.next()
		if err != nil {
			return Row{}, err
		}
		n++
		row := Row{Line: n, Cells: make([]string, len(out.Paths))}
		for i, path := range out.Paths {
			row.Cells[i] = one[path]
		}
		return row, nil
	}
	return out, nil
}

// flatten puts what a decoded value holds under its pointers.
func flatten(at string, v any, out map[string]string) {
	switch v := v.(type) {
	case map[string]any:
		for k, one := range v {
			if at != "/content" || k != "kind" {
				flatten(at+"/"+k, one, out)
			}
		}
	case []any:
		for i, one := range v {
			flatten(at+"/"+strconv.Itoa(i), one, out)
		}
	case nil:
	default:
		if s := fmt.Sprint(v); s != "" {
			out[at] = s
		}
	}
}

type pathColumn struct{ path, name string }

// columnsOf are the fields that any entry has, in the order of their declaration, entries of lists after one another.
func columnsOf(kind string, has map[string]bool) (out []pathColumn) {
	for _, c := range job.Columns(kind) {
		name := c.Field.Label
		if name == "" {
			name = c.Field.Name()
		}
		for n := 0; ; n++ {
			path := c.Path
			if i := strings.LastIndex(path, "/0"); i >= 0 {
				path = path[:i+1] + strconv.Itoa(n) + path[i+2:]
			}
			if !has[path] || n > 0 && path == c.Path {
				break
			}
			out = append(out, pathColumn{path, name})
		}
	}
	return out
}
