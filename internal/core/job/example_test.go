package job_test

import (
	"fmt"

	"sodrik/internal/core/job"
)

func ExampleParse() {
	_, problems := job.Parse(
		[]byte(`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"Gate","width_mm":-3}]}`))
	for _, p := range problems {
		fmt.Println(p.Field, p.Message)
	}
	// Output: /placements/0/width_mm is -3 mm; it must be more than 0 (the side of the symbol with its quiet zone)
}

// Typed text becomes a patch by the declaration of its field.
func ExampleEdit() {
	draft := map[string]any{"content": map[string]any{"kind": "url", "url": "marrowby.example"}}
	p, problem := job.Edit(draft, "/look/ink", "pine")
	fmt.Println(p, problem)
	p, problem = job.Edit(draft, "/symbol/quiet_zone", "wide")
	fmt.Println(len(p), problem)
	// Output:
	// [{add /look map[]} {add /look/ink #12352b}] <nil>
	// 0 symbol.quiet_zone: "wide" is not a number
}
