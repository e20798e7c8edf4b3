package patch_test

import (
	"fmt"

	"sodrik/internal/core/patch"
)

// Applying a patch gives the way back too.
func ExamplePatch_Apply() {
	draft := map[string]any{"name": "Gate", "look": map[string]any{"ink": "#12352b"}}
	p := patch.Patch{{Op: "replace", Path: "/look/ink", Value: "#5a2d0c"}, {Op: "add", Path: "/campaign", Value: "Fair"}}
	changed, back, err := p.Apply(draft)
	fmt.Println(changed, err)
	fmt.Println(back)
	// Output:
	// map[campaign:Fair look:map[ink:#5a2d0c] name:Gate] <nil>
	// [{remove /campaign <nil>} {replace /look/ink #12352b}]
}
