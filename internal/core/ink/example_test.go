package ink_test

import (
	"fmt"

	"sodrik/internal/core/ink"
)

// Pine on white, by luminance as ISO/IEC 15415 takes it by reflectance.
func ExampleContrast() {
	pine, _ := ink.Parse("#12352b")
	fmt.Printf("%.2f\n", ink.Contrast(pine, ink.White))
	// Output: 0.97
}
