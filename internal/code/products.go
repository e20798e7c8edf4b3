package code

import (
	"cmp"
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
)

// Product is one that a code in use says the number of.
type Product struct {
	GTIN string // 14 digits
	Name string // of the code that was changed last
}

// Products are those that codes in use say the numbers of, each once, by name. Codes of batches are left out: their names are
// those of rows.
func (s *Store) Products(ctx context.Context, actor access.Actor) (out []Product, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	seen := map[string]bool{}
	err = s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT id, last_good FROM codes WHERE workspace = $1 AND state = $2 AND batch IS NULL
			AND last_good IS NOT NULL ORDER BY changed_at DESC, id`, actor.Workspace, Active)
		if err != nil {
			return err
		}
		var id string
		var sealed []byte
		_, err = pgx.ForEachRow(rows, []any{&id, &sealed}, func() error {
			text, err := s.Seal.Open(sealed, place(actor.Workspace, id, "good"))
			if err != nil {
				return err
			}
			made, problems := job.Parse(text)
			if len(problems) > 0 {
				return unmade("code", problems)
			}
			if gtin := content.GTINOf(made.Content); gtin != "" && !seen[gtin] {
				seen[gtin] = true
				out = append(out, Product{gtin, NameOf(made)})
			}
			return nil
		})
		return err
	})
	slices.SortStableFunc(out, func(a, b Product) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.GTIN, b.GTIN)) })
	return out, err
}
