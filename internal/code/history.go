package code

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
)

// Entry is one line of a code's history: an edit, or an issued version.
type Entry struct {
	Ref   string // "r12" a revision, "v3" an issued version
	Words string // what was done: "ink to #12594a", "undone: …"
	Who   string
	At    time.Time
	Issue int // the version's number, 0 for an edit
}

// State is a code as it stood at one entry.
type State struct {
	Ref       string
	Rendition *compose.Rendition // nil where it could not be made then
	At        time.Time
}

// MaxEntries bounds the history shown at once.
const MaxEntries = 200

// History lists edits and issued versions, newest first.
func (s *Store) History(ctx context.Context, actor access.Actor, id string) (out []Entry, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `
			SELECT 'r' || rev, CASE kind WHEN 'undo' THEN 'Undone: ' WHEN 'redo' THEN 'Done again: ' ELSE '' END, words, who, at,
			0
			FROM edits WHERE workspace = $1 AND code = $2
			UNION ALL SELECT 'v' || n, 'Version ' || n || ' handed over', ''::bytea, who, at, n FROM issued_versions
			WHERE workspace = $1 AND code = $2
			UNION ALL SELECT 'r0', 'Made', ''::bytea, '', created_at, 0 FROM codes WHERE workspace = $1 AND id = $2
			ORDER BY 5 DESC, 6 DESC, 1 DESC LIMIT $3`, workspace, id, MaxEntries)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (e Entry, err error) {
			var words []byte
			if err = r.Scan(&e.Ref, &e.Words, &words, &e.Who, &e.At, &e.Issue); err == nil && len(words) > 0 {
				words, err = s.Seal.Open(words, place(workspace, id, "words"))
				e.Words += string(words)
			}
			return e, err
		})
		if err == nil && len(out) == 0 {
			err = ErrNotFound
		}
		return err
	})
	return out, err
}

// parseRef reads "r12" or "v3".
func parseRef(ref string) (kind byte, n int64, err error) {
	if len(ref) > 1 && (ref[0] == 'r' || ref[0] == 'v') {
		if n, err = strconv.ParseInt(ref[1:], 10, 64); err == nil && n >= 0 {
			return ref[0], n, nil
		}
	}
	return 0, 0, problem.List{{Code: "history.ref",
		Message: fmt.Sprintf("%q is not an entry of the history; r12 is a revision, v3 an issued version", ref)}}
}

// At gives a code as it stood at an entry: an issued version as it was frozen, a revision by taking back all that came after.
func (s *Store) At(ctx context.Context, actor access.Actor, id, ref string) (st State, err error) {
	right := access.Look
	if strings.HasPrefix(ref, "v") {
		right = access.Files
	}
	if err := actor.Need(right); err != nil {
		return st, err
	}
	doc, at, err := s.stateAt(ctx, actor, id, ref)
	if err != nil {
		return st, err
	}
	st = State{Ref: ref, At: at}
	st.Rendition, _, _ = compose.Read(doc, s.In(ctx, actor.Workspace))
	return st, nil
}

// stateAt gives the job of an entry, colours of the house with their values.
func (s *Store) stateAt(ctx context.Context, actor access.Actor, id, ref string) (doc any, at time.Time, err error) {
	doc, house, at, err := s.draftAt(ctx, actor, id, ref)
	if err != nil || house == nil { // an issued version holds its colours itself
		return doc, at, err
	}
	return house.Job(doc), at, nil
}

// draftAt gives the job of an entry as it was kept, and of a revision the house whose colours it names.
func (s *Store) draftAt(ctx context.Context, actor access.Actor, id, ref string) (doc any, house *style.Style, at time.Time,
	err error) {
	workspace := actor.Workspace
	kind, n, err := parseRef(ref)
	if err != nil {
		return nil, nil, at, err
	}
	if kind == 'v' {
		doc, at, err = s.frozenJob(ctx, workspace, id, n)
		return doc, nil, at, err
	}
	var r *row
	var sealed [][]byte
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
		if r, err = s.fetch(ctx, tx, workspace, id, asking{Edit: Edit{Base: -1}}); err != nil {
			return err
		}
		rows, err := tx.Query(ctx, `SELECT inverse, at FROM edits WHERE workspace = $1 AND code = $2 AND rev > $3
			ORDER BY rev DESC`, workspace, id, n)
		if err != nil {
			return err
		}
		sealed, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (b []byte, err error) { return b, r.Scan(&b, &at) })
		return err
	})
	if err != nil {
		return nil, nil, at, err
	}
	c, err := s.open(ctx, actor, r)
	if err != nil {
		return nil, nil, at, err
	}
	whole := state(c)
	for _, b := range sealed {
		back, err := s.openPatch(workspace, id, "inverse", b)
		if err != nil {
			return nil, nil, at, err
		}
		if whole, _, err = back.Apply(whole); err != nil {
			return nil, nil, at, err
		}
	}
	doc, err = plain(whole.(map[string]any)["job"])
	return doc, c.House, at, err
}

// frozenJob is the job of an issued version.
func (s *Store) frozenJob(ctx context.Context, workspace, id string, n int64) (doc any, at time.Time, err error) {
	var text []byte
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT job, at FROM issued_versions WHERE workspace = $1 AND code = $2 AND n = $3`, workspace,
			id, n).Scan(&text, &at)
	})
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, at, ErrNotFound
	} else if err != nil {
		return nil, at, err
	}
	if text, err = s.Seal.Open(text, place(workspace, id, "version")); err != nil {
		return nil, at, err
	}
	doc, err = fields.Decode(text)
	return doc, at, err
}

// Return makes the draft what it was at an entry, as one edit that can be undone.
func (s *Store) Return(ctx context.Context, actor access.Actor, id, ref string, by Change) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	doc, _, _, err := s.draftAt(ctx, actor, id, ref)
	if err != nil {
		return nil, err
	}
	return s.change(ctx, actor, id, by.edit(),
		act{"back to " + RefWords(ref), func(c *Code) (patch.Patch, map[string]*string, error) {
			cleared := map[string]*string{}
			for path := range c.Unparsed {
				cleared[path] = nil
			}
			return patch.Patch{{Op: "replace", Path: "", Value: job.Identified(doc)}}, cleared, nil
		}})
}

// RefWords says which entry a reference means: "version 3", "revision 12".
func RefWords(ref string) string {
	kind, n, err := parseRef(ref)
	switch {
	case err != nil:
		return ref
	case kind == 'v':
		return fmt.Sprintf("version %d", n)
	case n == 0:
		return "the beginning"
	}
	return fmt.Sprintf("revision %d", n)
}

// frozen keeps issued versions that were read, which never change. It is emptied when it holds too many.
type frozen struct {
	mu   sync.Mutex
	made map[string]*compose.Rendition
}

const maxFrozen = 1000

// Printed reads the newest issued version, nil where nothing was handed over.
func (s *Store) Printed(ctx context.Context, actor access.Actor, c *Code) (*compose.Rendition, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	if c.Issued == nil {
		return nil, nil
	}
	key := fmt.Sprint(workspace, " ", c.ID, " ", c.Issued.N)
	s.frozen.mu.Lock()
	m := s.frozen.made[key]
	s.frozen.mu.Unlock()
	if m != nil {
		return m, nil
	}
	st, err := s.At(ctx, actor, c.ID, "v"+strconv.Itoa(c.Issued.N))
	if err != nil {
		return nil, err
	}
	s.frozen.mu.Lock()
	defer s.frozen.mu.Unlock()
	if s.frozen.made == nil || len(s.frozen.made) >= maxFrozen {
		s.frozen.made = map[string]*compose.Rendition{}
	}
	s.frozen.made[key] = st.Rendition
	return st.Rendition, nil
}

// SinceIssue says in words how the code differs from its newest issued version; nil where it does not, or there is none.
func (s *Store) SinceIssue(ctx context.Context, actor access.Actor, c *Code) ([]job.Difference, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	if c.Issued == nil || c.AsIssued() {
		return nil, nil
	}
	m, err := s.Printed(ctx, actor, c)
	if err != nil || m == nil {
		return nil, err
	}
	return job.Differences(m.Job, c.Rendition.Job), nil
}

// Conflict says that another tab has changed the same field since.
type Conflict struct {
	Code         *Code
	Path, Place  string // as the page sent them
	Theirs, Mine string
}

func (c *Conflict) Error() string {
	return strings.TrimPrefix(c.Path, "/") + ": was changed in another tab since, to " + c.Theirs
}
