package table

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
)

// workbookOf makes an XLSX of a sheet, with what change does to it.
func workbookOf(t *testing.T, change func(f *excelize.File, sheet string), rows ...[]any) []byte {
	t.Helper()
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Labels"
	f.SetSheetName("Sheet1", sheet)
	for i, row := range rows {
		if err := f.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &row); err != nil {
			t.Fatal(err)
		}
	}
	if change != nil {
		change(f, sheet)
	}
	var b bytes.Buffer
	if err := f.Write(&b); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestWorkbook(t *testing.T) {
	sow := time.Date(2027, 3, 20, 0, 0, 0, 0, time.UTC)
	b := workbookOf(t, func(f *excelize.File, s string) {
		f.MergeCell(s, "A2", "A3")
		f.SetCellFormula(s, "C3", `"A"&2`) // whose outcome nobody has saved
	}, []any{"Variety", "GTIN", "Lot", "Sow by"}, []any{"Leek", 9521234500018, "A1", sow}, []any{nil, 9521234500025, nil, sow},
		[]any{"Kale", 12.5, "A3", sow})
	r, rows := open(t, string(b), Options{})
	if !slices.Equal(r.Columns, []string{"Variety", "GTIN", "Lot", "Sow by"}) || len(rows) != 3 {
		t.Fatalf("%q %v", r.Columns, rows)
	}
	if got := rows[0].Cells; got[1] != "9521234500018" || !strings.HasPrefix(got[3], "2027-03-20") {
		t.Errorf("a long number and a date: %q", got)
	}
	if got := rows[1]; got.Cells[0] != "Leek" || !strings.Contains(got.Bad, "C3") {
		t.Errorf("merged cells, and a formula without an outcome: %+v", got)
	}
	if got := rows[2]; got.Cells[1] != "12.5" || got.Bad != "" || got.Line != 4 {
		t.Errorf("%+v", got)
	}
}

func TestWorkbookTitle(t *testing.T) {
	b := workbookOf(t, nil, []any{"Plant labels 2027"}, nil, []any{"Variety", "Lot"}, []any{"Leek", "A1"}, []any{"Kale", "A2"})
	r, rows := open(t, string(b), Options{})
	if !slices.Equal(r.Columns, []string{"Variety", "Lot"}) || len(rows) != 2 || rows[0].Cells[0] != "Leek" {
		t.Errorf("%q %v", r.Columns, rows)
	}
}

func TestWorkbookSheets(t *testing.T) {
	b := workbookOf(t, func(f *excelize.File, s string) {
		f.NewSheet("Second")
		f.SetSheetRow("Second", "A1", &[]any{"Lot", "Row"})
		f.SetSheetRow("Second", "A2", &[]any{"B1", "1"})
		f.NewSheet("Hidden")
		f.SetSheetRow("Hidden", "A1", &[]any{"Secret", "Row"})
		f.SetSheetRow("Hidden", "A2", &[]any{"C1", "1"})
		f.SetSheetVisible("Hidden", false)
	})
	if r, rows := open(t, string(b), Options{Sheet: "Hidden"}); len(rows) != 1 || r.Columns[0] != "Secret" {
		t.Errorf("a hidden one by its name: %q %v", r.Columns, rows)
	}
	if r, _ := open(t, string(b), Options{}); r.Said[0] != "sheet Second" {
		t.Errorf("the first that holds anything: %q", r.Said)
	}
	if r, rows := open(t, string(b), Options{Sheet: "Second"}); len(rows) != 1 || r.Columns[0] != "Lot" {
		t.Errorf("%q %v", r.Columns, rows)
	}
	if _, err := Open(t.Context(), bytes.NewReader(b), Options{Sheet: "Third"}); err == nil {
		t.Error("a sheet that is not there")
	}
	if got := problemOf(t, bytes.NewReader(workbookOf(t, nil))); got != "rows.none" {
		t.Error(got)
	}
}

func TestFaults(t *testing.T) {
	b := workbookOf(t, func(f *excelize.File, s string) { f.SetCellValue(s, "B2", "#N/A") }, []any{"Variety", "Lot"},
		[]any{"Leek", ""}, []any{"Kale", "A2"})
	_, rows := open(t, string(b), Options{})
	if !strings.Contains(rows[0].Bad, "#N/A in B2") || rows[1].Bad != "" {
		t.Errorf("%+v", rows)
	}
}

func TestBomb(t *testing.T) {
	if got := problemOf(t, bytes.NewReader(bomb(t))); got != "rows.bomb" {
		t.Error(got)
	}
}
