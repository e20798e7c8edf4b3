package db_test

import (
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db/dbtest"
)

// TestTrip: what travels in one trip is behind the walls of its workspace, is done whole or not at all, and leaves the
// connection as it was.
func TestTrip(t *testing.T) {
	d := dbtest.Open(t)
	for _, w := range []string{"a", "b"} {
		t.Run(w, func(t *testing.T) {
			if _, err := d.Pool.Exec(t.Context(), `INSERT INTO workspaces VALUES ($1, $1)`, w); err != nil {
				t.Fatal(err)
			}
			if err := d.Trip(t.Context(), w, func(b *pgx.Batch) {
				b.Queue(`INSERT INTO campaigns (workspace, id, name) VALUES ($1, $1 || '1', 'Fair')`, w)
			}); err != nil {
				t.Fatal(err)
			}
		})
	}
	count := func(workspace string) (n int, role string) {
		if err := d.Trip(t.Context(), workspace, func(b *pgx.Batch) {
			b.Queue(`SELECT count(*) FROM campaigns`).QueryRow(func(r pgx.Row) error { return r.Scan(&n) })
			b.Queue(`SELECT current_user`).QueryRow(func(r pgx.Row) error { return r.Scan(&role) })
		}); err != nil {
			t.Fatal(err)
		}
		return n, role
	}
	if n, role := count("a"); n != 1 || role != "sodrik_workspace" {
		t.Errorf("workspace a sees %d campaigns as %s", n, role)
	}
	for what, err := range map[string]error{
		"a row of another workspace": d.Trip(t.Context(), "a", func(b *pgx.Batch) {
			b.Queue(`INSERT INTO campaigns (workspace, id, name) VALUES ('a', 'a2', 'Garden')`)
			b.Queue(`INSERT INTO campaigns (workspace, id, name) VALUES ('b', 'b2', 'Garden')`)
		}),
		"a statement that fails": d.Trip(t.Context(), "a", func(b *pgx.Batch) {
			b.Queue(`INSERT INTO campaigns (workspace, id, name) VALUES ('a', 'a3', 'Trade')`)
			b.Queue(`SELECT 1 / 0`)
		}),
		"a workspace that is none": d.Trip(t.Context(), "a'", func(*pgx.Batch) {}),
	} {
		t.Run(what, func(t *testing.T) {
			if err == nil {
				t.Errorf("%s is taken", what)
			}
		})
	}
	if n, _ := count("a"); n != 1 {
		t.Errorf("of what failed, %d stayed", n-1)
	}
	var left, role string
	for range 5 { // whichever connection
		if err := d.Pool.QueryRow(t.Context(), `SELECT coalesce(current_setting('sodrik.workspace', true), ''), current_user`).
			Scan(&left, &role); err != nil {
			t.Fatal(err)
		}
		if left != "" || strings.Contains(role, "workspace") {
			t.Errorf("the connection stays in %q as %s", left, role)
		}
	}
}
