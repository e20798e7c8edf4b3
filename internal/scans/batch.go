package scans

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/scan"
)

// batch is the counts of events that came for the first time, as they are added to those of the database.
type batch struct {
	days   map[dayKey]*[perDay]int
	months map[monthKey]int
	marks  map[markKey]bool
	goals  map[goalKey]int
}

type (
	dayKey   struct{ workspace, code, link, day string }
	monthKey struct{ workspace, month, code, link string }
	markKey  struct{ workspace, day string }
	goalKey  struct {
		workspace, code, link, day, goal string
		signed                           bool
	}
)

func newBatch() *batch {
	return &batch{map[dayKey]*[perDay]int{}, map[monthKey]int{}, map[markKey]bool{}, map[goalKey]int{}}
}

// add counts an event: people by link, by code and for the workspace, everybody as something that a day was folded without.
func (c *batch) add(e scan.Event) {
	if e.Workspace == "" {
		return
	}
	at, gone := moment(time.UnixMilli(e.At))
	day := at.Format(time.DateOnly)
	if e.Kind == scan.Reached {
		c.goals[goalKey{e.Workspace, e.Code, e.Link, day, e.Goal, e.Signed}]++
		return
	}
	c.marks[markKey{e.Workspace, day}] = true
	if e.Kind != scan.Scan {
		return
	}
	for _, k := range []dayKey{{e.Workspace, e.Code, e.Link, day}, {e.Workspace, e.Code, "", day}, {e.Workspace, "", "", day}} {
		q := c.days[k]
		if q == nil {
			q = new([perDay]int)
			c.days[k] = q
		}
		q[gone]++
	}
	c.months[monthKey{e.Workspace, day[:8] + "01", e.Code, e.Link}]++
}

// sorted are the keys of a map in an order that all keep, so that no two transactions wait for one another.
func sorted[K comparable, V any](m map[K]V, order func(a, b K) int) []K {
	keys := make([]K, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, order)
	return keys
}

// keep adds the counts to those of the database.
func (c *batch) keep(ctx context.Context, tx pgx.Tx) error {
	b := &pgx.Batch{}
	c.queueDays(b)
	c.queueMonths(b)
	c.queueGoals(b)
	c.queueMarks(b)
	return tx.SendBatch(ctx, b).Close()
}

func (c *batch) queueDays(b *pgx.Batch) {
	var workspaces, codes, links, days, cums []string
	var ns []int
	for _, k := range sorted(c.days, func(a, b dayKey) int {
		return cmp.Or(cmp.Compare(a.workspace, b.workspace), cmp.Compare(a.code, b.code), cmp.Compare(a.link, b.link),
			cmp.Compare(a.day, b.day))
	}) {
		n, cum := 0, make([]byte, 0, 3*perDay)
		for i, q := range c.days[k] {
			n += q
			cum = strconv.AppendInt(append(cum, "{,"[min(i, 1)]), int64(n), 10)
		}
		workspaces, codes, links = append(workspaces, k.workspace), append(codes, k.code), append(links, k.link)
		days, ns, cums = append(days, k.day), append(ns, n), append(cums, string(append(cum, '}')))
	}
	b.Queue(`INSERT INTO scan_days SELECT w, c, l, d::date, n, q::int[]
		FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::int[], $6::text[]) t(w, c, l, d, n, q)
		ON CONFLICT (workspace, code, link, day) DO UPDATE SET n = scan_days.n + excluded.n,
		cum = sodrik_added(scan_days.cum, excluded.cum)`, workspaces, codes, links, days, ns, cums)
	b.Queue(`INSERT INTO scan_counts SELECT w, d::date, c, l, n
		FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::int[]) t(w, c, l, d, n) WHERE l <> ''
		ON CONFLICT (workspace, day, code, link) DO UPDATE SET n = scan_counts.n + excluded.n`, workspaces, codes, links, days, ns)
}

func (c *batch) queueMonths(b *pgx.Batch) {
	var workspaces, months, codes, links []string
	var ns []int
	for _, k := range sorted(c.months, func(a, b monthKey) int {
		return cmp.Or(cmp.Compare(a.workspace, b.workspace), cmp.Compare(a.month, b.month), cmp.Compare(a.code, b.code),
			cmp.Compare(a.link, b.link))
	}) {
		workspaces, months = append(workspaces, k.workspace), append(months, k.month)
		codes, links, ns = append(codes, k.code), append(links, k.link), append(ns, c.months[k])
	}
	b.Queue(`INSERT INTO scan_months SELECT w, m::date, c, l, n
		FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::int[]) t(w, m, c, l, n)
		ON CONFLICT (workspace, month, code, link) DO UPDATE SET n = scan_months.n + excluded.n`, workspaces, months, codes,
		links, ns)
}

func (c *batch) queueGoals(b *pgx.Batch) {
	for _, k := range sorted(c.goals, func(a, b goalKey) int {
		return cmp.Or(cmp.Compare(a.workspace, b.workspace), cmp.Compare(a.link, b.link), cmp.Compare(a.day, b.day),
			cmp.Compare(a.goal, b.goal), cmp.Compare(fmt.Sprint(a.signed), fmt.Sprint(b.signed)))
	}) {
		b.Queue(`INSERT INTO scan_reached VALUES ($1, $2, $3, $4, $5, $6, $7)
			ON CONFLICT (workspace, code, link, day, goal, signed) DO UPDATE SET n = scan_reached.n + excluded.n`, k.workspace, k.code,
			k.link, k.day, k.goal, k.signed, c.goals[k])
	}
}

func (c *batch) queueMarks(b *pgx.Batch) {
	var workspaces, days []string
	for _, k := range sorted(c.marks, func(a, b markKey) int {
		return strings.Compare(a.workspace+" "+a.day, b.workspace+" "+b.day)
	}) {
		workspaces, days = append(workspaces, k.workspace), append(days, k.day)
	}
	// A mark that is there already is written again, which locks it: who folds that day now waits, and sees these events.
	b.Queue(`INSERT INTO scan_unfolded SELECT w, d::date FROM unnest($1::text[], $2::text[]) t(w, d)
		ON CONFLICT (workspace, day) DO UPDATE SET day = excluded.day`, workspaces, days)
}
