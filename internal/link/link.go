// Package link is the use cases of dynamic codes: a code is turned into one that leads through a short link and back, where it
// leads is edited as a draft, and made live in one act. What is live is written, compiled and sealed, where a relay finds it
// (see eventlog); the rules are those of core/leads and core/shortlink.
package link

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
)

// Store carries out the use cases.
type Store struct {
	Codes  *code.Store
	Host   string    // scheme and host of links that are drawn, such as https://go.marrowby.example
	Random io.Reader `optional:"the machine's"` // of which paths are drawn
	// Soon is told once something was made live, so that a relay in this process does not wait
	Soon func() `optional:"there is no relay"`
	// Resolver proves hosts of workspaces
	Resolver Resolver `optional:"the machine's"`
	// Outside asks hosts of others where they lead
	Outside Asker `optional:"nothing outside is asked"`
	// Figures is the counts of a workspace as CSV, for the leaving pack; nil leaves them out
	Figures func(ctx context.Context, actor access.Actor) ([]byte, error)
	// Blocked says of a host that no link may lead there
	Blocked func(host string) bool `optional:"none is"`

	bases sync.Map // workspace → chosen
}

// New gives the use cases, and has them take part in issuing: the first handing over makes a destination live.
func New(codes *code.Store, host string) *Store {
	s := &Store{Codes: codes, Host: strings.TrimSuffix(host, "/")}
	codes.Issuing = s.issuing
	return s
}

// Problems that are about the whole.
var (
	errStatic = problem.List{{Field: "/content/kind", Code: "link.static",
		Message: "is a fixed address; it leads through no short link"}}
	errNoHost = problem.List{{Field: "/content/kind", Code: "link.host",
		Message: "cannot lead through a short link, since this server has no host for them; its operator names one"}}
)

// drawTries is how many paths are drawn before a host counts as full.
const drawTries = 20

// place names where something of a link is kept, for its seal; as package code does it, which seals anew.
func place(workspace, id, what string) string { return workspace + "/" + id + "/" + what }

// draw reserves a short link for a code, within a transaction.
func (s *Store) draw(ctx context.Context, tx pgx.Tx, workspace, id string) (a shortlink.Address, err error) {
	base, err := s.base(ctx, tx, workspace)
	if err != nil {
		return a, err
	}
	if base == "" {
		return a, errNoHost
	}
	for range drawTries {
		path, err := s.drawPath()
		if err != nil {
			return a, err
		}
		if a, err = shortlink.Parse(base + "/" + path); err != nil {
			return a, fmt.Errorf("link: the host of short links %w", err)
		}
		if ok, err := s.reserve(ctx, tx, workspace, id, a); ok || err != nil {
			return a, err
		}
	}
	return a, fmt.Errorf("link: %s has no short links left", base)
}

// drawPath draws a path, which may be somebody's.
func (s *Store) drawPath() (string, error) {
	random := s.Random
	if random == nil {
		random = rand.Reader
	}
	return shortlink.Draw(random)
}

// reserve makes a link one of a code, unless it has ever been anybody's.
func (s *Store) reserve(ctx context.Context, tx pgx.Tx, workspace, id string, a shortlink.Address) (ok bool, err error) {
	tag, err := tx.Exec(ctx, `INSERT INTO links (host, path, workspace, code, made_at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT DO NOTHING`, a.Host, a.Path, workspace, id, s.Codes.Now())
	if err != nil || tag.RowsAffected() == 0 {
		return false, err
	}
	return true, s.findable(ctx, tx, workspace, id)
}

// Turn makes a code one that leads through a short link to what it says now. Each placement but the first gets a link of its
// own, so that scans tell where they were. A place that was handed over with a link before has the same again.
func (s *Store) Turn(ctx context.Context, actor access.Actor, id string, by code.Change) (c *code.Code, err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	was, err := s.Codes.Get(ctx, actor, id)
	if err != nil {
		return nil, err
	}
	if was.Stale() {
		return nil, was.Problems
	}
	says := was.Rendition.Job.Content
	if why := content.KindOf(says.Kind()).Stays; why != "" {
		return nil, problem.List{{Field: "/content/kind", Code: "link.kind", Message: "cannot lead through a short link: " + why}}
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		l := leads.Of(says)
		if err := s.barred(ctx, tx, actor.Workspace, l, nil); err != nil {
			return at(err, "/content/kind")
		}
		if err := s.begin(ctx, tx, actor.Workspace, id, l); err != nil {
			return err
		}
		hung, err := s.hung(ctx, tx, actor.Workspace, id)
		if err != nil {
			return err
		}
		link := func(place string) (shortlink.Address, error) {
			if a, ok := hung[place]; ok {
				delete(hung, place)
				return a, nil
			}
			return s.draw(ctx, tx, actor.Workspace, id)
		}
		first := ""
		if at := was.Rendition.Job.Placements; len(at) > 0 {
			first = at[0].Name
		}
		a, err := link(first)
		if err != nil {
			return err
		}
		p := patch.Set("/content", map[string]any{"kind": "dynamic", "link": a.String()})
		if was.Rendition.Job.Name == "" { // a code is called by what it does, and not by its link
			if name := nameOf(says); name != "" {
				p = append(p, patch.Op{Op: "add", Path: "/name", Value: name})
			}
		}
		for i, at := range was.Rendition.Job.Placements {
			if at.Keyword != "" {
				p = append(p, patch.Op{Op: "remove", Path: fmt.Sprintf("/placements/%d/keyword", i)})
			}
			if i == 0 {
				continue
			}
			own, err := link(at.Name)
			if err != nil {
				return err
			}
			p = append(p, patch.Op{Op: "add", Path: fmt.Sprintf("/placements/%d/link", i), Value: own.String()})
		}
		c, err = s.Codes.PatchIn(ctx, tx, actor, id, p, by.As("lead through "+a.String()))
		return err
	})
	return c, err
}

// longestName bounds the bytes of a name that is made of a text.
const longestName = 80

// nameOf is what a code that says this is called where nobody has named it: the first line of what it does.
func nameOf(says content.Content) string {
	line, _, _ := strings.Cut(strings.TrimSpace(says.Summary().Object), "\n")
	if len(line) > longestName {
		cut := longestName
		for !utf8.RuneStart(line[cut]) {
			cut--
		}
		line = strings.TrimSpace(line[:cut]) + "…"
	}
	return strings.TrimSpace(line)
}

// hung are the links of a code that were handed over, by the name of the place that each was last handed over for.
func (s *Store) hung(ctx context.Context, tx pgx.Tx, workspace, id string) (map[string]shortlink.Address, error) {
	rows, err := tx.Query(ctx, `SELECT host, path, place FROM links WHERE workspace = $1 AND code = $2 AND place IS NOT NULL
		ORDER BY made_at, path`, workspace, id)
	if err != nil {
		return nil, err
	}
	out := map[string]shortlink.Address{}
	a, sealed := shortlink.Address{}, []byte{}
	_, err = pgx.ForEachRow(rows, []any{&a.Host, &a.Path, &sealed}, func() error {
		a.Scheme = s.scheme(a.Host)
		name, err := s.Codes.Seal.Open(sealed, place(workspace, a.Host+"/"+a.Path, "place"))
		out[string(name)] = a // the newest of several
		return err
	})
	return out, err
}

// scheme is that of a host of short links: https, but where the server's own has none.
func (s *Store) scheme(host string) string {
	if scheme, _, ok := strings.Cut(s.Host, "://"); ok && host == s.server() {
		return scheme
	}
	return "https"
}

// at is an error with its problems at another field.
func at(err error, field string) error {
	problems, is := code.IsProblem(err)
	if !is {
		return err
	}
	var out problem.List
	for _, p := range problems {
		p.Field = field
		out = append(out, p)
	}
	return out
}

// begin keeps a destination as the draft of a code that has none, or none that is live.
func (s *Store) begin(ctx context.Context, tx pgx.Tx, workspace, id string, l *leads.Lead) error {
	text, err := s.sealed(workspace, id, "lead", l)
	if err == nil {
		err = take(ctx, tx, workspace, id)
	}
	if err != nil {
		return err
	}
	if _, err = tx.Exec(ctx, `INSERT INTO leads (workspace, code, draft) VALUES ($1, $2, $3)
		ON CONFLICT (workspace, code) DO UPDATE SET draft = excluded.draft, refused = NULL, rev = leads.rev + 1`, workspace, id, text); err != nil {
		return err
	}
	return s.findable(ctx, tx, workspace, id)
}

// TurnBack makes a code say again what it leads to, without a link of ours. Links that were handed over go on leading.
func (s *Store) TurnBack(ctx context.Context, actor access.Actor, id string, by code.Change) (*code.Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	c, err := s.Codes.Get(ctx, actor, id)
	if err != nil {
		return nil, err
	}
	led, err := s.Of(ctx, actor, c)
	if err != nil {
		return nil, err
	}
	if led == nil {
		return nil, errStatic
	}
	p := patch.Set("/content", content.JSON(led.Draft.To))
	for i, at := range c.Rendition.Job.Placements {
		if at.Link != "" {
			p = append(p, patch.Op{Op: "remove", Path: fmt.Sprintf("/placements/%d/link", i)})
		}
	}
	return s.Codes.Patch(ctx, actor, id, p, by.As("say the address itself"))
}

// Duplicate makes a new code from another, in the same campaign. Of one that leads through short links, it gets links of its
// own, and a draft that leads where the other's does.
func (s *Store) Duplicate(ctx context.Context, actor access.Actor, id string) (string, error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	was, err := s.Codes.Get(ctx, actor, id)
	if err != nil {
		return "", err
	}
	l, err := s.Of(ctx, actor, was)
	if err != nil {
		return "", err
	}
	copied, err := s.Codes.Duplicate(ctx, actor, id)
	if err != nil || l == nil {
		return copied, err
	}
	return copied, s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if err := s.begin(ctx, tx, actor.Workspace, copied, l.Draft); err != nil {
			return err
		}
		var p patch.Patch
		for i := -1; i < len(was.Rendition.Job.Placements); i++ {
			path := "/content/link"
			if i >= 0 {
				if path = fmt.Sprintf("/placements/%d/link", i); was.Rendition.Job.Placements[i].Link == "" {
					continue
				}
			}
			a, err := s.draw(ctx, tx, actor.Workspace, copied)
			if err != nil {
				return err
			}
			p = append(p, patch.Op{Op: "add", Path: path, Value: a.String()})
		}
		_, err := s.Codes.PatchIn(ctx, tx, actor, copied, p, code.Anyhow.As("links of its own"))
		return err
	})
}

// Own reserves a further short link for a code that leads through one, for a placement that is to be added; "" for a code
// that does not.
func (s *Store) Own(ctx context.Context, actor access.Actor, c *code.Code) (link string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	if _, dynamic := c.Rendition.Job.Content.(*content.Dynamic); !dynamic || len(c.Rendition.Job.Placements) == 0 {
		return "", nil
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		a, err := s.draw(ctx, tx, actor.Workspace, c.ID)
		link = a.String()
		return err
	})
	return link, err
}

// Word has a code lead through a word that somebody chose, in place of the link that it has; place is the index of a
// placement with a link of its own, −1 for the code's. What was handed over keeps its link.
func (s *Store) Word(ctx context.Context, actor access.Actor, id string, place int, word string, by code.Change) (c *code.Code,
	err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	was, err := s.Codes.Get(ctx, actor, id)
	if err != nil {
		return nil, err
	}
	host := ""
	if i := strings.LastIndex(word, "/"); i >= 0 { // on another host of the workspace
		host, word = strings.TrimPrefix(strings.ToLower(word[:i]), "https://"), word[i+1:]
	}
	up, err := shortlink.Word(word)
	if err != nil {
		return nil, problem.List{{Field: "/word", Code: "link.word", Message: err.Error()}}
	}
	d, dynamic := was.Rendition.Job.Content.(*content.Dynamic)
	if !dynamic {
		return nil, errStatic
	}
	a, path := d.Address(), "/content/link"
	if at := was.Rendition.Job.Placements; place >= 0 && place < len(at) && at[place].Link != "" {
		if own, err := d.Through(at[place].Link); err == nil {
			a, path = own.Address(), fmt.Sprintf("/placements/%d/link", place)
		}
	}
	if a.Path == up && (host == "" || host == a.Host) {
		return was, nil
	}
	a.Path = up
	if host != "" {
		a.Host, a.Scheme = host, s.scheme(host)
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if h, err := s.hostNamed(ctx, tx, actor.Workspace, a.Host); host != "" && (err != nil || !h.Usable()) {
			return problem.List{{Field: "/word", Code: "link.elsewhere",
				Message: fmt.Sprintf("is on %s, which is no host of your short links; an owner adds hosts", a.Host)}}
		}
		ok, err := s.reserve(ctx, tx, actor.Workspace, id, a)
		if err != nil {
			return err
		}
		if !ok {
			var mine bool
			if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM links WHERE host = $1 AND path = $2 AND workspace = $3
				AND code = $4)`, a.Host, a.Path, actor.Workspace, id).Scan(&mine); err != nil {
				return err
			}
			if !mine {
				return problem.List{{Field: "/word", Code: "link.taken",
					Message: fmt.Sprintf("is %q, which another code has, or had; choose another word", up)}}
			}
		}
		c, err = s.Codes.PatchIn(ctx, tx, actor, id, patch.Set(path, a.String()), by.As("lead through "+a.String()))
		return err
	})
	return c, err
}

// Version is a destination that was live, or is.
type Version struct {
	N    int
	Lead *leads.Lead
	Back int // the version that it went back to, 0 for none
	At   time.Time
	Who  string
}

// Led is where a code leads.
type Led struct {
	Draft *leads.Lead
	Rev   int64     // of the draft
	Live  *Version  // nil until the code is handed over
	Past  []Version // earlier ones, newest first
	// who looks after it: a person's id, "" where a program made it live first, and the name at the time
	KeeperID, Keeper string
	Refused          map[string]Refusal // what is typed and cannot be taken, by field; nothing goes live while there is any
}

// Changed says that the draft is another than what is live.
func (l *Led) Changed() bool { return l.Live != nil && len(l.Draft.Differences(l.Live.Lead)) > 0 }

// maxPast is how many earlier versions are told.
const maxPast = 20

// Of is where a code leads, nil for one that leads through no link of ours.
func (s *Store) Of(ctx context.Context, actor access.Actor, c *code.Code) (*Led, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	if _, dynamic := c.Rendition.Job.Content.(*content.Dynamic); !dynamic {
		return nil, nil
	}
	var l *Led
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) (err error) {
		l, err = s.read(ctx, tx, actor.Workspace, c.ID)
		return err
	})
	return l, err
}

// take has whoever changes codes and where they lead wait for a turn: all take the codes first, in the order of their ids, so
// that no two wait for each other.
func take(ctx context.Context, tx pgx.Tx, workspace string, ids ...string) error {
	_, err := tx.Exec(ctx, `SELECT 1 FROM codes WHERE workspace = $1 AND id = ANY ($2) ORDER BY id FOR NO KEY UPDATE`, workspace, ids)
	return err
}

// held reads where a code leads and keeps others from changing that until the transaction ends.
func (s *Store) held(ctx context.Context, tx pgx.Tx, workspace, id string) (*Led, error) {
	if err := take(ctx, tx, workspace, id); err != nil {
		return nil, err
	}
	return s.read(ctx, tx, workspace, id)
}

// read reads where a code leads; nil where nobody has said.
func (s *Store) read(ctx context.Context, tx pgx.Tx, workspace, id string) (*Led, error) {
	l := &Led{}
	var draft, refused []byte
	var live int
	err := tx.QueryRow(ctx,
		`SELECT draft, rev, live, keeper_id, keeper, refused FROM leads WHERE workspace = $1 AND code = $2`, workspace, id).
		Scan(&draft, &l.Rev, &live, &l.KeeperID, &l.Keeper, &refused)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	if l.Draft, err = s.opened(workspace, id, "lead", draft); err != nil {
		return nil, err
	}
	if err := s.openRefused(workspace, id, refused, l); err != nil {
		return nil, err
	}
	all, err := s.versions(ctx, tx, workspace, id)
	if err != nil {
		return nil, err
	}
	if live > 0 && len(all) > 0 {
		l.Live, l.Past = &all[0], all[1:]
	}
	return l, nil
}

// versions are what was live of a code, newest first, so many at most.
func (s *Store) versions(ctx context.Context, tx pgx.Tx, workspace, id string) ([]Version, error) {
	rows, err := tx.Query(ctx, `SELECT n, lead, back, at, who FROM lead_versions WHERE workspace = $1 AND code = $2
		ORDER BY n DESC LIMIT $3`, workspace, id, maxPast+1)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (v Version, err error) {
		var text []byte
		if err = r.Scan(&v.N, &text, &v.Back, &v.At, &v.Who); err == nil {
			v.Lead, err = s.opened(workspace, id, "live", text)
		}
		return v, err
	})
}

// Led are the versions of where a code led, newest first, those before the twentieth left out.
func (s *Store) Led(ctx context.Context, actor access.Actor, id string) (out []Version, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) (err error) {
		out, err = s.versions(ctx, tx, actor.Workspace, id)
		return err
	})
	return out, err
}

func (s *Store) sealed(workspace, id, what string, l *leads.Lead) ([]byte, error) {
	text, err := json.Marshal(l.JSON())
	if err != nil {
		return nil, err
	}
	return s.Codes.Seal.Seal(text, place(workspace, id, what)), nil
}

func (s *Store) opened(workspace, id, what string, text []byte) (*leads.Lead, error) {
	text, err := s.Codes.Seal.Open(text, place(workspace, id, what))
	if err != nil {
		return nil, err
	}
	v, err := fields.Decode(text)
	if err != nil {
		return nil, err
	}
	l, problems := leads.Read(v)
	if len(problems) > 0 {
		return nil, fmt.Errorf("link: what is kept of %s: %w", id, problems)
	}
	return l, nil
}

// Heading is where a code leads, for a list.
type Heading struct {
	To      content.Summary // of what is live, or of the draft before anything is
	Resting bool
	Changed bool   // the draft is another than what is live
	Soon    string // what changes within soon, as a sentence; "" for nothing
}

// soon is how far ahead a list says what is to come.
const soon = 14 * 24 * time.Hour

// Heading says where codes lead, of those that lead through short links.
func (s *Store) Heading(ctx context.Context, actor access.Actor, ids []string) (map[string]Heading, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	type row struct {
		Code        string
		Draft, Live []byte
	}
	var list []row
	err := s.Codes.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT l.code, l.draft, v.lead FROM leads l LEFT JOIN lead_versions v ON v.workspace = l.workspace
			AND v.code = l.code AND v.n = l.live WHERE l.workspace = $1 AND l.code = ANY ($2)`, actor.Workspace, ids).
			Query(func(rows pgx.Rows) (err error) {
				list, err = pgx.CollectRows(rows, pgx.RowToStructByPos[row])
				return err
			})
	})
	out := make(map[string]Heading, len(list))
	for _, r := range list {
		draft, bad := s.opened(actor.Workspace, r.Code, "lead", r.Draft)
		if bad != nil {
			return nil, bad
		}
		head := Heading{To: draft.Summary()}
		if r.Live != nil {
			live, bad := s.opened(actor.Workspace, r.Code, "live", r.Live)
			if bad != nil {
				return nil, bad
			}
			head = Heading{To: live.Summary(), Resting: live.Paused, Changed: len(draft.Differences(live)) > 0,
				Soon: live.Soon(s.Codes.Now(), soon)}
		}
		out[r.Code] = head
	}
	return out, err
}

// ByAddress finds the code that a short link is, or was, one of; ok is false where it is none of this workspace's.
func (s *Store) ByAddress(ctx context.Context, actor access.Actor, a shortlink.Address) (id string, ok bool, err error) {
	if err := actor.Need(access.Look); err != nil {
		return "", false, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `SELECT code FROM links WHERE host = $1 AND path = $2 AND workspace = $3`, a.Host, a.Path,
			actor.Workspace).Scan(&id)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		ok = err == nil
		return err
	})
	return id, ok, err
}

// Links are the short links of a job, the code's own first, each with the names of the placements that it is
// printed at.
func Links(j *job.Job) (out []Printed) {
	d, dynamic := j.Content.(*content.Dynamic)
	if !dynamic {
		return nil
	}
	out = []Printed{{Address: d.Address(), Place: -1}}
	for i, p := range j.Placements {
		if p.Link == "" {
			if out[0].Place < 0 {
				out[0].Place = i
			}
			out[0].Names = append(out[0].Names, p.Name)
			continue
		}
		own, err := d.Through(p.Link)
		if err != nil {
			continue
		}
		if k := slices.IndexFunc(out, func(o Printed) bool { return o.Address == own.Address() }); k >= 0 {
			out[k].Names = append(out[k].Names, p.Name)
		} else {
			out = append(out, Printed{Address: own.Address(), Place: i, Names: []string{p.Name}})
		}
	}
	return out
}

// Printed is a short link of a code.
type Printed struct {
	Address shortlink.Address
	Place   int // index of the first placement that it is printed at, −1 for none
	Names   []string
}

// Where is the name of the place that it is printed at; "" for none, and where there are several.
func (p Printed) Where() string {
	if len(p.Names) == 1 {
		return p.Names[0]
	}
	return ""
}
