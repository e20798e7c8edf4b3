package readers

import (
	"flag"
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
)

var (
	allSizes = flag.Bool("sizes", false, "prove shipped looks on a card and on a poster too")
	oneLook  = flag.String("look", "", "prove this shipped look alone")
)

// TestShippedLooks: the looks that come along are safe at a usual size; with -v -sizes it prints the table of docs/look.md.
func TestShippedLooks(t *testing.T) {
	sizes := []struct{ name, place string }{{"table tent 45 mm", `"width_mm":45,"distance_mm":400,"substrate":"uncoated"`}}
	if *allSizes {
		sizes = append(sizes, struct{ name, place string }{"card 22 mm", `"width_mm":22,"distance_mm":200,"substrate":"coated"`},
			struct{ name, place string }{"poster 160 mm",
				`"width_mm":160,"distance_mm":1500,"substrate":"uncoated","light":"outdoor"`})
	}
	if len(style.Shipped) < 12 {
		t.Errorf("%d looks come along", len(style.Shipped))
	}
	head, rule := "| look |", "| --- |"
	for _, s := range sizes {
		head, rule = head+" "+s.name+" |", rule+" --- |"
	}
	rows := []string{head, rule}
	panel := Panel()
	for _, l := range style.Shipped {
		if *oneLook != "" && l.Name != *oneLook {
			continue
		}
		row := "| " + l.Name + " |"
		for i, s := range sizes {
			draft,
				err := fields.Decode([]byte(
				`{"content":{"kind":"url","url":"https://marrowby.example/fair/programme"},"placements":[{"name":"a",` +
					s.place + `}]}`))
			if err != nil {
				t.Fatal(err)
			}
			worn, _, err := patch.Set("/look", style.Wear(draft, l)).Apply(draft)
			if err != nil {
				t.Fatal(err)
			}
			m, _, problems := compose.Read(worn, nil)
			if len(problems) > 0 {
				t.Fatalf("%s: %v", l.Name, problems)
			}
			in, err := m.Proof(0)
			if err != nil {
				t.Fatal(err)
			}
			p, err := proof.Prove(t.Context(), in, panel, proof.Ordinary)
			if err != nil {
				t.Fatal(err)
			}
			var says []string
			for _, family := range Families {
				read, of := 0, 0
				for _, o := range p.Of(proof.Ordinary) {
					read, of = read+o.Hits[family], of+o.Draws
				}
				says = append(says, fmt.Sprintf("%s %d/%d", family, read, of))
			}
			row += fmt.Sprintf(" %s: %s |", p.Verdict, strings.Join(says, ", "))
			if i == 0 && p.Verdict != proof.Safe {
				t.Errorf("%s at %s is %s: %+v", l.Name, s.name, p.Verdict, p.Findings)
			}
		}
		rows = append(rows, row)
	}
	if testing.Verbose() {
		fmt.Println(strings.Join(rows, "\n"))
	}
}
