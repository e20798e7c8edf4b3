package recognise_test

import (
	"fmt"

	"sodrik/internal/core/recognise"
)

func ExampleText() {
	for _, reading := range recognise.Text("marrowby.example/fair", "GB") {
		fmt.Println(reading.Took, reading.Content.Payload())
	}
	// Output:
	// A web address https://marrowby.example/fair
	// Plain text, shown as it is marrowby.example/fair
}
