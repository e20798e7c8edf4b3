package ships

import (
	"fmt"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/measure"
)

// inkLines says for every ink of the look which shares print it, and what that looks like.
func inkLines(m *compose.Rendition, i int) (out []string) {
	c := m.Condition(m.Place(i))
	seen := map[string]bool{}
	for k, part := range m.Job.Look.Parts() {
		words := part.Words + ": "
		if strings.HasPrefix(part.Path, "/look/ink/stops/") {
			words = fmt.Sprintf("Ink, colour %d: ", k+1)
		}
		if part.Colour.Spot != "" {
			words += "spot " + part.Colour.Spot
		} else {
			inks := c.Separate(part.Colour)
			var shares []string
			for k, v := range inks.CMYK {
				if v > 0 {
					shares = append(shares, "CMYK"[k:k+1]+" "+measure.Number(v, 0))
				}
			}
			words += strings.Join(shares, " ")
			if inks.Off >= press.Seen {
				words += ", off by ΔE " + measure.Number(inks.Off, 1)
			}
		}
		if !seen[words] {
			seen[words] = true
			out = append(out, words)
		}
	}
	return out
}
