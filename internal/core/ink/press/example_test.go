package press_test

import (
	"fmt"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
)

// The green of screens lies beyond what four inks give: Off says by how much, in CIEDE2000.
func ExampleCondition_Separate() {
	coated, _ := press.Of("coated")
	for _, c := range []ink.Colour{{R: 0x12, G: 0x35, B: 0x2b}, {G: 255}, ink.Black} {
		inks := coated.Separate(c)
		fmt.Printf("%v %.0f %% in all, lost: %v\n", inks.CMYK, inks.Total(), inks.Off > press.Seen)
	}
	// Output:
	// [78 33 61 75] 247 % in all, lost: false
	// [64 0 100 0] 164 % in all, lost: true
	// [0 0 0 100] 100 % in all, lost: false
}
