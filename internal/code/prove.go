package code

import (
	"context"
	"encoding/json"
	"fmt"
	"runtime"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/singleflight"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
)

// provers keeps the number of proofs at once below the number of cores, and makes each only once at a time.
type provers struct {
	flight singleflight.Group
}

var proofSlots = make(chan struct{}, max(1, runtime.NumCPU()-1))

// mostProof bounds the time of one proof.
const mostProof = 30 * time.Second

// Prove gives the proof of a made job for placement i, −1 for none: a stored one with the same job, placement and panel, or
// a new one, which is stored. Leaving through ctx stops waiting; the proof itself goes on for whoever asks next.
func (s *Store) Prove(ctx context.Context, workspace string, m *compose.Made, i int) (*proof.Proof, error) {
	digest := s.Seal.Mac(m.Job.Digest())
	if p, err := s.storedProof(ctx, workspace, digest, i); p != nil || err != nil {
		return p, err
	}
	result := s.proving.flight.DoChan(fmt.Sprint(workspace, " ", digest, " ", i), func() (any, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), mostProof)
		defer cancel()
		select {
		case proofSlots <- struct{}{}:
			defer func() { <-proofSlots }()
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		in, err := m.Proof(i)
		if err != nil {
			return nil, err
		}
		p, err := proof.Prove(ctx, in, s.Panel, s.Now)
		if err != nil {
			return nil, err
		}
		text, err := json.Marshal(p)
		if err != nil {
			return nil, err
		}
		err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			_, err := tx.Exec(ctx, `INSERT INTO proofs (workspace, digest, placement, panel, verdict, proof, at) VALUES ($1, $2, $3, $4, $5, $6, $7)
				ON CONFLICT (workspace, digest, placement, panel) DO UPDATE SET verdict = excluded.verdict, proof = excluded.proof, at = excluded.at`,
				workspace, digest, i, s.PanelVersion, p.Verdict, s.Seal.Seal(text, proofPlace(workspace, digest, i)), s.Now())
			return err
		})
		return p, err
	})
	select {
	case r := <-result:
		if r.Err != nil {
			return nil, r.Err
		}
		return r.Val.(*proof.Proof), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// See takes one picture of a made job for placement i under circumstances that adjust may change from the usual ones, and shows it to the
// readers. Nothing is stored.
func (s *Store) See(ctx context.Context, m *compose.Made, i int, adjust func(proof.Input, *optics.Setup)) (*proof.Seen, optics.Setup, error) {
	in, err := m.Proof(i)
	if err != nil {
		return nil, optics.Setup{}, err
	}
	c := proof.Usual(in)
	adjust(in, &c)
	ctx, cancel := context.WithTimeout(ctx, mostProof)
	defer cancel()
	select {
	case proofSlots <- struct{}{}:
		defer func() { <-proofSlots }()
	case <-ctx.Done():
		return nil, c, ctx.Err()
	}
	seen, err := proof.See(ctx, in, c, s.Panel, s.Now)
	return seen, c, err
}
