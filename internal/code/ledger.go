package code

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

// Line is one code in the ledger.
type Line struct {
	Summary
	ID       string
	Campaign string // name, "" for none
	State    string
	Issued   int  // newest issued version, 0 for none
	AsIssued bool // it is as that version
	Labels   []string
	InPrint  int           // newest version that somebody has said to be in print, 0 for none
	Checked  int           // newest version of which a print was measured, 0 for none
	Differs  bool          // it says something else than the version in print
	Unsound  bool          // the draft holds something that cannot be made
	Verdict  proof.Verdict // "" where it has not been proved with this panel
	Changed  time.Time
}

// Mark is where a page of the ledger ends. The ledger is gone through as it stood at As: what changes meanwhile comes to its
// top, and is told at the end.
type Mark struct {
	As      time.Time `json:"as"`
	Done    []string  `json:"d,omitempty"` // ids of the campaigns that are gone through
	Group   string    `json:"g"`           // id of the campaign that the page ends in, "" for none
	Changed time.Time `json:"c"`
	ID      string    `json:"i"`
}

// Stretch is a part of the ledger that is read in one go.
type Stretch struct {
	Lines     []Line
	Codes     int            // how many there are in all
	Campaigns int            // in how many campaigns they are
	In        map[string]int // how many there are in a campaign, by its name
	Next      *Mark          // nil on the last
	Continues bool           // its first line is of the campaign that the stretch before ended in
	Since     int            // how many have changed since the ledger was opened
}

// found selects the codes of the state $2 of the workspace $1, those that have all of the words $3 if there are any. Without
// words, codes of a batch are left to its line.
func found(query string) string {
	if strings.TrimSpace(query) == "" {
		return "SELECT id, in_campaign, changed_at FROM codes WHERE workspace = $1 AND state = $2 AND $3::text[] IS NOT NULL AND " +
			"batch IS NULL"
	}
	return "SELECT id, in_campaign, changed_at FROM sodrik_found($2, $3::text[]) WHERE $1 <> ''"
}

// Ledger gives a page of the codes of a state, by campaigns, that with the newest change first, and within them the newest
// change first. Every word of query must occur in what may be searched for of a code. after is nil for the beginning.
func (s *Store) Ledger(ctx context.Context, actor access.Actor, state, query string, after *Mark,
	limit int) (*Stretch, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	from, group := Mark{As: s.Now(), Done: []string{}}, (*string)(nil)
	if after != nil {
		from, group = *after, &after.Group
		from.Done = append([]string{}, after.Done...) // never nil, which would match nothing
	}
	c := collected{workspace: actor.Workspace, page: &Stretch{In: map[string]int{}}, jobs: map[int][]byte{}}
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`WITH f AS MATERIALIZED (`+found(query)+`),
			g AS MATERIALIZED (SELECT in_campaign, count(*) AS n, max(changed_at) AS newest
				FROM f WHERE changed_at <= $4 GROUP BY 1),
			o AS (SELECT *, sum(n) OVER (ORDER BY newest DESC, in_campaign) - n AS before
				FROM g WHERE in_campaign <> ALL ($5) AND in_campaign IS DISTINCT FROM $6
				UNION ALL SELECT *, -1 FROM g WHERE in_campaign = $6),
			page AS MATERIALIZED (
				SELECT f.id, f.in_campaign, f.changed_at, o.n, o.before FROM f JOIN o USING (in_campaign)
				WHERE o.before < $9 AND f.changed_at <= $4
					AND (f.in_campaign IS DISTINCT FROM $6 OR (f.changed_at, f.id) < ($7, $8))
				ORDER BY o.before, f.changed_at DESC, f.id DESC LIMIT $9)
			SELECT (SELECT coalesce(sum(n), 0)::int FROM g), (SELECT count(*) FROM g),
				(SELECT count(*) FROM f WHERE changed_at > $4), p.id, p.in_campaign, p.n, coalesce(m.name, ''), c.state,
				c.summary, CASE WHEN c.summary IS NULL THEN c.last_good END, c.changed_at, NOT c.sound,
				coalesce(v.n, 0), coalesce(v.digest = c.digest, false), coalesce(v.payload_mac <> c.payload_mac, false),
				coalesce((SELECT max(n) FROM issued_versions v
					WHERE v.workspace = $1 AND v.code = p.id AND printed_on IS NOT NULL), 0),
				coalesce((SELECT max(n) FROM print_checks k WHERE k.workspace = $1 AND k.code = p.id), 0),
				coalesce(r.verdict, ''), c.labels
			FROM (SELECT) AS always LEFT JOIN (page p JOIN codes c ON c.workspace = $1 AND c.id = p.id) ON true
			LEFT JOIN campaigns m ON m.workspace = $1 AND m.id = p.in_campaign
			LEFT JOIN LATERAL (SELECT n, digest, payload_mac FROM issued_versions v
				WHERE v.workspace = $1 AND v.code = p.id ORDER BY n DESC LIMIT 1) v ON true
			LEFT JOIN LATERAL (SELECT verdict FROM proofs r WHERE r.workspace = $1 AND r.key = ANY (c.proofs) AND r.panel = $10
				ORDER BY array_position('{stop,care,flat,safe}', r.verdict) LIMIT 1) r ON true
			ORDER BY p.before, p.changed_at DESC, p.id DESC`,
			actor.Workspace, state, patterns(query), from.As, from.Done, group, from.Changed, from.ID, limit+1, s.PanelVersion).
			Query(func(rows pgx.Rows) error { return s.collect(&c, rows) })
	})
	if err != nil {
		return nil, err
	}
	p := c.page
	p.Continues = group != nil && len(c.groups) > 0 && c.groups[0] == *group
	for i, text := range c.jobs { // codes whose summary is still to be written
		m, problems := compose.Parse(text, s.In(ctx, actor.Workspace))
		if len(problems) > 0 {
			return nil, unmade("the stored job of "+p.Lines[i].ID, problems)
		}
		p.Lines[i].Summary = SummaryOf(m)
	}
	if len(p.Lines) > limit {
		p.Lines = p.Lines[:limit]
		p.Next = c.mark(from, after != nil && !p.Continues, limit-1)
	}
	return p, nil
}

// collected is what is read of a page of the ledger.
type collected struct {
	workspace string
	page      *Stretch
	groups    []string       // by the index of a line, the id of its campaign
	jobs      map[int][]byte // by the index of a line, the job of a code without a summary
}

// mark stands behind the line last of the page that began at from, whose campaign was gone through or not.
func (c *collected) mark(from Mark, through bool, last int) *Mark {
	next := Mark{As: from.As, Done: from.Done, Group: c.groups[last], Changed: c.page.Lines[last].Changed,
		ID: c.page.Lines[last].ID}
	if through {
		next.Done = append(next.Done, from.Group)
	}
	for i := range last {
		if c.groups[i] != c.groups[i+1] {
			next.Done = append(next.Done, c.groups[i])
		}
	}
	return &next
}

// collect reads the lines.
func (s *Store) collect(c *collected, rows pgx.Rows) error {
	p := c.page
	for rows.Next() {
		var l Line
		var id, group, state *string
		var n *int
		var sealed, good []byte
		var changed *time.Time
		var unsound *bool
		if err := rows.Scan(&p.Codes, &p.Campaigns, &p.Since, &id, &group, &n, &l.Campaign, &state, &sealed, &good,
			&changed, &unsound,
			&l.Issued, &l.AsIssued, &l.Differs, &l.InPrint, &l.Checked, &l.Verdict, &l.Labels); err != nil {
			return err
		}
		if id == nil { // none on this page
			return rows.Err()
		}
		l.ID, l.State, l.Changed, l.Unsound = *id, *state, *changed, *unsound
		p.In[l.Campaign] = *n
		if sealed != nil {
			text, err := s.Seal.Open(sealed, place(c.workspace, l.ID, "summary"))
			if err == nil {
				err = json.Unmarshal(text, &l.Summary)
			}
			if err != nil {
				return err
			}
		} else {
			text, err := s.Seal.Open(good, place(c.workspace, l.ID, "good"))
			if err != nil {
				return err
			}
			c.jobs[len(p.Lines)] = text
		}
		c.groups = append(c.groups, *group)
		p.Lines = append(p.Lines, l)
	}
	return rows.Err()
}
