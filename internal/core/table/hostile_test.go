package table

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"runtime"
	"runtime/metrics"
	"strings"
	"testing"
	"time"
)

// xlsxOf is a workbook of one sheet, written by hand: what stands in its sheetData, in its shared strings and in its styles.
func xlsxOf(t testing.TB, sheet, shared, styles func(w io.Writer)) []byte {
	t.Helper()
	const office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	part := func(name, start string, fill func(w io.Writer), end string) {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, start)
		if fill != nil {
			fill(w)
		}
		io.WriteString(w, end)
	}
	part("_rels/.rels",
		`<Relationships><Relationship Id="r1" Type="`+office+`/officeDocument" Target="xl/workbook.xml"/></Relationships>`, nil,
		"")
	part("xl/workbook.xml", `<workbook><sheets><sheet name="Labels" sheetId="1" r:id="r1"/></sheets></workbook>`, nil, "")
	part("xl/_rels/workbook.xml.rels",
		`<Relationships><Relationship Id="r1" Type="`+office+`/worksheet" Target="worksheets/sheet1.xml"/>`+
			`<Relationship Id="r2" Type="`+office+`/sharedStrings" Target="sharedStrings.xml"/>`+
			`<Relationship Id="r3" Type="`+office+`/styles" Target="/xl/styles.xml"/></Relationships>`, nil, "")
	part("xl/worksheets/sheet1.xml", `<worksheet><sheetData>`, sheet, `</sheetData></worksheet>`)
	part("xl/sharedStrings.xml", `<sst>`, shared, `</sst>`)
	part("xl/styles.xml", `<styleSheet>`, styles, `</styleSheet>`)
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestHostileTables opens what is small and unpacks to much: each is refused, and holds at most 300 MB on the way.
func TestHostileTables(t *testing.T) {
	heads := func(w io.Writer) {
		io.WriteString(w, `<row r="1"><c r="A1" t="inlineStr"><is><t>Lot</t></is></c></row>`)
	}
	rows := func(n int, cells func(row int) string) func(io.Writer) {
		return func(w io.Writer) {
			heads(w)
			for i := 2; i < n+2; i++ {
				fmt.Fprintf(w, `<row r="%d">%s</row>`, i, cells(i))
			}
		}
	}
	long := func(w io.Writer) { io.WriteString(w, "<si><t>"+strings.Repeat("lot ", 15<<18)+"</t></si>") }
	card := func(lines string) []byte { return []byte("BEGIN:VCARD\r\nFN:Ines\r\n" + lines + "END:VCARD\r\n") }
	for _, c := range []struct {
		name, code string
		file       []byte
	}{
		{"a cell in column XFD of each row", "rows.columns", xlsxOf(t, rows(20_000, func(i int) string {
			return fmt.Sprintf(`<c r="XFD%d"><v>1</v></c>`, i)
		}), nil, nil)},
		{"the last cell of a sheet", "rows.columns", xlsxOf(t, rows(1, func(int) string {
			return `</row><row r="1048576"><c r="XFD1048576"><v>1</v></c>`
		}), nil, nil)},
		{"16,000 cells of one string of 15 MB", "rows.text", xlsxOf(t, rows(16_000, func(i int) string {
			return fmt.Sprintf(`<c r="A%d" t="s"><v>0</v></c>`, i)
		}), long, nil)},
		{"16,000 cells merged into one of a long text", "rows.text", xlsxOf(t, func(w io.Writer) {
			io.WriteString(w, `<row r="1"><c r="A1" t="str"><v>`+strings.Repeat("lot ", 5000)+`</v></c></row>`)
			rows(16_000, func(i int) string { return fmt.Sprintf(`<c r="B%d"><v>1</v></c>`, i) })(w)
			io.WriteString(w, `</sheetData><mergeCells><mergeCell ref="A1:A16001"/></mergeCells><sheetData>`)
		}, nil, nil)},
		{"empty elements", "rows.cells", xlsxOf(t, rows(1, func(int) string { return strings.Repeat("<c/>", 3_000_000) }), nil,
			nil)},
		{"a cell at the end of each of 30,000 rows", "rows.cells", xlsxOf(t, rows(30_000, func(i int) string {
			return fmt.Sprintf(`<c r="GR%d"><v>1</v></c>`, i)
		}), nil, nil)},
		{"11 MB of TEL lines", "rows.lines", card(strings.Repeat("TEL:+441632960001\r\n", 11<<20/19))},
		{"a card of 900 numbers", "rows.columns", card(strings.Repeat("TEL:+441632960001\r\n", 900))},
		{"a folded note of 15 MB", "rows.long", card("NOTE:" + strings.Repeat(strings.Repeat("n", 74)+"\r\n ", 15<<20/77) +
			"\r\n")},
		{"600,000 cards", "rows.many", bytes.Repeat([]byte("BEGIN:VCARD\nFN:a\nEND:VCARD\n"), 590_000)},
	} {
		t.Run(c.name, func(t *testing.T) {
			most := peak(func() {
				if got := problemOf(t, bytes.NewReader(c.file)); got != c.code {
					t.Errorf("%q, not %q", got, c.code)
				}
			})
			if most > 300<<20 {
				t.Errorf("holds %d MB on the way", most>>20)
			}
		})
	}
}

// peak runs f and gives the most memory that it held, in bytes, looked at each millisecond.
func peak(f func()) (most uint64) {
	held := func() uint64 {
		s := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
		metrics.Read(s)
		return s[0].Value.Uint64()
	}
	runtime.GC()
	start := held()
	done, ended := make(chan bool), make(chan bool)
	go func() {
		defer close(ended)
		for {
			select {
			case <-done:
				return
			case <-time.After(time.Millisecond):
				most = max(most, held())
			}
		}
	}()
	f()
	close(done)
	<-ended
	return most - min(most, start)
}

// TestTableStops cancels while a workbook, and the rows of a text, are read.
func TestTableStops(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	r, err := Open(ctx, strings.NewReader("name,link\na,b\nc,d\n"), Options{})
	if err != nil {
		t.Fatal(err)
	}
	cancel()
	if _, err := r.Next(); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
	if _, err := Open(ctx, bytes.NewReader(workbookOf(t, nil, []any{"Lot", "Row"}, []any{"A1", "2"})),
		Options{}); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
}

// TestDateCells reads dates by their value, in whatever way they are shown. The days of the numbers follow from Python's
// datetime: 30 December 1899 and so many days.
func TestDateCells(t *testing.T) {
	formats := []string{"", "mm/dd/yyyy", "d/m/yy", "m/d/yy", "dd-mmm-yy", `[$-809]d mmmm yyyy;@`, "yyyy-mm-dd hh:mm", "[h]:mm",
		"h:mm AM/PM",
		"0.00", "0%", `"day" 0`, "[Red]0;[Blue]0", `\d0`, "#,##0.00", "General", "@"}
	styles := func(w io.Writer) {
		io.WriteString(w, `<numFmts>`)
		for i, f := range formats {
			fmt.Fprintf(w, `<numFmt numFmtId="%d" formatCode="%s"/>`, 164+i, strings.ReplaceAll(f, `"`, "&quot;"))
		}
		io.WriteString(w, `</numFmts><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs><cellXfs><xf numFmtId="0"/>`)
		for i := range formats[1:] {
			fmt.Fprintf(w, `<xf numFmtId="%d"/>`, 165+i)
		}
		io.WriteString(w, `<xf numFmtId="14"/><xf numFmtId="22"/><xf numFmtId="10"/><xf numFmtId="46"/></cellXfs>`)
	}
	for _, c := range []struct {
		style       int
		value, want string
	}{
		{1, "46421", "2027-02-03"}, {2, "46421", "2027-02-03"}, {3, "46421", "2027-02-03"}, {4, "46421", "2027-02-03"},
		{5, "46421", "2027-02-03"}, {6, "46421.75", "2027-02-03T18:00"}, {6, "46421", "2027-02-03"},
		{6, "46421.750011574071", "2027-02-03T18:00:01"}, {7, "1.25", "30:00"}, {20, "1.5", "36:00"}, {8, "0.75", "18:00"},
		{1, "61", "1900-03-01"}, {1, "59", "1900-02-28"}, {1, "1", "1900-01-01"}, {1, "2958465", "9999-12-31"},
		{1, "2958466", "2958466"}, {17, "46421", "2027-02-03"}, {18, "46421.5", "2027-02-03T12:00"},
		{1, "46420.999999", "2027-02-03"},
		{9, "46421", "46421"}, {10, "0.12", "0.12"}, {11, "46421", "46421"}, {12, "46421", "46421"}, {13, "46421", "46421"},
		{14, "1234.5", "1234.5"}, {19, "0.5", "0.5"},
		{0, "1.23456789012345E+17", "123456789012345000"}, {0, "123456789012345678", "123456789012345678"},
		{0, "0.10000000000000001", "0.1"}, {0, "12.5", "12.5"}, {0, "-3", "-3"}, {0, "1E+300", "1E+300"},
	} {
		t.Run(fmt.Sprint(c.style, " ", c.value), func(t *testing.T) {
			b := xlsxOf(t, func(w io.Writer) {
				fmt.Fprintf(w, `<row><c t="inlineStr"><is><t>Lot</t></is></c><c t="inlineStr"><is><t>Day</t></is></c></row>`+
					`<row><c t="inlineStr"><is><t>A1</t></is></c><c s="%d"><v>%s</v></c></row>`, c.style, c.value)
			}, nil, styles)
			if _, rows := open(t, string(b), Options{}); len(rows) != 1 || rows[0].Cells[1] != c.want {
				t.Errorf("%v, not %s", rows, c.want)
			}
		})
	}
	if got, ok := dateOf("44959", asDate, true); !ok || got != "2027-02-03" { // 1,462 days fewer
		t.Error(got)
	}
}

func TestSharedStrings(t *testing.T) {
	b := xlsxOf(t, func(w io.Writer) {
		io.WriteString(w,
			`<row r="2"><c r="B2" t="s"><v>0</v></c><c r="C2" t="s"><v>1</v></c><c r="D2" t="str"><f>A1</f><v></v></c></row>`+
				`<row r="5"><c r="B5" t="b"><v>1</v></c><c r="C5" t="d"><v>2027-02-03T00:00:00</v></c><c r="D5" t="s"><v>2</v></c></row>`)
	}, func(w io.Writer) {
		io.WriteString(w,
			`<si><t>Variety</t></si><si><r><t>Sow</t></r><r><t xml:space="preserve"> by</t></r><rPh><t>spoken</t></rPh></si>`+
				`<si><t>two_x000A_lines, _x005F_x0041_ &amp; more</t></si>`)
	}, nil)
	r, rows := open(t, string(b), Options{Heads: HeadsThere})
	if fmt.Sprint(r.Columns) != "[Column 1 Variety Sow by]" && fmt.Sprint(r.Columns) != "[Column 1 Variety Sow by Column 4]" {
		t.Errorf("%q", r.Columns)
	}
	if got := rows[0]; got.Line != 5 || got.Cells[1] != "TRUE" || got.Cells[2] != "2027-02-03" {
		t.Errorf("%+v", got)
	}
}

// BenchmarkWorkbook takes an honest workbook of 50,000 rows of 12 cells.
func BenchmarkWorkbook(b *testing.B) {
	file := xlsxOf(b, func(w io.Writer) {
		for i := 1; i <= 50_000; i++ {
			fmt.Fprintf(w, `<row r="%d" spans="1:12">`, i)
			for x := 1; x <= 12; x++ {
				if x%3 == 0 {
					fmt.Fprintf(w, `<c r="%s" s="1"><v>%d</v></c>`, cellName(x, i), 40_000+i%9000)
				} else {
					fmt.Fprintf(w, `<c r="%s" t="s"><v>%d</v></c>`, cellName(x, i), (i*12+x)%100_000)
				}
			}
			io.WriteString(w, `</row>`)
		}
	}, func(w io.Writer) {
		for i := range 100_000 {
			fmt.Fprintf(w, `<si><t>A text of row %d</t></si>`, i)
		}
	}, func(w io.Writer) { io.WriteString(w, `<cellXfs><xf numFmtId="0"/><xf numFmtId="14"/></cellXfs>`) })
	b.SetBytes(int64(len(file)))
	b.ReportAllocs()
	for b.Loop() {
		r, err := Open(b.Context(), bytes.NewReader(file), Options{})
		if err != nil {
			b.Fatal(err)
		}
		if rows, err := r.All(50_001); err != nil || len(rows) < 49_999 {
			b.Fatal(len(rows), err)
		}
	}
}
