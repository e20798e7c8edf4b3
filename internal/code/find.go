package code

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
)

// Row is one code in the ledger.
type Row struct {
	ID       string
	Campaign string
	State    string
	Made     *compose.Made
	job      []byte // until it is made
	Issued   int    // newest issued version, 0 for none
	Printed  bool
	Differs  bool          // it says something else than the version in print
	Unsound  bool          // the draft holds something that cannot be made
	Verdict  proof.Verdict // "" where it has not been proved with this panel
	Changed  time.Time
}

// Name is the code's name, or what it says where it has none.
func (r Row) Name() string { return NameOf(r.Made.Job) }

// patterns makes a LIKE pattern of each word of a query; never nil, which would match nothing.
func patterns(query string) []string {
	out := []string{}
	for _, w := range strings.Fields(strings.ToLower(query)) {
		out = append(out, "%"+strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(w)+"%")
	}
	return out
}

// MostRows bounds one listing; Count says how many there are.
const MostRows = 500

// List gives the codes of a state, newest change first within their campaigns, campaigns by their newest change. Every word
// of query must occur in name or payload.
func (s *Store) List(ctx context.Context, actor access.Actor, state, query string) (out []Row, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	return s.list(ctx, workspace, state, query, "")
}

// InCampaign gives the codes in use of one campaign, newest change first.
func (s *Store) InCampaign(ctx context.Context, actor access.Actor, campaign string) ([]Row, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	return s.list(ctx, workspace, Active, "", campaign)
}

// list lists the codes of a campaign, or with "" of all.
func (s *Store) list(ctx context.Context, workspace, state, query, campaign string) (out []Row, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `
			SELECT c.id, coalesce(m.name, ''), c.state, c.last_good, c.changed_at, NOT c.sound,
			       coalesce(v.n, 0), coalesce(v.digest = c.digest, false), coalesce(v.payload_mac <> c.payload_mac, false), p.verdict
			FROM codes c
			LEFT JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
			LEFT JOIN LATERAL (SELECT n, digest, payload_mac FROM issued_versions v WHERE v.workspace = c.workspace AND v.code = c.id ORDER BY n DESC LIMIT 1) v ON true
			LEFT JOIN LATERAL (SELECT verdict FROM proofs p WHERE p.workspace = c.workspace AND p.digest = c.digest AND p.panel = $4
			                   ORDER BY array_position('{stop,care,flat,safe}', p.verdict) LIMIT 1) p ON true
			WHERE c.workspace = $1 AND c.state = $2 AND c.search LIKE ALL ($3::text[]) AND ($6 = '' OR m.name = $6)
			ORDER BY max(c.changed_at) OVER (PARTITION BY c.campaign) DESC, c.campaign, c.changed_at DESC, c.id
			LIMIT $5`, workspace, state, patterns(query), s.PanelVersion, MostRows, campaign)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (row Row, err error) {
			var good []byte
			var verdict *string
			if err = r.Scan(&row.ID, &row.Campaign, &row.State, &good, &row.Changed, &row.Unsound, &row.Issued, &row.Printed, &row.Differs, &verdict); err != nil {
				return row, err
			}
			if verdict != nil {
				row.Verdict = proof.Verdict(*verdict)
			}
			if good, err = s.Seal.Open(good, place(workspace, row.ID, "good")); err != nil {
				return row, err
			}
			row.job = good
			return row, nil
		})
		if err != nil {
			return err
		}
		for i, row := range out { // once the rows are read, so that uploads can be asked for
			made, problems := compose.Parse(row.job, s.find(ctx, tx, workspace))
			if len(problems) > 0 {
				return unmade("the stored job of "+row.ID, problems)
			}
			out[i].Made, out[i].job = made, nil
		}
		return nil
	})
	return out, err
}

// Count is how many codes List would give if it gave all.
func (s *Store) Count(ctx context.Context, actor access.Actor, state, query string) (n int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return n, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT count(*) FROM codes c WHERE c.workspace = $1 AND c.state = $2 AND c.search LIKE ALL ($3::text[])`, workspace, state, patterns(query)).Scan(&n)
	})
	return n, err
}

// ByPayload finds an active code that says exactly this; ok is false where there is none.
func (s *Store) ByPayload(ctx context.Context, actor access.Actor, payload string) (id, name string, ok bool, err error) {
	if err := actor.Need(access.Look); err != nil {
		return id, name, ok, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `SELECT id, name FROM codes WHERE workspace = $1 AND payload_mac = $2 AND state = 'active' ORDER BY changed_at DESC LIMIT 1`,
			workspace, s.Seal.Mac(payload)).Scan(&id, &name)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		ok = err == nil
		return err
	})
	if err == nil && ok && name == "" { // what it says is sealed
		var c *Code
		if c, err = s.Get(ctx, actor, id); err == nil {
			name = c.Name()
		}
	}
	return id, name, ok, err
}

// Workspace gives a workspace's name.
func (s *Store) Workspace(ctx context.Context, workspace string) (name string, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT name FROM workspaces WHERE id = $1`, workspace).Scan(&name)
	})
	return name, err
}

// EnsureWorkspace makes a workspace unless it is there, and says whether it made it.
func (s *Store) EnsureWorkspace(ctx context.Context, id, name string) (made bool, err error) {
	tag, err := s.DB.Pool.Exec(ctx, `INSERT INTO workspaces (id, name) VALUES ($1, $2) ON CONFLICT DO NOTHING`, id, name)
	return tag.RowsAffected() == 1, err
}

func proofPlace(workspace, digest string, placement int) string {
	return fmt.Sprint(workspace, "/proofs/", digest, "/", placement)
}

// storedProof reads a proof made before, nil where there is none.
func (s *Store) storedProof(ctx context.Context, workspace, digest string, placement int) (*proof.Proof, error) {
	var b []byte
	err := s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		var asked time.Time
		if err := tx.QueryRow(ctx, `SELECT proof, asked FROM proofs WHERE workspace = $1 AND digest = $2 AND placement = $3 AND panel = $4`,
			workspace, digest, placement, s.PanelVersion).Scan(&b, &asked); err != nil {
			return err
		}
		if now := s.Now(); now.Sub(asked) > 24*time.Hour {
			_, err := tx.Exec(ctx, `UPDATE proofs SET asked = $5 WHERE workspace = $1 AND digest = $2 AND placement = $3 AND panel = $4`, workspace, digest, placement, s.PanelVersion, now)
			return err
		}
		return nil
	})
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	if b, err = s.Seal.Open(b, proofPlace(workspace, digest, placement)); err != nil {
		return nil, err
	}
	var p proof.Proof
	return &p, json.Unmarshal(b, &p)
}

// IssuedRow is the newest issued version of one code.
type IssuedRow struct {
	ID, Name string
	N        int
	Made     *compose.Made
	job      []byte // until it is made
	At       time.Time
}

// IssuedList gives the newest issued version of every code in use, newest first.
func (s *Store) IssuedList(ctx context.Context, actor access.Actor) (out []IssuedRow, err error) {
	if err := actor.Need(access.Files); err != nil {
		return out, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT * FROM (SELECT DISTINCT ON (v.code) v.code, v.n, v.job, v.at FROM issued_versions v
			JOIN codes c ON c.workspace = v.workspace AND c.id = v.code AND c.state = 'active'
			WHERE v.workspace = $1 ORDER BY v.code, v.n DESC) newest ORDER BY at DESC, code LIMIT $2`, workspace, MostRows)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (row IssuedRow, err error) {
			var text []byte
			if err = r.Scan(&row.ID, &row.N, &text, &row.At); err != nil {
				return row, err
			}
			if text, err = s.Seal.Open(text, place(workspace, row.ID, "version")); err != nil {
				return row, err
			}
			row.job = text
			return row, nil
		})
		if err != nil {
			return err
		}
		for i, row := range out {
			made, problems := compose.Parse(row.job, s.find(ctx, tx, workspace))
			if len(problems) > 0 {
				return unmade(fmt.Sprintf("version %d of %s", row.N, row.ID), problems)
			}
			out[i].Made, out[i].Name, out[i].job = made, NameOf(made.Job), nil
		}
		return nil
	})
	return out, err
}

// Campaigns lists the names of a workspace's campaigns.
func (s *Store) Campaigns(ctx context.Context, actor access.Actor) (names []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return names, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT name FROM campaigns WHERE workspace = $1 ORDER BY created_at DESC, name`, workspace)
		if err == nil {
			names, err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		return err
	})
	return names, err
}

// mostCampaign bounds the name of a campaign, in bytes.
const mostCampaign = 80

func campaignName(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	if len(name) > mostCampaign {
		return "", problem.List{{Field: "/campaign", Code: "campaign.name", Message: fmt.Sprintf("is longer than %d bytes; a short name is easier to find again", mostCampaign)}}
	}
	return name, nil
}

// SetCampaign moves a code into a campaign, made where it is not there; "" takes it out of any. A campaign left without a
// code is gone. was is the campaign that the page showed, nil for any: where the code is in another by now, nothing is changed.
func (s *Store) SetCampaign(ctx context.Context, actor access.Actor, id, name string, was *string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	workspace := actor.Workspace
	name, err := campaignName(name)
	if err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		var now string
		err := tx.QueryRow(ctx, `SELECT coalesce(m.name, '') FROM codes c LEFT JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
			WHERE c.workspace = $1 AND c.id = $2 FOR UPDATE OF c`, workspace, id).Scan(&now)
		switch {
		case errors.Is(err, pgx.ErrNoRows):
			return ErrNotFound
		case err != nil:
			return err
		case now == name:
			return nil
		case was != nil && *was != now:
			return problem.List{{Field: "/campaign", Code: "campaign.since", Message: fmt.Sprintf("is %q by now: somebody has moved the code since. Nothing was changed; look at it again", now)}}
		}
		var to *string
		if name != "" {
			c, err := campaignID(ctx, tx, workspace, name)
			if err != nil {
				return err
			}
			to = &c
		}
		tag, err := tx.Exec(ctx, `UPDATE codes SET campaign = $3, changed_at = $4 WHERE workspace = $1 AND id = $2`, workspace, id, to, s.Now())
		if err == nil && tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		if err == nil {
			_, err = tx.Exec(ctx, `DELETE FROM campaigns m WHERE workspace = $1 AND NOT EXISTS (SELECT 1 FROM codes c WHERE c.workspace = m.workspace AND c.campaign = m.id)`, workspace)
		}
		return err
	})
}
