package content_test

import (
	"fmt"

	"sodrik/internal/core/content"
)

func ExampleNew() {
	c, problems := content.New(map[string]any{"kind": "wifi", "ssid": "Glass;house", "security": "wpa", "password": "snowdrop 7"})
	fmt.Println(c.Payload(), len(problems))
	fmt.Println(c.Summary())
	// Output:
	// WIFI:T:WPA;S:Glass\;house;P:snowdrop 7;; 0
	// Joins Glass;house
}

// A problem names its field, and what would be right.
func ExampleNew_problems() {
	_, problems := content.New(map[string]any{"kind": "email", "to": []any{"orders"}})
	for _, p := range problems {
		fmt.Println(p.Field, p.Message)
	}
	// Output: /content/to/0 has “orders”; write an e-mail address, such as orders@marrowby.example
}

func ExampleFields() {
	values, ok := content.Fields("geo:52.0871,-1.9432")
	fmt.Println(values, ok)
	// Output: map[kind:place lat:52.0871 lon:-1.9432] true
}
