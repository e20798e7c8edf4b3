// Package code is the use cases of one code: make it, edit it, find it, prove it, hand over its files, put it away. It owns
// the rules of change and the SQL of codes.
package code

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
	"sodrik/internal/ground"
	"sodrik/internal/proving"
	"sodrik/internal/shelf"
)

// Errors of this package.
var (
	ErrNotFound = ground.ErrNotFound
	ErrNothing  = errors.New("there is nothing to undo")
)

// Store carries out the use cases. Every method takes the workspace first; what belongs to another is not found.
// Proofs and files of what is made are the Prover's, uploads the Shelf's.
type Store struct {
	*ground.Ground
	*proving.Prover
	*shelf.Shelf

	// Issuing, where it is set, has its say before a version is issued, in the same transaction. A problem keeps it from being.
	Issuing func(ctx context.Context, tx pgx.Tx, actor access.Actor, c *Code) error

	frozen frozen
}

// New gives the use cases on a ground, with the readers that prove and the name of that panel in stored proofs.
func New(g ground.Ground, panel proof.Panel, version string) *Store {
	return &Store{
		Ground: &g,
		Prover: &proving.Prover{Ground: &g, Panel: panel, PanelVersion: version},
		Shelf:  &shelf.Shelf{Ground: &g},
	}
}

// States of a code.
const (
	Active  = "active"
	Retired = "retired"
)

// Code is one code as it stands.
type Code struct {
	ID         string
	Rev        int64
	Campaign   string // name, "" for none
	State      string
	Draft      any                // the job as edited, decoded JSON; may hold what cannot be made
	Unparsed   map[string]string  // by pointer: text that the draft cannot hold
	House      *style.Style       // of the workspace
	Rendition  *compose.Rendition // the newest state that could be made
	Problems   problem.List       // what is wrong with draft and unparsed text
	Issued     *Issued            // the newest issued version
	InPrint    *InPrint           // the newest version that somebody has said to be in print
	Remark     Remark
	Undo, Redo string // what they would take back or do again, in words; "" where there is nothing

	UndoRev, RedoRev int64  // the edits that they turn, 0 for none
	UndoBy, RedoBy   string // whose edit that is, "" for one's own
	Changed          time.Time

	undo, redo []int64           // revisions
	digest     string            // keyed, of what was made
	older      string            // the same with a width in pixels, "" where it has none
	payload    string            // keyed
	unparsed   map[string]string // as Unparsed, by keys that hold the ids of placements
	row        *row
}

// Issued is a version whose files were handed over.
type Issued struct {
	N       int
	At      time.Time
	digest  string // keyed
	payload string // keyed
}

// Name is the code's name, or what it says where it has none.
func (c *Code) Name() string { return NameOf(c.Rendition.Job) }

// NameOf is a job's name, or what it says where it has none.
func NameOf(j *job.Job) string {
	if j.Name != "" {
		return j.Name
	}
	return j.Content.Summary().Object
}

// inLists is the name that lists know a code by. It stands unsealed, and so what a code says is none; but a link is no secret,
// and a code that leads through one is in many lists.
func inLists(j *job.Job) string {
	if j.Name == "" && j.Content.Kind() == "dynamic" {
		return NameOf(j)
	}
	return j.Name
}

// Stale says whether the picture is older than what is typed.
func (c *Code) Stale() bool { return len(c.Problems) > 0 }

// AsIssued says whether the code, as it stands, is the newest issued version.
func (c *Code) AsIssued() bool {
	return !c.Stale() && c.issued()
}

// issued says that nothing is to be frozen anew.
func (c *Code) issued() bool {
	return c.Issued != nil && (c.Issued.digest == c.digest || c.older != "" && c.Issued.digest == c.older)
}

// SaysOtherwise says whether the code, as it stands, encodes something else than its newest issued version.
func (c *Code) SaysOtherwise() bool {
	return c.Issued != nil && c.Issued.payload != c.payload
}

// Text is what a field shows: text that could not be parsed, else the draft's value.
func (c *Code) Text(path string) string {
	if t, ok := c.Unparsed[path]; ok {
		return t
	}
	return job.Text(c.Draft, path)
}

func newID() string { return strings.ToLower(rand.Text()[:12]) }

// findable is the number of the rules by which name and search are made; codes written by others are brought up to date.
const findable = 4

// search is what words are looked for in. It stands unsealed, so that the database can look: what a code is called, and what
// its kind lets be found.
func search(m *compose.Rendition) string {
	return strings.ToLower(m.Job.Name + "\n" + content.Search(m.Job.Content))
}

// Create stores a new code. campaign is a campaign's name, made where it is not there, or "".
func (s *Store) Create(ctx context.Context, actor access.Actor, m *compose.Rendition, campaign string) (id string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return id, err
	}
	return s.create(ctx, actor, m, campaign, m.Job)
}

// create makes a code of a draft and what was made of it.
func (s *Store) create(ctx context.Context, actor access.Actor, m *compose.Rendition, campaign string, draft any) (id string,
	err error) {
	err = s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		id, err = s.createIn(ctx, tx, actor, m, campaign, draft)
		return err
	})
	return id, err
}

// CreateIn is Create within a transaction that holds more.
func (s *Store) CreateIn(ctx context.Context, tx pgx.Tx, actor access.Actor, m *compose.Rendition, campaign string) (id string,
	err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	return s.createIn(ctx, tx, actor, m, campaign, m.Job)
}

func (s *Store) createIn(ctx context.Context, tx pgx.Tx, actor access.Actor, m *compose.Rendition, campaign string,
	draft any) (id string, err error) {
	workspace := actor.Workspace
	if campaign, err = campaignName(campaign); err != nil {
		return "", err
	}
	id = newID()
	good, err := json.Marshal(m.Job)
	if err != nil {
		return "", err
	}
	if draft, err = plain(draft); err != nil {
		return "", err
	}
	text, err := json.Marshal(job.Identified(draft))
	if err != nil {
		return "", err
	}
	summary, err := s.summed(workspace, id, m)
	if err != nil {
		return "", err
	}
	var in *string
	if campaign != "" {
		c, err := campaignID(ctx, tx, workspace, campaign)
		if err != nil {
			return "", err
		}
		in = &c
	}
	now := s.Now()
	_, err = tx.Exec(ctx, `INSERT INTO codes (workspace, id, campaign, draft, last_good, unparsed, digest, name, payload_mac,
			search, wears, created_at, changed_at, findable, summary, modules, proofs)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $12, $13, $14, $15, $16)`, workspace, id, in,
		s.seal(workspace, id, "draft", text), s.seal(workspace, id, "good", good),
		s.seal(workspace, id, "unparsed", []byte("{}")), s.Seal.Mac(m.Job.Digest()), inLists(m.Job), s.Seal.Mac(m.Payload),
		search(m), From(draft), now, findable, summary, m.Symbol.Size, s.proofsOf(m))
	if err != nil {
		return "", err
	}
	return id, s.effected(ctx, tx, Effect{Code: id})
}

// CampaignIn is the id of a campaign by its name, made where it is not there, within a transaction that holds more.
func CampaignIn(ctx context.Context, tx pgx.Tx, workspace, name string) (string, error) {
	name, err := campaignName(name)
	if err != nil {
		return "", err
	}
	return campaignID(ctx, tx, workspace, name)
}

func campaignID(ctx context.Context, tx pgx.Tx, workspace, name string) (id string, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO campaigns (workspace, id, name) VALUES ($1, $2, $3)
		ON CONFLICT (workspace, name) DO UPDATE SET name = excluded.name RETURNING id`, workspace, newID(), name).Scan(&id)
	return id, err
}

// place names where something of a code is kept, for its seal.
func place(workspace, id, what string) string { return workspace + "/" + id + "/" + what }

func (s *Store) seal(workspace, id, what string, text []byte) []byte {
	return s.Seal.Seal(text, place(workspace, id, what))
}

// Duplicate makes a new code from the newest good state of another, in the same campaign.
func (s *Store) Duplicate(ctx context.Context, actor access.Actor, id string) (string, error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	workspace := actor.Workspace
	c, err := s.Get(ctx, actor, id)
	if err != nil {
		return "", err
	}
	j := *c.Rendition.Job
	j.Name = c.Name() + ", copy"
	made, problems := compose.Make(&j, s.In(ctx, workspace))
	if len(problems) > 0 {
		return "", problems
	}
	if c.Stale() {
		return s.Create(ctx, actor, made, c.Campaign)
	}
	draft, _, err := patch.Set("/name", j.Name).Apply(c.Draft) // which names colours of the house, and the look it came from
	if err != nil {
		return "", err
	}
	return s.create(ctx, actor, made, c.Campaign, draft)
}

// Issue freezes the code as it stands, as its next version, unless the newest version is the same already.
func (s *Store) Issue(ctx context.Context, actor access.Actor, id string) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	for range maxTries {
		c, err := s.Get(ctx, actor, id)
		if err != nil {
			return nil, err
		}
		if len(c.Problems) > 0 {
			return nil, c.Problems
		}
		issued := false
		err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
			issued, err = s.issue(ctx, tx, actor, c)
			return err
		})
		if err != nil || issued {
			return c, err
		}
	}
	return nil, ErrBusy
}

// issue freezes a code that was made; ok is false where it has changed since it was read.
func (s *Store) issue(ctx context.Context, tx pgx.Tx, actor access.Actor, c *Code) (ok bool, err error) {
	workspace := actor.Workspace
	var rev int64
	var newest int
	if err := tx.QueryRow(ctx, `SELECT rev, coalesce((SELECT max(n) FROM issued_versions v
		WHERE v.workspace = c.workspace AND v.code = c.id), 0)
		FROM codes c WHERE workspace = $1 AND id = $2 FOR UPDATE OF c`, workspace, c.ID).Scan(&rev, &newest); err != nil {
		return false, err
	}
	had := 0
	if c.Issued != nil {
		had = c.Issued.N
	}
	if rev != c.Rev || newest != had {
		return false, nil
	}
	if !c.issued() {
		v := &Issued{N: had + 1, digest: c.digest, payload: c.payload, At: s.Now()}
		text, err := json.Marshal(c.Rendition.Job)
		if err != nil {
			return false, err
		}
		if _, err = tx.Exec(ctx, `INSERT INTO issued_versions (workspace, code, n, job, digest, at, payload_mac, who, who_id,
			proofs) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
			workspace, c.ID, v.N, s.seal(workspace, c.ID, "version", text), v.digest, v.At, v.payload, actor.Name, actor.ID,
			s.proofsOf(c.Rendition)); err != nil {
			return false, err
		}
		c.Issued = v
	}
	if s.Issuing != nil {
		if err := s.Issuing(ctx, tx, actor, c); err != nil {
			return false, err
		}
	}
	return true, s.effected(ctx, tx, Effect{Code: c.ID, Rev: c.Rev, Version: c.Issued.N})
}
