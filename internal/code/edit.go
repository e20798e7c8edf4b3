package code

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// Edit is one change as a page sends it. Retries are recognised by tab and sequence.
type Edit struct {
	Path string // JSON Pointer of the field
	Text string // what stands in it
	Tab  string // the browser tab
	Seq  int64  // counts the edits of the tab
	Base int64  // newest revision the tab had seen; −1 takes precedence over whatever came since
}

// coalesce is how quickly edits of one field by one tab must follow each other to count as one.
const coalesce = 2 * time.Second

// Edit changes one field. What the job cannot hold is kept as typed; nothing is lost. Edits of other fields that the tab
// had not seen stay; where another tab has changed the same field since, nothing is changed and the error is a *Conflict
// that holds both values.
func (s *Store) Edit(ctx context.Context, workspace, id string, e Edit) (*Code, error) {
	return s.change(ctx, workspace, id, e, job.Words(e.Path, e.Text), func(c *Code) (patch.Patch, map[string]*string, error) {
		if !job.Editable(e.Path) {
			return nil, nil, problem.List{*job.Unparsed(e.Path, e.Text)}
		}
		if c.Text(e.Path) == e.Text {
			return nil, nil, nil
		}
		p, bad := job.Edit(c.Draft, e.Path, e.Text)
		if bad != nil {
			return nil, map[string]*string{e.Path: &e.Text}, nil
		}
		return p, map[string]*string{e.Path: nil}, nil
	})
}

// Try is the code as an edit of one field would make it; nothing is stored. What cannot be made is a problem.
func (s *Store) Try(ctx context.Context, workspace, id, path, text string) (c *Code, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if c, err = s.get(ctx, tx, workspace, id, ""); err != nil {
			return err
		}
		p, bad := job.Edit(c.Draft, path, text)
		if bad != nil {
			return problem.List{*bad}
		}
		next, _, err := p.Apply(c.Draft)
		if err != nil {
			return problem.List{{Field: path, Code: "patch", Message: "does not fit the code any more"}}
		}
		made, problems := compose.Typed(c.House.Job(next), nil, s.find(ctx, tx, workspace))
		if made == nil {
			return problems
		}
		c.Made = made
		return nil
	})
	return c, err
}

// Patch applies a finding's fix, or another change of several fields, as one edit.
func (s *Store) Patch(ctx context.Context, workspace, id string, p patch.Patch, words, tab string, seq int64) (*Code, error) {
	return s.change(ctx, workspace, id, Edit{Tab: tab, Seq: seq, Base: -1}, words, func(c *Code) (patch.Patch, map[string]*string, error) {
		cleared := map[string]*string{}
		for _, op := range p {
			cleared[op.Path] = nil
		}
		return job.Complete(c.Draft, p), cleared, nil
	})
}

// change locks the code's row and carries out what make asks for: a patch of the draft, and unparsed text by path, nil for
// none any more.
func (s *Store) change(ctx context.Context, workspace, id string, e Edit, words string,
	make func(*Code) (patch.Patch, map[string]*string, error)) (out *Code, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		c, err := s.get(ctx, tx, workspace, id, "FOR UPDATE OF c")
		if err != nil {
			return err
		}
		known, clash, err := before(ctx, tx, workspace, id, e)
		if err != nil || known {
			out = c
			return err
		}
		if theirs := c.Text(e.Path); clash && theirs != e.Text {
			return &Conflict{Code: c, Path: e.Path, Theirs: theirs, Mine: e.Text}
		}
		p, text, err := make(c)
		if err != nil {
			return err
		}
		whole := withUnparsed(c, p, text)
		draft, inverse, err := whole.Apply(state(c))
		if err != nil {
			return problem.List{{Code: "patch", Message: "does not fit the code any more; look at it again and repeat the change"}}
		}
		if len(whole) > 0 {
			if err := s.write(ctx, tx, workspace, c, "edit", e.Path, words, e.Tab, e.Seq, draft, whole, inverse); err != nil {
				return err
			}
		}
		out, err = s.get(ctx, tx, workspace, id, "")
		return err
	})
	return out, err
}

// state is what patches of the edit log work on: the draft and the unparsed text side by side, so that undo covers both.
func state(c *Code) any {
	unparsed := map[string]any{}
	for k, v := range c.Unparsed {
		unparsed[k] = v
	}
	return map[string]any{"job": c.Draft, "unparsed": unparsed}
}

func withUnparsed(c *Code, p patch.Patch, text map[string]*string) patch.Patch {
	var out patch.Patch
	for _, op := range p {
		op.Path = "/job" + op.Path
		out = append(out, op)
	}
	for path, t := range text {
		at := "/unparsed/" + problem.Escape(path)
		old, has := c.Unparsed[path]
		switch {
		case t == nil && has:
			out = append(out, patch.Op{Op: "remove", Path: at})
		case t != nil && (!has || *t != old):
			out = append(out, patch.Op{Op: "add", Path: at, Value: *t})
		}
	}
	return out
}

// before looks at the edits that came before this one: known says that it, or a later one of the same field and tab, has
// been carried out already; clash, that another tab has changed the field since the revision this one is based on.
func before(ctx context.Context, tx pgx.Tx, workspace, id string, e Edit) (known, clash bool, err error) {
	if e.Tab == "" {
		return false, false, nil
	}
	err = tx.QueryRow(ctx, `SELECT
		EXISTS (SELECT 1 FROM edits WHERE workspace = $1 AND code = $2 AND tab = $3
			AND ($4 = ANY (seqs) OR path = $5 AND path <> '' AND $4 < ANY (seqs))),
		$6 >= 0 AND EXISTS (SELECT 1 FROM edits WHERE workspace = $1 AND code = $2 AND tab <> $3
			AND rev > greatest($6, (SELECT max(rev) FROM edits WHERE workspace = $1 AND code = $2 AND tab = $3 AND path = $5))
			AND '/job' || $5 = ANY (paths))`,
		workspace, id, e.Tab, e.Seq, e.Path, e.Base).Scan(&known, &clash)
	return known, clash, err
}

// write stores a new state of the code and its edit. An edit of the same field by the same tab within coalesce grows the
// one before instead of adding one.
func (s *Store) write(ctx context.Context, tx pgx.Tx, workspace string, c *Code, kind, path, words, tab string, seq int64, next any, p, inverse patch.Patch) error {
	doc := next.(map[string]any)
	unparsed := map[string]string{}
	for k, v := range doc["unparsed"].(map[string]any) {
		unparsed[k], _ = v.(string)
	}
	draft, err := json.Marshal(doc["job"])
	if err != nil {
		return err
	}
	left, err := json.Marshal(unparsed)
	if err != nil {
		return err
	}
	again, err := fields.Decode(draft) // as it will be read back
	if err != nil {
		return err
	}
	grown, err := s.grow(ctx, tx, workspace, c, kind, path, words, tab, seq, p, inverse)
	if err != nil {
		return err
	}
	rev, undo, redo := c.Rev+1, c.undo, c.redo
	switch {
	case grown:
		undo = append(undo[:len(undo)-1:len(undo)-1], rev)
	case kind == "edit":
		undo, redo = append(undo, rev), []int64{}
	case kind == "undo":
		undo, redo = undo[:len(undo)-1], append(redo, rev)
	case kind == "redo":
		undo, redo = append(undo, rev), redo[:len(redo)-1]
	}
	now := s.Now()
	made, _ := compose.Typed(c.House.Job(again), nil, s.find(ctx, tx, workspace))
	// What could not be made leaves the last good state as it is.
	var good, digest, name, payload, searched any
	if made != nil {
		text, err := json.Marshal(made.Job)
		if err != nil {
			return err
		}
		good, digest, name, payload, searched = s.seal(workspace, c.ID, "good", text), s.Seal.Mac(made.Job.Digest()), NameOf(made.Job), s.Seal.Mac(made.Payload), search(made)
	}
	_, err = tx.Exec(ctx, `UPDATE codes SET rev = $3, draft = $4, unparsed = $5, sound = $6, undo = $7, redo = $8, changed_at = $9,
		last_good = coalesce($10, last_good), digest = coalesce($11, digest), name = coalesce($12, name), payload_mac = coalesce($13, payload_mac), search = coalesce($14, search), wears = $15
		WHERE workspace = $1 AND id = $2`,
		workspace, c.ID, rev, s.seal(workspace, c.ID, "draft", draft), s.seal(workspace, c.ID, "unparsed", left), made != nil && len(unparsed) == 0, undo, redo, now, good, digest, name, payload, searched, From(again))
	if err != nil || grown {
		return err
	}
	log, err := s.logged(workspace, c.ID, p, inverse, words)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO edits (workspace, code, rev, kind, path, paths, words, tab, seqs, patch, inverse, at, who)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)`, workspace, c.ID, rev, kind, path, log.paths, log.words, tab, []int64{seq}, log.patch, log.inverse, now, Who(ctx))
	return err
}

// logRow is what an edit leaves in the log, sealed.
type logRow struct {
	paths                 []string
	patch, inverse, words []byte
}

func (s *Store) logged(workspace, id string, p, inverse patch.Patch, words string) (l logRow, err error) {
	for _, op := range p {
		l.paths = append(l.paths, op.Path)
	}
	for _, part := range []struct {
		what string
		p    patch.Patch
		to   *[]byte
	}{{"patch", p, &l.patch}, {"inverse", inverse, &l.inverse}} {
		text, err := json.Marshal(part.p)
		if err != nil {
			return l, err
		}
		*part.to = s.seal(workspace, id, part.what, text)
	}
	l.words = s.seal(workspace, id, "words", []byte(words))
	return l, nil
}

// openPatch reads a patch out of the log.
func (s *Store) openPatch(workspace, id, what string, sealed []byte) (p patch.Patch, err error) {
	text, err := s.Seal.Open(sealed, place(workspace, id, what))
	if err != nil {
		return nil, err
	}
	return p, json.Unmarshal(text, &p)
}

// grow adds an edit to the one before it, where both are of the same field and tab and follow each other quickly.
func (s *Store) grow(ctx context.Context, tx pgx.Tx, workspace string, c *Code, kind, path, words, tab string, seq int64, p, inverse patch.Patch) (bool, error) {
	if kind != "edit" || path == "" || tab == "" {
		return false, nil
	}
	now := s.Now()
	var was, back []byte
	err := tx.QueryRow(ctx, `SELECT patch, inverse FROM edits WHERE workspace = $1 AND code = $2 AND rev = $3 AND kind = 'edit' AND tab = $4 AND path = $5 AND at > $6`,
		workspace, c.ID, c.Rev, tab, path, now.Add(-coalesce)).Scan(&was, &back)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	} else if err != nil {
		return false, err
	}
	before, err := s.openPatch(workspace, c.ID, "patch", was)
	if err != nil {
		return false, err
	}
	undo, err := s.openPatch(workspace, c.ID, "inverse", back)
	if err != nil {
		return false, err
	}
	log, err := s.logged(workspace, c.ID, append(before, p...), append(slices.Clone(inverse), undo...), words)
	if err != nil {
		return false, err
	}
	_, err = tx.Exec(ctx, `UPDATE edits SET rev = $3 + 1, words = $4, seqs = seqs || $5::bigint, paths = $6, patch = $7, inverse = $8, at = $9
		WHERE workspace = $1 AND code = $2 AND rev = $3`, workspace, c.ID, c.Rev, log.words, seq, log.paths, log.patch, log.inverse, now)
	return true, err
}

// Undo takes the last edit back by applying its inverse as a new edit.
func (s *Store) Undo(ctx context.Context, workspace, id string) (*Code, error) {
	return s.turn(ctx, workspace, id, "undo")
}

// Redo does again what was undone last.
func (s *Store) Redo(ctx context.Context, workspace, id string) (*Code, error) {
	return s.turn(ctx, workspace, id, "redo")
}

func (s *Store) turn(ctx context.Context, workspace, id, kind string) (out *Code, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		c, err := s.get(ctx, tx, workspace, id, "FOR UPDATE OF c")
		if err != nil {
			return err
		}
		from := c.undo
		if kind == "redo" {
			from = c.redo
		}
		if len(from) == 0 {
			return ErrNothing
		}
		var sealed, said []byte
		if err := tx.QueryRow(ctx, `SELECT words, inverse FROM edits WHERE workspace = $1 AND code = $2 AND rev = $3`,
			workspace, id, from[len(from)-1]).Scan(&said, &sealed); err != nil {
			return err
		}
		words, err := s.Seal.Open(said, place(workspace, id, "words"))
		if err != nil {
			return err
		}
		back, err := s.openPatch(workspace, id, "inverse", sealed)
		if err != nil {
			return err
		}
		next, inverse, err := back.Apply(state(c))
		if err != nil {
			return err
		}
		if err := s.write(ctx, tx, workspace, c, kind, "", string(words), "", 0, next, back, inverse); err != nil {
			return err
		}
		out, err = s.get(ctx, tx, workspace, id, "")
		return err
	})
	return out, err
}

// IsProblem gives the problems an error carries, if it is about the user's input.
func IsProblem(err error) (problem.List, bool) {
	var list problem.List
	ok := errors.As(err, &list)
	return list, ok
}
