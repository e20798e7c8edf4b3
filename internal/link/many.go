package link

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
)

// Swap is a change of many destinations: whatever holds Find has it replaced; without Find all of them lead to With.
type Swap struct {
	Find, With string
	Region     string // whose numbers need no country's code
}

// AsTheyAre is a swap that changes nothing: no address holds what it looks for.
var AsTheyAre = Swap{Find: "\x00"}

// Swapped is what a swap makes of a code's destination.
type Swapped struct {
	Code, Name string
	From, To   string // as addresses; To is "" where it stays
	Bad        *problem.Problem
	N          int // of what is live, 0 for nothing yet

	next, draft *leads.Lead // what is live then, and the draft, which may be another
}

// MaxSwapped is how many codes change in one act.
const MaxSwapped = 500

// SwapOf says what a swap would make of the destinations of codes; nothing is changed. Codes that lead through no link are
// left out.
func (s *Store) SwapOf(ctx context.Context, actor access.Actor, ids []string, swap Swap) (out []Swapped, err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		out, err = s.swapped(ctx, tx, actor.Workspace, ids, swap)
		return err
	})
	return out, err
}

// swapped is what a swap would make of codes.
func (s *Store) swapped(ctx context.Context, tx pgx.Tx, workspace string, ids []string, swap Swap) (out []Swapped, err error) {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	if len(ids) > MaxSwapped {
		return nil, problem.List{{Field: "/id", Code: "many.long",
			Message: fmt.Sprintf("names %d codes; at most %d destinations change at once", len(ids), MaxSwapped)}}
	}
	if swap.With = strings.TrimSpace(swap.With); swap.With == "" && swap.Find == "" {
		return nil, problem.List{{Field: "/with", Code: "swap.empty", Message: "is empty; write an address, such as marrowby.example/shop"}}
	}
	bars, err := s.bars(ctx, tx, workspace)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		l, err := s.read(ctx, tx, workspace, id)
		if err != nil {
			return nil, err
		}
		if l == nil {
			continue
		}
		one, now := Swapped{Code: id}, l.Draft
		if l.Live != nil {
			one.N, now = l.Live.N, l.Live.Lead
		}
		one.From = now.Says()
		if err := tx.QueryRow(ctx, `SELECT name FROM codes WHERE workspace = $1 AND id = $2`, workspace, id).Scan(&one.Name); err != nil {
			return nil, err
		}
		if edits := swap.edits(now); len(edits) > 0 {
			next, problems := with(now, edits, swap.Region, bars)
			if one.next, one.draft = next, next; len(problems) == 0 && l.Changed() { // a draft that waits goes on waiting
				one.draft, problems = with(l.Draft, swap.edits(l.Draft), swap.Region, bars)
			}
			if len(problems) > 0 {
				one.Bad, one.next = &problems[0], nil
			} else if one.To = next.Says(); one.To == one.From {
				one.To = strings.Join(next.Differences(now), " ")
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// with is a lead with fields as they are typed, which nothing bars.
func with(l *leads.Lead, edits map[string]string, region string, b leads.Bars) (*leads.Lead, problem.List) {
	next, problems := typed(l, edits, region)
	if len(problems) == 0 {
		problems = b.Check(next)
	}
	return next, problems
}

// edits are the fields of a lead that a swap changes, as they would be typed.
func (w Swap) edits(l *leads.Lead) map[string]string {
	out := map[string]string{}
	for _, d := range l.Destinations() {
		key := d.Key
		u, web := d.To.(*content.URL)
		switch {
		case w.Find == "" && key == "to":
			if !web || u.Payload() != w.With {
				out[key] = w.With
			}
		case w.Find != "" && web && strings.Contains(u.Payload(), w.Find):
			out[key] = strings.ReplaceAll(u.Payload(), w.Find, w.With)
		}
	}
	return out
}

// SwapAll makes a swap live, all of it or nothing, and gives what it changed. A destination that would be wrong is a problem.
func (s *Store) SwapAll(ctx context.Context, actor access.Actor, ids []string, swap Swap) (done []Swapped, err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		done = nil
		if err := take(ctx, tx, actor.Workspace, ids...); err != nil {
			return err
		}
		all, err := s.swapped(ctx, tx, actor.Workspace, ids, swap)
		if err != nil {
			return err
		}
		for _, one := range all {
			if one.Bad != nil {
				return problem.List{{Field: "/with", Code: one.Bad.Code,
					Message: fmt.Sprintf("makes the destination of %s one that %s", one.Name, one.Bad.Message)}}
			}
			if one.next == nil {
				continue
			}
			if err := s.put(ctx, tx, actor, one.Code, one.next, one.draft, 0); err != nil {
				return err
			}
			done = append(done, one)
		}
		return nil
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return done, err
}

// draftThen is the draft once a destination is live again: the same, unless one waits.
func draftThen(l *Led, next *leads.Lead) *leads.Lead {
	if l.Changed() {
		return l.Draft
	}
	return next
}

// put makes a destination live where something is, and keeps a draft beside it. The code is taken.
func (s *Store) put(ctx context.Context, tx pgx.Tx, actor access.Actor, id string, next, draft *leads.Lead, back int) error {
	l, err := s.read(ctx, tx, actor.Workspace, id)
	if err != nil {
		return err
	}
	l.Draft = next
	if l.Live != nil {
		if err := s.publish(ctx, tx, actor, id, l, back); err != nil {
			return err
		}
	}
	text, err := s.sealed(actor.Workspace, id, "lead", draft)
	if err != nil {
		return err
	}
	if _, err = tx.Exec(ctx, `UPDATE leads SET draft = $3, rev = rev + 1 WHERE workspace = $1 AND code = $2`, actor.Workspace, id,
		text); err != nil {
		return err
	}
	return s.findable(ctx, tx, actor.Workspace, id)
}

// SwapBack leads codes where they led, each by the number of what was live; those that were changed since stay as they are.
// It gives how many went back.
func (s *Store) SwapBack(ctx context.Context, actor access.Actor, was map[string]int) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return 0, err
	}
	ids := make([]string, 0, len(was))
	for id := range was {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		n = 0
		ids := ids[:min(len(ids), MaxSwapped)]
		if err := take(ctx, tx, actor.Workspace, ids...); err != nil {
			return err
		}
		for _, id := range ids {
			l, err := s.read(ctx, tx, actor.Workspace, id)
			if err != nil {
				return err
			}
			if l == nil || l.Live == nil || l.Live.N != was[id]+1 {
				continue
			}
			for _, v := range l.Past {
				if v.N == was[id] {
					if err := s.put(ctx, tx, actor, id, v.Lead, draftThen(l, v.Lead), v.N); err != nil {
						return err
					}
					n++
				}
			}
		}
		return nil
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return n, err
}
