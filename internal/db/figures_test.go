package db_test

import (
	"os"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"

	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
)

// TestFiguresMoved: counts by quarters of an hour that an older release has kept are the same afterwards by link, code,
// workspace, day and month, to the quarter; and as they were after the way back.
func TestFiguresMoved(t *testing.T) {
	d, err := db.Open(t.Context(), dbtest.URL(t), 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	conn := stdlib.OpenDBFromPool(d.Pool)
	defer conn.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, conn, os.DirFS("migrations"))
	if err != nil {
		t.Fatal(err)
	}
	const before, after = 26, 27
	if _, err := p.UpTo(t.Context(), before); err != nil {
		t.Fatal(err)
	}
	exec := func(sql string) {
		t.Helper()
		if _, err := d.Pool.Exec(t.Context(), sql); err != nil {
			t.Fatal(err)
		}
	}
	exec(`INSERT INTO scan_quarters SELECT w, 'code' || (k % 3), 'link' || (k % 7), at, sum(n) FROM (
		SELECT 'w' || (i % 2) AS w, i % 21 AS k, date_bin('15 minutes', timestamptz '2027-01-25 00:00Z' + i * interval '37 minutes', 'epoch')
		AS at, 1 + i % 5 AS n FROM generate_series(1, 900) i) x GROUP BY 1, 2, 3, 4`)
	list := func(sql string) []string {
		t.Helper()
		rows, err := d.Pool.Query(t.Context(), sql)
		if err != nil {
			t.Fatal(err)
		}
		out, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil || len(out) == 0 {
			t.Fatal(out, err)
		}
		return out
	}
	const quarters = `SELECT concat_ws(' ', workspace, code, link, quarter, n) FROM scan_quarters ORDER BY 1`
	old := list(quarters)
	sums := list(`SELECT concat_ws(' ', workspace, code, sum(n)) FROM scan_quarters GROUP BY workspace, code
		UNION ALL SELECT concat_ws(' ', workspace, sum(n)) FROM scan_quarters GROUP BY workspace ORDER BY 1`)
	months := list(`SELECT concat_ws(' ', workspace, link, date_trunc('month', quarter AT TIME ZONE 'UTC')::date, sum(n))
		FROM scan_quarters GROUP BY workspace, link, date_trunc('month', quarter AT TIME ZONE 'UTC') ORDER BY 1`)
	if _, err := p.UpTo(t.Context(), after); err != nil {
		t.Fatal(err)
	}
	same := func(what string, got, want []string) {
		t.Helper()
		if len(got) != len(want) {
			t.Fatalf("%s: %d, want %d", what, len(got), len(want))
		}
		for i := range want {
			if got[i] != want[i] {
				t.Fatalf("%s: %s, want %s", what, got[i], want[i])
			}
		}
	}
	same("by code and workspace", list(`SELECT concat_ws(' ', workspace, nullif(code, ''), sum(n)) FROM scan_days WHERE link = ''
		GROUP BY workspace, code ORDER BY 1`), sums)
	same("by months", list(`SELECT concat_ws(' ', workspace, link, month, sum(n)) FROM scan_months GROUP BY workspace, link, month
		ORDER BY 1`), months)
	same("by days", list(`SELECT concat_ws(' ', workspace, code, link, day, n) FROM scan_counts ORDER BY 1`),
		list(`SELECT concat_ws(' ', workspace, code, link, day, n) FROM scan_days WHERE link <> '' AND cum[96] = n ORDER BY 1`))
	if _, err := p.DownTo(t.Context(), before); err != nil {
		t.Fatal(err)
	}
	same("back again", list(quarters), old)
}
