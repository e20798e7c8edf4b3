package code

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
)

// patterns makes a LIKE pattern of each word of a query; never nil, which would match nothing.
func patterns(query string) []string {
	out := []string{}
	for _, w := range strings.Fields(strings.ToLower(query)) {
		out = append(out, "%"+strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(w)+"%")
	}
	return out
}

// maxAlike is how many codes of a campaign are looked at for what they have in common.
const maxAlike = 50

// InCampaign makes the codes in use of a campaign that were changed last, at most maxAlike of them, for what they have in common.
func (s *Store) InCampaign(ctx context.Context, actor access.Actor, campaign string) (out []Alike, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	workspace := actor.Workspace
	var jobs [][]byte
	err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT c.id, c.last_good FROM codes c JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
			WHERE c.workspace = $1 AND c.state = $2 AND m.name = $3 ORDER BY c.changed_at DESC, c.id LIMIT $4`, workspace, Active,
			campaign, maxAlike).Query(func(rows pgx.Rows) error {
			for rows.Next() {
				var a Alike
				var good []byte
				if err := rows.Scan(&a.ID, &good); err != nil {
					return err
				}
				if good, err = s.Seal.Open(good, place(workspace, a.ID, "good")); err != nil {
					return err
				}
				out, jobs = append(out, a), append(jobs, good)
			}
			return rows.Err()
		})
	})
	if err != nil {
		return nil, err
	}
	for i, text := range jobs {
		made, problems := compose.Parse(text, s.In(ctx, workspace))
		if len(problems) > 0 {
			return nil, unmade("the stored job of "+out[i].ID, problems)
		}
		out[i].Rendition = made
	}
	return out, nil
}

// Alike is a code of the same campaign.
type Alike struct {
	ID        string
	Rendition *compose.Rendition
}

// Smallest is the code in use with the fewest modules, which shows most of a look; "" where there is none.
func (s *Store) Smallest(ctx context.Context, actor access.Actor) (id string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return "", err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id FROM codes WHERE workspace = $1 AND state = $2 ORDER BY modules = 0, modules, id LIMIT 1`,
			actor.Workspace, Active).Query(func(rows pgx.Rows) error {
			for rows.Next() {
				if err := rows.Scan(&id); err != nil {
					return err
				}
			}
			return rows.Err()
		})
	})
	return id, err
}

// CountOf is how many codes there are of a state.
func (s *Store) CountOf(ctx context.Context, actor access.Actor, state string) (n int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return 0, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT count(*) FROM codes WHERE workspace = $1 AND state = $2`, actor.Workspace, state).
			QueryRow(func(r pgx.Row) error { return r.Scan(&n) })
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
		err := tx.QueryRow(ctx, `SELECT id, name FROM codes WHERE workspace = $1 AND payload_mac = $2 AND state = 'active'
			ORDER BY changed_at DESC LIMIT 1`,
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

// IssuedLine is the newest issued version of one code.
type IssuedLine struct {
	Summary
	ID string
	N  int
	At time.Time
}

// IssuedMark is where a page of issued versions ends.
type IssuedMark struct {
	At time.Time `json:"a"`
	ID string    `json:"i"`
}

// IssuedList gives the newest issued version of every code in use, newest first, from a mark on; nil is the beginning. next
// is nil on the last page.
func (s *Store) IssuedList(ctx context.Context, actor access.Actor, after *IssuedMark, limit int) (out []IssuedLine,
	next *IssuedMark, err error) {
	if err := actor.Need(access.Files); err != nil {
		return nil, nil, err
	}
	workspace := actor.Workspace
	from := IssuedMark{At: s.Now().AddDate(1000, 0, 0)}
	if after != nil {
		from = *after
	}
	var jobs [][]byte
	err = s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT * FROM (SELECT DISTINCT ON (v.code) v.code, v.n, v.job, v.at FROM issued_versions v
			JOIN codes c ON c.workspace = v.workspace AND c.id = v.code AND c.state = 'active'
			WHERE v.workspace = $1 ORDER BY v.code, v.n DESC) newest WHERE (at, $3::text) < ($2, code)
			ORDER BY at DESC, code LIMIT $4`, workspace, from.At, from.ID, limit+1).Query(func(rows pgx.Rows) error {
			for rows.Next() {
				var l IssuedLine
				var text []byte
				if err := rows.Scan(&l.ID, &l.N, &text, &l.At); err != nil {
					return err
				}
				if text, err = s.Seal.Open(text, place(workspace, l.ID, "version")); err != nil {
					return err
				}
				out, jobs = append(out, l), append(jobs, text)
			}
			return rows.Err()
		})
	})
	if err != nil {
		return nil, nil, err
	}
	if len(out) > limit {
		out = out[:limit]
		next = &IssuedMark{out[limit-1].At, out[limit-1].ID}
	}
	for i := range out {
		made, problems := compose.Parse(jobs[i], s.In(ctx, workspace))
		if len(problems) > 0 {
			return nil, nil, unmade(fmt.Sprintf("version %d of %s", out[i].N, out[i].ID), problems)
		}
		out[i].Summary = SummaryOf(made)
	}
	return out, next, nil
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

// Campaign is one of a workspace's.
type Campaign struct{ ID, Name string }

// Grouped says in which campaign each code is that is in one, by its id.
func (s *Store) Grouped(ctx context.Context, actor access.Actor) (map[string]Campaign, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	out := map[string]Campaign{}
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT c.id, m.id, m.name FROM codes c JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
			WHERE c.workspace = $1`, actor.Workspace).Query(func(rows pgx.Rows) error {
			var id string
			var m Campaign
			_, err := pgx.ForEachRow(rows, []any{&id, &m.ID, &m.Name}, func() error {
				out[id] = m
				return nil
			})
			return err
		})
	})
	return out, err
}

// CampaignsOf are the names of the campaigns that codes are in, by their names.
func CampaignsOf(grouped map[string]Campaign) (names []string) {
	for _, c := range grouped {
		if !slices.Contains(names, c.Name) {
			names = append(names, c.Name)
		}
	}
	slices.Sort(names)
	return names
}

// maxCampaign bounds the name of a campaign, in bytes.
const maxCampaign = 80

func campaignName(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	if len(name) > maxCampaign {
		return "", problem.List{{Field: "/campaign", Code: "campaign.name",
			Message: fmt.Sprintf("is longer than %d bytes; a short name is easier to find again", maxCampaign)}}
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
		_, err := s.moveIn(ctx, tx, actor, id, name, was)
		return err
	})
}

// moveIn moves a code within a transaction that may hold more, and gives the campaign that it was in.
func (s *Store) moveIn(ctx context.Context, tx pgx.Tx, actor access.Actor, id, name string, shown *string) (was string,
	err error) {
	err = tx.QueryRow(ctx, `SELECT coalesce(m.name, '') FROM codes c
		LEFT JOIN campaigns m ON m.workspace = c.workspace AND m.id = c.campaign
		WHERE c.workspace = $1 AND c.id = $2 FOR UPDATE OF c`, actor.Workspace, id).Scan(&was)
	switch {
	case err != nil:
		return "", missing(err)
	case was == name:
		return was, nil
	case shown != nil && *shown != was:
		return was, problem.List{{Field: "/campaign", Code: "campaign.since",
			Message: fmt.Sprintf("is %q by now: somebody has moved the code since. Nothing was changed; look at it again", was)}}
	}
	var to *string
	if name != "" {
		c, err := campaignID(ctx, tx, actor.Workspace, name)
		if err != nil {
			return was, err
		}
		to = &c
	}
	if _, err = tx.Exec(ctx, `UPDATE codes SET campaign = $3, changed_at = $4 WHERE workspace = $1 AND id = $2`, actor.Workspace,
		id, to, s.Now()); err == nil {
		_, err = tx.Exec(ctx, `DELETE FROM campaigns m WHERE workspace = $1
			AND NOT EXISTS (SELECT 1 FROM codes c WHERE c.workspace = m.workspace AND c.campaign = m.id)
			AND NOT EXISTS (SELECT 1 FROM batches b WHERE b.workspace = m.workspace AND b.campaign = m.id)`, actor.Workspace)
	}
	return was, err
}
