package code

import (
	"slices"
	"strings"
	"testing"
)

// TestReadRemark: labels are kept once each, in their order; what is too long is refused by field.
func TestReadRemark(t *testing.T) {
	for _, c := range []struct {
		name, note, labels string
		want               []string
		wrong              string
	}{
		{"none", "", "", nil, ""},
		{"with blanks and twice", " a\r\nb ", "spring,  trade   fair ,SPRING,,", []string{"spring", "trade fair"}, ""},
		{"a long note", strings.Repeat("x", 2001), "", nil, "/note"},
		{"a long label", "", strings.Repeat("x", 41), nil, "/labels"},
		{"as long as may be", strings.Repeat("é", 2000), strings.Repeat("é", 40), []string{strings.Repeat("é", 40)}, ""},
		{"thirteen", "", "a,b,c,d,e,f,g,h,i,j,k,l,m", nil, "/labels"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, problems := ReadRemark(c.note, c.labels)
			got := ""
			for _, p := range problems {
				got += p.Field
			}
			if got != c.wrong || c.wrong == "" && !slices.Equal(r.Labels, c.want) {
				t.Errorf("%q %v", r.Labels, problems)
			}
		})
	}
}

// TestRemark: a note and labels stay with a code through edits, and are searched together with its name.
func TestRemark(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	id := create(t, s, "Gate", "https://marrowby.example/gate")
	create(t, s, "Till", "https://marrowby.example/till")
	if err := s.SetRemark(ctx, ws, id, Remark{"Agreed with Wren", []string{"Spring"}}); err != nil {
		t.Fatal(err)
	}
	c, err := s.Edit(ctx, ws, id, Edit{Path: "/name", Text: "Gate, new", Tab: "t", Seq: 1, Base: -1})
	if err != nil || c.Remark.Note != "Agreed with Wren" || !slices.Equal(c.Remark.Labels, []string{"Spring"}) {
		t.Errorf("%+v, %v", c.Remark, err)
	}
	for query, n := range map[string]int{"wren": 1, "SPRING gate": 1, "spring till": 0, "agreed new": 1} {
		t.Run(query, func(t *testing.T) {
			p, err := s.Ledger(ctx, ws, Active, query, nil, 10)
			if err != nil || p.Codes != n {
				t.Errorf("%q finds %d codes, want %d: %v", query, p.Codes, n, err)
			}
			if n == 1 && !slices.Equal(p.Lines[0].Labels, []string{"Spring"}) {
				t.Errorf("%q: %v", query, p.Lines[0].Labels)
			}
		})
	}
	if err := s.SetRemark(ctx, elsewhere, id, Remark{}); err == nil {
		t.Error("another workspace changes it")
	}
}
