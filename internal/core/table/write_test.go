package table

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"testing"
)

// TestRows: what is written can be read again by others, formulas are none in CSV, and nothing is written before the first row.
func TestRows(t *testing.T) {
	for _, n := range []int{0, 1, 3} {
		var c, j bytes.Buffer
		for _, r := range []Writer{NewCSV(&c), NewJSON(&j)} {
			r.Head("day", "place", "languages", "scans")
			if r.Begun() {
				t.Error("a head alone is begun")
			}
			for i := range n {
				if err := r.Row("2027-03-01", "=gate", []string{"cy", "en-GB"}, i); err != nil || !r.Begun() {
					t.Errorf("row %d: %v, %v", i, err, r.Begun())
				}
			}
			if err := r.End(); err != nil {
				t.Error(err)
			}
		}
		rows, err := csv.NewReader(&c).ReadAll()
		if err != nil || len(rows) != n+1 || rows[0][2] != "languages" {
			t.Fatalf("%v, %v", rows, err)
		}
		if n > 0 && (rows[n][1] != "'=gate" || rows[n][2] != "cy en-GB") {
			t.Errorf("%q", rows[n])
		}
		var list []struct {
			Day, Place string
			Languages  []string
			Scans      int
		}
		if err := json.Unmarshal(j.Bytes(), &list); err != nil || len(list) != n {
			t.Fatalf("%s: %v", j.String(), err)
		}
		if n > 0 && (list[n-1].Place != "=gate" || len(list[n-1].Languages) != 2 || list[n-1].Scans != n-1) {
			t.Errorf("%+v", list[n-1])
		}
	}
	r := NewJSON(full{})
	r.Head("x")
	if err := r.Row(1); err == nil {
		t.Error("a full disk is not told")
	}
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, errors.New("full") }
