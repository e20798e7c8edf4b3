package batches

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
)

// Drawn is a row with its code; Scene is nil where it cannot be made.
type Drawn struct {
	Row
	Scene *scene.Scene
}

// some reads rows of a batch with what makes them.
func (s *Store) some(ctx context.Context, workspace, id string, f Filter) (a *Rows, m *batch.Maker, broken problem.List,
	err error) {
	a = &Rows{store: s, workspace: workspace}
	err = s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
		if a.batch, m, broken, err = s.made(ctx, tx, workspace, id); err != nil || len(broken) > 0 {
			return err
		}
		a.rows, err = s.rowsIn(ctx, tx, workspace, id, f)
		return err
	})
	if err == nil && len(broken) == 0 && a.batch.Least > 0 {
		m = m.AtLeast(a.batch.Least)
	}
	a.find, a.keys = s.find(ctx, workspace), map[string]int{}
	return a, m, broken, err
}

// Drawn draws the codes of rows, at their size in print.
func (s *Store) Drawn(ctx context.Context, actor access.Actor, id string, f Filter) (out []Drawn, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	a, m, broken, err := s.some(ctx, actor.Workspace, id, f)
	if err != nil || len(broken) > 0 {
		return nil, err
	}
	for _, r := range a.rows {
		one := Drawn{Row: r}
		if r.State == Good {
			made, _, err := a.produce(ctx, m, &r)
			if err != nil {
				return nil, err
			}
			if made.Good() {
				one.Scene = made.Rendition.Scene(made.Rendition.Place(min(0, len(made.Rendition.Job.Placements)-1)))
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// Sheet draws one sheet as it prints, from 0, and says how many there are. What does not fit its label is a problem.
func (s *Store) Sheet(ctx context.Context, actor access.Actor, id string, sheet int) (page *scene.Scene, of int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, 0, err
	}
	a, m, broken, err := s.some(ctx, actor.Workspace, id, Filter{State: Good})
	if err != nil {
		return nil, 0, err
	}
	if len(broken) > 0 {
		return nil, 0, broken
	}
	setting := a.batch.Setting()
	of = setting.Sheets(len(a.rows))
	if of == 0 {
		return nil, 0, nil
	}
	sheet = min(sheet, of-1)
	page = &scene.Scene{Width: setting.Width, Height: setting.Height}
	for _, i := range setting.On(sheet, len(a.rows)) {
		made, _, err := a.produce(ctx, m, &a.rows[i])
		if err != nil {
			return nil, 0, err
		}
		if !made.Good() {
			continue
		}
		l, problems := batch.Label(made, setting)
		if len(problems) > 0 {
			problems[0].Message = fmt.Sprintf("(row %d) %s", a.rows[i].N, problems[0].Message)
			return nil, of, problems
		}
		page.Items = append(page.Items, setting.Lay(l, setting.At(i, len(a.rows)))...)
	}
	if setting.Marks {
		page.Items = append(page.Items, setting.CropMarks()...)
	}
	return page, of, nil
}
