package proving

import (
	"context"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/heavy"
)

// ProveUnkept gives the ordinary proof of a made job for placement i, −1 for none, and keeps nothing: it is for those who have
// no workspace. It stands back behind all that members wait for.
func (pr *Prover) ProveUnkept(ctx context.Context, m *compose.Rendition, i int) (*proof.Proof, error) {
	in, err := pr.input(m, i)
	if err != nil {
		return nil, err
	}
	ctx, release, err := heavy.Enter(ctx, false)
	if err != nil {
		return nil, err
	}
	defer release()
	ctx, cancel := context.WithTimeout(ctx, maxProof)
	defer cancel()
	return proof.Extend(ctx, in, pr.Panel, nil, proof.Ordinary)
}

// FileUnkept draws a file of a made job for placement i and reads it back, behind all that members wait for. reads is false
// where it does not say what it should. Problems are those of the format.
func (pr *Prover) FileUnkept(
	ctx context.Context,
	m *compose.Rendition,
	i int,
	f compose.Format,
) (file []byte, reads bool, err error) {
	ctx, release, err := heavy.Enter(ctx, false)
	if err != nil {
		return nil, false, err
	}
	defer release()
	if file, err = pr.File(ctx, m, f, m.Place(i), compose.MetaOf(f, m.Title(i), pr.Now())); err != nil {
		return nil, false, err
	}
	reads, err = pr.ReadBack(ctx, m, i, f, file)
	return file, reads, err
}
