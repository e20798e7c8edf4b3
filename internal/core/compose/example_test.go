package compose_test

import (
	"fmt"
	"time"

	"sodrik/internal/core/compose"
)

func ExampleRendition_File() {
	made, problems := compose.Parse([]byte(`{
		"name": "Fair, gate",
		"content": {"kind": "url", "url": "marrowby.example/fair"},
		"look": {"ink": "#12352b"},
		"placements": [{"name": "Gate", "width_mm": 40, "distance_mm": 400}]
	}`), nil)
	if len(problems) > 0 {
		fmt.Println(problems)
		return
	}
	f := compose.MustFormat("pdf")
	file, problems := made.File(f, made.Place(0), compose.MetaOf(f, made.Title(0), time.Date(2027, 3, 20, 10, 0, 0, 0, time.UTC)))
	fmt.Printf("%s, version %d, %s, %d problems\n", made.Payload, made.Symbol.Version, file[:8], len(problems))
	// Output: https://marrowby.example/fair, version 3, %PDF-1.4, 0 problems
}
