package forms

import (
	"fmt"

	"sodrik/internal/core/compose"
)

// Cost says by how many modules a side the code would grow if a field that is still empty held something; "" for the zero step.
func Cost(s compose.Step) string {
	switch {
	case s.Size == 0:
		return ""
	case s.Saves >= 0:
		return "±0"
	}
	return fmt.Sprintf("+%d", -s.Saves)
}

// PriceWords says what a payload costs.
func PriceWords(p compose.Price) string {
	bytes := fmt.Sprintf("%d bytes make", p.Bytes)
	if p.Bytes == 1 {
		bytes = "1 byte makes"
	}
	return fmt.Sprintf("%s %d × %d modules.", bytes, p.Size, p.Size)
}

// FewerWords says how many bytes fewer would make the next smaller code, "" where none would.
func FewerWords(p compose.Price) string {
	if p.Less == 0 {
		return ""
	}
	return fmt.Sprintf("%d fewer would make it %d × %d.", p.Less, p.Size-4, p.Size-4)
}
