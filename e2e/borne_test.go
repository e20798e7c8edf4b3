package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/symbol"
)

// TestArtworkWithACode: a leaflet that bears an older code says so, and one act lays ours over it.
func TestArtworkWithACode(t *testing.T) {
	t.Parallel()
	a := open(t)
	old, err := symbol.Encode("https://old.example/leaflet", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var modules strings.Builder
	for y := range old.Size {
		for x := range old.Size {
			if old.Dark(x, y) {
				fmt.Fprintf(&modules, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	leaflet := filepath.Join(t.TempDir(), "leaflet.svg")
	if err := os.WriteFile(leaflet, []byte(fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="148mm" height="210mm" viewBox="0 0 148 210">`+
		`<rect width="148" height="210" fill="#fff"/><path transform="translate(90 150) scale(%g)" d="%s"/></svg>`, 30/float64(old.Size),
		modules.String())), 0o600); err != nil {
		t.Fatal(err)
	}
	p := a.page(t, a.create(t, `{"name":"Newer","content":{"kind":"url","url":"https://marrowby.example/newer"},"placements":[{"name":"leaflet",`+
		`"medium":"leaflet","width_mm":28,"distance_mm":280}]}`))
	p.MustElement("[data-stub=sits]").MustClick()
	p.MustElement("#fold-artwork summary").MustClick()
	p.MustElement("#artwork-file").MustSetFiles(leaflet)
	hasText(t, p, "#borne", "The artwork bears a code already. Opens old.example/leaflet.")
	until(t, p, "its button", `() => { const b = document.querySelector("#borne button"); b?.click(); return !!b; }`)
	hasText(t, p, "#borne", "This code covers it.")
	until(t, p, "the code over it", `() => { const d = document.getElementById("placed")?.dataset;
		return !!d && Math.abs(+d.x + d.w / 2 - 105) < 0.1 && Math.abs(+d.y + d.w / 2 - 165) < 0.1; }`)
	p.MustElement("#undo").MustClick()
	hasText(t, p, "#borne", "Lay this code over it")
}
