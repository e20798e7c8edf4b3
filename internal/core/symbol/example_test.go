package symbol_test

import (
	"fmt"

	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

func ExampleEncode() {
	s, err := symbol.Encode("HTTPS://MARROWBY.EXAMPLE/FAIR", symbol.Options{Level: symbol.M})
	if err != nil {
		fmt.Println(err)
		return
	}
	// There is room for level Q, so that is taken.
	fmt.Printf("version %d-%v, %d modules a side, %v\n", s.Version, s.Level, s.Size, s.Segments[0].Mode)
	read, err := decode.Matrix(s.Size, s.Dark)
	fmt.Println(read.Payload, err)
	// Output:
	// version 2-Q, 25 modules a side, alphanumeric
	// HTTPS://MARROWBY.EXAMPLE/FAIR <nil>
}

// A digit takes less room than a letter, and a letter less than a byte: text is divided so that all of it takes least.
func ExampleEncode_segments() {
	s, _ := symbol.Encode("https://id.marrowby.example/01/09521234500018", symbol.Options{})
	for _, part := range s.Segments {
		fmt.Println(part.Mode, part.Text)
	}
	// Output:
	// byte https://id.marrowby.example/01/
	// numeric 09521234500018
}
