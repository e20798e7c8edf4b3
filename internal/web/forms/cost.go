package forms

import (
	"fmt"

	"sodrik/internal/core/compose"
)

// Cost says what a field that is still empty would cost; "" for the zero step.
func Cost(s compose.Step) string {
	switch {
	case s.Size == 0:
		return ""
	case s.Saves >= 0:
		return "no larger"
	}
	return fmt.Sprintf("+%d modules", -s.Saves)
}

// PriceWords says what a payload costs.
func PriceWords(p compose.Price) string {
	bytes := fmt.Sprintf("%d bytes make", p.Bytes)
	if p.Bytes == 1 {
		bytes = "1 byte makes"
	}
	out := fmt.Sprintf("%s %d × %d modules.", bytes, p.Size, p.Size)
	if p.Less > 0 {
		out += fmt.Sprintf(" %d fewer would make it %d × %d.", p.Less, p.Size-4, p.Size-4)
	}
	return out
}
