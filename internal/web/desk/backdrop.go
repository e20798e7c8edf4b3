package desk

import (
	"net/http"
)

// partOf is what an upload is for: the mark, or the backdrop.
func partOf(r *http.Request) string {
	if r.FormValue("part") == "backdrop" {
		return "backdrop"
	}
	return "mark"
}
