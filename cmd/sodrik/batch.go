package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"image"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"sodrik/internal/core/batch"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/table"
	"sodrik/internal/readers"
)

// exitRows is the exit code where some rows were refused.
const exitRows = 3

func init() {
	commands = append(commands, command{"batch", "ROWS -o OUT.zip", "make a code of each row: CSV, XLSX, vCards, dates", batchOf})
}

// maxBatch is how many rows become files or labels at once; a listing takes any number.
const maxBatch = 100_000

// batchCall is what the command is called with.
type batchCall struct {
	rows, job, out, formats, sheet, key, line, file, kind, order string
	heads, tab, delimiter, encoding                              string
	same, pages, quiet                                           bool
	start                                                        int
	sets                                                         []string
}

// batchOf makes a code of each row of a table.
func batchOf(args []string) error {
	var c batchCall
	var err error
	c.rows, err = parse("batch", "file of rows, or range such as MB-0001..MB-0200", args, func(f *flag.FlagSet) {
		f.StringVar(&c.job, "job", "", "`file` of the pattern; texts in it may have blanks such as {name}")
		f.StringVar(
			&c.out,
			"o",
			"",
			"`file` to write: .zip of files, .pdf of sheets, or .csv, a listing; - is a listing on standard output",
		)
		f.StringVar(&c.formats, "formats", "svg", "`formats` of files in a zip, commas between them")
		f.StringVar(
			&c.sheet,
			"sheet",
			"",
			"`sheet` of labels of a PDF: a usual one such as "+impose.Usuals[0].Key+", or a JSON file",
		)
		f.BoolVar(&c.pages, "pages", false, "a PDF with a page for each code, as large as the code")
		f.StringVar(&c.order, "order", "", "`order` of labels: rows, columns or stack")
		f.IntVar(&c.start, "start", 0, "`place` of the first sheet on which the first label lies")
		f.StringVar(&c.key, "key", "", "`column` that tells rows apart")
		f.StringVar(&c.line, "line", "", "`text` under each label, with blanks: \"{variety} · {lot}\"")
		f.StringVar(&c.file, "names", "", "`text` that files are called by, with blanks")
		f.StringVar(&c.kind, "kind", "", "`kind` of content without a pattern; found out if not given")
		f.StringVar(&c.heads, "heads", "", "whether the first row names the columns: `yes or no`; found out if not given")
		f.StringVar(&c.delimiter, "delimiter", "",
			"what stands between cells: `comma, semicolon, tab or stroke`; found out if not given")
		f.StringVar(&c.encoding, "encoding", "",
			"`name` of the encoding of a text, such as utf-8 or windows-1252; found out if not given")
		f.StringVar(&c.tab, "tab", "", "`name` of the sheet of a workbook; the first if not given")
		f.BoolVar(&c.same, "same", false, "all codes of the same version, so that they look alike")
		f.BoolVar(&c.quiet, "quiet", false, "say nothing of what was taken for granted")
		f.Func("set", "`field=text` with blanks, such as content.url=https://marrowby.example/{sku}; may be given again",
			func(s string) error {
				c.sets = append(c.sets, s)
				return nil
			})
	})
	if err != nil {
		return err
	}
	if c.out == "" {
		return status{exitProblems, "sodrik batch needs -o FILE"}
	}
	return c.run(context.Background())
}

// open opens the rows.
func (c *batchCall) open(ctx context.Context) (*table.Rows, io.Closer, error) {
	if from, to, ok := strings.Cut(c.rows, ".."); ok {
		if _, err := os.Stat(c.rows); err != nil {
			rows, err := table.Numbers(from, to)
			return rows, nil, err
		}
	}
	in := os.Stdin
	if c.rows != "-" {
		f, err := os.Open(c.rows)
		if err != nil {
			return nil, nil, status{exitProblems, fmt.Sprintf("%s: cannot be read: %v", c.rows, errors.Unwrap(err))}
		}
		in = f
	}
	o, problems := table.ReadOptions(func(key string) string {
		return map[string]string{"heads": c.heads, "delimiter": c.delimiter, "encoding": c.encoding, "tab": c.tab}[key]
	})
	if len(problems) > 0 {
		return nil, nil, problems
	}
	rows, err := table.Open(ctx, in, o)
	return rows, in, err
}

// planOf is the plan: the pattern with its own blanks, what columns fill by themselves, what the call sets.
func (c *batchCall) planOf(columns, paths []string, kind string, sample [][]string) (*batch.Plan, error) {
	if c.kind != "" {
		kind = c.kind
	}
	if kind == "" {
		var paths []string
		for _, s := range c.sets {
			field, _, _ := strings.Cut(s, "=")
			paths = append(paths, pointer(field))
		}
		kind = batch.KindWith(batch.Guess(columns, sample), paths)
	}
	var draft any = batch.Pattern(kind)
	if c.job != "" {
		text, err := load(c.job, 1<<20)
		if err != nil {
			return nil, err
		}
		if draft, err = inlineArt(c.job, text); err == nil && draft == nil {
			draft, err = fields.Decode(text)
		}
		if err != nil {
			return nil, status{exitProblems, fmt.Sprintf("%s: %v", c.job, err)}
		}
	}
	p := batch.OfJob(draft, columns)
	for i, path := range paths {
		p.Put(path, batch.Blank(columns[i]))
	}
	if len(paths) == 0 {
		for _, s := range batch.Suggest(p.Kind(), columns, sample, nil) {
			if p.At(s.Path) == "" {
				p.Put(s.Path, s.Text)
			}
		}
	}
	for _, s := range c.sets {
		field, text, ok := strings.Cut(s, "=")
		if !ok {
			return nil, status{exitProblems, fmt.Sprintf("-set %s: write field=text", s)}
		}
		p.Put(pointer(field), text)
	}
	p.Key, p.Line, p.File, p.Same = c.key, c.line, c.file, c.same
	return p, nil
}

// pointer is a field as the command line has it, content.url, as a JSON Pointer.
func pointer(field string) string {
	return "/" + strings.ReplaceAll(strings.TrimPrefix(field, "/"), ".", "/")
}

// looked is how many rows are looked at to find out what columns hold.
const looked = 30

func (c *batchCall) run(ctx context.Context) error {
	rows, file, err := c.open(ctx)
	if file != nil {
		defer file.Close()
	}
	if err != nil {
		return err
	}
	rows, sample, err := rows.Ahead(looked)
	if err != nil {
		return err
	}
	plan, err := c.planOf(rows.Columns, rows.Paths, rows.Kind, sample)
	if err != nil {
		return err
	}
	m, problems := plan.Compile(rows.Columns)
	if len(problems) > 0 {
		return problems
	}
	if !c.quiet {
		for _, said := range rows.Said {
			fmt.Fprintln(os.Stderr, "rows: "+said)
		}
		for _, s := range plan.Set {
			fmt.Fprintf(os.Stderr, "%s: %s\n", strings.ReplaceAll(s.Path[1:], "/", "."), s.Text)
		}
	}
	if ending := filepath.Ext(c.out); ending == ".csv" || c.out == "-" {
		if c.same {
			return status{exitProblems, "-same needs all rows before the first; make a zip or a PDF"}
		}
		return c.listing(ctx, rows, m)
	}
	all, err := rows.All(maxBatch)
	if err != nil {
		return err
	}
	b, err := made(ctx, m, all)
	if err != nil {
		return err
	}
	return c.write(ctx, b)
}

// listing writes the listing of any number of rows.
func (c *batchCall) listing(ctx context.Context, rows *table.Rows, m *batch.Maker) error {
	out := io.Writer(os.Stdout)
	if c.out != "-" {
		f, err := os.Create(c.out)
		if err != nil {
			return err
		}
		defer f.Close()
		out = f
	}
	w := table.NewCSV(out)
	w.Head(batch.Listing...)
	bad := 0
	err := batch.Stream(ctx, rows, m, nil, func(r *batch.Row) error {
		if !r.Good() {
			bad++
			refused(r)
		}
		return batch.List(w, r, "", "", "")
	})
	if err == nil {
		err = w.End()
	}
	if err == nil && bad > 0 {
		err = status{exitRows, measure.Plural(bad, "row") + " refused"}
	}
	return err
}

// refused says why a row was refused.
func refused(r *batch.Row) { fmt.Fprintf(os.Stderr, "row %d: %s\n", r.N, batch.Sentence(r.Problems)) }

// made makes all rows once, and finds the version that all have.
func made(ctx context.Context, m *batch.Maker, all []table.Row) (*batch.Made, error) {
	var sources []batch.Source
	for i, row := range all {
		sources = append(sources, batch.Source{N: i + 1, Cells: row.Cells, Bad: row.Bad})
	}
	return batch.MakeAll(ctx, m, sources, nil)
}

// write writes the files.
func (c *batchCall) write(ctx context.Context, b *batch.Made) error {
	for _, r := range b.Bad {
		refused(r)
	}
	if len(b.Good) == 0 {
		return status{exitProblems, "no row can be made"}
	}
	f, err := os.Create(c.out)
	if err != nil {
		return err
	}
	defer f.Close()
	switch filepath.Ext(c.out) {
	case ".zip":
		err = c.zip(ctx, f, b)
	case ".pdf":
		err = c.pdf(ctx, f, b)
	default:
		err = status{exitProblems, "-o ends in .zip, .pdf or .csv"}
	}
	if err != nil {
		f.Close()
		os.Remove(c.out)
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	if len(b.Bad) > 0 {
		return status{exitRows, fmt.Sprintf("%s refused, %s made", measure.Plural(len(b.Bad), "row"), measure.Count(len(b.Good)))}
	}
	return nil
}

func (c *batchCall) zip(ctx context.Context, out io.Writer, b *batch.Made) error {
	var formats []compose.Format
	for _, key := range strings.Split(c.formats, ",") {
		f, problems := compose.ParseFormat(strings.TrimSpace(key))
		if len(problems) > 0 {
			return problems
		}
		formats = append(formats, f)
	}
	at := time.Now()
	z := zip.NewWriter(out)
	err := batch.Zip(ctx, z, len(b.Good), at, func(i int) ([]batch.Entry, error) {
		r := b.Make(i)
		entries, problems := batch.Files(r, b.Names[i], formats, at)
		if len(problems) > 0 {
			return nil, fmt.Errorf("row %d: %w", r.N, problems)
		}
		return entries, nil
	}, nil)
	if err != nil {
		return err
	}
	var list bytes.Buffer
	if err := b.List(ctx, &list, formats[0].Ending()); err != nil {
		return err
	}
	if err := batch.EntryOf("rows.csv", list.Bytes()).Put(z, at); err != nil {
		return err
	}
	return z.Close()
}

// setting is the sheet that was asked for.
func (c *batchCall) setting() (impose.Setting, error) {
	var v any = map[string]any{}
	switch {
	case strings.HasSuffix(c.sheet, ".json"):
		text, err := load(c.sheet, 1<<16)
		if err != nil {
			return impose.Setting{}, err
		}
		if v, err = fields.Decode(text); err != nil {
			return impose.Setting{}, status{exitProblems, fmt.Sprintf("%s: %v", c.sheet, err)}
		}
	case c.sheet != "":
		v = map[string]any{"sheet": c.sheet}
	}
	if m, ok := v.(map[string]any); ok {
		if c.order != "" {
			m["order"] = c.order
		}
		if c.start > 0 {
			m["start"] = json.Number(fmt.Sprint(c.start))
		}
	}
	s, problems := impose.Read(v)
	return s, problems.Err()
}

func (c *batchCall) pdf(ctx context.Context, out *os.File, b *batch.Made) error {
	w, err := b.Sheets(nil)
	if !c.pages {
		s, bad := c.setting()
		if bad != nil {
			return bad
		}
		w, err = b.Sheets(&s)
	}
	if err != nil {
		return err
	}
	start := time.Now()
	title := strings.TrimSuffix(filepath.Base(c.out), ".pdf")
	if err := w.Write(ctx, out, export.Meta{Title: title, Created: start}); err != nil {
		return err
	}
	back, err := b.ReadBack(ctx, w, time.Since(start), func(ctx context.Context, sheet int, dpi float64) (image.Image, error) {
		return readers.SheetOf(ctx, out.Name(), sheet+1, dpi)
	}, readers.Texts(readers.Panel()))
	if err != nil {
		fmt.Fprintf(os.Stderr, "not read back: %v\n", err)
		return nil
	}
	if len(back.Unread) > 0 {
		r := b.Good[back.Unread[0]]
		return status{exitFailed, fmt.Sprintf("%v; the first is row %d", back, r.N)}
	}
	if !c.quiet {
		fmt.Fprintln(os.Stderr, back)
	}
	return nil
}
