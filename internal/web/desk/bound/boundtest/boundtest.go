// Package boundtest gives tests a code at a place, without a database.
package boundtest

import (
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/style"
	"sodrik/internal/web/desk/bound"
)

// Of is the code of a job, at its first place or, where it has none, at none.
func Of(t *testing.T, job string, house *style.Style) bound.Code {
	t.Helper()
	draft, err := fields.Decode([]byte(job))
	if err != nil {
		t.Fatal(err)
	}
	m, _, problems := compose.Read(draft, nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return bound.Code{C: &code.Code{ID: "c0de", Draft: draft, Rendition: m, House: house}, Place: min(0, len(m.Job.Placements)-1)}
}
