// Package reference is the readable page of the API, whose examples run.
package reference

import (
	"embed"
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/api"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Routes mounts the page.
func Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Look)).Get("/api", func(w http.ResponseWriter, r *http.Request) {
		ui.Render(w, http.StatusOK, pages, "reference", struct {
			ui.Frame
			Operations []api.Operation
			Scopes     []people.Scope
			PerMinute  int
		}{ui.FrameOf(r, "API", "person"), api.Operations(), people.Scopes, people.PerMinute})
	})
}
