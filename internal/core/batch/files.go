package batch

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"hash/crc32"
	"io"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
)

// Entry is a file of a zip, packed already.
type Entry struct {
	Name string
	Size uint64
	CRC  uint32
	Zip  []byte // deflated, or as it is where Method is zip.Store
	How  uint16
}

// EntryOf packs a file. Pictures are packed already and are stored.
func EntryOf(name string, data []byte) Entry {
	e := Entry{Name: name, Size: uint64(len(data)), CRC: crc32.ChecksumIEEE(data), Zip: data, How: zip.Store}
	switch name[strings.LastIndexByte(name, '.')+1:] {
	case "png", "jpg", "webp":
		return e
	}
	var b bytes.Buffer
	w, _ := flate.NewWriter(&b, flate.DefaultCompression) // the level is one
	w.Write(data)
	w.Close()
	if b.Len() < len(data) {
		e.Zip, e.How = b.Bytes(), zip.Deflate
	}
	return e
}

// Put writes a packed file into a zip, dated at.
func (e Entry) Put(z *zip.Writer, at time.Time) error {
	h := &zip.FileHeader{
		Name:               e.Name,
		Method:             e.How,
		CRC32:              e.CRC,
		UncompressedSize64: e.Size,
		CompressedSize64:   uint64(len(e.Zip)),
		Modified:           at.UTC(),
	}
	w, err := z.CreateRaw(h)
	if err == nil {
		_, err = w.Write(e.Zip)
	}
	return err
}

// Files makes the files of a row in some formats, for its first place. Where two formats have the same ending, the name says
// which is which. name is unique among the rows.
func Files(r *Row, name string, formats []compose.Format, at time.Time) (out []Entry, problems problem.List) {
	i := min(0, len(r.Rendition.Job.Placements)-1)
	for k, f := range formats {
		data, bad := r.Rendition.File(f, r.Rendition.Place(i), compose.MetaOf(f, r.Name, at))
		if len(bad) > 0 {
			return nil, bad
		}
		full := name
		for _, other := range formats[:k] {
			if other.Ending() == f.Ending() {
				full = name + "-" + strings.TrimSuffix(f.Key(), "."+f.Ending())
				break
			}
		}
		out = append(out, EntryOf(full+"."+f.Ending(), data))
	}
	return out, nil
}

// FileNames gives every good row a name for its files that none other has.
func FileNames(rows []*Row) []string {
	names := Names{}
	out := make([]string, len(rows))
	for i, r := range rows {
		if r.Good() {
			out[i] = names.Once(r.File)
		}
	}
	return out
}

// Listing are the columns of the table that goes with the files of a batch.
var Listing = []string{"row", "key", "name", "says", "link", "file", "version", "modules", "matrix", "verdict", "problem"}

// List writes a row of the listing. Secrets are masked; matrix is the SHA-256 of the modules, by which labels are compared.
func List(w table.Writer, r *Row, link, file, verdict string) error {
	if !r.Good() {
		return w.Row(r.N, r.Key, r.Name, "", link, "", "", 0, "", "", Sentence(r.Problems))
	}
	m := r.Rendition
	at := m.For(m.Place(min(0, len(m.Job.Placements)-1)))
	sum := sha256.Sum256([]byte(at.Symbol.Digest()))
	says := at.Job.Content
	if r.Leads != nil {
		says = r.Leads
	}
	return w.Row(r.N, r.Key, r.Name, content.Shown(says), link, file, strconv.Itoa(at.Symbol.Version)+"-"+
		at.Symbol.Level.String(), at.Symbol.Size, hex.EncodeToString(sum[:8]), verdict, "")
}

// Sentence is what is wrong with a row in one line.
func Sentence(problems problem.List) string {
	var out []string
	for _, p := range problems {
		if p.Field == "" {
			out = append(out, "the row "+p.Message)
			continue
		}
		out = append(out, p.Dotted()+" "+p.Message)
	}
	return strings.Join(out, "; ")
}

// Zip packs files of n rows, made by several at once, in the order of the rows. files gives those of one row, none for a row
// that cannot be made; done, where it is not nil, is told how many rows are through.
func Zip(ctx context.Context, z *zip.Writer, n int, at time.Time, files func(i int) ([]Entry, error), done func(rows int)) error {
	return InOrder(ctx, n, files, func(i int, entries []Entry) error {
		for _, e := range entries {
			if err := e.Put(z, at); err != nil {
				return err
			}
		}
		if done != nil {
			done(i + 1)
		}
		return nil
	})
}

// Each makes rows by several at once and gives them in order.
func Each(ctx context.Context, sources []Source, produce func(s Source) *Row, take func(r *Row) error) error {
	return InOrder(ctx, len(sources), func(i int) (*Row, error) { return produce(sources[i]), nil },
		func(_ int, r *Row) error { return take(r) })
}

// Stream makes rows of a table as they come, by several at once, in flat memory, and gives them in order.
func Stream(ctx context.Context, rows *table.Rows, m *Maker, find compose.Assets, take func(r *Row) error) error {
	const many = 512
	keys := Keys{}
	if m.Key < 0 {
		keys = nil
	}
	n := 0
	for {
		var sources []Source
		var end error
		for len(sources) < many && end == nil {
			var row table.Row
			if row, end = rows.Next(); end == nil {
				n++
				sources = append(sources, Source{N: n, Cells: row.Cells, Bad: row.Bad})
			}
		}
		err := Each(ctx, sources, func(s Source) *Row { return m.Make(s, find) }, func(r *Row) error {
			if keys != nil {
				if bad := keys.Check(r.Key, r.N); bad != nil {
					r.Problems, r.Rendition = append(r.Problems, *bad), nil
				}
			}
			return take(r)
		})
		if err != nil {
			return err
		}
		if end == io.EOF {
			return nil
		}
		if end != nil {
			return fmt.Errorf("after row %d: %w", n, end)
		}
	}
}
