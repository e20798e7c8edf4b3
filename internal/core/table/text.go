package table

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// sampled is how many bytes of a file tell what it is.
const sampled = 64 << 10

// delimited reads CSV, or text with a row a line.
func delimited(b *bufio.Reader, o Options) (*Rows, error) {
	text, encoding := decoded(b, o.Encoding)
	in := bufio.NewReaderSize(text, 2*sampled)
	start, err := in.Peek(sampled)
	whole := errors.Is(err, io.EOF)
	if err != nil && !whole && !errors.Is(err, bufio.ErrBufferFull) {
		return nil, err
	}
	if !whole { // its last line is cut
		if at := bytes.LastIndexByte(start, '\n'); at > 0 {
			start = start[:at+1]
		}
	}
	mark, words := delimiterOf(string(start))
	if d, ok := delimiterNamed(o.Delimiter); ok {
		mark, words = d.mark, d.Words
	}
	out := &Rows{}
	read := csvRows(in, mark)
	first, err := read()
	if errors.Is(err, io.EOF) {
		return nil, bad("rows.none", "are missing; paste them, or choose a file")
	}
	if err != nil {
		return nil, err
	}
	second, err := read()
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	held := []Row{second}
	if errors.Is(err, io.EOF) {
		held = nil
	}
	heads := o.Heads == HeadsThere || o.Heads == HeadsAuto && first.Bad == "" && heading(first.Cells, second.Cells)
	if !heads {
		held = append([]Row{first}, held...)
		out.Said = append(out.Said, "no heads, so columns are named by their place")
	}
	if out.Columns, err = columns(first.Cells, second.Cells, heads); err != nil {
		return nil, err
	}
	if len(out.Columns) == 0 {
		return nil, bad("rows.heads", "have no heads; write the name of each column into the first row")
	}
	if len(out.Columns) > 1 {
		out.Said = append(out.Said, words+" between cells")
	}
	if encoding != "" {
		out.Said = append(out.Said, encoding)
	}
	out.next = func() (Row, error) {
		if len(held) > 0 {
			row := held[0]
			held = held[1:]
			return row, nil
		}
		return read()
	}
	return out, nil
}

// csvRows reads records. A quote that is never closed would swallow the rest; it is said where it opens.
func csvRows(in io.Reader, mark rune) func() (Row, error) {
	limited := &limit{in: in}
	r := csv.NewReader(limited)
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = mark, -1, true
	return func() (Row, error) {
		limited.left = maxRecord + 2*sampled // what is read ahead counts with the row before
		cells, err := r.Read()
		switch {
		case errors.Is(err, errLong):
			line := 1
			if len(cells) > 0 {
				line, _ = r.FieldPos(0)
			}
			return Row{}, bad(
				"rows.quote",
				"hold a cell of more than %d bytes, after line %d; a quote may open there that nothing closes",
				maxRecord,
				line,
			)
		case errors.Is(err, io.EOF):
			return Row{}, io.EOF
		case err != nil:
			return Row{}, bad("rows.csv", "cannot be read: %v", err)
		}
		line, _ := r.FieldPos(0)
		row := Row{Line: line, Cells: cells}
		for _, cell := range cells {
			if strings.ContainsAny(cell, "\x00\ufffd") {
				row.Bad = "holds characters that could not be read; save the file as UTF-8"
			}
		}
		return row, nil
	}
}

var errLong = errors.New("the row is too long")

// limit gives no more than what is left.
type limit struct {
	in   io.Reader
	left int
}

func (l *limit) Read(p []byte) (int, error) {
	if l.left <= 0 {
		return 0, errLong
	}
	n, err := l.in.Read(p[:min(len(p), l.left)])
	l.left -= n
	return n, err
}

// delimiterOf is what stands between the cells of a text: what gives most lines the same number of cells, more than one.
func delimiterOf(sample string) (mark rune, words string) {
	best := 0.0
	mark, words = Delimiters[0].mark, Delimiters[0].Words
	for _, d := range Delimiters {
		r := csv.NewReader(strings.NewReader(sample))
		r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.ReuseRecord = d.mark, -1, true, true
		counts, rows := map[int]int{}, 0
		for {
			cells, err := r.Read()
			if err != nil {
				break
			}
			counts[len(cells)]++
			rows++
		}
		for cells, n := range counts {
			// rows that agree count; that there are more columns decides only between those that agree as well
			if score := float64(n)/float64(rows) + float64(min(cells, 20))/100; cells > 1 && 2*n >= rows && score > best {
				best, mark, words = score, d.mark, d.Words
			}
		}
	}
	if best == 0 { // one column: a mark that stands nowhere
		mark = unusedMark(sample)
	}
	return mark, words
}

// unusedMark is a delimiter that a text does not hold, so that each of its lines is one cell.
func unusedMark(sample string) rune {
	for _, d := range Delimiters {
		if !strings.ContainsRune(sample, d.mark) {
			return d.mark
		}
	}
	return '\x1f'
}

// decoded is a text as UTF-8, and a word on how it was written where that is not UTF-8. It is found out unless a name is given.
func decoded(b *bufio.Reader, name string) (io.Reader, string) {
	start, _ := b.Peek(sampled)
	if e, ok := encodingNamed(name); ok {
		if name == "utf-8" && bytes.HasPrefix(start, []byte("\xef\xbb\xbf")) {
			b.Discard(3)
		}
		return transform.NewReader(b, e.as.NewDecoder()), "read as " + e.Words
	}
	switch {
	case bytes.HasPrefix(start, []byte("\xef\xbb\xbf")):
		b.Discard(3)
		return transform.NewReader(b, mixed{}), ""
	case bytes.HasPrefix(start, []byte("\xff\xfe")), bytes.HasPrefix(start, []byte("\xfe\xff")):
		return transform.NewReader(b, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()), "UTF-16"
	}
	if n := len(start) &^ 1; n >= 4 { // UTF-16 without a mark: every other byte is 0
		var zero [2]int
		for i := range n {
			if start[i] == 0 {
				zero[i%2]++
			}
		}
		switch {
		case zero[1] > n/3 && zero[0] < n/20:
			return transform.NewReader(b, unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder()), "UTF-16"
		case zero[0] > n/3 && zero[1] < n/20:
			return transform.NewReader(b, unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder()), "UTF-16"
		}
	}
	word := ""
	if !utf8.Valid(cut(start)) {
		word = "read as Windows-1252"
	}
	return transform.NewReader(b, mixed{}), word
}

// cut leaves out a character at the end of a sample that was cut in the middle.
func cut(b []byte) []byte {
	for i := 1; i <= min(3, len(b)); i++ {
		if c := b[len(b)-i]; utf8.RuneStart(c) {
			if c >= utf8.RuneSelf && !utf8.FullRune(b[len(b)-i:]) {
				return b[:len(b)-i]
			}
			break
		}
	}
	return b
}

// mixed lets UTF-8 through and takes every other byte for one of Windows-1252, which holds all of Latin-1's letters: rows of
// both kinds that were pasted together are read as well.
type mixed struct{ transform.NopResetter }

func (mixed) Transform(dst, src []byte, atEOF bool) (nDst, nSrc int, err error) {
	for nSrc < len(src) {
		if c := src[nSrc]; c < utf8.RuneSelf {
			if nDst == len(dst) {
				return nDst, nSrc, transform.ErrShortDst
			}
			dst[nDst] = c
			nDst, nSrc = nDst+1, nSrc+1
			continue
		}
		if !atEOF && !utf8.FullRune(src[nSrc:]) {
			return nDst, nSrc, transform.ErrShortSrc
		}
		r, size := utf8.DecodeRune(src[nSrc:])
		if r == utf8.RuneError && size == 1 {
			r = charmap.Windows1252.DecodeByte(src[nSrc])
		}
		if nDst+utf8.RuneLen(r) > len(dst) {
			return nDst, nSrc, transform.ErrShortDst
		}
		nDst, nSrc = nDst+utf8.EncodeRune(dst[nDst:], r), nSrc+size
	}
	return nDst, nSrc, nil
}
