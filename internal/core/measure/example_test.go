package measure_test

import (
	"fmt"

	"sodrik/internal/core/measure"
)

func ExampleParseLength() {
	for _, text := range []string{"25", "2.5 cm", "1 in", "wide"} {
		fmt.Println(measure.ParseLength(text, measure.Millimetre))
	}
	// Output:
	// 25 mm true
	// 25 mm true
	// 25.4 mm true
	// 0 mm false
}
