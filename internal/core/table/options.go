package table

import (
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"sodrik/internal/core/problem"
)

// Heads says whether the first row names the columns.
type Heads string

// Whether the first row names the columns: found out, yes, or no.
const (
	HeadsAuto  Heads = ""
	HeadsThere Heads = "yes"
	HeadsNone  Heads = "no"
)

// Options of Open. What is "" is found out by content.
type Options struct {
	Heads     Heads  `json:"heads,omitempty"`
	Delimiter string `json:"delimiter,omitempty"` // a key of Delimiters
	Encoding  string `json:"encoding,omitempty"`  // a key of Encodings
	Sheet     string `json:"tab,omitempty"`       // of a workbook; "" is the first that holds anything
}

// Delimiter is what may stand between cells.
type Delimiter struct {
	Key, Words string
	mark       rune
}

// Delimiters are those that are known, the likeliest first.
var Delimiters = []Delimiter{{"comma", "commas", ','}, {"semicolon", "semicolons", ';'}, {"tab", "tabs", '\t'},
	{"stroke", "upright strokes", '|'}}

// Encoding is how a text may be written: its name in IANA's register of character sets, and in words.
type Encoding struct {
	Key, Words string
	as         encoding.Encoding
}

// Encodings are those that can be chosen by hand.
var Encodings = []Encoding{{"utf-8", "UTF-8", unicode.UTF8}, {"windows-1252", "Western European, Windows-1252",
	charmap.Windows1252},
	{"windows-1250", "Central European, Windows-1250", charmap.Windows1250},
	{"windows-1257", "Baltic, Windows-1257", charmap.Windows1257}, {"windows-1254", "Turkish, Windows-1254", charmap.Windows1254},
	{"windows-1253", "Greek, Windows-1253", charmap.Windows1253}, {"windows-1251", "Cyrillic, Windows-1251", charmap.Windows1251},
	{"macintosh", "Mac OS Roman", charmap.Macintosh},
	{"utf-16le", "UTF-16, little-endian", unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)},
	{"utf-16be", "UTF-16, big-endian", unicode.UTF16(unicode.BigEndian, unicode.UseBOM)}}

func delimiterNamed(key string) (d Delimiter, ok bool) {
	for _, d := range Delimiters {
		if d.Key == key {
			return d, true
		}
	}
	return d, false
}

func encodingNamed(key string) (e Encoding, ok bool) {
	for _, e := range Encodings {
		if e.Key == key {
			return e, true
		}
	}
	return e, false
}

// ReadOptions reads how a table is to be read, by the keys heads, delimiter, encoding and tab.
func ReadOptions(get func(key string) string) (o Options, problems problem.List) {
	o = Options{Heads: Heads(get("heads")), Delimiter: get("delimiter"), Encoding: get("encoding"), Sheet: get("tab")}
	if o.Heads != HeadsAuto && o.Heads != HeadsThere && o.Heads != HeadsNone {
		problems.Add("/heads", "rows.heads", "is %q; write yes, no, or nothing to have it found out", string(o.Heads))
	}
	if _, ok := delimiterNamed(o.Delimiter); !ok && o.Delimiter != "" {
		problems.Add("/delimiter", "rows.delimiter", "is %q; comma, semicolon, tab and stroke are known", o.Delimiter)
	}
	if _, ok := encodingNamed(o.Encoding); !ok && o.Encoding != "" {
		problems.Add("/encoding", "rows.encoding", "is %q, which is not known; write such as utf-8 or windows-1252", o.Encoding)
	}
	return o, problems
}
