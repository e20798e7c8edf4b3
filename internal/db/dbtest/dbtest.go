// Package dbtest gives tests a database of their own, on a private server that lives as long as the test program, or on
// the one that SODRIK_TEST_DATABASE names.
package dbtest

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/url"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db"
	"sodrik/internal/db/private"
)

var (
	once   sync.Once
	server *private.Server
	failed error
)

// Main runs a package's tests and stops the private server afterwards. It is called from TestMain.
func Main(m *testing.M) {
	code := m.Run()
	if server != nil {
		server.Stop()
	}
	os.Exit(code)
}

// Open gives a new, migrated, empty database; it is dropped when the test ends.
func Open(t testing.TB) *db.DB {
	t.Helper()
	d, err := db.Open(t.Context(), URL(t), 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(d.Close)
	if err := d.Migrate(t.Context()); err != nil {
		t.Fatal(err)
	}
	return d
}

// URL gives the address of a new, empty database.
func URL(t testing.TB) string {
	t.Helper()
	base := os.Getenv("SODRIK_TEST_DATABASE")
	if base == "" {
		once.Do(func() { server, failed = private.Start(context.Background(), private.Options{Brief: true}) })
		if failed != nil {
			t.Fatal(failed)
		}
		base = server.URL("postgres")
	}
	name := "test_" + strings.ToLower(rand.Text()[:12])
	run(t, base, "CREATE DATABASE "+name)
	t.Cleanup(func() { run(t, base, "DROP DATABASE IF EXISTS "+name+" WITH (FORCE)") })
	u, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

func run(t testing.TB, url, sql string) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, url)
	if err == nil {
		defer conn.Close(ctx)
		_, err = conn.Exec(ctx, sql)
	}
	if err != nil {
		t.Fatal(fmt.Errorf("%s: %w", sql, err))
	}
}
