package ledger

import (
	"net/http"
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gs1"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// maxLines bounds what is judged at once.
const maxLines = 200

// IdentifiersPage judges pasted GS1 identifiers, one a line.
type IdentifiersPage struct {
	ui.Frame
	Text      string
	Judged    []gs1.Judged
	Summary   string
	MayChange bool
	Products  int    // sound GTINs, each once; 0 for fewer than two
	Rows      string // of a batch of them
}

// batch gathers the products of which many codes can be made at once.
func (v *IdentifiersPage) batch() {
	var all []string
	for _, j := range v.Judged {
		if gtin, wrong := content.GTIN(j.Text); j.Sound && wrong == "" && !slices.Contains(all, gtin) {
			all = append(all, gtin)
		}
	}
	if len(all) > 1 {
		v.Products, v.Rows = len(all), "GTIN\n"+strings.Join(all, "\n")+"\n"
	}
}

func (h *Handler) identifiers(w http.ResponseWriter, r *http.Request) {
	v := IdentifiersPage{Frame: ui.FrameOf(r, "Product identifiers", "codes"), Text: r.PostFormValue("text"),
		MayChange: ui.May(r, people.Change)}
	wrong := 0
	for _, line := range strings.Split(strings.ReplaceAll(v.Text, "\r\n", "\n"), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		if len(v.Judged) == maxLines {
			break
		}
		j := gs1.Judge(line)
		if v.Judged = append(v.Judged, j); !j.Sound {
			wrong++
		}
	}
	v.batch()
	switch n := len(v.Judged); {
	case n == 0:
	case wrong == 0:
		v.Summary = plural(n, "identifier, sound.", "identifiers, all sound.")
	default:
		v.Summary = plural(n, "identifier", "identifiers") + ", " + plural(wrong, "wrong.", "wrong.")
	}
	name := "identifiers"
	if r.Header.Get("HX-Request") != "" {
		name = "judged"
	}
	ui.Render(w, http.StatusOK, pages, name, v)
}
