// Package line reads and writes content lines, the common grammar of vCard (RFC 2426, clause 2.6; RFC 6350, clause 3.3) and
// iCalendar (RFC 5545, clause 3.1): NAME;PARAM=VALUE:value, ended by CRLF. It knows no property by name.
//
// Lines are written without folding, which both formats recommend for more than 75 octets and do not require: in a symbol
// every fold costs three bytes, and phones that read codes do not all unfold.
package line

import (
	"io"
	"mime/quotedprintable"
	"strings"
)

// Line is one property.
type Line struct {
	Name   string              // in capitals, without its group
	Params map[string][]string // names in capitals; a parameter without name, as vCard 2.1 has them, is a TYPE
	Value  string              // as written, still escaped
}

// Param is the first value of a parameter, "" where it is absent.
func (l Line) Param(name string) string {
	if v := l.Params[name]; len(v) > 0 {
		return v[0]
	}
	return ""
}

// Parse takes a text apart into lines. Lines without a colon are left out; line ends may be CRLF, LF or CR.
func Parse(text string) (out []Line) {
	text = strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n")
	text = strings.ReplaceAll(strings.ReplaceAll(text, "\n ", ""), "\n\t", "")
	raw := strings.Split(text, "\n")
	for i := 0; i < len(raw); i++ {
		l, ok := parse(raw[i])
		if !ok {
			continue
		}
		if strings.EqualFold(l.Param("ENCODING"), "QUOTED-PRINTABLE") {
			for strings.HasSuffix(l.Value, "=") && i+1 < len(raw) { // soft line breaks
				i++
				l.Value = strings.TrimSuffix(l.Value, "=") + raw[i]
			}
			if b, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(l.Value))); err == nil {
				l.Value = strings.ReplaceAll(strings.ReplaceAll(string(b), "\r\n", "\n"), "\n", `\n`)
			}
		}
		out = append(out, l)
	}
	return out
}

func parse(s string) (l Line, ok bool) {
	head, quoted := -1, false
	for i := range len(s) {
		switch {
		case s[i] == '"':
			quoted = !quoted
		case s[i] == ':' && !quoted:
			head = i
		}
		if head >= 0 {
			break
		}
	}
	if head < 0 {
		return l, false
	}
	parts := outside(s[:head], ';')
	l.Name = strings.ToUpper(strings.TrimSpace(parts[0]))
	if i := strings.LastIndexByte(l.Name, '.'); i >= 0 {
		l.Name = l.Name[i+1:]
	}
	l.Value = s[head+1:]
	l.Params = map[string][]string{}
	for _, p := range parts[1:] {
		name, value, has := strings.Cut(p, "=")
		if !has {
			name, value = "TYPE", p
			if v := strings.ToUpper(p); v == "QUOTED-PRINTABLE" || v == "BASE64" {
				name = "ENCODING"
			}
		}
		name = strings.ToUpper(strings.TrimSpace(name))
		for _, v := range outside(value, ',') {
			l.Params[name] = append(l.Params[name], strings.Trim(v, `"`))
		}
	}
	return l, l.Name != ""
}

// outside splits at a character that stands outside double quotes.
func outside(s string, at byte) (out []string) {
	start, quoted := 0, false
	for i := range len(s) {
		switch {
		case s[i] == '"':
			quoted = !quoted
		case s[i] == at && !quoted:
			out = append(out, s[start:i])
			start = i + 1
		}
	}
	return append(out, s[start:])
}

var escapes = strings.NewReplacer(`\`, `\\`, "\r\n", `\n`, "\n", `\n`, "\r", `\n`, ";", `\;`, ",", `\,`)

// Escape makes a text fit for a value of type TEXT (RFC 5545, clause 3.3.11; RFC 6350, clause 3.4).
func Escape(s string) string { return escapes.Replace(s) }

// Unescape is the reverse; an unknown escape is the character itself.
func Unescape(s string) string {
	if !strings.Contains(s, `\`) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		c := s[i]
		if c == '\\' && i+1 < len(s) {
			i++
			if c = s[i]; c == 'n' || c == 'N' {
				c = '\n'
			}
		}
		b.WriteByte(c)
	}
	return b.String()
}

// Split takes a structured value apart at an unescaped separator, each part unescaped.
func Split(s string, at byte) (out []string) {
	for _, part := range Cut(s, at) {
		out = append(out, Unescape(part))
	}
	return out
}

// Cut takes a value apart at an unescaped separator and leaves the parts escaped.
func Cut(s string, at byte) (out []string) {
	start := 0
	for i := 0; i < len(s); i++ {
		switch s[i] {
		case '\\':
			i++
		case at:
			out = append(out, s[start:i])
			start = i + 1
		}
	}
	return append(out, s[start:])
}

// Writer puts lines together.
type Writer struct{ b strings.Builder }

// Raw writes a property whose value needs no escaping; nothing where the value is empty.
func (w *Writer) Raw(name, value string) {
	if value != "" {
		w.b.WriteString(name + ":" + value + "\r\n")
	}
}

// Text writes a property whose value is text; nothing where it is empty.
func (w *Writer) Text(name, value string) { w.Raw(name, Escape(value)) }

// Plain writes a property whose value is one text in a vCard 4.0, where a semicolon stands for itself (RFC 6350, clauses 3.4
// and 4.1); nothing where it is empty.
func (w *Writer) Plain(name, value string) {
	w.Raw(name, strings.ReplaceAll(Escape(value), `\;`, ";"))
}

// Parts writes a structured value, empty parts at its end kept; nothing where all are empty.
func (w *Writer) Parts(name string, parts ...string) {
	if strings.Join(parts, "") == "" {
		return
	}
	for i, p := range parts {
		parts[i] = Escape(p)
	}
	w.Raw(name, strings.Join(parts, ";"))
}

// String is what was written, without the last line end.
func (w *Writer) String() string { return strings.TrimSuffix(w.b.String(), "\r\n") }
