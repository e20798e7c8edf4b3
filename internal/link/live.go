package link

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/recognise"
	"sodrik/internal/core/route"
)

// Edit changes one field of the draft of where a code leads, by the key of core/leads, as it is typed; "to" and "then" take
// whatever can be recognised, numbers without a country's code as of region. rev is the draft that the page shows; 0 is
// whichever there is. Problems name the field.
func (s *Store) Edit(ctx context.Context, actor access.Actor, id string, edits map[string]string, region string,
	rev int64) (*Led, error) {
	l, err := s.change(ctx, actor, id, rev, func(tx pgx.Tx, l *Led) error {
		b, err := s.bars(ctx, tx, actor.Workspace)
		if err != nil {
			return err
		}
		all := l.besides(edits)
		next, problems := with(l.Draft, all, region, b)
		if len(problems) > 0 && len(all) > len(edits) {
			all = edits
			next, problems = with(l.Draft, edits, region, b)
		}
		if len(problems) > 0 {
			return problems
		}
		l.Draft = next
		for key := range all {
			delete(l.Refused, key)
		}
		return nil
	})
	return l, s.noted(ctx, actor, id, edits, err)
}

// below begins the key of a field within the destination, such as "to/number".
const below = "to/"

// besides adds to an edit within the destination what was refused there before: a new start and a new end may only fit together.
// Another destination drops what was refused within the last one.
func (l *Led) besides(edits map[string]string) map[string]string {
	all := maps.Clone(edits)
	_, another := edits["to"]
	for key, r := range l.Refused {
		if _, has := all[key]; has || !strings.HasPrefix(key, below) {
			continue
		}
		if another {
			delete(l.Refused, key)
			continue
		}
		all[key] = r.Text
	}
	return all
}

// typedWithin puts what is typed into a field of a destination, by a pointer within it.
func typedWithin(values any, path, text string) (map[string]any, *problem.Problem) {
	draft := any(map[string]any{"content": values})
	p, bad := job.Edit(draft, "/content"+path, text)
	if bad != nil {
		return nil, bad
	}
	next, _, err := p.Apply(draft)
	if err != nil {
		return nil, &problem.Problem{Code: "field", Message: "does not fit the destination any more; load the page again"}
	}
	out, _ := next.(map[string]any)["content"].(map[string]any)
	c, problems := content.New(out)
	if len(problems) == 0 {
		return content.JSON(c), nil
	}
	for _, p := range problems {
		if p.Field == "/content"+path {
			return nil, &p
		}
	}
	of := strings.TrimPrefix(problems[0].Field, "/content/")
	if f := job.Field(c.Kind(), problems[0].Field); f != nil && f.Label != "" {
		of = f.Label
	}
	return nil, &problem.Problem{Code: problems[0].Code, Message: "leaves “" + of + "” wrong, which " + problems[0].Message}
}

// Set makes the draft of where a code leads another, as JSON. Problems have pointers below it.
func (s *Store) Set(ctx context.Context, actor access.Actor, id string, lead any, rev int64) (*Led, error) {
	return s.change(ctx, actor, id, rev, func(tx pgx.Tx, l *Led) error {
		next, problems := leads.Read(lead)
		if len(problems) > 0 {
			return problems
		}
		b, err := s.bars(ctx, tx, actor.Workspace)
		if err != nil {
			return err
		}
		if problems := b.Check(next); len(problems) > 0 {
			return problems
		}
		l.Draft, l.Refused = next, nil
		return nil
	})
}

// typed is a lead with fields as they are typed.
func typed(was *leads.Lead, edits map[string]string, region string) (*leads.Lead, problem.List) {
	var problems problem.List
	doc := was.JSON()
	planned := map[string]any(nil)
	if was.Apart() { // the change at a time is among the routes
		doc = was.Document()
		planned = doc["routes"].([]any)[was.Route(leads.Planned)].(map[string]any)
	}
	for _, key := range slices.Sorted(maps.Keys(edits)) { // from, then, timezone: whatever the order of a map
		text := strings.TrimSpace(edits[key])
		at := "/" + key
		if planned != nil && (key == "from" || key == "until") {
			problems = append(problems, route.Typed(planned, map[string][]string{key: {text}}, "")...)
			continue
		}
		if n, is := routeTo(key); is {
			if values, bad := Destination(text, region); bad != nil {
				bad.Field = at
				problems = append(problems, *bad)
			} else if list, _ := doc["routes"].([]any); n < len(list) {
				list[n].(map[string]any)["to"] = values
			}
			continue
		}
		if path, is := strings.CutPrefix(key, below); is {
			values, bad := typedWithin(doc["to"], "/"+path, edits[key])
			if bad != nil {
				problems.Add(at, bad.Code, "%s", bad.Message)
				continue
			}
			doc["to"] = values
			continue
		}
		if key == "to" || key == "then" {
			if text == "" && key == "then" {
				if delete(doc, key); planned != nil {
					doc["routes"] = slices.DeleteFunc(doc["routes"].([]any), func(r any) bool {
						return r.(map[string]any)["id"] == leads.Planned
					})
				}
				continue
			}
			values, bad := Destination(text, region)
			if bad != nil {
				bad.Field = at
				problems = append(problems, *bad)
				continue
			}
			if key == "then" && planned != nil {
				planned["to"] = values
			} else {
				doc[key] = values
			}
			continue
		}
		f := leads.Declared(key)
		if f == nil {
			problems.Add(at, "field", "is not a field of where a code leads")
			continue
		}
		if f.Unsets(text) {
			delete(doc, key)
			continue
		}
		v, bad := f.Parse(at, text)
		if bad != nil {
			problems = append(problems, *bad)
			continue
		}
		doc[key] = v
	}
	if len(problems) > 0 {
		return nil, problems
	}
	next, problems := leads.Read(plain(doc))
	return next, problems
}

// routeTo takes apart the key of the destination of a route: "routes/2/to".
func routeTo(key string) (n int, is bool) {
	rest, ok := strings.CutPrefix(key, "routes/")
	text, end := strings.CutSuffix(rest, "/to")
	n, err := strconv.Atoi(text)
	return n, ok && end && err == nil && n >= 0
}

// plain is a value as it comes back from JSON.
func plain(doc map[string]any) any {
	text, err := json.Marshal(doc)
	if err != nil {
		return nil
	}
	v, _ := fields.Decode(text)
	return v
}

// wordy says that what is no address is a text to be shown: two words of which none could begin an address, or more.
func wordy(text string) bool {
	words := strings.Fields(text)
	if len(words) == 2 {
		return !strings.ContainsAny(strings.TrimRight(text, ".!?"), ".:/")
	}
	return len(words) > 2 && !strings.Contains(words[0], "://")
}

// Destination takes what somebody types or pastes for a content that a link can lead to.
func Destination(text, region string) (values map[string]any, bad *problem.Problem) {
	if readings := recognise.Written(text, region); len(readings) > 0 && !readings[0].Weak {
		r := readings[0]
		if r.Rows != "" {
			return nil, &problem.Problem{Code: "lead.several",
				Message: "holds several addresses, and a link leads to one; leave one"}
		}
		if r.Content == nil {
			return nil, &problem.Problem{Code: r.Problems[0].Code, Message: r.Problems[0].Message}
		}
		return content.JSON(r.Content), nil
	}
	values = map[string]any{"kind": "url", "url": text}
	if wordy(text) {
		values = map[string]any{"kind": "text", "text": text}
	}
	if _, problems := content.New(values); len(problems) > 0 {
		return nil, &problem.Problem{Code: problems[0].Code, Message: problems[0].Message}
	}
	return values, nil
}

// change changes the draft of where a code leads.
func (s *Store) change(ctx context.Context, actor access.Actor, id string, rev int64, do func(pgx.Tx, *Led) error) (l *Led,
	err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if l, err = s.held(ctx, tx, actor.Workspace, id); err != nil {
			return err
		}
		if l == nil {
			return code.ErrNotFound
		}
		if rev != 0 && rev != l.Rev {
			return &code.Overtaken{}
		}
		if err := do(tx, l); err != nil {
			return err
		}
		text, err := s.sealed(actor.Workspace, id, "lead", l.Draft)
		if err != nil {
			return err
		}
		refused, err := s.sealedRefused(actor.Workspace, id, l)
		if err != nil {
			return err
		}
		l.Rev++
		if _, err = tx.Exec(ctx, `UPDATE leads SET draft = $3, rev = $4, refused = $5 WHERE workspace = $1 AND code = $2`,
			actor.Workspace, id, text, l.Rev, refused); err != nil {
			return err
		}
		return s.findable(ctx, tx, actor.Workspace, id)
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return l, err
}

// Discard makes the draft again what is live.
func (s *Store) Discard(ctx context.Context, actor access.Actor, id string, rev int64) (*Led, error) {
	return s.change(ctx, actor, id, rev, func(_ pgx.Tx, l *Led) error {
		if l.Refused = nil; l.Live != nil {
			l.Draft = l.Live.Lead
		}
		return nil
	})
}

// errNotYet is about a code that nobody can scan yet.
var errNotYet = problem.List{{Code: "lead.early",
	Message: "It goes live when the code is first handed over, so that no print leads nowhere"}}

// MakeLive has every short link of a code lead where the draft says, from now on.
func (s *Store) MakeLive(ctx context.Context, actor access.Actor, id string, rev int64) (*Led, error) {
	return s.change(ctx, actor, id, rev, func(tx pgx.Tx, l *Led) error {
		if l.Live == nil {
			return errNotYet
		}
		if err := l.unready(); err != nil {
			return err
		}
		if !l.Changed() {
			return nil
		}
		return s.publish(ctx, tx, actor, id, l, 0)
	})
}

// GoBack makes an earlier version live again, and the draft with it, unless one waits.
func (s *Store) GoBack(ctx context.Context, actor access.Actor, id string, n int, rev int64) (*Led, error) {
	return s.change(ctx, actor, id, rev, func(tx pgx.Tx, l *Led) error {
		for _, v := range l.Past {
			if v.N == n {
				draft := draftThen(l, v.Lead)
				l.Draft = v.Lead
				err := s.publish(ctx, tx, actor, id, l, n)
				l.Draft = draft
				return err
			}
		}
		return code.ErrNotFound
	})
}

// Rest pauses a code at once, or lets it go on; a draft that waits stays as it is but for that.
func (s *Store) Rest(ctx context.Context, actor access.Actor, id string, rest bool, rev int64) (*Led, error) {
	return s.change(ctx, actor, id, rev, func(tx pgx.Tx, l *Led) error {
		if l.Live == nil {
			return errNotYet
		}
		if l.Live.Lead.Paused == rest && l.Draft.Paused == rest {
			return nil
		}
		if rest && l.Live.Lead.Permanent() {
			return problem.List{{Code: "lead.permanent",
				Message: "Phones keep where it leads, so that a pause does not reach them. " +
					"Choose the redirect 302, and make it live"}}
		}
		draft := *l.Draft
		live := *l.Live.Lead
		draft.Paused, live.Paused = rest, rest
		live.Words, live.Instead = draft.Words, draft.Instead
		l.Draft = &live
		if err := s.publish(ctx, tx, actor, id, l, 0); err != nil {
			return err
		}
		l.Draft = &draft
		return nil
	})
}

// Keeper names who looks after where a code leads.
func (s *Store) Keeper(ctx context.Context, actor access.Actor, id, person, name string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `UPDATE leads SET keeper_id = $3, keeper = $4 WHERE workspace = $1 AND code = $2`,
			actor.Workspace, id,
			person, name)
		if err == nil && tag.RowsAffected() == 0 {
			err = code.ErrNotFound
		}
		return err
	})
}

// publish keeps the draft as the next version, and has every link of the code lead there.
func (s *Store) publish(ctx context.Context, tx pgx.Tx, actor access.Actor, id string, l *Led, back int) error {
	n := 1
	if l.Live != nil {
		n = l.Live.N + 1
	}
	text, err := s.sealed(actor.Workspace, id, "live", l.Draft)
	if err != nil {
		return err
	}
	if err := s.barred(ctx, tx, actor.Workspace, l.Draft, l.Live); err != nil {
		return err
	}
	if err := s.dressed(ctx, tx, actor.Workspace); err != nil {
		return err
	}
	v := Version{N: n, Lead: l.Draft, Back: back, At: s.Codes.Now(), Who: actor.Name}
	if _, err := tx.Exec(ctx, `INSERT INTO lead_versions (workspace, code, n, lead, back, at, who, who_id)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, actor.Workspace, id, n, text, back, v.At, actor.Name, actor.ID); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `UPDATE leads SET live = $3, keeper_id = CASE WHEN keeper = '' THEN $4 ELSE keeper_id END,
		keeper = CASE WHEN keeper = '' THEN $5 ELSE keeper END WHERE workspace = $1 AND code = $2`, actor.Workspace, id, n, actor.ID,
		actor.Name); err != nil {
		return err
	}
	if l.Keeper == "" {
		l.KeeperID, l.Keeper = actor.ID, actor.Name
	}
	if l.Live != nil {
		l.Past = append([]Version{*l.Live}, l.Past...)
	}
	l.Live = &v
	return s.answer(ctx, tx, actor.Workspace, id, l.Live.Lead)
}

// answer writes what every link of a code answers that was handed over.
func (s *Store) answer(ctx context.Context, tx pgx.Tx, workspace, id string, l *leads.Lead) error {
	rows, err := tx.Query(ctx, `SELECT host || '/' || path, place FROM links WHERE workspace = $1 AND code = $2
		AND place IS NOT NULL ORDER BY 1`, workspace, id)
	if err != nil {
		return err
	}
	type row struct {
		Link  string
		Place []byte
	}
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return err
	}
	for _, r := range all {
		link := r.Link
		name, err := s.Codes.Seal.Open(r.Place, place(workspace, link, "place"))
		if err != nil {
			return err
		}
		_, path, _ := strings.Cut(link, "/")
		v := l.Compile(string(name), path)
		v.Code, v.Workspace = id, workspace
		if err := s.bring(ctx, tx, workspace, link, v.Encode()); err != nil {
			return err
		}
	}
	return nil
}

// issuing has its say before a version leaves: its links are the code's own, and the first handing over makes them live.
func (s *Store) issuing(ctx context.Context, tx pgx.Tx, actor access.Actor, c *code.Code) error {
	printed := Links(c.Rendition.Job)
	if len(printed) == 0 {
		return s.handedOver(ctx, tx, actor.Workspace, c)
	}
	for _, p := range printed {
		name := s.Codes.Seal.Seal([]byte(p.Where()), place(actor.Workspace, p.Address.Host+"/"+p.Address.Path, "place"))
		mine, err := tx.Exec(ctx, `UPDATE links SET place = $5 WHERE host = $1 AND path = $2 AND workspace = $3 AND code = $4`,
			p.Address.Host, p.Address.Path, actor.Workspace, c.ID, name)
		if err != nil {
			return err
		}
		if mine.RowsAffected() == 0 {
			return problem.List{{Field: "/content/link", Code: "link.foreign", Message: fmt.Sprintf(
				"is %s, which is no short link of this code; have it say its address, and lead through a link of its own",
				p.Address)}}
		}
	}
	l, err := s.held(ctx, tx, actor.Workspace, c.ID)
	if err != nil {
		return err
	}
	switch {
	case l == nil:
		return problem.List{{Field: "/content/link", Code: "lead.none", Message: "leads nowhere yet; say where it is to lead"}}
	case l.Live == nil && len(l.Refused) > 0:
		return at(l.unready(), "/content/link")
	case l.Live == nil:
		return at(s.publish(ctx, tx, actor, c.ID, l, 0), "/content/link")
	}
	return s.answer(ctx, tx, actor.Workspace, c.ID, l.Live.Lead) // places may have come, or have other names
}
