package pdfpage

import (
	"bytes"
	"compress/zlib"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"sync"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// ErrTable is a file whose table of objects only a repair would find.
var ErrTable = errors.New("is a PDF whose table of objects is damaged; open it in what made it and save it again")

// Drawing is what is added to a page: a form (ISO 32000-1, 8.10) and what it refers to.
type Drawing struct {
	Width, Height float64  // points, its origin at the left foot
	Content       []byte   // operators
	Resources     string   // a dictionary, written out
	Objects       [][]byte // what Resources refers to, numbered from the number that Add was told to begin with
}

// Add gives the file with a drawing on the page, above all that is there. It is an incremental update (ISO 32000-1, 7.5.6):
// every byte of the file stays as it was, and what is added follows. draw is called with the number of the first object that
// it may use.
func (p *Page) Add(data []byte, at [6]float64, draw func(first int) Drawing) (out []byte, err error) {
	defer func() {
		if recover() != nil {
			out, err = nil, ErrDamaged
		}
	}()
	prev, err := startOf(data)
	if err != nil {
		return nil, err
	}
	next := p.ctx.MaxObjNr + 1
	if p.ctx.Size != nil {
		next = max(next, *p.ctx.Size)
	}
	form, open, shut, first := next, next+1, next+2, next+3
	d := draw(first)

	resources, name, err := p.resources(form)
	if err != nil {
		return nil, err
	}
	before, after := p.balance()
	contents := types.Array{*types.NewIndirectRef(open, 0)}
	old, err := p.contents()
	if err != nil {
		return nil, err
	}
	contents = append(append(contents, old...), *types.NewIndirectRef(shut, 0))
	page := p.dict.Clone().(types.Dict)
	page["Resources"], page["Contents"] = resources, contents

	w := &update{prev: prev}
	w.out.Write(data)
	if !bytes.HasSuffix(data, []byte("\n")) {
		w.out.WriteByte('\n')
	}
	w.object(p.ref.ObjectNumber.Value(), p.ref.GenerationNumber.Value(), []byte(page.PDFString()))
	w.object(form, 0, Stream(fmt.Sprintf("/Type /XObject /Subtype /Form /FormType 1 /BBox [0 0 %s %s] /Resources %s",
		number(d.Width), number(d.Height), d.Resources), d.Content))
	w.object(open, 0, Stream("", []byte(strings.Repeat("q ", before)+"\n")))
	var m []string
	for _, f := range at {
		m = append(m, number(f))
	}
	w.object(shut, 0, Stream("", fmt.Appendf(nil, "\n%s\nq %s cm /%s Do Q\n", strings.Repeat("Q ", after),
		strings.Join(m, " "), name)))
	for i, o := range d.Objects {
		w.object(first+i, 0, o)
	}
	id := p.ctx.ID
	return w.close(p.ctx.Read.UsingXRefStreams && !p.ctx.Read.Hybrid, first+len(d.Objects), p.ctx.Root, p.ctx.Info, id), nil
}

// resources are the page's own with the form among them, and its name.
func (p *Page) resources(form int) (types.Dict, string, error) {
	res := types.Dict{}
	if o, ok := p.dict.Find("Resources"); ok {
		d, err := p.ctx.DereferenceDict(o)
		if err != nil {
			return nil, "", ErrDamaged
		}
		if d != nil {
			res = d.Clone().(types.Dict)
		}
	} else if p.res != nil {
		res = p.res.Clone().(types.Dict)
	}
	objects := types.Dict{}
	if o, ok := res.Find("XObject"); ok {
		d, err := p.ctx.DereferenceDict(o)
		if err != nil {
			return nil, "", ErrDamaged
		}
		if d != nil {
			objects = d.Clone().(types.Dict)
		}
	}
	name := "Code"
	for i := 1; ; i++ {
		if _, taken := objects[name]; !taken {
			break
		}
		name = fmt.Sprintf("Code%d", i)
	}
	objects[name] = *types.NewIndirectRef(form, 0)
	res["XObject"] = objects
	return res, name, nil
}

// contents are the streams that the page has.
func (p *Page) contents() (types.Array, error) {
	o, ok := p.dict.Find("Contents")
	if !ok || o == nil {
		return nil, nil
	}
	if ref, is := o.(types.IndirectRef); is {
		in, err := p.ctx.Dereference(ref)
		if err != nil {
			return nil, ErrDamaged
		}
		if list, is := in.(types.Array); is {
			return list, nil
		}
		return types.Array{ref}, nil
	}
	if list, is := o.(types.Array); is {
		return list, nil
	}
	return nil, ErrDamaged
}

// balance is how many states to save before what the page draws, and to restore after it, so that it neither takes one of
// ours nor leaves its own: some programs write pages whose q and Q do not match.
func (p *Page) balance() (before, after int) {
	text, err := p.ctx.PageContent(p.dict, p.Number)
	if err != nil {
		return 1, 1
	}
	least, now := States(text)
	before = 1 - least
	return before, before + now
}

// States counts how deep the saved states of a content stream go: the lowest depth on the way, 0 or less, and that at its end.
func States(text []byte) (least, end int) {
	eachOperator(text, func(op string) {
		switch op {
		case "q":
			end++
		case "Q":
			end--
			least = min(least, end)
		}
	})
	return least, end
}

// eachOperator gives the words of a content stream that are operators or numbers, past strings, names, comments and inline
// images.
func eachOperator(text []byte, each func(op string)) {
	for i := 0; i < len(text); {
		c := text[i]
		switch {
		case c == '%':
			for i < len(text) && text[i] != '\n' && text[i] != '\r' {
				i++
			}
		case c == '(':
			depth := 0
			for ; i < len(text); i++ {
				switch text[i] {
				case '\\':
					i++
				case '(':
					depth++
				case ')':
					depth--
				}
				if depth == 0 {
					break
				}
			}
			i++
		case c == '<' || c == '>' || c == '[' || c == ']' || c == '{' || c == '}' || c == ')' || blank(c):
			i++
		default:
			from := i
			i++
			for i < len(text) && !blank(text[i]) && !bytes.ContainsRune([]byte("()<>[]{}/%"), rune(text[i])) {
				i++
			}
			op := string(text[from:i])
			each(op)
			if op == "ID" { // the data of an inline image, up to EI between blanks
				i++
				for ; i+3 < len(text); i++ {
					if blank(text[i]) && text[i+1] == 'E' && text[i+2] == 'I' && (blank(text[i+3])) {
						break
					}
				}
				i += 3
			}
		}
	}
}

func blank(c byte) bool {
	return c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\f' || c == 0
}

// startOf is where the last table of objects of a file begins.
func startOf(data []byte) (int, error) {
	tail := data[max(0, len(data)-2048):]
	i := bytes.LastIndex(tail, []byte("startxref"))
	if i < 0 {
		return 0, ErrTable
	}
	f := bytes.Fields(tail[i+len("startxref"):])
	if len(f) == 0 {
		return 0, ErrTable
	}
	at, err := strconv.Atoi(string(f[0]))
	if err != nil || at <= 0 || at >= len(data) {
		return 0, ErrTable
	}
	head := bytes.TrimLeft(data[at:min(len(data), at+32)], " \r\n\t")
	if !bytes.HasPrefix(head, []byte("xref")) && !bytes.Contains(head, []byte("obj")) {
		return 0, ErrTable
	}
	return at, nil
}

// update is what follows the file.
type update struct {
	out     bytes.Buffer
	prev    int
	entries []entry
}

type entry struct{ number, generation, at int }

func (w *update) object(number, generation int, body []byte) {
	w.entries = append(w.entries, entry{number, generation, w.out.Len()})
	fmt.Fprintf(&w.out, "%d %d obj\n%s\nendobj\n", number, generation, body)
}

// close writes the table: a stream where the file has streams (7.5.8), else in its old form (7.5.4).
func (w *update) close(stream bool, size int, root, info *types.IndirectRef, id types.Array) []byte {
	sum := sha256.Sum256(w.out.Bytes())
	trailer := fmt.Sprintf("/Root %s /Prev %d", root.PDFString(), w.prev)
	if info != nil {
		trailer += " /Info " + info.PDFString()
	}
	if len(id) == 2 {
		trailer += fmt.Sprintf(" /ID [%s <%X>]", id[0].PDFString(), sum[:16])
	}
	start := w.out.Len()
	if stream {
		w.entries = append(w.entries, entry{size, 0, start})
		var index, rows bytes.Buffer
		for _, e := range w.entries {
			fmt.Fprintf(&index, "%d 1 ", e.number)
			rows.Write([]byte{1, byte(e.at >> 24), byte(e.at >> 16), byte(e.at >> 8), byte(e.at), byte(e.generation >> 8),
				byte(e.generation)})
		}
		fmt.Fprintf(&w.out, "%d 0 obj\n%s\nendobj\n", size,
			Stream(fmt.Sprintf("/Type /XRef /Size %d /Index [%s] /W [1 4 2] %s", size+1, index.String(), trailer), rows.Bytes()))
	} else {
		w.out.WriteString("xref\n")
		for _, e := range w.entries {
			fmt.Fprintf(&w.out, "%d 1\n%010d %05d n \n", e.number, e.at, e.generation)
		}
		fmt.Fprintf(&w.out, "trailer\n<< /Size %d %s >>\n", size, trailer)
	}
	fmt.Fprintf(&w.out, "startxref\n%d\n%%%%EOF\n", start)
	return w.out.Bytes()
}

// packers are used again: to make one takes longer than to pack a page.
var packers = sync.Pool{New: func() any { return zlib.NewWriter(io.Discard) }}

// Stream is a compressed stream with these entries in its dictionary.
func Stream(entries string, data []byte) []byte {
	var z bytes.Buffer
	c := packers.Get().(*zlib.Writer)
	c.Reset(&z)
	c.Write(data) // a bytes.Buffer takes everything
	c.Close()
	packers.Put(c)
	return fmt.Appendf(nil, "<< %s /Length %d /Filter /FlateDecode >>\nstream\n%s\nendstream", entries, z.Len(), z.Bytes())
}

func number(f float64) string {
	s := strings.TrimRight(strings.TrimRight(strconv.FormatFloat(f, 'f', 6, 64), "0"), ".")
	if s == "" || s == "-0" {
		return "0"
	}
	return s
}
