package records

import (
	"context"
	"strings"
	"time"
	"unicode"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// Trial is what somebody saw who held a phone against a code.
type Trial struct {
	Version int // 0 for a draft
	Current bool
	Place   string
	Phone   string // "Marrowby shop phone"
	Result  string // a key of Results
	Note    string
	At      time.Time
	Who     string
}

// Results of a trial and what they are called.
var Results = []struct{ Key, Words string }{{"at-once", "read at once"}, {"slowly", "read slowly"}, {"not", "not read"}}

// ResultWords is what a result is called.
func ResultWords(key string) string {
	for _, r := range Results {
		if r.Key == key {
			return r.Words
		}
	}
	return key
}

// Bounds of what is noted.
const (
	maxPhone  = 60
	maxNote   = 200
	maxTrials = 50
)

// NoteTrial keeps what somebody saw of a code as it is now, at one of its places or, with −1, as a picture. Problems name the
// field.
func (s *Records) NoteTrial(ctx context.Context, actor access.Actor, c *code.Code, place int, t Trial) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	workspace := actor.Workspace
	var problems problem.List
	t.Phone, t.Note = strings.TrimSpace(t.Phone), strings.TrimSpace(t.Note)
	if t.Phone == "" || len(t.Phone) > maxPhone || strings.ContainsFunc(t.Phone, unicode.IsControl) {
		problems.Add(
			"/phone",
			"trial.phone",
			"is missing or longer than a line of %d bytes; name the phone, such as shop phone",
			maxPhone,
		)
	}
	if len(t.Note) > maxNote || strings.ContainsFunc(t.Note, unicode.IsControl) {
		problems.Add("/note", "trial.note", "is longer than a line of %d bytes", maxNote)
	}
	if ResultWords(t.Result) == t.Result {
		problems.Add("/result", "trial.result", "is missing; choose read at once, read slowly or not read")
	}
	if len(problems) > 0 {
		return problems
	}
	if c.AsIssued() {
		t.Version = c.Issued.N
	}
	if p := c.Rendition.Place(place); p != nil {
		t.Place = p.Name
	}
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`INSERT INTO trials (workspace, code, digest, version, place, phone, result, note, at, who, who_id)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
			workspace,
			c.ID,
			s.Seal.Mac(c.Rendition.Job.Digest()),
			t.Version,
			t.Place,
			t.Phone,
			t.Result,
			t.Note,
			s.Now(),
			actor.Name,
			actor.ID,
		)
		return err
	})
}

// Trials gives what was noted of a code, newest first; Current says of the code as it is now.
func (s *Records) Trials(ctx context.Context, actor access.Actor, c *code.Code) (out []Trial, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	now := s.Seal.Mac(c.Rendition.Job.Digest())
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(
			ctx,
			`SELECT version, digest = $3, place, phone, result, note, at, who FROM trials WHERE workspace = $1 AND code = $2
				ORDER BY id DESC LIMIT $4`,
			workspace,
			c.ID,
			now,
			maxTrials,
		)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Trial])
		return err
	})
	return out, err
}
