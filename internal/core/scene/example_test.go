package scene_test

import (
	"fmt"

	"sodrik/internal/core/scene"
)

// A code of 20 mm, its corner moved to 30 mm, 10 mm, then turned by a quarter about that corner.
func ExampleTransform_Then() {
	t := scene.At(1, 30, 10).Then(scene.Turn(90, 30, 10))
	fmt.Println(t.Point(scene.Point{X: 20, Y: 0}))
	// Output: {30 30}
}
