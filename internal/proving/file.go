package proving

import (
	"context"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	placing "sodrik/internal/core/place"
	"sodrik/internal/heavy"
)

// File draws a file of a made job, once there is a place for drawing. Problems are those of the format.
func (pr *Prover) File(
	ctx context.Context,
	m *compose.Rendition,
	f compose.Format,
	p *placing.Placement,
	meta export.Meta,
) (file []byte, err error) {
	err = heavy.Do(ctx, func(context.Context) error {
		data, problems := m.File(f, p, meta)
		file = data
		return problems.Err()
	})
	return file, err
}
