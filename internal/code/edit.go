package code

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Edit is one change as a page sends it. Retries are recognised by tab and sequence.
type Edit struct {
	Path  string // JSON Pointer of the field
	Place string // id of the placement that the path's index meant to the page, "" where it is in none or the page did not say
	Text  string // what stands in it
	Tab   string // the browser tab
	Seq   int64  // counts the changes of the tab
	Base  int64  // newest revision the tab had seen; −1 takes precedence over whatever came since
	// Since is the sequence number that the tab's next change had when the field was entered, 0 where it is none that is typed
	// in. All that is typed in one stay is one step of undo, so that half a value is none.
	Since int64
}

// coalesce is how quickly edits of one field by one tab must follow each other to count as one.
const coalesce = 2 * time.Second

// field is the field's key, as far as the page alone knows it.
func (e Edit) field() string {
	if rest, ok := strings.CutPrefix(e.Path, "/placements/"); ok && e.Place != "" {
		if _, part, ok := strings.Cut(rest, "/"); ok {
			return "/placements/" + e.Place + "/" + part
		}
	}
	return e.Path
}

// Edit changes one field. What the job cannot hold is kept as typed; nothing is lost. Edits of other fields that the tab
// had not seen stay; where another tab has changed the same field since, nothing is changed and the error is a *Conflict
// that holds both values.
func (s *Store) Edit(ctx context.Context, actor access.Actor, id string, e Edit) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	return s.change(ctx, actor, id, e, act{job.Words(nil, e.Path, e.Text),
		func(c *Code) (patch.Patch, map[string]*string, error) {
			path, ok := job.PathOf(c.Draft, e.field())
			if !ok {
				return nil, nil, problem.List{{Field: e.Path, Code: "place.gone", Message: "was not changed: " +
					job.ErrGone.Error()}}
			}
			if !job.Editable(c.Draft, path) {
				return nil, nil, problem.List{*job.Unparsed(c.Draft, path, e.Text)}
			}
			if f := job.Field("", path); f != nil && (f.Type == schema.Colour || f.Type == schema.Ink) {
				e.Text = c.House.Typed(e.Text)
			}
			if c.Text(path) == e.Text {
				return nil, nil, nil
			}
			p, bad := job.Edit(c.Draft, path, e.Text)
			if bad != nil {
				return nil, map[string]*string{path: &e.Text}, nil
			}
			return append(p, job.Suggested(c.Draft, path, e.Text)...), map[string]*string{path: nil}, nil
		}})
}

// Try is the code as an edit of one field would make it; nothing is stored. What cannot be made is a problem.
func (s *Store) Try(ctx context.Context, actor access.Actor, id, path, text string) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, err := s.read(ctx, actor, id, Edit{Base: -1}, "")
	if err != nil {
		return nil, err
	}
	p, bad := job.Edit(c.Draft, path, text)
	if bad != nil {
		return nil, problem.List{*bad}
	}
	return s.tried(ctx, actor, c, p)
}

// TryPatch is Try for fields that nobody types.
func (s *Store) TryPatch(ctx context.Context, actor access.Actor, id string, p patch.Patch) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, err := s.read(ctx, actor, id, Edit{Base: -1}, "")
	if err != nil {
		return nil, err
	}
	return s.tried(ctx, actor, c, p)
}

// tried is what a patch makes of a code; nothing of it is kept.
func (s *Store) tried(ctx context.Context, actor access.Actor, c *Code, p patch.Patch) (*Code, error) {
	next, _, err := p.Apply(c.Draft)
	if err != nil {
		return nil, problem.List{{Code: "patch", Message: "does not fit the code any more"}}
	}
	made, problems := compose.Typed(c.House.Job(next), nil, s.In(ctx, actor.Workspace))
	if made == nil {
		return nil, problems
	}
	c.Rendition = made
	s.digested(c)
	return c, nil
}

// Change is a change of several fields as a page sends it: which tab, the how manieth of it, and what it had seen. The zero
// Change but with Base −1 is one that is held against nothing.
type Change struct {
	Tab   string
	Seq   int64
	Base  int64
	Words string // what is done, as undo names it: "black on white"
}

// As is the change under other words.
func (b Change) As(words string) Change {
	b.Words = words
	return b
}

func (b Change) edit() Edit { return Edit{Tab: b.Tab, Seq: b.Seq, Base: b.Base} }

// Anyhow is a change that takes precedence over whatever came before.
var Anyhow = Change{Base: -1}

// Patch applies a finding's fix, or another change of several fields, as one edit. Where another tab has changed a part of it
// since, nothing is changed.
func (s *Store) Patch(ctx context.Context, actor access.Actor, id string, p patch.Patch, by Change) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	if err := few(p); err != nil {
		return nil, err
	}
	return s.change(ctx, actor, id, by.edit(), act{by.Words, func(c *Code) (patch.Patch, map[string]*string, error) {
		return patched(c, p)
	}})
}

// PatchIn is Patch within a transaction that holds more.
func (s *Store) PatchIn(ctx context.Context, tx pgx.Tx, actor access.Actor, id string, p patch.Patch, by Change) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, _, err := s.changeIn(ctx, tx, actor, id, by.edit(), act{by.Words, func(c *Code) (patch.Patch, map[string]*string, error) {
		return patched(c, p)
	}})
	return c, err
}

// few refuses a patch of more operations than are taken.
func few(p patch.Patch) error {
	if len(p) > patch.MaxOps {
		return problem.List{{Code: "patch.long",
			Message: fmt.Sprintf("the change has %d operations; at most %d are taken at once", len(p), patch.MaxOps)}}
	}
	for _, op := range p {
		if _, ok := fields.Storable(op.Value); !ok || strings.ContainsRune(op.Path, 0) || !utf8.ValidString(op.Path) {
			return problem.List{{Field: strings.ToValidUTF8(strings.ReplaceAll(op.Path, "\x00", ""), ""), Code: "text",
				Message: "holds the character U+0000, which no text may hold"}}
		}
	}
	return nil
}

// patched is what a patch from outside comes to on a draft, with the text that it makes obsolete.
func patched(c *Code, p patch.Patch) (patch.Patch, map[string]*string, error) {
	p, err := job.Rebased(c.Draft, "", p)
	if err != nil {
		return nil, nil, problem.List{{Code: "place.gone", Message: "nothing was changed: " + err.Error()}}
	}
	cleared := map[string]*string{}
	for _, op := range p {
		if op.Op != "test" {
			cleared[op.Path] = nil
		}
	}
	return job.Complete(c.Draft, p), cleared, nil
}

// making says what of a code changes: a patch of the draft, and unparsed text by path, nil for none any more. The code it is
// given is not made.
type making func(*Code) (patch.Patch, map[string]*string, error)

// act is what is done, and what undo calls it.
type act struct {
	words string
	do    making
}

// written is a new state of a code that is to be stored.
type written struct {
	kind, path, words, tab string
	seq                    int64
	turned                 int64 // revision that is undone or done again
	grows                  bool  // the last edit, in place of adding one
	patch                  patch.Patch
	inverse                patch.Patch
	keys                   []string

	draft, unparsed []byte
	sound, good     bool // nothing is wrong with it; it could be made
	out             *Code
	again           any // the draft, decoded
}

// maxTries is how often a change is made anew because another came in between.
const maxTries = 30

// ErrBusy says that too many change a code at once.
var ErrBusy = errors.New("too many are changing this code just now; try again in a moment")

// change makes a change of a code and stores it. Nothing is locked while it is made: where another came in between, it is
// made again.
func (s *Store) change(ctx context.Context, actor access.Actor, id string, e Edit, a act) (*Code, error) {
	return s.attempt(ctx, actor, id, e, e.field(), func(c *Code, find compose.Assets) (*written, error) {
		return s.step(actor, c, e, a, find)
	})
}

// attempt reads a code, has something made of it, and stores that, until no other came in between. do gives nil where there
// is nothing to store.
func (s *Store) attempt(ctx context.Context, actor access.Actor, id string, e Edit, key string,
	do func(*Code, compose.Assets) (*written, error)) (*Code, error) {
	workspace := actor.Workspace
	find := s.In(ctx, workspace)
	for range maxTries {
		c, err := s.read(ctx, actor, id, e, key)
		if err != nil {
			return nil, err
		}
		var w *written
		if !c.row.known {
			if w, err = do(c, find); err != nil {
				var clash *Conflict
				if errors.As(err, &clash) {
					if err := s.made(workspace, clash.Code, find); err != nil {
						return nil, err
					}
				}
				return nil, err
			}
		}
		if w == nil {
			return c, s.made(workspace, c, find)
		}
		stored, err := s.store(ctx, nil, actor, c, w)
		if err != nil || stored {
			return w.out, err
		}
	}
	return nil, ErrBusy
}

// changeIn makes a change within a transaction that holds more, with the code's row locked.
func (s *Store) changeIn(ctx context.Context, tx pgx.Tx, actor access.Actor, id string, e Edit, a act) (c *Code, changed bool,
	err error) {
	workspace := actor.Workspace
	find := s.Within(ctx, tx, workspace)
	r, err := s.fetch(ctx, tx, workspace, id, asking{e, e.field(), "FOR UPDATE OF c"})
	if err != nil {
		return nil, false, err
	}
	if c, err = s.open(ctx, actor, r); err != nil {
		return nil, false, err
	}
	var w *written
	if !r.known {
		if w, err = s.step(actor, c, e, a, find); err != nil {
			return nil, false, err
		}
	}
	if w == nil {
		return c, false, s.made(workspace, c, find)
	}
	stored, err := s.store(ctx, tx, actor, c, w)
	if err == nil && !stored {
		err = ErrBusy
	}
	return w.out, true, err
}

// step works out what a change makes of a code; nil where it changes nothing.
func (s *Store) step(actor access.Actor, c *Code, e Edit, a act, find compose.Assets) (*written, error) {
	workspace := actor.Workspace
	field := e.field()
	p, text, err := a.do(c)
	if err != nil {
		return nil, err
	}
	p = job.WithIDs(p, func() string { return "p" + newID()[:7] })
	keys := job.Keys(c.Draft, "", p)
	for path, t := range text {
		if t != nil {
			keys = append(keys, job.KeyOf(c.Draft, path))
		}
	}
	if err := s.overtaken(c, e, keys); err != nil {
		return nil, err
	}
	whole := withUnparsed(c, job.Guarded(c.Draft, "", p), text)
	if len(whole) == 0 {
		return nil, nil
	}
	w := &written{kind: "edit", path: field, words: a.words, tab: e.Tab, seq: e.Seq, patch: whole}
	if err := s.carryOut(actor, c, w, find); err != nil {
		return nil, err
	}
	if len(w.keys) == 0 { // tests alone, which hold
		return nil, nil
	}
	if c.row.was != nil && c.row.back != nil && field != "" {
		return w, s.grow(workspace, c, w)
	}
	return w, nil
}

// overtaken says that another tab has changed since what an edit is about: with both values where it is one field, else with
// who it was.
func (s *Store) overtaken(c *Code, e Edit, keys []string) error {
	if e.Tab == "" || e.Base < 0 {
		return nil
	}
	seen := e.Base
	for _, r := range c.row.recent {
		if r.tab == e.Tab && r.field == e.field() && r.field != "" {
			seen = max(seen, r.rev)
		}
	}
	for _, r := range slices.Backward(c.row.recent) {
		if r.tab == e.Tab || r.rev <= seen || !job.Overlap(bare(r.keys), keys) {
			continue
		}
		if e.Path != "" {
			path, _ := job.PathOf(c.Draft, e.field())
			if theirs := c.Text(path); theirs != e.Text {
				return &Conflict{Code: c, Path: e.Path, Place: e.Place, Theirs: theirs, Mine: e.Text}
			}
			return nil
		}
		return &Overtaken{Who: r.who.name}
	}
	return nil
}

// bare are keys of the log as pointers into the job. That the order of places is another hinders nobody who has not seen it.
func bare(keys []string) (out []string) {
	for _, k := range keys {
		k = strings.TrimPrefix(k, "/job")
		if rest, ok := strings.CutPrefix(k, "/unparsed/"); ok {
			k = strings.ReplaceAll(strings.ReplaceAll(rest, "~1", "/"), "~0", "~")
		}
		if k != job.PlacementOrder {
			out = append(out, k)
		}
	}
	return out
}

// state is what patches of the edit log work on: the draft and the unparsed text side by side, so that undo covers both.
func state(c *Code) any {
	unparsed := map[string]any{}
	for k, v := range c.unparsed {
		unparsed[k] = v
	}
	return map[string]any{"job": c.Draft, "unparsed": unparsed}
}

// withUnparsed is a patch of the draft and of the text beside it as one of the state. Text is kept under the key of its
// field, so that it stays with its place.
func withUnparsed(c *Code, p patch.Patch, text map[string]*string) patch.Patch {
	var out patch.Patch
	for _, op := range p {
		op.Path = "/job" + op.Path
		out = append(out, op)
	}
	for path, t := range text {
		key := job.KeyOf(c.Draft, path)
		old, has := c.unparsed[key]
		if _, before := c.unparsed[path]; before && !has { // written before placements had ids
			key, old, has = path, c.unparsed[path], true
		}
		at := "/unparsed/" + problem.Escape(key)
		switch {
		case t == nil && has:
			out = append(out, patch.Op{Op: "remove", Path: at})
		case t != nil && (!has || *t != old):
			out = append(out, patch.Op{Op: "add", Path: at, Value: *t})
		}
	}
	return out
}

func jsonText(v any) ([]byte, error) { return json.Marshal(v) }

// carryOut applies what is to be written to a code, and makes what comes out.
func (s *Store) carryOut(actor access.Actor, c *Code, w *written, find compose.Assets) error {
	workspace := actor.Workspace
	before := state(c)
	next, inverse, err := w.patch.Apply(before)
	if err != nil {
		return problem.List{{Code: "patch", Message: "does not fit the code any more; look at it again and repeat the change"}}
	}
	w.keys = job.Keys(before, "/job", w.patch)
	w.inverse = job.Guarded(next, "/job", inverse)
	doc := next.(map[string]any)
	unparsed := map[string]string{}
	for k, v := range doc["unparsed"].(map[string]any) {
		unparsed[k], _ = v.(string)
	}
	if w.draft, err = jsonText(doc["job"]); err != nil {
		return err
	}
	if len(w.draft) > job.MaxBytes {
		return problem.List{{Code: "job.size",
			Message: fmt.Sprintf("would make the code's job %d bytes long; at most %d are taken", len(w.draft), job.MaxBytes)}}
	}
	if w.unparsed, err = jsonText(unparsed); err != nil {
		return err
	}
	if w.again, err = plain(doc["job"]); err != nil { // as it will be read back
		return err
	}
	out := *c
	out.Draft, out.unparsed = w.again, unparsed
	out.Unparsed = shownText(w.again, unparsed)
	out.Rendition, out.Problems = compose.Typed(c.House.Job(w.again), out.Unparsed, find)
	w.good = out.Rendition != nil
	w.sound = w.good && len(unparsed) == 0
	w.out = &out
	if out.Rendition == nil {
		if err := s.lastGood(workspace, &out, find); err != nil {
			return err
		}
	}
	s.digested(&out)
	return nil
}

// grow adds an edit to the one before it: both are of the same field and tab and follow each other quickly.
func (s *Store) grow(workspace string, c *Code, w *written) error {
	before, err := s.openPatch(workspace, c.ID, "patch", c.row.was)
	if err != nil {
		return err
	}
	undo, err := s.openPatch(workspace, c.ID, "inverse", c.row.back)
	if err != nil {
		return err
	}
	if both, ok := patch.Squash(before, w.patch); ok { // as with every keystroke of a word
		w.grows, w.patch, w.inverse = true, both, undo
	} else {
		w.grows, w.patch, w.inverse = true, append(before, w.patch...), append(slices.Clone(w.inverse), undo...)
	}
	w.keys = slices.Compact(slices.Sorted(slices.Values(append(w.keys, c.row.turns[c.Rev].keys...))))
	return nil
}

// storeEdit writes a new state of a code, unless the code or the house have changed since it was read, and with it a new
// edit; growEdit adds to the last edit instead. Each is one statement, so that both are written or neither. They affect one
// row, or none.
const (
	storeCode = `WITH stored AS (UPDATE codes SET rev = $3 + 1, draft = $4, unparsed = $5, sound = $6, undo = $7, redo = $8,
		changed_at = $9,
			last_good = coalesce($10, last_good), digest = coalesce($11, digest), name = coalesce($12, name),
			payload_mac = coalesce($13, payload_mac),
			search = coalesce($14, search), wears = $15, findable = CASE WHEN $14::text IS NULL THEN findable ELSE $17 END,
			summary = coalesce($18, summary), modules = coalesce($19, modules), proofs = coalesce($20, proofs)
		WHERE workspace = $1 AND id = $2 AND rev = $3 AND coalesce((SELECT h.rev FROM house_styles h
		WHERE h.workspace = $1), 0) = $16 RETURNING rev) `
	storeEdit = storeCode + `INSERT INTO edits (workspace, code, rev, words, paths, patch, inverse, at, kind, path, tab, seqs,
		who, who_id)
		SELECT $1, $2, stored.rev, $21::bytea, $22::text[], $23::bytea, $24::bytea, $9, $25::text, $26::text, $27::text,
		ARRAY[$28::bigint], $29::text, $30::text FROM stored`
	growEdit = storeCode + `UPDATE edits SET rev = stored.rev, words = $21, paths = $22, patch = $23, inverse = $24, at = $9,
		seqs = seqs || $25::bigint
		FROM stored WHERE workspace = $1 AND code = $2 AND edits.rev = $3`
)

// store writes a new state of a code and its edit, unless the code, or the colours of the house, have changed since it was
// read. tx is nil where it is to be a transaction of its own.
func (s *Store) store(ctx context.Context, tx pgx.Tx, actor access.Actor, c *Code, w *written) (stored bool, err error) {
	workspace := actor.Workspace
	rev, now := c.Rev+1, s.Now()
	undo, redo := turned(c, w, rev, actor, w.keys)
	// What could not be made leaves the last good state as it is.
	var good, digest, name, payload, searched, summary, modules any
	var proofs []string
	if w.good {
		text, err := jsonText(w.out.Rendition.Job)
		if err != nil {
			return false, err
		}
		good, digest, name, payload, searched = s.seal(workspace, c.ID, "good", text), w.out.digest, inLists(w.out.Rendition.Job),
			w.out.payload, search(w.out.Rendition)
		sealed, err := s.summed(workspace, c.ID, w.out.Rendition)
		if err != nil {
			return false, err
		}
		summary, modules, proofs = sealed, w.out.Rendition.Symbol.Size, s.proofsOf(w.out.Rendition)
	}
	log, err := s.logged(workspace, c.ID, w)
	if err != nil {
		return false, err
	}
	args := []any{workspace, c.ID, c.Rev, s.seal(workspace, c.ID, "draft", w.draft),
		s.seal(workspace, c.ID, "unparsed", w.unparsed), w.sound, undo, redo, now,
		good, digest, name, payload, searched, From(w.again), c.row.houseRev, findable, summary, modules, proofs, log.words,
		w.keys, log.patch, log.inverse}
	sql := storeEdit
	if w.grows {
		sql, args = growEdit, append(args, w.seq)
	} else {
		args = append(args, w.kind, w.path, w.tab, w.seq, actor.Name, actor.ID)
	}
	if stored, err = s.carry(ctx, tx, workspace, sql, args, Effect{Code: c.ID, Rev: rev}); err != nil || !stored {
		return false, err
	}
	out := w.out
	turns := make(map[int64]logged, len(c.row.turns)+1)
	for k, v := range c.row.turns {
		turns[k] = v
	}
	turns[rev] = logged{rev: rev, who: by{actor.ID, actor.Name}, words: log.words, keys: w.keys}
	fresh := *c.row
	fresh.turns = turns
	out.row, out.Rev, out.Changed, out.undo, out.redo = &fresh, rev, now, undo, redo
	return true, s.choose(ctx, actor, out)
}

// carry runs a statement that changes one row or none, and has its effect noted: in a transaction that holds more, in one of
// its own where the effect is to be noted beside it, else in one trip.
func (s *Store) carry(ctx context.Context, tx pgx.Tx, workspace, sql string, args []any, e Effect) (done bool, err error) {
	if tx == nil && !noted(ctx) {
		err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
			b.Queue(sql, args...).Exec(func(tag pgconn.CommandTag) error {
				done = tag.RowsAffected() == 1
				return nil
			})
		})
		return done, err
	}
	within := func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, args...)
		if done = err == nil && tag.RowsAffected() == 1; !done {
			return err
		}
		return s.effected(ctx, tx, e)
	}
	if tx != nil {
		err = within(tx)
	} else {
		err = s.DB.InWorkspace(ctx, workspace, within)
	}
	return done && err == nil, err
}

// logRow is what an edit leaves in the log, sealed.
type logRow struct{ patch, inverse, words []byte }

func (s *Store) logged(workspace, id string, w *written) (l logRow, err error) {
	for _, part := range []struct {
		what string
		p    patch.Patch
		to   *[]byte
	}{{"patch", w.patch, &l.patch}, {"inverse", w.inverse, &l.inverse}} {
		text, err := jsonText(part.p)
		if err != nil {
			return l, err
		}
		*part.to = s.seal(workspace, id, part.what, text)
	}
	l.words = s.seal(workspace, id, "words", []byte(w.words))
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

// Overtaken says that another tab has changed since what a change is about.
type Overtaken struct{ Who string }

func (o *Overtaken) Error() string {
	if o.Who == "" {
		return "This was changed in another tab since. Nothing was changed here: look at it again, and repeat the change if " +
			"you still want it"
	}
	return o.Who +
		" has changed this since. Nothing was changed here: look at it again, and repeat the change if you still want it"
}

// IsProblem gives the problems an error carries, if it is about the user's input.
func IsProblem(err error) (problem.List, bool) {
	var list problem.List
	ok := errors.As(err, &list)
	return list, ok
}
