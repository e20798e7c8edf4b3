package notices

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"sodrik/internal/access"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/tally"
	"sodrik/internal/link"
	"sodrik/internal/outside"
	"sodrik/internal/scans"
)

// How long before its end something is told of, and how far back scans are looked at.
const (
	endsWithin       = 14 * 24 * time.Hour
	registeredWithin = 30 * 24 * time.Hour
	certifiedWithin  = 14 * 24 * time.Hour
	lookedBack       = 56 // days
	firstWithin      = 2  // days, the last one today
)

// Look looks at every workspace with links that hang, and says how many notices came or went. Nobody is asked.
func (s *Store) Look(ctx context.Context) (n int64, err error) {
	const hanging = `SELECT DISTINCT workspace FROM live_links ORDER BY workspace`
	return s.each(ctx, hanging, nil, func(actor access.Actor, told map[string]bool) (int64, error) {
		due, err := s.due(ctx, actor, told)
		if err != nil {
			return 0, err
		}
		return s.keep(ctx, actor.Workspace, []string{"silent", "first", "ending", "old"}, due, nil)
	})
}

// each goes through workspaces, those of a query. What goes wrong in one keeps none from its turn.
func (s *Store) each(ctx context.Context, sql string, args []any,
	do func(actor access.Actor, told map[string]bool) (int64, error)) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, sql, args...)
	if err != nil {
		return 0, err
	}
	workspaces, err := pgx.CollectRows(rows, pgx.RowTo[string])
	for _, w := range workspaces {
		if ctx.Err() != nil {
			return n, errors.Join(err, ctx.Err())
		}
		actor := access.OfProgram(w, "")
		choices, failed := s.Choices(ctx, actor)
		told := map[string]bool{}
		for _, c := range choices {
			told[c.Name] = c.Told
		}
		if failed == nil {
			var some int64
			some, failed = do(actor, told)
			n += some
		}
		err = errors.Join(err, failed)
	}
	return n, err
}

// hung is a printed place with the counts of the last days, of which the last is today.
type hung struct {
	link.Placed
	days tally.Days
}

func (h hung) name() string {
	if h.Live.Place != "" {
		return h.Code + ", " + h.Live.Place
	}
	return h.Code
}

func (h hung) notice(kind, key, words string) Notice {
	return Notice{Key: kind + "/" + h.Address + "/" + key, Kind: kind, Code: h.Live.Code, Link: h.Address, Words: words}
}

// due are the notices of a workspace that hold now and need nobody to be asked.
func (s *Store) due(ctx context.Context, actor access.Actor, told map[string]bool) (out []Notice, err error) {
	now := s.Now().UTC()
	today := now.Truncate(24 * time.Hour)
	span := scans.Span{From: today.AddDate(0, 0, 1-lookedBack), To: today.AddDate(0, 0, 1), Zone: time.UTC}
	list, err := s.hung(ctx, actor, span)
	if err != nil {
		return nil, err
	}
	for _, h := range list {
		all := func() (int, error) { // scans there ever were
			counts, err := s.Scans.OfCode(ctx, actor, h.Live.Code)
			return int(counts[h.Address].All), err
		}
		for _, one := range []struct {
			kind string
			of   func() (Notice, bool, error)
		}{
			{"silent", func() (Notice, bool, error) { n, is := h.silent(span); return n, is, nil }},
			{"first", func() (Notice, bool, error) { return h.first(all) }},
			{"ending", func() (Notice, bool, error) { n, is := h.ending(now); return n, is, nil }},
			{"old", func() (Notice, bool, error) { n, is := h.old(now); return n, is, nil }},
		} {
			if !told[one.kind] {
				continue
			}
			n, is, err := one.of()
			if err != nil {
				return nil, err
			}
			if is {
				out = append(out, n)
			}
		}
	}
	return out, nil
}

// hung are the printed places of a workspace.
func (s *Store) hung(ctx context.Context, actor access.Actor, span scans.Span) (out []hung, err error) {
	placed, err := s.Links.Placed(ctx, actor)
	if err != nil {
		return nil, err
	}
	counts, err := s.Scans.Daily(ctx, actor, scans.Which{}, span)
	if err != nil {
		return nil, err
	}
	days := map[string]tally.Days{}
	for _, c := range counts {
		days[c.Link] = c.Days
	}
	for _, p := range placed {
		h := hung{p, days[p.Address]}
		if h.days == nil {
			h.days = make(tally.Days, span.Days())
		}
		out = append(out, h)
	}
	return out, nil
}

// silent: nobody scans any more what was scanned, on days that are over and on which it hung.
func (h hung) silent(span scans.Span) (Notice, bool) {
	first, after := h.Hung(span.From, len(h.days))
	if after < len(h.days) || first >= after-1 { // it was taken down, or hangs since today, or not yet
		return Notice{}, false
	}
	over := h.days[first : after-1] // today is not over
	days, chance, silent := tally.Days(over).Silence()
	if !silent || h.days[len(h.days)-1] > 0 {
		return Notice{}, false
	}
	last := span.To.AddDate(0, 0, -2-days)
	words := fmt.Sprintf("%s fell silent after %s. %s", h.name(), last.Format("2 January"), ByChance(chance))
	return h.notice("silent", last.Format(time.DateOnly), words), true
}

// ByChance says how often something so unlikely happens by chance.
func ByChance(chance float64) string {
	once := 1 / chance
	if once >= 1e6 {
		return "By chance that hardly happens."
	}
	digits := math.Pow(10, math.Floor(math.Log10(once)))
	return fmt.Sprintf("By chance that happens once in %s.", measure.Count(int(math.Floor(once/digits)*digits)))
}

// first: it was scanned within the last days, and never before.
func (h hung) first(all func() (int, error)) (Notice, bool, error) {
	recent := h.days[len(h.days)-firstWithin:].Sum()
	if recent == 0 || h.days.Sum() > recent {
		return Notice{}, false, nil
	}
	if n, err := all(); err != nil || n > recent {
		return Notice{}, false, err
	}
	return h.notice("first", "", h.name()+" was scanned for the first time."), true, nil
}

// ending: from a time within two weeks on, people see the quiet page.
func (h hung) ending(now time.Time) (Notice, bool) {
	for _, step := range h.Live.Steps {
		at := time.Unix(step.From, 0).UTC()
		if step.From > 0 && at.After(now) && at.Before(now.Add(endsWithin)) && step.Act.Does == leads.Quiet {
			return h.notice("ending", at.Format(time.RFC3339), fmt.Sprintf("%s ends on %s. People then see the quiet page.",
				h.name(),
				at.Format("2 January, 15:04 UTC"))), true
		}
	}
	return Notice{}, false
}

// old: it hangs for a year or more, and nobody noted that it was taken down.
func (h hung) old(now time.Time) (Notice, bool) {
	from := h.Since
	if h.Noted.From != "" {
		if at, err := time.Parse(time.DateOnly, h.Noted.From); err == nil {
			from = at
		}
	}
	years := 0
	for !from.IsZero() && !from.AddDate(years+1, 0, 0).After(now) {
		years++
	}
	if years == 0 || h.Noted.Until != "" && h.Noted.Until < now.Format(time.DateOnly) {
		return Notice{}, false
	}
	long := "a year"
	if years > 1 {
		long = fmt.Sprintf("%d years", years)
	}
	return h.notice("old", fmt.Sprint(years),
		fmt.Sprintf("%s is in print for %s. Does it still hang, and still say what it should?",
			h.name(), long)), true
}

const (
	askedAtOnce = 120 // destinations of a workspace that are asked in one go
	askedBeside = 16  // of them at the same time
	askedFor    = 5 * time.Second
)

// askedEvery is how often a workspace's are.
const askedEvery = 23 * time.Hour

// Ask asks destinations and hosts of the workspaces that want that and were not asked for a day, those that waited longest first,
// and says of how many workspaces it did. A registration that is noted is looked at everywhere.
func (s *Store) Ask(ctx context.Context) (n int64, err error) {
	const due = `SELECT w.workspace FROM (SELECT DISTINCT workspace FROM live_links) w LEFT JOIN notices_asked a USING (workspace)
		WHERE a.at IS NULL OR a.at <= $1 ORDER BY a.at NULLS FIRST, w.workspace`
	return s.each(ctx, due, []any{s.Now().Add(-askedEvery)}, func(actor access.Actor, told map[string]bool) (int64, error) {
		if _, err := s.DB.Pool.Exec(ctx, `INSERT INTO notices_asked VALUES ($1, $2)
			ON CONFLICT (workspace) DO UPDATE SET at = excluded.at`, actor.Workspace, s.Now()); err != nil {
			return 0, err
		}
		return 1, s.ask(ctx, actor, told)
	})
}

func (s *Store) ask(ctx context.Context, actor access.Actor, told map[string]bool) error {
	hosts, _, err := s.Links.Hosts(ctx, actor)
	if err != nil {
		return err
	}
	var due []Notice
	var stay []string
	asks := told[Asks] && s.Outside != nil
	if told["host"] {
		for _, h := range hosts {
			due = append(due, s.host(ctx, h, asks)...)
		}
	}
	if told["errors"] && asks {
		wrong, unasked, err := s.destinations(ctx, actor)
		if err != nil {
			return err
		}
		due, stay = append(due, wrong...), unasked
	}
	_, err = s.keep(ctx, actor.Workspace, []string{"host", "errors"}, due, stay)
	return err
}

// host says what is about to end of a host: its registration, its certificate, its proof.
func (s *Store) host(ctx context.Context, h link.Host, asks bool) (out []Notice) {
	add := func(what, key, words string) {
		out = append(out, Notice{Key: "host/" + h.Name + "/" + what + "/" + key, Kind: "host", Words: words})
	}
	now := s.Now()
	if at := h.Registered; at != nil && at.Before(now.Add(registeredWithin)) {
		add("registered", at.Format(time.DateOnly),
			fmt.Sprintf("The registration of %s ends on %s. Every link on it ends with it.",
				h.Name, at.Format("2 January 2006")))
	}
	if h.Missing != nil {
		add("record", h.Missing.Format(time.DateOnly),
			fmt.Sprintf("The TXT record of %s is gone. Links that hang go on; no new ones are drawn.", h.Name))
	}
	if asks && h.Hang > 0 {
		if ends, err := s.Outside.Certificate(ctx, h.Name); err == nil && ends.Before(now.Add(certifiedWithin)) {
			add("certificate", ends.Format(time.DateOnly), fmt.Sprintf("The certificate of %s ends on %s.", h.Name,
				ends.UTC().Format("2 January 2006, 15:04 UTC")))
		}
	}
	return out
}

// destinations asks where links lead now, each once, and gives the keys of notices that stay as they are: more than askedAtOnce
// are asked in turns, from day to day.
func (s *Store) destinations(ctx context.Context, actor access.Actor) (out []Notice, stay []string, err error) {
	live, err := s.Links.Live(ctx, actor)
	if err != nil {
		return nil, nil, err
	}
	var all []string
	for _, l := range live {
		for _, act := range l.Live.Acts(s.Now()) {
			if act.Does == leads.Goes && !slices.Contains(all, act.To) {
				all = append(all, act.To)
			}
		}
	}
	asked := all
	if len(all) > askedAtOnce {
		asked = slices.Concat(all, all)[s.Now().YearDay()*askedAtOnce%len(all):][:askedAtOnce]
	}
	troubles := make([]string, len(asked))
	var group errgroup.Group
	group.SetLimit(askedBeside)
	for i, to := range asked {
		group.Go(caught.Safe(func() error {
			troubles[i] = s.trouble(ctx, to)
			return nil
		}))
	}
	if err := group.Wait(); err != nil {
		return nil, nil, err
	}
	for _, l := range live {
		h, told := hung{Placed: link.Placed{Link: l, Address: l.Host + "/" + l.Path}}, map[string]bool{}
		for k, act := range l.Live.Acts(s.Now()) {
			if act.Does != leads.Goes || told[act.To] {
				continue
			}
			told[act.To] = true
			i := slices.Index(asked, act.To)
			n := h.notice("errors", s.Seal.Mac(act.To), "") // what it leads to is sealed elsewhere, and stands in no key
			switch {
			case i < 0:
				stay = append(stay, n.Key)
			case troubles[i] != "" && k == 0:
				n.Words = fmt.Sprintf("%s leads to %s, which %s.", h.name(), act.To, troubles[i])
				out = append(out, n)
			case troubles[i] != "":
				n.Words = fmt.Sprintf("A route of %s leads to %s, which %s.", h.name(), act.To, troubles[i])
				out = append(out, n)
			}
		}
	}
	return out, stay, nil
}

// trouble is what is wrong with a destination, "" where it answers, or cannot be asked from here.
func (s *Store) trouble(ctx context.Context, address string) string {
	ctx, cancel := context.WithTimeout(ctx, askedFor)
	defer cancel()
	status, err := s.Outside.Status(ctx, address)
	switch {
	case errors.Is(err, outside.ErrPrivate):
		return ""
	case err != nil:
		return "does not answer"
	case status == 404 || status == 410 || status >= 500:
		return fmt.Sprintf("answers error %d", status)
	}
	return ""
}
