package batch

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// RowNumber is the blank that holds the number of the row, from 1: {#}, or {#4} with zeros to four digits.
const RowNumber = "#"

// MaxText bounds a text with blanks, in bytes.
const MaxText = 2000

// Text is a text with blanks, each the name of a column between braces: "{variety} · {lot}". A brace itself is written twice.
type Text struct{ parts []part }

// part is literal text, or a blank: a column from 0, or the number of the row with so many digits.
type part struct {
	text   string
	column int // −1 for text, −2 for the number of the row
	digits int
}

// ReadText reads a text with blanks for columns of some names; capitals do not matter. wrong says what is wrong with it, as
// the rest of a sentence that begins with its field; "" for nothing.
func ReadText(s string, columns []string) (t Text, wrong string) {
	if len(s) > MaxText {
		return t, fmt.Sprintf("is longer than %d bytes; shorten it", MaxText)
	}
	lit := strings.Builder{}
	flush := func() {
		if lit.Len() > 0 {
			t.parts = append(t.parts, part{text: lit.String(), column: -1})
			lit.Reset()
		}
	}
	for s != "" {
		switch {
		case strings.HasPrefix(s, "{{"), strings.HasPrefix(s, "}}"):
			lit.WriteByte(s[0])
			s = s[2:]
		case s[0] == '{':
			name, rest, ok := strings.Cut(s[1:], "}")
			if !ok {
				return t, "has a brace that is not closed; write the name of a column between { and }"
			}
			p, ok := blankOf(strings.TrimSpace(name), columns)
			if !ok {
				return t, fmt.Sprintf("has {%.40s}, which is no column; there are %s", name, listed(columns))
			}
			flush()
			t.parts = append(t.parts, p)
			s = rest
		case s[0] == '}':
			return t, "closes a brace that was not opened; a brace itself is written twice"
		default:
			n := strings.IndexAny(s, "{}")
			if n < 0 {
				n = len(s)
			}
			lit.WriteString(s[:n])
			s = s[n:]
		}
	}
	flush()
	return t, ""
}

// blankOf finds what a name between braces means.
func blankOf(name string, columns []string) (part, bool) {
	if i := slices.IndexFunc(columns, func(c string) bool { return strings.EqualFold(c, name) }); i >= 0 {
		return part{column: i}, true
	}
	if digits, ok := strings.CutPrefix(name, RowNumber); ok {
		n, err := strconv.Atoi(digits)
		if digits == "" || err == nil && n >= 1 && n <= 12 {
			return part{column: -2, digits: n}, true
		}
	}
	return part{}, false
}

// listed names columns for a sentence.
func listed(columns []string) string {
	const most = 8
	if len(columns) > most {
		return strings.Join(columns[:most], ", ") + fmt.Sprintf(" and %d more", len(columns)-most)
	}
	return strings.Join(columns, ", ")
}

// Blank is a column as a blank.
func Blank(column string) string { return "{" + column + "}" }

// Columns are the columns that a text takes something from.
func (t Text) Columns() (out []int) {
	for _, p := range t.parts {
		if p.column >= 0 && !slices.Contains(out, p.column) {
			out = append(out, p.column)
		}
	}
	return out
}

// Column is the one column that a text is nothing but; ok is false where it is more.
func (t Text) Column() (i int, ok bool) {
	if len(t.parts) != 1 || t.parts[0].column < 0 {
		return 0, false
	}
	return t.parts[0].column, true
}

// Fill puts the cells of row n, from 1, into the blanks. In a web address what fills a blank is percent-encoded but for
// unreserved characters (RFC 3986, 2.3), unless the address begins with it. Where all of its columns are empty, and it has
// any, nothing is left of a text: {first} · {second} of an empty row is no dot.
func (t Text) Fill(n int, cells []string, address bool) string {
	var b strings.Builder
	blanks, filled := 0, 0
	for i, p := range t.parts {
		switch {
		case p.column == -1:
			b.WriteString(p.text)
			continue
		case p.column == -2:
			fmt.Fprintf(&b, "%0*d", p.digits, n)
			continue
		}
		blanks++
		cell := ""
		if p.column < len(cells) {
			cell = strings.TrimSpace(cells[p.column])
		}
		if cell != "" {
			filled++
		}
		if address && i > 0 {
			cell = escape(cell)
		}
		b.WriteString(cell)
	}
	if blanks > 0 && filled == 0 {
		return ""
	}
	return b.String()
}

// escape is percent-encoding as RFC 3986 has it; what is escaped already stays.
func escape(s string) string {
	if plain, err := url.PathUnescape(s); err == nil && utf8.ValidString(plain) {
		s = plain
	}
	return strings.ReplaceAll(url.QueryEscape(s), "+", "%20")
}
