package table

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"sodrik/internal/core/problem"
)

func open(t *testing.T, text string, o Options) (*Rows, []Row) {
	t.Helper()
	r, err := Open(t.Context(), strings.NewReader(text), o)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := r.All(1000)
	if err != nil {
		t.Fatal(err)
	}
	return r, rows
}

func flat(rows []Row) (out [][]string) {
	for _, r := range rows {
		out = append(out, r.Cells)
	}
	return out
}

func TestText(t *testing.T) {
	for _, c := range []struct {
		name, text string
		columns    []string
		rows       [][]string
	}{
		{"commas", "name,link\nLeek,https://marrowby.example/leek\nKale,https://marrowby.example/kale\n", []string{"name",
			"link"},
			[][]string{{"Leek", "https://marrowby.example/leek"}, {"Kale", "https://marrowby.example/kale"}}},
		{"semicolons with commas inside", "Sorte;Preis;Ort\nLauch;2,50;Beet 1, links\nKohl;3,20;Beet 2\n",
			[]string{"Sorte", "Preis", "Ort"},
			[][]string{{"Lauch", "2,50", "Beet 1, links"}, {"Kohl", "3,20", "Beet 2"}}},
		{"tabs, as a spreadsheet copies", "name\tlot\nLeek\tA 1\nKale\tA 2", []string{"name", "lot"},
			[][]string{{"Leek", "A 1"}, {"Kale", "A 2"}}},
		{"strokes", "name|lot\nLeek|A1\n", []string{"name", "lot"}, [][]string{{"Leek", "A1"}}},
		{"a delimiter and a line break inside quotes", "name,about\n\"Leek, early\",\"two\nlines\"\nKale,\"says \"\"no\"\"\"\n",
			[]string{"name", "about"}, [][]string{{"Leek, early", "two\nlines"}, {"Kale", `says "no"`}}},
		{"addresses alone have no head", "https://marrowby.example/a\nhttps://marrowby.example/b\n", []string{"Column 1"},
			[][]string{{"https://marrowby.example/a"}, {"https://marrowby.example/b"}}},
		{"a head above addresses", "Link\nhttps://marrowby.example/a\n", []string{"Link"},
			[][]string{{"https://marrowby.example/a"}}},
		{"addresses with commas are one column",
			"https://marrowby.example/a,b\nhttps://marrowby.example/c\nhttps://marrowby.example/d\n",
			[]string{"Column 1"},
			[][]string{{"https://marrowby.example/a,b"}, {"https://marrowby.example/c"}, {"https://marrowby.example/d"}}},
		{"words alone are rows", "Leek\nKale\nBeet\n", []string{"Column 1"}, [][]string{{"Leek"}, {"Kale"}, {"Beet"}}},
		{"empty lines and short rows", "name,lot\n\nLeek\n,,\nKale,A2\n", []string{"name", "lot"},
			[][]string{{"Leek", ""}, {"Kale", "A2"}}},
		{"doubled and missing heads", "name,Name,\nLeek,Lauch,9\n", []string{"name", "Name 2", "Column 3"}, [][]string{{"Leek",
			"Lauch", "9"}}},
		{"Windows line ends and a byte order mark", "\ufeffname,lot\r\nLeek,A1\r\n", []string{"name", "lot"},
			[][]string{{"Leek", "A1"}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, rows := open(t, c.text, Options{})
			if !slices.Equal(r.Columns, c.columns) || fmt.Sprint(flat(rows)) != fmt.Sprint(c.rows) {
				t.Errorf("%q %q, want %q %q", r.Columns, flat(rows), c.columns, c.rows)
			}
		})
	}
}

func TestHeadsCanBeSaid(t *testing.T) {
	r, rows := open(t, "Leek\nKale\n", Options{Heads: HeadsThere})
	if r.Columns[0] != "Leek" || len(rows) != 1 {
		t.Errorf("%q %v", r.Columns, rows)
	}
	if r, rows = open(t, "name,lot\nLeek,A1\n", Options{Heads: HeadsNone}); r.Columns[1] != "Column 2" || len(rows) != 2 {
		t.Errorf("%q %v", r.Columns, rows)
	}
}

// TestEncodings writes the same rows by every encoding that a spreadsheet saves and reads them back.
func TestEncodings(t *testing.T) {
	const text = "Sorte;Ort\nMöhre „früh“;Weißbeet\nKürbis;Ärmelbeet\n"
	for name, e := range map[string]encoding.Encoding{
		"UTF-8": encoding.Nop, "Windows-1252": charmap.Windows1252,
		"UTF-16 with a mark":    unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
		"UTF-16 without a mark": unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM),
		"UTF-16 big endian":     unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM),
	} {
		t.Run(name, func(t *testing.T) {
			b, err := e.NewEncoder().Bytes([]byte(text))
			if err != nil {
				t.Fatal(err)
			}
			_, rows := open(t, string(b), Options{})
			if got := fmt.Sprint(flat(rows)); got != "[[Möhre „früh“ Weißbeet] [Kürbis Ärmelbeet]]" {
				t.Error(got)
			}
		})
	}
	latin, _ := charmap.ISO8859_1.NewEncoder().String("Sorte;Ort\nMöhre;Süß\n")
	if r, rows := open(t, latin, Options{}); rows[0].Cells[1] != "Süß" || !slices.Contains(r.Said, "read as Windows-1252") {
		t.Errorf("%v %q", rows, r.Said)
	}
}

// problemOf is the code of the problem that reading a text ends in.
func problemOf(t *testing.T, in io.Reader) string {
	t.Helper()
	r, err := Open(t.Context(), in, Options{})
	if err == nil {
		_, err = r.All(1000)
	}
	var l problem.List
	if !errors.As(err, &l) {
		t.Fatalf("no problem but %v", err)
	}
	return l[0].Code
}

func TestRefused(t *testing.T) {
	for name, c := range map[string]struct {
		text, code string
	}{
		"nothing":           {"", "rows.none"},
		"a picture":         {"\x89PNG\r\n\x1a\n", "rows.kind"},
		"an old workbook":   {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "rows.xls"},
		"a zip":             {"PK\x03\x04 and no more", "rows.zip"},
		"empty cards":       {"BEGIN:VCARD\nEND:VCARD\n", "rows.none"},
		"a quote left open": {"name,lot\n\"Leek,A1\n" + strings.Repeat("Kale,A2\n", 300_000), "rows.quote"},
		"too many":          {"name,lot\n" + strings.Repeat("Kale,A2\n", 1001), "rows.many"},
		"too many columns":  {strings.Repeat("a b,", 201) + "z\n" + strings.Repeat("1,", 202) + "1\n", "rows.columns"},
	} {
		t.Run(name, func(t *testing.T) {
			if got := problemOf(t, strings.NewReader(c.text)); got != c.code && !(name == "a zip" && got == "rows.xlsx") {
				t.Error(got)
			}
		})
	}
}

func TestRowsWithMoreCellsAreNamed(t *testing.T) {
	_, rows := open(t, "name,lot\nLeek, early,A1\nKale,A2\nBeet,A3\n", Options{})
	if rows[0].Bad == "" || rows[0].Line != 2 || rows[1].Bad != "" {
		t.Errorf("%+v", rows)
	}
}

// lines gives so many rows without ever holding them.
type lines struct {
	left int
	rest []byte
}

func (l *lines) Read(p []byte) (n int, err error) {
	if len(l.rest) == 0 {
		if l.left == 0 {
			return 0, io.EOF
		}
		l.rest = fmt.Appendf(nil, "Leek %d,https://marrowby.example/%d\n", l.left, l.left)
		l.left--
	}
	n = copy(p, l.rest)
	l.rest = l.rest[n:]
	return n, nil
}

// TestStream reads half a million rows and holds less than a tenth of them.
func TestStream(t *testing.T) {
	r, err := Open(t.Context(), io.MultiReader(strings.NewReader("name,link\n"), &lines{left: 500_000}), Options{})
	if err != nil {
		t.Fatal(err)
	}
	n, most := 0, uint64(0)
	for {
		_, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		if n++; n%50_000 == 0 {
			var m runtime.MemStats
			runtime.GC()
			runtime.ReadMemStats(&m)
			most = max(most, m.HeapAlloc)
		}
	}
	if n != 500_000 || most > 20<<20 {
		t.Errorf("%d rows in %d bytes", n, most)
	}
}

func TestCards(t *testing.T) {
	r, rows := open(t, "BEGIN:VCARD\nVERSION:3.0\nN:Pell;Ada;;;\nFN:Ada Pell\nTEL;TYPE=CELL:+44 113 496 0101\n"+
		"TEL;TYPE=WORK:+44 113 496 0102\nEND:VCARD\nBEGIN:VCARD\nVERSION:3.0\nN:Marr;Tom;;;\nFN:Tom Marr\n"+
		"EMAIL:tom@marrowby.example\nEND:VCARD\n", Options{})
	at := func(row int, path string) string {
		if i := slices.Index(r.Paths, path); i >= 0 {
			return rows[row].Cells[i]
		}
		return "none"
	}
	if rows[0].Line != 1 || rows[1].Line != 2 {
		t.Errorf("cards %d and %d", rows[0].Line, rows[1].Line)
	}
	if slices.Contains(r.Columns, "Column 1") || !slices.Contains(r.Columns, "Given name") {
		t.Errorf("columns are called %q", r.Columns)
	}
	if r.Kind != "contact" || len(rows) != 2 || at(0, "/content/given") != "Ada" || at(0, "/content/phones/1/number") == "none" ||
		at(1, "/content/phones/0/number") != "" || at(1, "/content/emails/0/address")+at(1, "/content/emails/0") == "nonenone" {
		t.Errorf("%q %v", r.Paths, rows)
	}
	r, rows = open(t, "BEGIN:VCALENDAR\nBEGIN:VEVENT\nSUMMARY:Bulb fair\nDTSTART:20270320T100000\nEND:VEVENT\nBEGIN:VEVENT\n"+
		"SUMMARY:Open day\nDTSTART:20270401T090000\nLOCATION:Garden\nEND:VEVENT\nEND:VCALENDAR\n", Options{})
	if r.Kind != "event" || len(rows) != 2 || at(1, "/content/location") != "Garden" || at(0, "/content/title") != "Bulb fair" {
		t.Errorf("%q %v", r.Paths, rows)
	}
}

func TestNumbers(t *testing.T) {
	if _, err := Numbers("MB-0098/27", "MB-0101/27"); err == nil {
		t.Error("the last run of digits is the year's, which does not change: from 27 to 27 with other words before")
	}
	r, err := Numbers("MB-0098", "MB-0101")
	if err != nil {
		t.Fatal(err)
	}
	rows, err := r.All(10)
	if got := fmt.Sprint(flat(rows)); err != nil || got != "[[MB-0098] [MB-0099] [MB-0100] [MB-0101]]" {
		t.Error(got, err)
	}
	for _, c := range [][3]string{{"x", "9", "range.number"}, {"1", "y", "range.number"}, {"9", "1", "range.order"},
		{"a1", "b2", "range.same"}, {"1", "1000001", "range.many"}} {
		_, err := Numbers(c[0], c[1])
		var l problem.List
		if !errors.As(err, &l) || l[0].Code != c[2] {
			t.Error(c, err)
		}
	}
	if _, err = Numbers("1", "1000000"); err != nil {
		t.Error(err)
	}
	// Thirty digits are counted, whatever stands around them, and no more; nor more than 200 bytes in all.
	digits, around := strings.Repeat("9", 29), strings.Repeat("x", 170)
	if r, err = Numbers(around+"1"+digits, around+"2"+strings.Repeat("0", 29)); err != nil {
		t.Fatal(err)
	}
	if rows, err = r.All(3); err != nil || len(rows) != 2 || rows[1].Cells[0] != around+"2"+strings.Repeat("0",
		29) || rows[1].Line != 2 {
		t.Errorf("%+v %v", rows, err)
	}
	for _, c := range [][2]string{{"11" + digits, "12" + digits}, {"x" + around + "1" + digits, "x" + around + "2" + digits}} {
		if _, err := Numbers(c[0], c[1]); err == nil {
			t.Errorf("%d bytes are counted", len(c[0]))
		}
	}
}

func FuzzOpen(f *testing.F) {
	for _, s := range []string{"name,lot\nLeek,A1\n", "\"a;b\nc", "\xff\xfea\x00", "BEGIN:VCARD\nN:x;y\nEND:VCARD", "a\tb\n1\t2",
		"PK\x03\x04", "\xe4;\xdf\n1;2"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		r, err := Open(t.Context(), bytes.NewReader(b), Options{})
		if err != nil {
			return
		}
		seen := map[string]bool{}
		for _, c := range r.Columns {
			if c == "" || seen[strings.ToLower(c)] || strings.ContainsAny(c, "{}") {
				t.Fatalf("column %q", r.Columns)
			}
			seen[strings.ToLower(c)] = true
		}
		rows, _ := r.All(100)
		for _, row := range rows {
			if len(row.Cells) != len(r.Columns) {
				t.Fatalf("%d cells under %d columns", len(row.Cells), len(r.Columns))
			}
			for _, cell := range row.Cells {
				if !utf8.ValidString(cell) {
					t.Fatalf("%q", cell)
				}
			}
		}
	})
}

// bomb is a workbook whose sheet unpacks to 128 MB.
func bomb(t *testing.T) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`,
		"xl/workbook.xml":     `<workbook/>`} {
		w, _ := z.Create(name)
		io.WriteString(w, text)
	}
	w, err := z.Create("xl/worksheets/sheet1.xml")
	if err != nil {
		t.Fatal(err)
	}
	block := bytes.Repeat([]byte(" "), 1<<20)
	for range 1 << 7 {
		w.Write(block)
	}
	z.Close()
	return b.Bytes()
}
