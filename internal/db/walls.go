package db

import (
	"context"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
)

// workspaceRole is whom queries of a workspace run as: row-level security holds for it, whatever a query says.
const workspaceRole = "sodrik_workspace"

// walled are the tables that belong to workspaces, each with the column that says to which. What the role may do there beyond
// reading is said by change. Roles belong to a server and not to a database, so that a restored one has neither role nor
// grants: they are made at every start.
var walled = []struct {
	table, column string
	change        bool
}{
	{"workspaces", "id", false}, {"campaigns", "workspace", true}, {"codes", "workspace", true}, {"edits", "workspace", true},
	{"issued_versions", "workspace", true},
	{"proofs", "workspace", true}, {"assets", "workspace", true}, {"trials", "workspace", true},
	{"house_styles", "workspace", true},
	{"house_style_history", "workspace", true}, {"shown_pictures", "workspace", true}, {"handed_over", "workspace", true},
	{"print_checks", "workspace", true}, {"links", "workspace", true}, {"leads", "workspace", true},
	{"lead_versions", "workspace", true}, {"live_links", "workspace", true}, {"scans", "workspace", false},
	{
		"scan_days",
		"workspace",
		false,
	}, {"scan_months", "workspace", false}, {"scan_counts", "workspace", false}, {"scan_parts", "workspace", false},
	{"scan_unfolded", "workspace", false}, {"scan_keeping", "workspace", true}, {"scan_deletions", "workspace", false},
	{"shared_overviews", "workspace", true}, {"scan_reached", "workspace", false}, {"goal_keys", "workspace", true},
	{
		"notices",
		"workspace",
		true,
	}, {"notice_kinds", "workspace", true},
	{"notices_asked", "workspace", false}, {"link_hosts", "workspace", true}, {"link_rules", "workspace", true},
	{"files", "workspace", true}, {"link_trials", "workspace", true}, {"hangings", "workspace", true},
	{"batches", "workspace", true}, {"batch_rows", "workspace", true}, {"batch_proofs", "workspace", true},
	{"batch_runs", "workspace", true}, {"batch_parts", "workspace", true}, {"batch_pieces", "workspace", true},
	{"batch_heads", "workspace", true}, {"batch_sheets", "workspace", true}, {"batch_undos", "workspace", true},
	{"batch_undo_rows", "workspace", true}, {"batch_taken", "workspace", true},
	{"webhooks", "workspace", true},
	{"webhook_events", "workspace", true}, {"webhook_calls", "workspace", true},
}

// Walled are the tables that belong to workspaces.
func Walled() []string {
	out := make([]string, len(walled))
	for i, w := range walled {
		out[i] = w.table
	}
	return out
}

// EnsureWalls makes the role of workspaces, its grants and its policies where they are missing. Any number of instances may
// do so at once.
func (d *DB) EnsureWalls(ctx context.Context) error {
	return pgx.BeginFunc(ctx, d.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('sodrik walls', 0))`); err != nil {
			return err
		}
		if err := ensureRole(ctx, tx); err != nil {
			return err
		}
		for _, w := range walled {
			if err := wall(ctx, tx, w.table, w.column, w.change); err != nil {
				return fmt.Errorf("the wall of %s: %w", w.table, err)
			}
		}
		return nil
	})
}

// ensureRole makes the role of workspaces where it is missing, and lets this program take it on.
func ensureRole(ctx context.Context, tx pgx.Tx) error {
	var role, member bool
	if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = $1)`, workspaceRole).
		Scan(&role); err != nil {
		return err
	}
	if !role {
		// Roles are shared by all databases of a server: another instance may make it just now.
		if _, err := tx.Exec(ctx,
			`DO $$ BEGIN CREATE ROLE `+workspaceRole+` NOLOGIN NOSUPERUSER NOBYPASSRLS; EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; END $$`); err != nil {
			return fmt.Errorf(
				"the role %s is missing and cannot be made; an administrator makes it with CREATE ROLE %s NOLOGIN, and GRANT "+
					"%s TO the user of this program: %w", workspaceRole, workspaceRole, workspaceRole, err)
		}
	}
	if err := tx.QueryRow(ctx, `SELECT pg_has_role(current_user, $1, 'MEMBER')`, workspaceRole).Scan(&member); err != nil {
		return err
	}
	if !member {
		var user string
		if err := tx.QueryRow(ctx, `SELECT quote_ident(current_user)`).Scan(&user); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `GRANT `+workspaceRole+` TO `+user); err != nil {
			return err
		}
	}
	return nil
}

// wall makes what is missing of one table's.
func wall(ctx context.Context, tx pgx.Tx, table, column string, change bool) error {
	rights := "SELECT"
	if change {
		rights = "SELECT, INSERT, UPDATE, DELETE"
	}
	var granted, secured, policed bool
	if err := tx.QueryRow(ctx, `SELECT has_table_privilege($1, c.oid, $3), c.relrowsecurity,
		EXISTS (SELECT 1 FROM pg_policy p WHERE p.polrelid = c.oid AND p.polname = 'own')
		FROM pg_class c WHERE c.oid = $2::regclass`, workspaceRole, table, rights).Scan(&granted, &secured,
		&policed); err != nil {
		return err
	}
	for _, step := range []struct {
		there bool
		sql   string
	}{
		{granted, `GRANT ` + rights + ` ON ` + table + ` TO ` + workspaceRole},
		{secured, `ALTER TABLE ` + table + ` ENABLE ROW LEVEL SECURITY`},
		{policed, `CREATE POLICY own ON ` + table + ` TO ` + workspaceRole + ` USING (` + column +
			` = current_setting('sodrik.workspace', true))`},
	} {
		if !step.there {
			if _, err := tx.Exec(ctx, step.sql); err != nil {
				return err
			}
		}
	}
	return nil
}

// Ready asks as a workspace would: it reads every walled table as the role, and sees that no wall is down.
func (d *DB) Ready(ctx context.Context) error {
	return d.InWorkspace(ctx, "nobody", func(tx pgx.Tx) error {
		var rows int
		var parts []string
		for _, w := range walled {
			parts = append(parts, `(SELECT count(*) FROM `+w.table+` LIMIT 1)`)
		}
		if err := tx.QueryRow(ctx, `SELECT `+strings.Join(parts, " + ")).Scan(&rows); err != nil {
			return err
		}
		if rows != 0 {
			return fmt.Errorf("db: row-level security lets nobody's workspace see %d rows", rows)
		}
		return nil
	})
}
