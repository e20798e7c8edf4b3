package code

import (
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// Turn is a request to take something back, or to do it again. Retries are recognised by tab and sequence.
type Turn struct {
	Rev int64 // the edit that the page offered; 0 is the newest of one's own, and where there is none, anybody's
	Tab string
	Seq int64
}

// choose says what undo and redo of a code would turn: the newest edit of whoever asks, unless somebody has changed the same
// since. Then, and where they have made none, it is the newest of the other, which needs their word.
func (s *Store) choose(ctx context.Context, actor access.Actor, c *Code) error {
	workspace := actor.Workspace
	c.UndoRev, c.UndoBy = chosen(c.undo, c.row.turns, actor)
	c.RedoRev, c.RedoBy = chosen(c.redo, c.row.turns, actor)
	if c.RedoBy != "" { // what another took back is theirs to do again
		c.RedoRev, c.RedoBy = 0, ""
	}
	for _, t := range []struct {
		rev   int64
		words *string
	}{{c.UndoRev, &c.Undo}, {c.RedoRev, &c.Redo}} {
		*t.words = ""
		if t.rev == 0 {
			continue
		}
		text, err := s.Seal.Open(c.row.turns[t.rev].words, place(workspace, c.ID, "words"))
		if err != nil {
			return err
		}
		*t.words = string(text)
	}
	return nil
}

func chosen(stack []int64, turns map[int64]logged, me access.Actor) (rev int64, by string) {
	var later []logged // newest first
	for _, at := range slices.Backward(stack) {
		t, ok := turns[at]
		if !ok {
			break
		}
		later = append(later, t)
		if t.who.is(me) {
			break
		}
	}
	if len(later) == 0 {
		return 0, ""
	}
	pick := later[len(later)-1]
	if !pick.who.is(me) {
		pick = later[0]
	}
	for blocked := true; blocked; { // what was changed over it comes first
		blocked = false
		for _, t := range later {
			if t.rev > pick.rev && job.Overlap(t.keys, pick.keys) {
				pick, blocked = t, true
				break
			}
		}
	}
	if pick.who.is(me) {
		return pick.rev, ""
	}
	if pick.who.name == "" {
		return pick.rev, "somebody"
	}
	return pick.rev, pick.who.name
}

// Undo takes an edit back by applying its inverse as a new edit. ErrNothing says that there is none, or that it is not the
// one to be undone any more.
func (s *Store) Undo(ctx context.Context, actor access.Actor, id string, t Turn) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	return s.turn(ctx, actor, id, "undo", t)
}

// Redo does again what was undone last.
func (s *Store) Redo(ctx context.Context, actor access.Actor, id string, t Turn) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	return s.turn(ctx, actor, id, "redo", t)
}

func (s *Store) turn(ctx context.Context, actor access.Actor, id, kind string, t Turn) (*Code, error) {
	return s.attempt(ctx, actor, id, Edit{Tab: t.Tab, Seq: t.Seq, Base: -1}, "",
		func(c *Code, find compose.Assets) (*written, error) {
			rev := c.UndoRev
			if kind == "redo" {
				rev = c.RedoRev
			}
			if rev == 0 || t.Rev != 0 && t.Rev != rev {
				return nil, ErrNothing
			}
			back, words, err := s.inverse(ctx, actor, c, rev)
			if err != nil {
				return nil, err
			}
			if back, err = job.Rebased(state(c), "/job", back); err != nil {
				return nil, problem.List{{Code: "patch", Message: "cannot be taken back: " + err.Error()}}
			}
			w := &written{kind: kind, words: words, tab: t.Tab, seq: t.Seq, turned: rev, patch: back}
			return w, s.carryOut(actor, c, w, find)
		})
}

// inverse is what takes an edit back, with its words.
func (s *Store) inverse(ctx context.Context, actor access.Actor, c *Code, rev int64) (back patch.Patch, words string, err error) {
	workspace := actor.Workspace
	var sealed []byte
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT inverse FROM edits WHERE workspace = $1 AND code = $2 AND rev = $3`, workspace, c.ID,
			rev).Scan(&sealed)
	})
	if err != nil {
		return nil, "", err
	}
	if back, err = s.openPatch(workspace, c.ID, "inverse", sealed); err != nil {
		return nil, "", err
	}
	text, err := s.Seal.Open(c.row.turns[rev].words, place(workspace, c.ID, "words"))
	return back, string(text), err
}

// Before is a code without an edit that can be undone, for showing the difference; nothing is stored. It is nil where what is
// left cannot be made.
func (s *Store) Before(ctx context.Context, actor access.Actor, id string, rev int64) (c *Code, without *compose.Rendition,
	err error) {
	if err := actor.Need(access.Change); err != nil {
		return c, without, err
	}
	workspace := actor.Workspace
	if c, err = s.Get(ctx, actor, id); err != nil {
		return nil, nil, err
	}
	if rev == 0 || rev != c.UndoRev {
		return c, nil, ErrNothing
	}
	back, _, err := s.inverse(ctx, actor, c, rev)
	if err == nil {
		back, err = job.Rebased(state(c), "/job", back)
	}
	if err != nil {
		return c, nil, err
	}
	next, _, err := back.Apply(state(c))
	if err != nil {
		return c, nil, err
	}
	draft, err := plain(next.(map[string]any)["job"])
	if err != nil {
		return c, nil, err
	}
	without, _ = compose.Typed(c.House.Job(draft), nil, s.In(ctx, workspace))
	return c, without, nil
}

// plain is JSON as it comes back from its text, numbers and all.
func plain(v any) (any, error) {
	text, err := jsonText(v)
	if err != nil {
		return nil, err
	}
	return fields.Decode(text)
}

// turned gives both stacks after something was written at rev.
func turned(c *Code, w *written, rev int64, me access.Actor, keys []string) (undo, redo []int64) {
	without := func(list []int64, gone int64) []int64 {
		return slices.DeleteFunc(slices.Clone(list), func(r int64) bool { return r == gone })
	}
	// What another took back stays theirs to do again, until it is changed otherwise.
	mine := w.kind == "edit"
	kept := slices.DeleteFunc(slices.Clone(c.redo), func(r int64) bool {
		t, ok := c.row.turns[r]
		return mine && (!ok || t.who.is(me)) || ok && !t.who.is(me) && job.Overlap(t.keys, keys)
	})
	switch {
	case w.grows:
		return append(without(c.undo, c.Rev), rev), kept
	case w.kind == "undo":
		return without(c.undo, w.turned), append(kept, rev)
	case w.kind == "redo":
		return append(slices.Clone(c.undo), rev), without(kept, w.turned)
	}
	return append(slices.Clone(c.undo), rev), kept
}
