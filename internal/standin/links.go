package standin

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/link"
)

// LinkHost is where the demonstration's short links stand, and LinkAlias a name for it that browsers resolve to this machine.
const (
	LinkHost  = "https://go.marrowby.example"
	LinkAlias = "go.marrowby.localhost"
)

// today is the code whose destination changes when the fair is over.
const today = `{"name": "On at the fair today", "content": {"kind": "url", "url": "https://marrowby.example/fair/today"},
	"look": {"ink": "#12352b"}, "placements": [
	{"name": "lane sign", "medium": "poster-a2", "substrate": "film", "width_mm": 160, "distance_mm": 1500, "light": "outdoor"},
	{"name": "tea tent", "medium": "table-tent", "substrate": "uncoated", "width_mm": 50, "distance_mm": 400, "light": "indoor"}]}`

// loadLinks makes the demonstration's dynamic code, and hands it over.
func loadLinks(ctx context.Context, links *link.Store) error {
	actor := Loader()
	m, problems := compose.Parse([]byte(today), nil)
	if len(problems) > 0 {
		return fmt.Errorf("demonstration: %w", problems)
	}
	id, err := links.Codes.Create(ctx, actor, m, fair)
	if err != nil {
		return err
	}
	if _, err := links.Turn(ctx, actor, id, code.Anyhow); err != nil {
		return err
	}
	for place, word := range map[int]string{-1: "fair-lane", 1: "fair-tent"} {
		if _, err := links.Word(ctx, actor, id, place, word, code.Anyhow); err != nil {
			return err
		}
	}
	if _, err := links.Edit(ctx, actor, id, map[string]string{"then": "https://marrowby.example/bulbs",
		"from":     "2027-03-20T16:00",
		"timezone": "Europe/London", "message": "The fair is over. See you next spring.", "instead": "marrowby.example"}, "GB",
		0); err != nil {
		return err
	}
	if _, err = links.Codes.Issue(ctx, actor, id); err != nil {
		return err
	}
	return links.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error { // it has hung for a while
		_, err := tx.Exec(ctx, `UPDATE lead_versions SET at = $3 WHERE workspace = $1 AND code = $2`, actor.Workspace, id,
			links.Codes.Now().AddDate(0, 0, -days))
		return err
	})
}
