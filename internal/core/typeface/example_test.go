package typeface_test

import (
	"fmt"

	"sodrik/internal/core/typeface"
)

func ExampleFace_Set() {
	face, _ := typeface.Of("bitter")
	line := face.Set("Sow in March")
	fmt.Println(len(line.Letters) > 0, line.Width > 0)
	// Output: true true
}
