// Package batches is the use cases of many codes made of the rows of a table: take rows in, say which column fills which field,
// mend rows, prove what occurs, make files and sheets. What rows become is core/batch's.
package batches

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
	"sodrik/internal/link"
)

// Bounds of a batch.
const (
	MaxRows = 50_000
	MaxName = 80
	looked  = 30 // rows that are looked at to find out what columns hold
)

// ErrNotFound is the answer for a batch, a row or a run that is not there, or belongs to another workspace.
var ErrNotFound = code.ErrNotFound

// Queue puts work down that no request waits for, within the transaction that it belongs to.
type Queue interface {
	Check(ctx context.Context, tx pgx.Tx, workspace, id string) error
	Part(ctx context.Context, tx pgx.Tx, workspace, run string, part int) error
}

// Store carries out the use cases.
type Store struct {
	Codes *code.Store
	Links *link.Store `optional:"there are no short links"`
	Queue Queue       `optional:"everything is done at once"`
	Back  Back
}

// Batch is one as it stands.
type Batch struct {
	ID, Name, Campaign string
	Rev                int64
	Retired            bool
	Created, Changed   time.Time
	Who                string
	Doc

	Rows   int // in all
	Stale  int // that are still to be made as the plan is now
	Bad    int // that cannot be made
	Desks  int // that went to a desk of their own
	Linked int // that lead through a short link
	Sorts  []Sort
	Least  int // the version that all have, 0 where each has its own
	Newest *Run
	Undo   string // what was done last and can be taken back, in words; "" for nothing
}

// Doc is what is kept sealed of a batch.
type Doc struct {
	Plan    *batch.Plan `json:"plan"`
	Columns []string    `json:"columns"`
	Said    []string    `json:"said,omitempty"`   // what was taken for granted of the rows
	Source  string      `json:"source,omitempty"` // the file that the rows came from
	Sheet   any         `json:"sheet,omitempty"`  // a decoded setting of sheets
	Formats []string    `json:"formats,omitempty"`
	Links   bool        `json:"links,omitempty"` // every row leads through a short link of its own
	// Read is how the table was told to be read, which holds for the same table again.
	Read table.Options `json:"read,omitzero"`
}

// Sort is the codes of a batch that have one version, and the verdict of the hardest of them.
type Sort struct {
	Version, Codes int
	Row            int    // the hardest
	Verdict        string // "" while it is not proved
}

// Good is how many rows have been made.
func (b *Batch) Good() int { return b.Rows - b.Stale - b.Bad }

// place is where something of a batch is sealed for.
func place(workspace, id, what string) string { return workspace + "/" + id + "/" + what }

func (s *Store) seal(workspace, id, what string, v any) ([]byte, error) {
	text, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	return s.Codes.Seal.Seal(text, place(workspace, id, what)), nil
}

func (s *Store) open(sealed []byte, workspace, id, what string, into any) error {
	text, err := s.Codes.Seal.Open(sealed, place(workspace, id, what))
	if err != nil {
		return err
	}
	return json.Unmarshal(text, into)
}

// openDoc opens what is kept of a batch; numbers of the pattern stay as they were written.
func (s *Store) openDoc(sealed []byte, workspace, id string) (d Doc, err error) {
	if err = s.open(sealed, workspace, id, "plan", &d); err != nil {
		return d, err
	}
	text, err := json.Marshal(d.Plan.Job)
	if err != nil {
		return d, err
	}
	if d.Plan.Job, err = fields.Decode(text); err != nil {
		return d, err
	}
	if d.Sheet != nil {
		if text, err = json.Marshal(d.Sheet); err != nil {
			return d, err
		}
		d.Sheet, err = fields.Decode(text)
	}
	return d, err
}

func newID() string { return strings.ToLower(rand.Text()[:12]) }

// Ask is what a new batch is made of.
type Ask struct {
	Name     string
	Campaign string
	Rows     *table.Rows
	Source   string // the name of the file, "" for pasted rows
	Like     string // a code whose draft is the pattern; "" makes one
	Kind     string // of a pattern that is made; "" is found out
	Look     string // of the house, on a pattern that is made; "" is plain
}

// NameOf reads a name.
func nameOf(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	switch {
	case name == "":
		return "", problem.List{
			{Field: "/name", Code: "batch.name", Message: "is missing; write one, such as Plant labels 2027"},
		}
	case len([]rune(name)) > MaxName:
		return "", problem.List{
			{Field: "/name", Code: "batch.name", Message: fmt.Sprintf("is longer than %d characters", MaxName)},
		}
	}
	return name, nil
}

// Create takes rows in. Columns find their fields by name and content, as somebody has put them the last time, if at all.
func (s *Store) Create(ctx context.Context, actor access.Actor, a Ask) (id string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	if a.Rows == nil {
		return "", problem.List{{Field: "/rows", Code: "rows.none", Message: "are missing; paste them, or choose a file"}}
	}
	name, err := nameOf(a.Name)
	if err != nil {
		return "", err
	}
	all, err := a.Rows.All(MaxRows)
	if err != nil {
		return "", err
	}
	if len(all) == 0 {
		return "", problem.List{{Field: "/rows", Code: "rows.none", Message: "are missing: there are heads alone"}}
	}
	var sample [][]string
	for _, row := range all[:min(looked, len(all))] {
		sample = append(sample, row.Cells)
	}
	d := Doc{Columns: a.Rows.Columns, Said: a.Rows.Said, Source: a.Source, Formats: []string{"svg"}, Read: a.Rows.Read}
	if d.Plan, err = s.pattern(ctx, actor, a, sample); err != nil {
		return "", err
	}
	id = newID()
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		known, err := knownHeads(ctx, tx, actor.Workspace, d.Plan.Kind())
		if err != nil {
			return err
		}
		s.fill(d.Plan, a.Rows, sample, known)
		if b := (&Batch{Doc: d}); a.Look != "" {
			if err := s.setLook(ctx, tx, actor, b, a.Look); err != nil {
				return err
			}
		}
		var campaign *string
		if a.Campaign != "" {
			c, err := code.CampaignIn(ctx, tx, actor.Workspace, a.Campaign)
			if err != nil {
				return err
			}
			campaign = &c
		}
		sealed, err := s.seal(actor.Workspace, id, "plan", d)
		if err != nil {
			return err
		}
		now := s.Codes.Now()
		if _, err := tx.Exec(ctx, `INSERT INTO batches (workspace, id, name, campaign, rev, plan, created_at, changed_at, who, who_id)
			VALUES ($1, $2, $3, $4, 1, $5, $6, $6, $7, $8)`, actor.Workspace, id, name, campaign, sealed, now, actor.Name,
			actor.ID); err != nil {
			return err
		}
		return s.put(ctx, tx, actor.Workspace, id, 1, all)
	})
	if err != nil {
		return "", err
	}
	return id, s.checkSoon(ctx, actor, id)
}

// pattern is the plan of a new batch before columns fill it.
func (s *Store) pattern(ctx context.Context, actor access.Actor, a Ask, sample [][]string) (*batch.Plan, error) {
	if a.Like != "" {
		c, err := s.Codes.Get(ctx, actor, a.Like)
		if err != nil {
			return nil, err
		}
		draft := c.Draft
		if kind, _ := patch.Get(draft, "/content/kind"); kind == "dynamic" {
			return nil, problem.List{
				{Field: "/like", Code: "batch.dynamic", Message: "is a dynamic code; rows become static codes. " +
					"Choose a static one"},
			}
		}
		return batch.OfJob(draft, a.Rows.Columns), nil
	}
	kind := a.Kind
	if kind == "" {
		kind = a.Rows.Kind
	}
	if kind == "" {
		kind = batch.Guess(a.Rows.Columns, sample)
	}
	return &batch.Plan{Job: batch.Pattern(kind)}, nil
}

// fill puts columns into fields. The first column whose cells differ is the key and names the codes where nothing else does.
func (s *Store) fill(p *batch.Plan, rows *table.Rows, sample [][]string, known map[string]string) {
	for i, path := range rows.Paths {
		p.Put(path, batch.Blank(rows.Columns[i]))
	}
	if len(rows.Paths) == 0 {
		for _, set := range batch.Suggest(p.Kind(), rows.Columns, sample, known) {
			if p.At(set.Path) == "" {
				p.Put(set.Path, set.Text)
			}
		}
	}
	first := keyOf(rows.Columns, sample)
	if first >= 0 && p.Key == "" {
		p.Key = rows.Columns[first]
	}
	if p.At("/name") == "" && rows.Kind == "" {
		p.Put("/name", nameIn(rows.Columns, first))
	}
	if name := p.At("/name"); name != "" && p.Line == "" {
		p.Line = name
	}
}

// nameHeads are heads of columns that name what a code is about.
var nameHeads = []string{"name", "title", "variety", "product", "label", "plant", "species", "person", "room", "place",
	"description",
	"item", "network", "ssid", "event"}

// nameIn is what codes are called by columns that nothing else says it of: what names them, and what tells them apart. "" is
// nothing.
func nameIn(columns []string, key int) string {
	name := slices.IndexFunc(columns, func(c string) bool { return has(nameHeads, batch.Folded(c)) })
	switch {
	case name >= 0 && key >= 0 && name != key:
		return batch.Blank(columns[name]) + " · " + batch.Blank(columns[key])
	case name >= 0:
		return batch.Blank(columns[name])
	case key >= 0:
		return batch.Blank(columns[key])
	}
	return ""
}

// keyHeads are heads of columns that tell rows apart.
var keyHeads = []string{"key", "id", "sku", "ref", "reference", "number", "no", "nr", "serial", "gtin", "article", "item", "code"}

// keyOf is the column that tells rows apart: one whose head says so and nearly all of whose cells differ, else the first in which
// all do; −1 where there is none.
func keyOf(columns []string, sample [][]string) int {
	all := -1
	for i, c := range columns {
		seen := map[string]bool{}
		for _, cells := range sample {
			seen[strings.ToLower(cells[i])] = true
		}
		delete(seen, "")
		if has(keyHeads, batch.Folded(c)) && len(seen) > len(sample)/2 {
			return i
		}
		if all < 0 && len(seen) == len(sample) && len(sample) > 1 {
			all = i
		}
	}
	return all
}

func knownHeads(ctx context.Context, tx pgx.Tx, workspace, kind string) (map[string]string, error) {
	rows, err := tx.Query(ctx, `SELECT head, path FROM batch_heads WHERE workspace = $1 AND kind = $2`, workspace, kind)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	var head, path string
	_, err = pgx.ForEachRow(rows, []any{&head, &path}, func() error {
		out[head] = path
		return nil
	})
	return out, err
}

const batchQuery = `SELECT b.id, b.name, coalesce(m.name, ''), b.rev, b.plan, b.least, b.retired, b.created_at, b.changed_at, b.who,
	coalesce((SELECT words FROM batch_undos u WHERE u.workspace = b.workspace AND u.batch = b.id ORDER BY u.id DESC LIMIT 1), ''),
	(SELECT count(*) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id),
	(SELECT count(*) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id AND r.rev < b.rev),
	(SELECT count(*) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id AND r.rev = b.rev AND r.state = 'bad'),
	(SELECT count(*) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id AND r.code IS NOT NULL AND NOT r.linked),
	(SELECT count(*) FROM batch_rows r WHERE r.workspace = b.workspace AND r.batch = b.id AND r.linked)
	FROM batches b LEFT JOIN campaigns m ON m.workspace = b.workspace AND m.id = b.campaign WHERE b.workspace = $1 `

func (s *Store) scan(rows pgx.CollectableRow, workspace string) (*Batch, error) {
	b := &Batch{}
	var sealed []byte
	if err := rows.Scan(&b.ID, &b.Name, &b.Campaign, &b.Rev, &sealed, &b.Least, &b.Retired, &b.Created, &b.Changed, &b.Who,
		&b.Undo, &b.Rows, &b.Stale, &b.Bad, &b.Desks, &b.Linked); err != nil {
		return nil, err
	}
	var err error
	b.Doc, err = s.openDoc(sealed, workspace, b.ID)
	return b, err
}

// List lists the batches in use, the newest change first, with what was counted when their rows were made last.
func (s *Store) List(ctx context.Context, actor access.Actor) (out []*Batch, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT b.id, b.name, coalesce(m.name, ''), b.rev, b.plan, b.least, b.retired, b.created_at, b.changed_at,
			b.who, '', b.total, CASE WHEN b.settled THEN 0 ELSE b.total END, b.bad, 0, 0
			FROM batches b LEFT JOIN campaigns m ON m.workspace = b.workspace AND m.id = b.campaign
			WHERE b.workspace = $1 AND NOT b.retired ORDER BY b.changed_at DESC, b.id`, actor.Workspace)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (*Batch, error) { return s.scan(r, actor.Workspace) })
		if err != nil {
			return err
		}
		at := map[string]*Batch{}
		for _, b := range out {
			at[b.ID] = b
		}
		if rows, err = tx.Query(ctx, `SELECT p.batch, p.rev, p.version, p.codes, p.n, p.verdict FROM batch_proofs p
			WHERE p.workspace = $1 ORDER BY p.batch, p.version`, actor.Workspace); err != nil {
			return err
		}
		var id string
		var rev int64
		var o Sort
		_, err = pgx.ForEachRow(rows, []any{&id, &rev, &o.Version, &o.Codes, &o.Row, &o.Verdict}, func() error {
			if b := at[id]; b != nil && b.Rev == rev {
				b.Sorts = append(b.Sorts, o)
			}
			return nil
		})
		return err
	})
	return out, err
}

// Get gives one batch.
func (s *Store) Get(ctx context.Context, actor access.Actor, id string) (b *Batch, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err = s.getIn(ctx, tx, actor.Workspace, id, "")
		return err
	})
	return b, err
}

func (s *Store) getIn(ctx context.Context, tx pgx.Tx, workspace, id, lock string) (*Batch, error) {
	rows, err := tx.Query(ctx, batchQuery+`AND b.id = $2 `+lock, workspace, id)
	if err != nil {
		return nil, err
	}
	b, err := pgx.CollectExactlyOneRow(rows, func(r pgx.CollectableRow) (*Batch, error) { return s.scan(r, workspace) })
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	b.Sorts, err = sorts(ctx, tx, workspace, id, b.Rev)
	return b, err
}

// sorts are the versions that occur, with the verdict of the hardest row of each.
func sorts(ctx context.Context, tx pgx.Tx, workspace, id string, rev int64) (out []Sort, err error) {
	rows, err := tx.Query(
		ctx,
		`SELECT version, codes, n, verdict FROM batch_proofs WHERE workspace = $1 AND batch = $2 AND rev = $3
		ORDER BY version`,
		workspace,
		id,
		rev,
	)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (o Sort, err error) {
		err = r.Scan(&o.Version, &o.Codes, &o.Row, &o.Verdict)
		return o, err
	})
}

// Retire puts a batch away, or brings it back. Codes on desks of their own, and files that left, stay.
func (s *Store) Retire(ctx context.Context, actor access.Actor, id string, retired bool) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(
			ctx,
			`UPDATE batches SET retired = $3, changed_at = $4 WHERE workspace = $1 AND id = $2`,
			actor.Workspace,
			id,
			retired,
			s.Codes.Now(),
		)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		return err
	})
}

// has says whether a list has a text.
func has(list []string, s string) bool { return slices.Contains(list, s) }
