package link

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
)

// newRoute is an id that no route had, so that what was counted of others is not its own.
func newRoute() string {
	b := make([]byte, 5)
	rand.Read(b)
	return strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(b))
}

// EditRoute changes a route of the draft of where a code leads, by fields as a form has them; "to" takes whatever can be
// recognised. Without an id it is a new one, the last but for the change at a time. It gives the id. Problems name the field as
// the form has it.
func (s *Store) EditRoute(
	ctx context.Context,
	actor access.Actor,
	id, rid string,
	edits map[string][]string,
	region string,
) (l *Led,
	own string, err error) {
	own = rid
	zone := strings.TrimSpace(strings.Join(edits["timezone"], ""))
	l, err = s.zoned(ctx, actor, id, zone, func(was *leads.Lead, list []any) ([]any, problem.List) {
		i := was.Route(rid)
		switch {
		case rid == "" && edits["plan"] != nil && was.Route(leads.Planned) < 0:
			own = leads.Planned
			list, i = append(list, map[string]any{"id": own}), len(list)
		case rid == "":
			own = newRoute()
			i = len(list)
			if n := len(was.Routes); n > 0 && was.Routes[n-1].ID == leads.Planned && !was.Apart() {
				i = n - 1
			}
			list = slices.Insert(list, i, any(map[string]any{"id": own}))
		case i < 0:
			return nil, problem.List{{Code: "route.gone", Message: "This route is gone: somebody has taken it out"}}
		}
		doc := list[i].(map[string]any)
		if rid == leads.Planned && doc["spans"] == nil {
			doc["spans"] = []any{}
		}
		problems := route.Typed(doc, edits, "")
		if values, is := edits["to"]; is {
			to, bad := Destination(strings.TrimSpace(strings.Join(values, "")), region)
			if bad != nil {
				bad.Field = "/to"
				problems = append(problems, *bad)
			}
			doc["to"] = to
		}
		return list, problems
	})
	return l, own, err
}

// StartApp makes two routes at once: phones of each system go to their own shop.
func (s *Store) StartApp(ctx context.Context, actor access.Actor, id, ios, android, region string) (*Led, error) {
	return s.routes(ctx, actor, id, func(_ *leads.Lead, list []any) ([]any, problem.List) {
		var problems problem.List
		for _, one := range []struct{ system, to string }{{"ios", ios}, {"android", android}} {
			to, bad := Destination(strings.TrimSpace(one.to), region)
			if bad != nil {
				bad.Field = "/to-" + one.system
				problems = append(problems, *bad)
			}
			list = append(list, map[string]any{"id": newRoute(), "systems": []any{one.system}, "to": to})
		}
		return list, problems
	})
}

// MoveRoute moves a route to a place among the others, from 0 on.
func (s *Store) MoveRoute(ctx context.Context, actor access.Actor, id, rid string, to int) (*Led, error) {
	return s.routes(ctx, actor, id, func(was *leads.Lead, list []any) ([]any, problem.List) {
		i := was.Route(rid)
		if i < 0 {
			return list, nil // whoever took it out was faster
		}
		one := list[i]
		list = slices.Delete(list, i, i+1)
		return slices.Insert(list, max(0, min(to, len(list))), one), nil
	})
}

// SwitchRoute switches a route off, so that it never fires, or on again.
func (s *Store) SwitchRoute(ctx context.Context, actor access.Actor, id, rid string, off bool) (*Led, error) {
	return s.routes(ctx, actor, id, func(was *leads.Lead, list []any) ([]any, problem.List) {
		if i := was.Route(rid); i >= 0 {
			doc := list[i].(map[string]any)
			if delete(doc, "off"); off {
				doc["off"] = true
			}
		}
		return list, nil
	})
}

// DropRoute takes a route out.
func (s *Store) DropRoute(ctx context.Context, actor access.Actor, id, rid string) (*Led, error) {
	return s.routes(ctx, actor, id, func(was *leads.Lead, list []any) ([]any, problem.List) {
		if i := was.Route(rid); i >= 0 {
			list = slices.Delete(list, i, i+1)
		}
		return list, nil
	})
}

// FixRoute mends what was found about the routes, by the place of its finding among all; code has to be that of the finding.
func (s *Store) FixRoute(ctx context.Context, actor access.Actor, id, finding string, n int) (*Led, error) {
	return s.change(ctx, actor, id, 0, func(_ pgx.Tx, l *Led) error {
		all := route.Find(l.Draft.Rules(), l.Draft.Zone, l.Draft.Language, s.Codes.Now())
		if n < 0 || n >= len(all) || all[n].Code != finding || all[n].Fix == nil {
			return nil // mended already
		}
		fix := all[n].Fix
		doc := l.Draft.Document()
		list, _ := doc["routes"].([]any)
		one := func() map[string]any { return list[fix.Rule].(map[string]any) }
		switch fix.Do {
		case "language":
			doc["language"] = fix.Text
		case "widen":
			one()["languages"] = append([]string{fix.Text}, l.Draft.Routes[fix.Rule].Languages...)
		case "begin":
			one()["spans"] = []any{map[string]any{"from": fix.Text, "until": l.Draft.Routes[fix.Rule].Spans[0].Until}}
		case "drop":
			list = slices.Delete(list, fix.Rule, fix.Rule+1)
		case "first", "last":
			x := list[fix.Rule]
			list = slices.Delete(list, fix.Rule, fix.Rule+1)
			list = slices.Insert(list, map[string]int{"first": 0, "last": len(list)}[fix.Do], x)
		}
		if doc["routes"] = list; len(list) == 0 {
			delete(doc, "routes")
		}
		next, problems := leads.Read(plain(doc))
		if len(problems) > 0 {
			return problems
		}
		l.Draft = next
		return nil
	})
}

// routes changes the routes of the draft as they are now, so that what two people do at once holds both. Problems of a route
// name its field alone.
func (s *Store) routes(ctx context.Context, actor access.Actor, id string, do func(was *leads.Lead, list []any) ([]any,
	problem.List)) (*Led, error) {
	return s.zoned(ctx, actor, id, "", do)
}

// zoned is routes with another time zone; "" leaves it, and one is kept only where something goes by it.
func (s *Store) zoned(ctx context.Context, actor access.Actor, id, zone string, do func(was *leads.Lead, list []any) ([]any,
	problem.List)) (*Led, error) {
	return s.change(ctx, actor, id, 0, func(tx pgx.Tx, l *Led) error {
		doc := l.Draft.Document()
		list, _ := doc["routes"].([]any)
		list, problems := do(l.Draft, list)
		if len(problems) > 0 {
			return problems
		}
		if doc["routes"] = list; len(list) == 0 {
			delete(doc, "routes")
		}
		if zone != "" && (doc["timezone"] != nil || slices.ContainsFunc(list, timed)) {
			doc["timezone"] = zone
		}
		next, problems := leads.Read(plain(doc))
		if len(problems) == 0 {
			b, err := s.bars(ctx, tx, actor.Workspace)
			if err != nil {
				return err
			}
			problems = b.Check(next)
		}
		if len(problems) > 0 {
			for i := range problems {
				problems[i].Field = routeField(problems[i].Field)
			}
			return problems
		}
		l.Draft = next
		return nil
	})
}

// timed says that the JSON of a route asks for a time.
func timed(one any) bool {
	doc, _ := one.(map[string]any)
	for _, key := range []string{"spans", "weekdays", "hours"} {
		if list, is := doc[key].([]any); is && len(list) > 0 {
			return true
		}
	}
	return false
}

// routeField is the field of a form that a pointer below the lead is about: /routes/2/spans/0/from is /from.
func routeField(pointer string) string {
	steps := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	if len(steps) < 3 || steps[0] != "routes" {
		return pointer
	}
	if steps[2] == "spans" && len(steps) == 5 {
		n := 0
		fmt.Sscan(steps[3], &n)
		from, until := route.SpanKeys(n)
		return "/" + map[string]string{"from": from, "until": until}[steps[4]]
	}
	return "/" + steps[2]
}

// CopyRoutes has the drafts of codes take over the routes of another's draft, with its time zone and the language of the rest;
// all of them or none. Codes that lead through no link are a problem.
func (s *Store) CopyRoutes(ctx context.Context, actor access.Actor, from string, ids []string) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return 0, err
	}
	if len(ids) > MaxSwapped {
		return 0, problem.List{{Field: "/id", Code: "many.long",
			Message: fmt.Sprintf("names %d codes; at most %d change at once", len(ids), MaxSwapped)}}
	}
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		n = 0
		if err := take(ctx, tx, actor.Workspace, ids...); err != nil {
			return err
		}
		was, err := s.read(ctx, tx, actor.Workspace, from)
		if err != nil {
			return err
		}
		if was == nil {
			return code.ErrNotFound
		}
		for _, id := range ids {
			if id == from {
				continue
			}
			l, err := s.read(ctx, tx, actor.Workspace, id)
			if err != nil {
				return err
			}
			if l == nil {
				return problem.List{{Field: "/id", Code: "link.static", Message: "names a code that leads through no short link"}}
			}
			doc := l.Draft.Document()
			own := was.Draft.Document()
			for _, key := range []string{"routes", "timezone", "language"} {
				if delete(doc, key); own[key] != nil {
					doc[key] = own[key]
				}
			}
			next, problems := leads.Read(plain(doc))
			if len(problems) > 0 {
				return problems
			}
			text, err := s.sealed(actor.Workspace, id, "lead", next)
			if err != nil {
				return err
			}
			if _, err = tx.Exec(ctx, `UPDATE leads SET draft = $3, rev = rev + 1 WHERE workspace = $1 AND code = $2`, actor.Workspace, id,
				text); err != nil {
				return err
			}
			if err := s.findable(ctx, tx, actor.Workspace, id); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// Other is a code that leads through a short link, by name.
type Other struct{ ID, Name string }

// Others are the codes of a workspace that lead through a short link and are not retired, by name.
func (s *Store) Others(ctx context.Context, actor access.Actor) (out []Other, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT c.id, c.name FROM leads l JOIN codes c ON c.workspace = l.workspace AND c.id = l.code
			WHERE l.workspace = $1 AND c.state <> 'retired' ORDER BY lower(c.name), c.id`, actor.Workspace)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Other])
		return err
	})
	return out, err
}
