package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/inspect"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/heavy"
)

// Check is what was measured in a picture of a printed version.
type Check struct {
	N        int    // of the version
	Place    string // its name
	DPI      float64
	Print    inspect.Print
	Verdict  proof.Verdict // with as much ink as was measured
	Forecast proof.Verdict
	At       time.Time
	Who      string
}

// Line sums it up.
func (c Check) Line() string { return c.Print.Line(c.Verdict, c.Forecast) }

// Picture is one of a print.
type Picture struct {
	Data  []byte
	DPI   float64 // of a flatbed scan, 0 of a photograph
	Place string  // id or name of the place whose print it shows; "" is the first
}

// Bounds of what is looked at and kept.
const (
	maxVersions = 20 // newest ones, of which one may be the printed one
	maxChecks   = 50
)

// CheckPrint measures a print of a code in a picture of it, finds out which version it is, and keeps what was measured with
// that version. Problems point to /picture, /dpi, /place and /placements.
func (s *Records) CheckPrint(ctx context.Context, actor access.Actor, id string, p Picture) (*Check, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, err := s.codes.Get(ctx, actor, id)
	if err != nil {
		return nil, err
	}
	if c.Issued == nil {
		return nil, problem.List{
			{Field: "/picture", Code: "print.version", Message: "cannot be a print of this code yet: no version was handed over"},
		}
	}
	if err := inspect.ReadDPI(p.DPI); err != nil {
		return nil, err
	}
	ctx, release, err := heavy.Enter(ctx, true)
	if err != nil {
		return nil, err
	}
	defer release()
	img, err := inspect.Open(p.Data)
	if err != nil {
		return nil, err
	}
	out, m, i, err := s.matched(ctx, actor, c, p, img)
	if err != nil {
		return nil, err
	}
	forecast, err := s.codes.Prove(ctx, actor, m, i, proof.Ordinary)
	if err != nil {
		return nil, err
	}
	in, err := m.Proof(i)
	if err != nil {
		return nil, err
	}
	in.Brief = s.codes.Brief
	now, err := proof.Prove(ctx, out.Print.Printed(in), s.codes.Panel, proof.Ordinary)
	if err != nil {
		return nil, err
	}
	out.Verdict, out.Forecast, out.At, out.Who, out.DPI = out.Print.Verdict(now.Verdict), forecast.Verdict, s.Now(), actor.Name,
		p.DPI
	return out, s.keepCheck(ctx, actor, id, out)
}

// matched measures the newest version that the picture may show.
func (s *Records) matched(
	ctx context.Context,
	actor access.Actor,
	c *code.Code,
	p Picture,
	img image.Image,
) (*Check, *compose.Rendition, int, error) {
	var first error
	before := ""
	for n := c.Issued.N; n > max(0, c.Issued.N-maxVersions); n-- {
		st, err := s.codes.At(ctx, actor, c.ID, fmt.Sprintf("v%d", n))
		if err != nil {
			return nil, nil, 0, err
		}
		m := st.Rendition
		if m == nil || m.Payload+m.Symbol.Digest() == before { // what has the same modules cannot be told from the newer
			continue
		}
		before = m.Payload + m.Symbol.Digest()
		i, problems := m.Pick(p.Place)
		if len(problems) > 0 {
			i, _ = m.Pick("")
		}
		if i < 0 {
			return nil, nil, 0, inspect.Problem(inspect.ErrPlace)
		}
		in, err := m.Proof(i)
		if err != nil {
			return nil, nil, 0, err
		}
		print, err := inspect.Measure(ctx, in, img, p.DPI)
		if err == nil {
			return &Check{N: n, Place: m.Job.Placements[i].Name, Print: *print}, m, i, nil
		}
		if first == nil {
			first = err
		}
		if !errors.Is(err, inspect.ErrOther) {
			break
		}
	}
	return nil, nil, 0, inspect.Problem(first)
}

func (s *Records) keepCheck(ctx context.Context, actor access.Actor, id string, c *Check) error {
	text, err := json.Marshal(c.Print)
	if err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`INSERT INTO print_checks (workspace, code, n, place, dpi, print, verdict, forecast, at, who, who_id)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
			actor.Workspace,
			id,
			c.N,
			c.Place,
			c.DPI,
			text,
			c.Verdict,
			c.Forecast,
			c.At,
			actor.Name,
			actor.ID,
		)
		return err
	})
}

// Checks gives what was measured of prints of a code, newest first.
func (s *Records) Checks(ctx context.Context, actor access.Actor, id string) (out []Check, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(
			ctx,
			`SELECT n, place, dpi, print, verdict, forecast, at, who FROM print_checks WHERE workspace = $1 AND code = $2
				ORDER BY id DESC LIMIT $3`,
			actor.Workspace,
			id,
			maxChecks,
		)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (c Check, err error) {
			return c, r.Scan(&c.N, &c.Place, &c.DPI, &c.Print, &c.Verdict, &c.Forecast, &c.At, &c.Who)
		})
		return err
	})
	return out, err
}
