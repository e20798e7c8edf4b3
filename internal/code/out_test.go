package code

import (
	"fmt"
	"strings"
	"testing"
)

// TestOut: out there are versions that are in print, each, and of other codes the newest that was handed over; not drafts,
// retired codes, rows of batches, nor what is another workspace's.
func TestOut(t *testing.T) {
	t.Parallel()
	s, c := open(t)
	ids := map[string]string{}
	for _, name := range []string{"draft", "once", "twice", "printed", "retired", "row"} {
		t.Run(name, func(t *testing.T) {
			ids[name] = create(t, s, name, "https://marrowby.example/"+name)
			if name == "draft" {
				return
			}
			if _, err := s.Issue(t.Context(), ws, ids[name]); err != nil {
				t.Fatal(err)
			}
			c.t = c.t.AddDate(0, 0, 1)
			if name == "twice" || name == "printed" {
				edit(t, s, ids[name], "/content/url", "https://marrowby.example/later", "tab", 1)
				if _, err := s.Issue(t.Context(), ws, ids[name]); err != nil {
					t.Fatal(err)
				}
			}
		})
	}
	for _, sql := range []string{`UPDATE issued_versions SET printed_on = '2027-03-01', printer = 'Okafor Print', quantity = 12000
		WHERE code = '` + ids["printed"] + `' AND n = 1`, `UPDATE codes SET state = 'retired' WHERE id = '` + ids["retired"] + `'`,
		`UPDATE codes SET batch = 'b' WHERE id = '` + ids["row"] + `'`} {
		t.Run(sql, func(t *testing.T) {
			if _, err := s.DB.Pool.Exec(t.Context(), sql); err != nil {
				t.Fatal(err)
			}
		})
	}
	var got []string
	err := s.Out(t.Context(), ws, func(o Out) error {
		line := fmt.Sprintf("%s/%s v%d %s %s", o.Campaign, o.Name, o.N, o.At.Format("2006-01-02"), o.Job.Placements[0].Name)
		if o.Printed != nil {
			line += fmt.Sprintf(" %s %s %d", o.Printed.On.Format("2006-01-02"), o.Printed.Printer, o.Printed.Quantity)
		}
		got = append(got, line)
		return nil
	})
	want := []string{"Bulb Fair 2027/once v1 2027-03-01 gate", "Bulb Fair 2027/printed v1 2027-03-03 gate 2027-03-01 Okafor Print 12000",
		"Bulb Fair 2027/printed v2 2027-03-04 gate", "Bulb Fair 2027/twice v2 2027-03-03 gate"}
	if err != nil || strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("%v\n%s\nwant\n%s", err, strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	other := ws
	other.Workspace = "other"
	if err := s.Out(t.Context(), other, func(o Out) error { return fmt.Errorf("%s is another's", o.Name) }); err != nil {
		t.Error(err)
	}
}
