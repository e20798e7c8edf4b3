package table

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"strconv"
	"strings"

	"sodrik/internal/core/problem"
)

// book is an XLSX: a zip of parts that name one another (ECMA-376, part 2), read one XML token after the other.
type book struct {
	zip    *zip.Reader
	sheets []bookSheet
	shared []string
	shows  []shown // what cells show, by the number of their style
	from04 bool    // days count from 1904, not from 1900
	text   int     // bytes of text that cells have given so far
	slots  int     // cells given so far, with the empty ones
}

type bookSheet struct {
	name, part    string
	hidden, chart bool
}

// openBook reads what a workbook says of itself: its sheets, shared strings and styles.
func openBook(ctx context.Context, file []byte) (*book, error) {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		return nil, errUnread
	}
	b := &book{zip: z}
	for _, f := range z.File {
		if f.UncompressedSize64 > maxUnzipped {
			return nil, errBomb
		}
	}
	main := "xl/workbook.xml"
	if top, err := b.related(ctx, ""); err != nil {
		return nil, err
	} else if part := top.of("/officeDocument"); part != "" {
		main = part
	}
	if b.part(main) == nil {
		return nil, bad("rows.zip", "are a zip that is no workbook; give them as CSV, XLSX, vCards or a calendar file")
	}
	links, err := b.related(ctx, main)
	if err != nil {
		return nil, err
	}
	if err := b.readSheets(ctx, main, links); err != nil {
		return nil, err
	}
	if err := b.readStyles(ctx, links.of("/styles")); err != nil {
		return nil, err
	}
	return b, b.readShared(ctx, links.of("/sharedStrings"))
}

// part is a part by its name, nil where there is none. Names do not differ by case (ECMA-376, part 2, 6.2.2).
func (b *book) part(name string) *zip.File {
	for _, f := range b.zip.File {
		if strings.EqualFold(strings.TrimPrefix(strings.ReplaceAll(f.Name, `\`, "/"), "/"), name) {
			return f
		}
	}
	return nil
}

// relations are the parts that a part names, by their id.
type relations map[string]struct{ kind, part string }

// of is the part whose type ends so, "" where there is none.
func (r relations) of(kind string) string {
	for _, one := range r {
		if strings.HasSuffix(one.kind, kind) {
			return one.part
		}
	}
	return ""
}

// related reads the relations of a part, of the whole file for "".
func (b *book) related(ctx context.Context, name string) (relations, error) {
	out := relations{}
	folder, file := path.Split(name)
	err := b.walk(ctx, folder+"_rels/"+file+".rels", func(t xml.Token) error {
		if e, ok := t.(xml.StartElement); ok && e.Name.Local == "Relationship" {
			target := strings.ReplaceAll(attr(e, "Target"), `\`, "/")
			if !strings.HasPrefix(target, "/") {
				target = path.Join("/", folder, target)
			}
			out[attr(e, "Id")] = struct{ kind, part string }{attr(e, "Type"), strings.TrimPrefix(path.Clean(target), "/")}
		}
		return nil
	})
	return out, err
}

func (b *book) readSheets(ctx context.Context, name string, links relations) error {
	return b.walk(ctx, name, func(t xml.Token) error {
		e, ok := t.(xml.StartElement)
		switch {
		case !ok:
		case e.Name.Local == "workbookPr":
			b.from04 = isTrue(attr(e, "date1904"))
		case e.Name.Local == "sheet":
			link := links[attr(e, "id")]
			b.sheets = append(b.sheets, bookSheet{name: attr(e, "name"), part: link.part, hidden: strings.Contains(
				strings.ToLower(attr(e, "state")), "hidden"), chart: !strings.HasSuffix(link.kind, "/worksheet")})
		}
		return nil
	})
}

// readShared reads the strings that cells share. One that is too long for a cell is kept as far as shows that it is.
func (b *book) readShared(ctx context.Context, name string) error {
	var s xmlText
	return b.walk(ctx, name, func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			s.start(t.Name.Local)
		case xml.CharData:
			s.add(t)
		case xml.EndElement:
			if s.end(t.Name.Local); t.Name.Local == "si" {
				b.shared = append(b.shared, s.take())
			}
		}
		return nil
	})
}

// walk gives the tokens of a part to see; a part that is not there has none. It stops at the bounds of a workbook, and where
// the context ends.
func (b *book) walk(ctx context.Context, name string, see func(xml.Token) error) error {
	f := b.part(name)
	if f == nil || name == "" {
		return nil
	}
	in, err := f.Open()
	if err != nil {
		return errUnread
	}
	defer in.Close()
	d := xml.NewDecoder(&partReader{ctx: ctx, in: in, left: maxUnzipped})
	for elements := 0; ; {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err == nil {
			if _, ok := t.(xml.StartElement); ok {
				elements++
			}
			if elements > maxElements {
				return errCells
			}
			err = see(t)
		}
		if err != nil {
			return asProblem(err)
		}
	}
}

// partReader gives a part as far as its bounds go.
type partReader struct {
	ctx  context.Context
	in   io.Reader
	left int
}

func (r *partReader) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	n, err := r.in.Read(p)
	if r.left -= n; r.left < 0 {
		return 0, errBomb
	}
	return n, err
}

// xmlText gathers the text of a string: its runs after one another, what says how it is spoken left out (ECMA-376, 18.4).
type xmlText struct {
	text   []byte
	within bool // of a t
	spoken bool // of an rPh
}

func (s *xmlText) start(name string) {
	switch name {
	case "t":
		s.within = !s.spoken
	case "rPh":
		s.spoken = true
	}
}

func (s *xmlText) end(name string) {
	switch name {
	case "t":
		s.within = false
	case "rPh":
		s.spoken = false
	}
}

func (s *xmlText) add(text []byte) {
	if s.within {
		s.text = append(s.text, text[:min(len(text), max(0, 4*MaxCell+1-len(s.text)))]...)
	}
}

func (s *xmlText) take() string {
	out := unescaped(string(s.text))
	*s = xmlText{text: s.text[:0]}
	return out
}

// unescaped reads the characters that XML cannot hold, written _xHHHH_ (ECMA-376, 22.9.2.19).
func unescaped(s string) string {
	for at := 0; ; {
		i := strings.Index(s[at:], "_x")
		if i < 0 {
			return s
		}
		i += at
		at = i + 2
		if len(s) < i+7 || s[i+6] != '_' {
			continue
		}
		if n, err := strconv.ParseUint(s[i+2:i+6], 16, 16); err == nil {
			s = s[:i] + string(rune(n)) + s[i+7:]
			at = i + 1
		}
	}
}

// attr is an attribute by its name without prefix.
func attr(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

func isTrue(s string) bool { return s == "1" || s == "true" }

func isProblem(err error) bool {
	var l problem.List
	return errors.As(err, &l)
}
