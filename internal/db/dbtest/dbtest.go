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

// Migrated is the name of a migrated, empty database of a server that began with Model.
const Migrated = "migrated"

// Model has, beside the server's own, a database to be copied where one is needed.
var Model = private.Model{Key: db.SchemaDigest(), Fill: func(ctx context.Context, s *private.Server) error {
	if err := s.CreateDatabase(ctx, Migrated, true); err != nil {
		return err
	}
	return migrate(ctx, s.URL(Migrated))
}}

func migrate(ctx context.Context, url string) error {
	d, err := db.Open(ctx, url, 10*time.Second)
	if err != nil {
		return err
	}
	defer d.Close() // nobody may be in what is copied
	return d.Migrate(ctx)
}

// Main runs a package's tests and stops the private server afterwards. It is called from TestMain.
func Main(m *testing.M) {
	code := m.Run()
	if server != nil {
		server.Stop()
	} else if model.name != "" {
		if err := execute(os.Getenv("SODRIK_TEST_DATABASE"), "DROP DATABASE IF EXISTS "+model.name); err != nil {
			fmt.Fprintln(os.Stderr, err)
		}
	}
	os.Exit(code)
}

// Open gives a new, migrated, empty database; it is dropped when the test ends.
func Open(t testing.TB) *db.DB {
	t.Helper()
	d, err := db.Open(t.Context(), made(t, migrated(t)), 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(d.Close)
	return d
}

// URL gives the address of a new, empty database.
func URL(t testing.TB) string {
	t.Helper()
	return made(t, "template1")
}

var model struct {
	once sync.Once
	name string
	err  error
}

// migrated is the name of a database that is migrated once, and copied for every test.
func migrated(t testing.TB) string {
	t.Helper()
	model.once.Do(func() {
		base(t)
		if model.name = Migrated; server == nil {
			model.name = newName()
			run(t, base(t), "CREATE DATABASE "+model.name)
		}
		model.err = migrate(context.Background(), at(t, model.name)) // the model's, too, as to what stands in no migration
	})
	if model.err != nil {
		t.Fatal(model.err)
	}
	return model.name
}

func newName() string { return "test_" + strings.ToLower(rand.Text()[:12]) }

// made makes a database as a copy of another, and gives its address.
func made(t testing.TB, from string) string {
	t.Helper()
	name := newName()
	run(t, base(t), "CREATE DATABASE "+name+" TEMPLATE "+from+" STRATEGY FILE_COPY") // twice as fast as through the log
	t.Cleanup(func() { run(t, base(t), "DROP DATABASE IF EXISTS "+name+" WITH (FORCE)") })
	return at(t, name)
}

// base is the address of the server's own database.
func base(t testing.TB) string {
	t.Helper()
	base := os.Getenv("SODRIK_TEST_DATABASE")
	if base == "" {
		once.Do(func() {
			server, failed = private.Start(context.Background(), private.Options{Brief: true, Model: Model})
		})
		if failed != nil {
			t.Fatal(failed)
		}
		base = server.URL("postgres")
	}
	return base
}

func at(t testing.TB, name string) string {
	t.Helper()
	u, err := url.Parse(base(t))
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

func run(t testing.TB, url, sql string) {
	t.Helper()
	if err := execute(url, sql); err != nil {
		t.Fatal(err)
	}
}

func execute(url, sql string) error {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute) // a busy machine takes long to drop one
	defer cancel()
	conn, err := pgx.Connect(ctx, url)
	if err == nil {
		defer conn.Close(ctx)
		_, err = conn.Exec(ctx, sql)
	}
	if err != nil {
		return fmt.Errorf("%s: %w", sql, err)
	}
	return nil
}
