package batches

import (
	"context"
	"encoding/json"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Rows that lead through short links are codes, each with a link of its own, which the ledger shows by their batch. What a row
// says is where its link leads: changed rows become drafts, which go live together.

// Lead has every row of a batch lead through a short link of its own, those that come later too. What was printed before says
// what it said.
func (s *Store) Lead(ctx context.Context, actor access.Actor, id string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	none := problem.List{{Field: "/links", Code: "batch.links", Message: "have no host here; see Short links in the menu"}}
	if s.Links == nil {
		return none
	}
	base, err := s.Links.Base(ctx, actor)
	if err != nil {
		return err
	}
	if base == "" {
		return none
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		if k := content.KindOf(b.Plan.Kind()); k != nil && k.Stays != "" {
			return problem.List{{Field: "/links", Code: "link.kind", Message: "are nothing for these rows: " + k.Stays}}
		}
		b.Doc.Links = true
		return s.store(ctx, tx, actor.Workspace, b)
	})
	if err != nil {
		return err
	}
	return s.checkSoon(ctx, actor, id)
}

// linkedAtOnce is how many rows get their links between two looks at the clock.
const linkedAtOnce = 20

// Link gives short links to some rows of a batch that are to have one, and says whether there were any. The program does so by
// itself; done twice, a row has one link.
func (s *Store) Link(ctx context.Context, workspace, id string) (bool, error) {
	actor := access.OfProgram(workspace, "batches")
	b, err := s.Get(ctx, actor, id)
	if err != nil || !b.Doc.Links || s.Links == nil {
		return false, err
	}
	rows, err := s.Rows(ctx, actor, id, Filter{State: "unlinked", Limit: linkedAtOnce})
	if err != nil {
		return false, err
	}
	for _, r := range rows {
		if err := s.link(ctx, actor, id, r); err != nil {
			return false, err
		}
	}
	return len(rows) > 0, nil
}

// link gives one row its code and its link.
func (s *Store) link(ctx context.Context, actor access.Actor, id string, r Row) (err error) {
	if r.Code == "" {
		if r.Code, err = s.toDesk(ctx, actor, id, r.N, true); err != nil {
			return err
		}
	}
	c, err := s.Codes.Get(ctx, actor, r.Code)
	if err != nil {
		return err
	}
	if says := c.Rendition.Job.Content; says.Kind() != "dynamic" {
		if r.led, err = ledBy(says); err != nil {
			return err
		}
		if _, err := s.Links.Turn(ctx, actor, r.Code, code.Anyhow); err != nil {
			return err
		}
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		sealed, err := s.seal(actor.Workspace, rowID(id, r.N), "cells", r.cells())
		if err == nil {
			err = s.touch(ctx, tx, actor.Workspace, id)
		}
		if err == nil {
			_, err = tx.Exec(ctx, `UPDATE batch_rows SET linked = true, rev = 0, cells = $4 WHERE workspace = $1 AND batch = $2 AND n = $3
				AND cells = $5`, actor.Workspace, id, r.N, sealed, r.sealed) // what changed meanwhile comes round again
		}
		return err
	})
}

// ledBy is a destination as it is compared.
func ledBy(c content.Content) (string, error) {
	text, err := json.Marshal(content.JSON(c))
	return string(text), err
}

// lead has the draft of a row's link lead where the row says now, unless the rows have said so before: what somebody changed on
// the desk stays.
func (s *Store) lead(ctx context.Context, workspace, id string, r *Row, says content.Content) error {
	now, err := ledBy(says)
	if err != nil || now == r.led {
		return err
	}
	actor := access.OfProgram(workspace, "batches")
	c, err := s.Codes.Get(ctx, actor, r.Code)
	if err != nil {
		return err
	}
	l, err := s.Links.Of(ctx, actor, c)
	if err != nil || l == nil {
		return err
	}
	doc := l.Draft.JSON()
	doc["to"] = content.JSON(says)
	decoded, err := plain(doc)
	if err != nil {
		return err
	}
	if _, err := s.Links.Set(ctx, actor, r.Code, decoded, 0); err != nil {
		if problems, is := code.IsProblem(err); is { // it may not lead there
			r.State, r.Problems = Bad, problems
			return nil
		}
		return err
	}
	r.led = now
	sealed, err := s.seal(workspace, rowID(id, r.N), "cells", r.cells())
	if err != nil {
		return err
	}
	if n, err := s.exec(ctx, workspace, `UPDATE batch_rows SET cells = $4 WHERE workspace = $1 AND batch = $2 AND n = $3 AND cells = $5`,
		workspace, id, r.N, sealed, r.sealed); err != nil || n == 0 {
		return err
	}
	r.sealed = sealed
	return nil
}

// Waiting are the codes of a batch whose links are to lead elsewhere than they do.
func (s *Store) Waiting(ctx context.Context, actor access.Actor, id string) (codes []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	if s.Links == nil {
		return nil, nil
	}
	var all []string
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT code FROM batch_rows WHERE workspace = $1 AND batch = $2 AND linked ORDER BY n`,
			actor.Workspace, id)
		if err == nil {
			all, err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		return err
	})
	if err != nil || len(all) == 0 {
		return nil, err
	}
	heads, err := s.Links.Heading(ctx, actor, all)
	for _, one := range all {
		if heads[one].Changed {
			codes = append(codes, one)
		}
	}
	return codes, err
}

// MakeLive has all links of a batch lead where their drafts say, and says how many were changed.
func (s *Store) MakeLive(ctx context.Context, actor access.Actor, id string) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return 0, err
	}
	if _, err := s.Get(ctx, actor, id); err != nil {
		return 0, err
	}
	waiting, err := s.Waiting(ctx, actor, id)
	if err != nil {
		return 0, err
	}
	for _, one := range waiting {
		if _, err := s.Links.MakeLive(ctx, actor, one, 0); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
