package code

import (
	"context"
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/housestyle"
)

// fromLook is where a draft says which look it came from.
const fromLook = "/look/from"

// From is the key of the look that a draft came from, "" for none.
func From(draft any) string {
	v, _ := patch.Get(draft, fromLook)
	s, _ := v.(string)
	return s
}

// Altered says whether a draft has changed since it put on a look.
func Altered(draft any, l style.Look) bool {
	v, _ := patch.Get(draft, "/look")
	has, _ := v.(map[string]any)
	want, _ := Dressed(draft, l).(map[string]any)
	return !reflect.DeepEqual(plainly(has), plainly(want))
}

// plainly is JSON as it comes back from its text.
func plainly(v any) any {
	b, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	v, _ = fields.Decode(b)
	return v
}

// Dressed is the look of a draft after putting one on.
func Dressed(draft any, l style.Look) any {
	out := style.Wear(draft, l)
	if m, is := out.(map[string]any); is {
		m["from"] = l.Key
	}
	return out
}

// Wear puts a look on a code, as one edit.
func (s *Store) Wear(ctx context.Context, actor access.Actor, id string, l style.Look, by Change) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	return s.change(ctx, actor, id, by.edit(), act{"wear " + l.Name, s.wearing(l)})
}

func (s *Store) wearing(l style.Look) making {
	return func(c *Code) (patch.Patch, map[string]*string, error) {
		return s.wear(c, Dressed(c.Draft, l)), unlook(c), nil
	}
}

func (s *Store) wear(c *Code, look any) patch.Patch {
	if has, _ := patch.Get(c.Draft, "/look"); reflect.DeepEqual(plainly(has), plainly(look)) {
		return nil
	}
	return patch.Patch{{Op: "add", Path: "/look", Value: look}}
}

// unlook clears text that stands beside the old look and could not be taken.
func unlook(c *Code) map[string]*string {
	cleared := map[string]*string{}
	for path := range c.Unparsed {
		if strings.HasPrefix(path, "/look/") {
			cleared[path] = nil
		}
	}
	return cleared
}

// Wearing is the code as it would be with a look; nothing is stored. What cannot be made is nil.
func (s *Store) Wearing(ctx context.Context, actor access.Actor, id string, looks func(*Code) []any) (c *Code,
	made []*compose.Rendition, err error) {
	if err := actor.Need(access.Look); err != nil {
		return c, made, err
	}
	workspace := actor.Workspace
	if c, err = s.Get(ctx, actor, id); err != nil {
		return nil, nil, err
	}
	find := s.In(ctx, workspace)
	for _, look := range looks(c) {
		next, _, err := patch.Set("/look", look).Apply(c.Draft)
		if err != nil {
			return nil, nil, problem.List{{Field: "/look", Code: "patch", Message: "does not fit the code any more"}}
		}
		m, _ := compose.Typed(c.House.Job(next), nil, find)
		made = append(made, m) // nil where the mark of a look does not fit, say
	}
	return c, made, nil
}

// Wearer is a code that came from a look.
type Wearer struct {
	ID, Name string
	Look     string // its key
	Altered  bool   // changed since
	Issued   int    // newest version in print, 0 for none
}

// Wearers lists every code in use with the look it came from, by name.
func (s *Store) Wearers(ctx context.Context, actor access.Actor) (out []Wearer, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		h, _, err := housestyle.Read(ctx, tx, workspace)
		if err != nil {
			return err
		}
		return s.drafts(ctx, tx, workspace, func(id, name, wears string, issued int, draft any) error {
			w := Wearer{ID: id, Name: name, Look: wears, Issued: issued}
			if l, ok := h.Find(wears); ok {
				w.Altered = Altered(draft, l)
			}
			out = append(out, w)
			return nil
		})
	})
	slices.SortStableFunc(out, func(a, b Wearer) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, err
}

// draftsAtOnce is how many drafts are read at a time.
const draftsAtOnce = 200

// drafts goes through the drafts of every code in use, however many there are.
func (s *Store) drafts(ctx context.Context, tx pgx.Tx, workspace string,
	each func(id, name, wears string, issued int, draft any) error) error {
	type row struct {
		ID, Name, Wears string
		Draft           []byte
		Issued          int
	}
	for after := ""; ; {
		rows, err := tx.Query(ctx, `SELECT c.id, c.name, c.wears, c.draft,
			coalesce((SELECT max(n) FROM issued_versions v WHERE v.workspace = c.workspace AND v.code = c.id), 0)
			FROM codes c WHERE c.workspace = $1 AND c.state = $2 AND c.id > $3 ORDER BY c.id LIMIT $4`, workspace, Active, after,
			draftsAtOnce)
		if err != nil {
			return err
		}
		list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
		if err != nil {
			return err
		}
		for _, r := range list {
			text, err := s.Seal.Open(r.Draft, place(workspace, r.ID, "draft"))
			if err != nil {
				return err
			}
			draft, err := fields.Decode(text)
			if err != nil {
				return err
			}
			if r.Name == "" { // what it says is sealed
				if j, _ := job.Read(draft); j != nil && j.Content != nil {
					r.Name = NameOf(j)
				}
			}
			if err := each(r.ID, r.Name, r.Wears, r.Issued, draft); err != nil {
				return err
			}
			after = r.ID
		}
		if len(list) < draftsAtOnce {
			return nil
		}
	}
}

// WearIn puts a look on several codes within a transaction that holds more, and says how many it changed.
func (s *Store) WearIn(ctx context.Context, tx pgx.Tx, actor access.Actor, ids []string, l style.Look) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return n, err
	}
	// always in the same order, so that two who do it never wait for one another
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	for _, id := range ids {
		_, changed, err := s.changeIn(ctx, tx, actor, id, Edit{Base: -1}, act{"wear " + l.Name, s.wearing(l)})
		if err != nil {
			return n, err
		}
		if changed {
			n++
		}
	}
	return n, nil
}

// ChangeLookIn puts a look on a code within a transaction that holds more, held against what the page had seen.
func (s *Store) ChangeLookIn(ctx context.Context, tx pgx.Tx, actor access.Actor, id string, l style.Look,
	by Change) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, _, err := s.changeIn(ctx, tx, actor, id, by.edit(), act{"wear " + l.Name, s.wearing(l)})
	return c, err
}

// WearersIn gives the ids of the codes that wear a look of the house unaltered, within a transaction.
func (s *Store) WearersIn(ctx context.Context, tx pgx.Tx, actor access.Actor, l style.Look) (ids []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return ids, err
	}
	workspace := actor.Workspace
	err = s.drafts(ctx, tx, workspace, func(id, _, wears string, _ int, draft any) error {
		if wears == l.Key && !Altered(draft, l) {
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

// InColour gives the names of codes whose drafts name any of some colours of the house, within a transaction.
func (s *Store) InColour(ctx context.Context, tx pgx.Tx, actor access.Actor, keys ...string) (names []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return names, err
	}
	workspace := actor.Workspace
	err = s.drafts(ctx, tx, workspace, func(_, name, _ string, _ int, draft any) error {
		if slices.ContainsFunc(keys, func(key string) bool { return style.Uses(draft, key) }) {
			names = append(names, name)
		}
		return nil
	})
	return names, err
}

// Refresh makes the drafts again that name any of some colours of the house, in the transaction that changes their values.
// Issued versions stay as they are.
func (s *Store) Refresh(ctx context.Context, tx pgx.Tx, actor access.Actor, keys ...string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	workspace := actor.Workspace
	var ids []string
	err := s.drafts(ctx, tx, workspace, func(id, _, _ string, _ int, draft any) error {
		if slices.ContainsFunc(keys, func(key string) bool { return style.Uses(draft, key) }) {
			ids = append(ids, id)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, id := range ids {
		c, err := s.getIn(ctx, tx, actor, id, "FOR UPDATE OF c")
		if err != nil {
			return err
		}
		text, err := json.Marshal(c.Rendition.Job)
		if err != nil {
			return err
		}
		summary, err := s.summed(workspace, id, c.Rendition)
		if err != nil {
			return err
		}
		if _, err = tx.Exec(ctx, `UPDATE codes SET rev = rev + 1, last_good = $3, digest = $4, summary = $5, proofs = $6
			WHERE workspace = $1 AND id = $2`,
			workspace, id, s.seal(workspace, id, "good", text), c.digest, summary, s.proofsOf(c.Rendition)); err != nil {
			return err
		}
	}
	return nil
}
