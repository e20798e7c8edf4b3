package code

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/style"
)

// row is a code as the database has it, still sealed, with what an edit has to know of the edits before it. It is read in one
// query, so that what is made of it can be made while no connection is held.
type row struct {
	id                    string
	rev                   int64
	draft, good, unparsed []byte
	state, campaign       string
	changed               time.Time
	undo, redo            []int64
	issued                *Issued
	remark                Remark
	inPrint               *InPrint
	house                 []byte // the house style, nil for none
	houseRev              int64
	turns                 map[int64]logged // the newest of what can be undone and done again
	recent                []recent         // edits since the base of the one that asks
	// the edit that asks, or a later one of the same field and tab, has been carried out already
	known     bool
	was, back []byte // patch and inverse of the last edit, where the one that asks may grow it
}

// logged is an edit in the log: whose, what it did in words (sealed), and the keys of what it changed.
type logged struct {
	rev   int64
	who   by
	words []byte
	keys  []string
}

// by is who made an edit: the id, and the name at the time.
type by struct{ id, name string }

func (b by) is(actor access.Actor) bool { return access.Same(b.id, b.name, actor.ID, actor.Name) }

// recent is an edit since a revision.
type recent struct {
	rev   int64
	tab   string
	who   by
	field string // the key of the one field that it was made in, "" for none
	keys  []string
}

// turnsKept is how many of the newest edits are looked through for one's own.
const turnsKept = 30

const fetchQuery = `SELECT c.rev, c.draft, c.last_good, c.unparsed, c.state, c.changed_at, c.undo, c.redo, coalesce(m.name, ''),
	v.n, v.digest, v.payload_mac, v.at, p.n, p.printed_on, p.printer, p.quantity, p.printed_who, c.note, c.labels,
		h.style, coalesce(h.rev, 0),
		t.revs, t.whos, t.ids, t.words, t.keys,
		r.revs, r.tabs, r.whos, r.ids, r.fields, r.keys,
		$4 <> '' AND EXISTS (SELECT 1 FROM edits e WHERE e.workspace = c.workspace AND e.code = c.id AND e.tab = $4
		AND ($5 = ANY (e.seqs) OR $6 <> '' AND e.path = $6 AND $5 < ANY (e.seqs))),
		g.patch, g.inverse
	FROM codes c
	LEFT JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
	LEFT JOIN house_styles h ON h.workspace = c.workspace
	LEFT JOIN LATERAL (SELECT * FROM issued_versions v WHERE v.workspace = c.workspace AND v.code = c.id
	ORDER BY n DESC LIMIT 1) v ON true
	LEFT JOIN LATERAL (SELECT * FROM issued_versions v WHERE v.workspace = c.workspace AND v.code = c.id
	AND printed_on IS NOT NULL ORDER BY n DESC LIMIT 1) p ON true
	LEFT JOIN LATERAL (SELECT array_agg(e.rev ORDER BY e.rev) AS revs, array_agg(e.who ORDER BY e.rev) AS whos, array_agg(e.who_id
	ORDER BY e.rev) AS ids, array_agg(e.words ORDER BY e.rev) AS words,
			array_agg(array_to_json(e.paths)::text ORDER BY e.rev) AS keys
		FROM edits e WHERE e.workspace = c.workspace AND e.code = c.id
			AND e.rev = ANY (c.undo[greatest(1, cardinality(c.undo) - $8::int + 1):] || c.redo[greatest(1,
			cardinality(c.redo) - $8::int + 1):])) t ON true
	LEFT JOIN LATERAL (SELECT array_agg(e.rev ORDER BY e.rev) AS revs, array_agg(e.tab ORDER BY e.rev) AS tabs, array_agg(e.who
	ORDER BY e.rev) AS whos, array_agg(e.who_id ORDER BY e.rev) AS ids,
			array_agg(e.path ORDER BY e.rev) AS fields, array_agg(array_to_json(e.paths)::text ORDER BY e.rev) AS keys
		FROM edits e WHERE $3::bigint >= 0 AND $4 <> '' AND e.workspace = c.workspace AND e.code = c.id AND e.rev > $3) r ON true
	LEFT JOIN LATERAL (SELECT e.patch, e.inverse FROM edits e WHERE e.workspace = c.workspace AND e.code = c.id AND e.rev = c.rev
			AND e.kind = 'edit' AND $4 <> '' AND e.tab = $4 AND $6 <> '' AND e.path = $6
			AND (e.at > $7 OR $9 > 0 AND e.seqs[1] >= $9)) g ON true
	WHERE c.workspace = $1 AND c.id = $2 `

// asked are the arguments of fetchQuery for an edit that is to be made in a field with a key; a zero Edit asks for no more
// than the code.
func (s *Store) asked(workspace, id string, e Edit, key string) []any {
	return []any{workspace, id, e.Base, e.Tab, e.Seq, key, s.Now().Add(-coalesce), turnsKept, e.Since}
}

// fetch reads a code within a transaction; lock is "" or "FOR UPDATE OF c".
func (s *Store) fetch(ctx context.Context, tx pgx.Tx, workspace, id string, a asking) (*row, error) {
	return scanned(id, tx.QueryRow(ctx, fetchQuery+a.lock, s.asked(workspace, id, a.Edit, a.key)...))
}

// asking says for which edit a row is read, of which field, and whether it is locked.
type asking struct {
	Edit
	key, lock string
}

// scanned takes the answer to fetchQuery.
func scanned(id string, answer pgx.Row) (*row, error) {
	r := &row{id: id, turns: map[int64]logged{}}
	var n, printed, quantity *int
	var digest, payload, printer, said *string
	var at, on *time.Time
	var turnRevs, recentRevs []int64
	var turnWhos, turnIDs, turnKeys, tabs, whos, ids, inFields, keys []string
	var words [][]byte
	err := answer.Scan(
		&r.rev, &r.draft, &r.good, &r.unparsed, &r.state, &r.changed, &r.undo, &r.redo, &r.campaign, &n, &digest, &payload, &at,
		&printed, &on, &printer, &quantity, &said, &r.remark.Note, &r.remark.Labels,
		&r.house, &r.houseRev, &turnRevs, &turnWhos, &turnIDs, &words, &turnKeys, &recentRevs, &tabs, &whos, &ids, &inFields,
		&keys, &r.known, &r.was, &r.back)
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return nil, ErrNotFound
	case err != nil:
		return nil, err
	}
	if n != nil {
		r.issued = &Issued{N: *n, digest: *digest, payload: *payload, At: *at}
	}
	if printed != nil {
		r.inPrint = &InPrint{N: *printed, Printing: Printing{On: *on, Printer: *printer, Quantity: *quantity}, Who: *said}
	}
	for i, rev := range turnRevs {
		t := logged{rev: rev, who: by{turnIDs[i], turnWhos[i]}, words: words[i]}
		if err := json.Unmarshal([]byte(turnKeys[i]), &t.keys); err != nil {
			return nil, err
		}
		r.turns[rev] = t
	}
	for i, rev := range recentRevs {
		one := recent{rev: rev, tab: tabs[i], who: by{ids[i], whos[i]}, field: inFields[i]}
		if err := json.Unmarshal([]byte(keys[i]), &one.keys); err != nil {
			return nil, err
		}
		r.recent = append(r.recent, one)
	}
	return r, nil
}

// open unseals a row. What is made of it is still missing.
func (s *Store) open(ctx context.Context, actor access.Actor, r *row) (*Code, error) {
	workspace := actor.Workspace
	c := &Code{ID: r.id, Rev: r.rev, Campaign: r.campaign, State: r.state, Issued: r.issued, InPrint: r.inPrint, Remark: r.remark,
		Changed: r.changed, undo: r.undo, redo: r.redo, row: r}
	draft, err := s.Seal.Open(r.draft, place(workspace, r.id, "draft"))
	if err != nil {
		return nil, err
	}
	text, err := s.Seal.Open(r.unparsed, place(workspace, r.id, "unparsed"))
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(text, &c.unparsed); err != nil {
		return nil, err
	}
	v, err := fields.Decode(draft)
	if err != nil {
		return nil, err
	}
	c.Draft = job.Identified(v)
	c.Unparsed = shownText(c.Draft, c.unparsed)
	c.House = &style.Style{}
	if r.house != nil {
		house, problems := style.Parse(r.house)
		if len(problems) > 0 {
			return nil, fmt.Errorf("the stored house style cannot be read: %w", problems)
		}
		c.House = house
	}
	return c, s.choose(ctx, actor, c)
}

// shownText is text that the draft cannot hold, by pointers into the draft as it is; what belongs to a place that was taken
// away waits for it to come back.
func shownText(draft any, kept map[string]string) map[string]string {
	out := make(map[string]string, len(kept))
	for key, text := range kept {
		if path, ok := job.PathOf(draft, key); ok {
			out[path] = text
		}
	}
	return out
}

// made makes what the code is, or where that cannot be made, the newest state that could.
func (s *Store) made(workspace string, c *Code, find compose.Assets) error {
	if c.Rendition, c.Problems = compose.Typed(c.House.Job(c.Draft), c.Unparsed, find); c.Rendition == nil {
		if err := s.lastGood(workspace, c, find); err != nil {
			return err
		}
	}
	s.digested(c)
	return nil
}

// digested notes what a code that was made is told apart by. Versions from before a width in pixels was left out know it by
// another.
func (s *Store) digested(c *Code) {
	c.digest, c.payload, c.older = s.Seal.Mac(c.Rendition.Job.Digest()), s.Seal.Mac(c.Rendition.Payload), ""
	if c.Rendition.Job.Output.Pixels > 0 {
		c.older = s.Seal.Mac(c.Rendition.Job.DigestWide())
	}
}

func (s *Store) lastGood(workspace string, c *Code, find compose.Assets) error {
	good, err := s.Seal.Open(c.row.good, place(workspace, c.ID, "good"))
	if err != nil {
		return err
	}
	made, problems := compose.Parse(good, find)
	if len(problems) > 0 {
		return unmade("the stored job of "+c.ID, problems)
	}
	c.Rendition = made
	return nil
}

// Get reads a code. Nothing of the database is held while it is made.
func (s *Store) Get(ctx context.Context, actor access.Actor, id string) (*Code, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	c, err := s.read(ctx, actor, id, Edit{Base: -1}, "")
	if err != nil {
		return nil, err
	}
	return c, s.made(workspace, c, s.In(ctx, workspace))
}

// read reads a code that is not made yet.
func (s *Store) read(ctx context.Context, actor access.Actor, id string, e Edit, key string) (c *Code, err error) {
	workspace := actor.Workspace
	var r *row
	err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		b.Queue(fetchQuery, s.asked(workspace, id, e, key)...).QueryRow(func(answer pgx.Row) (err error) {
			r, err = scanned(id, answer)
			return err
		})
	})
	if err != nil {
		return nil, err
	}
	return s.open(ctx, actor, r)
}

// getIn reads and makes a code within a transaction; lock is "" or "FOR UPDATE OF c".
func (s *Store) getIn(ctx context.Context, tx pgx.Tx, actor access.Actor, id, lock string) (*Code, error) {
	workspace := actor.Workspace
	r, err := s.fetch(ctx, tx, workspace, id, asking{Edit: Edit{Base: -1}, lock: lock})
	if err != nil {
		return nil, err
	}
	c, err := s.open(ctx, actor, r)
	if err != nil {
		return nil, err
	}
	return c, s.made(workspace, c, s.Within(ctx, tx, workspace))
}
