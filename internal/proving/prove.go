// Package proving proves what is made, keeps what was proved, and reads files back from their bytes. It knows no code and no
// edit.
package proving

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/ground"
	"sodrik/internal/heavy"
)

// Prover proves what is made, and draws and reads back its files.
type Prover struct {
	*ground.Ground
	Panel proof.Panel
	// PanelVersion names the panel in stored proofs.
	PanelVersion string
	Brief        bool // see proof.Input; who is brief has a PanelVersion of its own

	proving flights
}

// hurry is the key of a context in which somebody waits for every set.
type hurry struct{}

// Hurry says that somebody waits for every set asked for with the context, so that none stands back.
func Hurry(ctx context.Context) context.Context { return context.WithValue(ctx, hurry{}, true) }

// patient is the key of a context in which nobody waits for a verdict in particular.
type patient struct{}

// Patiently says that verdicts asked for with the context stand back behind those that somebody waits for.
func Patiently(ctx context.Context) context.Context { return context.WithValue(ctx, patient{}, true) }

// maxProof bounds the time of one set, maxWait that of waiting for it too.
const (
	maxProof = 30 * time.Second
	maxWait  = 3 * time.Minute
)

// Prove gives the proof of a made job for placement i, −1 for none, with every set up to and with upto: a stored one that
// read the same, by the same model and panel, as far as it goes; what it lacks is made and stored, unless a reader could not
// work: then the proof says so, goes no further, and is made again the next time. Leaving through ctx stops waiting; what
// nobody waits for any more is stopped.
func (pr *Prover) Prove(
	ctx context.Context,
	actor access.Actor,
	m *compose.Rendition,
	i int,
	upto proof.Stage,
) (*proof.Proof, error) {
	if err := actor.Need(access.Make); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	key := pr.Seal.Mac(m.ProofKey(i))
	p, err := pr.storedProof(ctx, workspace, key)
	if err != nil {
		return nil, err
	}
	for _, set := range proof.Stages[:slices.Index(proof.Stages, upto)+1] {
		if p != nil && p.Has(set) {
			continue
		}
		if p, err = pr.extend(ctx, asked{workspace, key, m, i}, p, set); err != nil {
			return nil, err
		}
		if !p.Whole() { // nothing is built upon what says nothing of the code
			break
		}
	}
	return p, nil
}

// input is what a proof of placement i is made from.
func (pr *Prover) input(m *compose.Rendition, i int) (proof.Input, error) {
	in, err := m.Proof(i)
	in.Brief = pr.Brief
	return in, err
}

// asked is the proof of a place that is kept under a key.
type asked struct {
	workspace, key string
	m              *compose.Rendition
	i              int
}

// extend makes and stores one more set of a proof, once however many ask for it.
func (pr *Prover) extend(
	ctx context.Context,
	a asked,
	p *proof.Proof,
	set proof.Stage,
) (*proof.Proof, error) {
	workspace, key := a.workspace, a.key
	return pr.proving.do(
		ctx,
		fmt.Sprint(workspace, " ", key, " ", set),
		maxWait,
		func(ctx context.Context) (*proof.Proof, error) {
			ctx, release, err := heavy.Enter(
				ctx,
				set == proof.Ordinary && ctx.Value(patient{}) == nil || ctx.Value(hurry{}) != nil,
			)
			if err != nil {
				return nil, err
			}
			defer release()
			ctx, cancel := context.WithTimeout(ctx, maxProof)
			defer cancel()
			in, err := pr.input(a.m, a.i)
			if err != nil {
				return nil, err
			}
			p, err := proof.Extend(ctx, in, pr.Panel, p, set)
			if err != nil {
				return nil, err
			}
			if !p.Whole() { // what readers could not do is no verdict, and is never kept
				return p, nil
			}
			text, err := json.Marshal(p)
			if err != nil {
				return nil, err
			}
			err = pr.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
				_, err := tx.Exec(
					ctx,
					`INSERT INTO proofs (workspace, key, panel, verdict, proof, at, asked) VALUES ($1, $2, $3, $4, $5, $6, $6)
				ON CONFLICT (workspace, key, panel) DO UPDATE SET verdict = excluded.verdict, proof = excluded.proof,
				at = excluded.at, asked = excluded.asked`,
					workspace,
					key,
					pr.PanelVersion,
					p.Verdict,
					pr.Seal.Seal(text, Place(workspace, key)),
					pr.Now(),
				)
				return err
			})
			return p, err
		},
	)
}

// See takes one picture of a made job for placement i under circumstances that adjust may change from the usual ones, and
// shows it to the readers. Nothing is stored.
func (pr *Prover) See(
	ctx context.Context,
	m *compose.Rendition,
	i int,
	adjust func(proof.Input, *optics.Setup),
) (*proof.Seen, optics.Setup, error) {
	in, err := pr.input(m, i)
	if err != nil {
		return nil, optics.Setup{}, err
	}
	c := proof.Usual(in)
	adjust(in, &c)
	ctx, cancel := context.WithTimeout(ctx, maxProof)
	defer cancel()
	ctx, release, err := heavy.Enter(ctx, true)
	if err != nil {
		return nil, c, err
	}
	defer release()
	seen, err := proof.See(ctx, in, c, pr.Panel)
	return seen, c, err
}

// Album gives the first picture of every condition of a made job for placement i.
func (pr *Prover) Album(ctx context.Context, m *compose.Rendition, i int) ([]proof.Shot, error) {
	in, err := pr.input(m, i)
	if err != nil {
		return nil, err
	}
	ctx, release, err := heavy.Enter(ctx, true)
	if err != nil {
		return nil, err
	}
	defer release()
	return proof.Album(ctx, in)
}

// Witness takes the picture of one draw of a condition again and shows it to the readers. ok is false where the place has no
// such condition or draw.
func (pr *Prover) Witness(
	ctx context.Context,
	m *compose.Rendition,
	i int,
	key string,
	draw int,
) (seen *proof.Seen, c proof.Condition, ok bool, err error) {
	in, err := pr.input(m, i)
	if err != nil {
		return nil, c, false, err
	}
	if c, ok = proof.ConditionOf(in, key); !ok || draw < 0 || draw >= c.Draws {
		return nil, c, false, nil
	}
	ctx, cancel := context.WithTimeout(ctx, maxProof)
	defer cancel()
	ctx, release, err := heavy.Enter(ctx, true)
	if err != nil {
		return nil, c, true, err
	}
	defer release()
	seen, err = proof.Witness(ctx, in, c, draw, pr.Panel)
	return seen, c, true, err
}
