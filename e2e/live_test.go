package e2e

import (
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/standin"
)

// TestLiveOpens: a code that leads through a link and is live opens where it leads, and where it was left once it was open.
func TestLiveOpens(t *testing.T) {
	t.Parallel()
	a := open(t)
	page, err := a.store.Ledger(t.Context(), standin.Loader(), code.Active, "go.marrowby.example/seeds", nil, 10)
	if err != nil || len(page.Lines) == 0 {
		t.Fatalf("%+v, %v", page, err)
	}
	at := "/codes/" + page.Lines[0].ID
	p := a.page(t, at)
	opened := `(stub) => document.querySelector("[data-stub='" + stub + "']")?.getAttribute("aria-expanded") === "true"`
	until(t, p, "where it leads", opened, "leads")
	p.MustElement("[data-stub=sits]").MustClick()
	p.MustReload().MustWaitLoad()
	until(t, p, "where it was left", opened, "sits")
}
