package archive

import (
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
)

// table is one that goes along: rows in an order that stays, and contents of file as files of their own, below folder.
type table struct {
	name, order  string
	file, folder string
}

// tables go along, each after those whose rows its own name.
var tables = []table{
	{name: "campaigns", order: "id"}, {name: "house_styles", order: "rev"}, {name: "house_style_history", order: "rev"},
	{name: "assets", order: "source", file: "data", folder: "uploads"},
	{name: "codes", order: "id"}, {name: "edits", order: "code, rev"}, {name: "issued_versions", order: "code, n"},
	{name: "trials", order: "id"}, {name: "print_checks", order: "id"}, {name: "handed_over", order: "id"},
	{name: "shown_pictures", order: "token"},
	{name: "link_hosts", order: "host"}, {name: "link_rules", order: "workspace"}, {name: "links", order: "host, path"},
	{name: "leads", order: "code"}, {name: "lead_versions", order: "code, n"},
	{name: "files", order: "id", file: "data", folder: "files"},
	{name: "hangings", order: "link"},
	{name: "batches", order: "id"}, {name: "batch_rows", order: "batch, n"}, {name: "batch_proofs", order: "batch, version"},
	{name: "batch_taken", order: "run"},
	{name: "batch_heads", order: "kind, head"}, {name: "batch_sheets", order: "sheet, printer"},
	{name: "scans", order: "id"}, {name: "scan_days", order: "code, link, day"}, {name: "scan_counts", order: "day, code, link"},
	{name: "scan_months", order: "month, code, link"}, {name: "scan_parts", order: "scope, day"},
	{name: "scan_unfolded", order: "day"}, {name: "scan_reached", order: "code, link, day, goal, signed"},
	{name: "scan_keeping", order: "workspace"}, {name: "scan_deletions", order: "at"},
	{name: "shared_overviews", order: "token"}, {name: "notice_kinds", order: "kind"}, {name: "goal_keys", order: "workspace"},
	{name: "webhooks", order: "id"},
}

// left are tables of a workspace that stay behind, and why.
var left = map[string]string{
	"workspaces":      "its name stands in workspace.json",
	"proofs":          "codes are proved again where they arrive, by the readers there",
	"notices":         "they are made again of what holds",
	"notices_asked":   "destinations are asked again",
	"live_links":      "what scans get is compiled again of where codes lead",
	"link_trials":     "a trial ends within minutes",
	"batch_undos":     "what was done elsewhere is not taken back here",
	"batch_undo_rows": "what was done elsewhere is not taken back here",
	"batch_runs":      "files of batches are made again",
	"batch_parts":     "files of batches are made again",
	"batch_pieces":    "files of batches are made again",
	"webhook_events":  "they are told where they happened",
	"webhook_calls":   "the log belongs to the server that made the calls",
}

// columns of a table, as the database has them.
type columns struct {
	table
	plain  []string // that are written as they are
	sealed []code.Sealed
}

// all are the columns that go along.
func (c columns) all() []string {
	out := slices.Clone(c.plain)
	for _, s := range c.sealed {
		out = append(out, s.Column)
	}
	if c.file != "" && !slices.Contains(out, c.file) {
		out = append(out, c.file)
	}
	return out
}

// rows are the sealed columns that stand in rows; a file has a file of its own.
func (c columns) rows() []code.Sealed {
	return slices.DeleteFunc(slices.Clone(c.sealed), func(s code.Sealed) bool { return s.Column == c.file })
}

// columnsOf asks the database for the columns of a table, without those that it fills by itself.
func columnsOf(ctx context.Context, tx pgx.Tx, t table) (c columns, err error) {
	c.table, c.sealed = t, code.SealedIn(t.name)
	rows, err := tx.Query(ctx, `SELECT attname::text FROM pg_attribute a LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid
		AND d.adnum = a.attnum WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped AND attgenerated = ''
		AND attidentity = '' AND coalesce(pg_get_expr(d.adbin, d.adrelid), '') NOT LIKE 'nextval(%' ORDER BY attnum`, t.name)
	if err != nil {
		return c, err
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	for _, n := range names {
		if n != t.file && !slices.ContainsFunc(c.sealed, func(s code.Sealed) bool { return s.Column == n }) {
			c.plain = append(c.plain, n)
		}
	}
	return c, err
}
