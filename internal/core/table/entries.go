package table

import (
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
)

// maxEntries bounds a file of cards or dates, in bytes.
const maxEntries = 16 << 20

// entries reads cards or dates: each is a row, each field that any of them has a column.
func entries(b *bufio.Reader, o Options) (*Rows, error) {
	in, _ := decoded(b, o.Encoding)
	text, err := io.ReadAll(io.LimitReader(in, maxEntries+1))
	if err != nil {
		return nil, err
	}
	if len(text) > maxEntries {
		return nil, bad("rows.large", "are more than %d MB of cards or dates; take them in several files", maxEntries>>20)
	}
	out := &Rows{Kind: "event"}
	s := strings.TrimPrefix(string(text), "\ufeff")
	list := content.Events(s)
	if strings.Contains(strings.ToLower(s[:min(len(s), 200)]), "begin:vcard") {
		out.Kind, list = "contact", content.VCards(s)
	}
	var flat []map[string]string
	has := map[string]bool{}
	for _, values := range list {
		one := map[string]string{}
		flatten("/content", values, one)
		for path := range one {
			has[path] = true
		}
		flat = append(flat, one)
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
	at := 0
	out.next = func() (Row, error) {
		if at == len(flat) {
			return Row{}, io.EOF
		}
		row := Row{Line: at + 1, Cells: make([]string, len(out.Paths))}
		for i, path := range out.Paths {
			row.Cells[i] = flat[at][path]
		}
		at++
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
