package db_test

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/db/private"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// TestStartAtOnce: several instances that start on one empty database bring it up to date once, and all of them serve.
func TestStartAtOnce(t *testing.T) {
	url := dbtest.URL(t)
	var wg sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		wg.Go(func() {
			d, err := db.Open(t.Context(), url, 10*time.Second)
			if err == nil {
				defer d.Close()
				err = d.Migrate(t.Context())
			}
			if err == nil {
				err = d.Ready(t.Context())
			}
			errs[i] = err
		})
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		t.Fatal(err)
	}
}

// TestReady: a database in which a workspace could not work, or could see another's, is not ready; starting mends what is
// missing.
func TestReady(t *testing.T) {
	d := dbtest.Open(t)
	for _, broken := range []string{
		`REVOKE ALL ON codes FROM sodrik_workspace`, `DROP POLICY own ON house_styles`,
		`ALTER TABLE issued_versions DISABLE ROW LEVEL SECURITY`,
	} {
		t.Run(broken, func(t *testing.T) {
			if _, err := d.Pool.Exec(t.Context(), broken); err != nil {
				t.Fatal(err)
			}
			if strings.Contains(broken, "DISABLE") { // then there has to be something to be seen
				if _, err := d.Pool.Exec(t.Context(), `INSERT INTO workspaces
				VALUES ('a', 'A'); INSERT INTO codes (workspace, id, draft, unparsed, last_good, digest, name, payload_mac,
				search) VALUES ('a', 'x', '', '', '', '', '', '', '');
				INSERT INTO issued_versions (workspace, code, n, job, digest, payload_mac) VALUES ('a', 'x', 1, '', '', '')`); err != nil {
					t.Fatal(err)
				}
			}
			err := d.Ready(t.Context())
			// without its policy a table shows nothing, which is safe, and mended all the same
			if strings.Contains(broken, "POLICY") {
				err = errors.New("unseen")
			}
			if err == nil {
				t.Errorf("%s: ready", broken)
			}
			if err := d.EnsureWalls(t.Context()); err != nil {
				t.Fatal(err)
			}
			if err := d.Ready(t.Context()); err != nil {
				t.Errorf("after %s and a start: %v", broken, err)
			}
		})
	}
}

// tables are the contents of every table, as one digest each.
func tables(t *testing.T, d *db.DB) map[string]string {
	t.Helper()
	rows, err := d.Pool.Query(t.Context(), `SELECT tablename FROM pg_tables WHERE schemaname = 'public'`)
	if err != nil {
		t.Fatal(err)
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, name := range names {
		var text string
		var n int
		if err := d.Pool.QueryRow(t.Context(),
			`SELECT coalesce(string_agg(t::text, E'\n' ORDER BY t::text), ''), count(*) FROM `+pgx.Identifier{
				name}.Sanitize()+` t`).Scan(&text, &n); err != nil {
			t.Fatal(err)
		}
		out[name] = fmt.Sprintf("%d rows %x", n, sha256.Sum256([]byte(text)))
	}
	return out
}

// TestBackup: what is backed up comes back on another server that has never heard of the role, table by table the same, and
// is ready.
func TestBackup(t *testing.T) {
	url := dbtest.URL(t)
	d, err := db.Open(t.Context(), url, 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	if err := d.Migrate(t.Context()); err != nil {
		t.Fatal(err)
	}
	if _, err := d.Pool.Exec(t.Context(), `INSERT INTO workspaces VALUES ('a', 'A'), ('b', 'B');
		INSERT INTO campaigns (workspace, id, name) VALUES ('a', 'c', 'Bulb fair');
		INSERT INTO codes (workspace, id, campaign, draft, unparsed, last_good, digest, name, payload_mac, search)
		SELECT 'a', 'x' || i, 'c', '\x00ff', '\x01', '\x02', 'd', 'n', 'm', 's' FROM generate_series(1, 50) i;
		INSERT INTO people (id, email, name) VALUES ('p', 'a@marrowby.example', 'A'); INSERT INTO members
		VALUES ('a', 'p', 'owner');
		INSERT INTO house_styles (workspace, style, at) VALUES ('a', '{"version": 1}', now()); INSERT INTO assets (workspace,
		source, name, data, at) VALUES ('a', 's', 'n', '\xdeadbeef', now())`); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "sodrik.dump")
	if err := db.Backup(t.Context(), url, file); err != nil {
		t.Fatal(err)
	}
	other, err := private.Start(context.Background(), private.Options{Brief: true})
	if err != nil {
		t.Fatal(err)
	}
	defer other.Stop()
	if err := other.CreateDatabase(t.Context(), "restored", true); err != nil {
		t.Fatal(err)
	}
	if err := db.Restore(t.Context(), other.URL("restored"), file); err != nil {
		t.Fatal(err)
	}
	back, err := db.Open(t.Context(), other.URL("restored"), 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer back.Close()
	was, is := tables(t, d), tables(t, back)
	if len(was) != len(is) || len(was) < 20 {
		t.Errorf("%d tables, there were %d", len(is), len(was))
	}
	for name, content := range was {
		if is[name] != content {
			t.Errorf("%s holds %s, it held %s", name, is[name], content)
		}
	}
	seen := 0
	if err := back.InWorkspace(t.Context(), "a", func(tx pgx.Tx) error {
		return tx.QueryRow(t.Context(), `SELECT count(*) FROM codes`).Scan(&seen)
	}); err != nil || seen != 50 {
		t.Errorf("a workspace sees %d codes: %v", seen, err)
	}
	if err := back.InWorkspace(t.Context(), "b", func(tx pgx.Tx) error {
		return tx.QueryRow(t.Context(), `SELECT count(*) FROM codes`).Scan(&seen)
	}); err != nil || seen != 0 {
		t.Errorf("another workspace sees %d codes: %v", seen, err)
	}
	if err := db.Restore(t.Context(), other.URL("restored"), file); !errors.Is(err, db.ErrNotEmpty) {
		t.Errorf("into a database that holds something: %v", err)
	}
}

// TestShares: one workspace that holds its connections does not keep another from any.
func TestShares(t *testing.T) {
	d := dbtest.Open(t)
	hold, held := make(chan bool), make(chan bool, 100)
	var wg sync.WaitGroup
	for range int(d.Pool.Config().MaxConns) {
		wg.Go(func() {
			if err := d.InWorkspace(t.Context(), "greedy", func(pgx.Tx) error { held <- true; <-hold; return nil }); err != nil {
				t.Error(err)
			}
		})
	}
	for range int(d.Pool.Config().MaxConns) / 2 {
		<-held
	}
	ctx, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	if err := d.InWorkspace(ctx, "modest", func(pgx.Tx) error { return nil }); err != nil {
		t.Errorf("another workspace: %v", err)
	}
	close(hold)
	wg.Wait()
}
