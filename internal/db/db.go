// Package db opens the database, brings it up to date, and gives use cases a transaction that belongs to one workspace. It
// holds no SQL of theirs.
package db

import (
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"runtime"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// minPool is how many connections there may be at least where the address does not say pool_max_conns: more than cores, since
// a transaction mostly waits.
const minPool = 20

// DB is a pool of connections to one database.
type DB struct {
	Pool   *pgxpool.Pool
	shares shares
}

// Open connects; it fails after wait where the server does not answer.
func Open(ctx context.Context, url string, wait time.Duration) (*DB, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	config.ConnConfig.ConnectTimeout = 3 * time.Second
	config.HealthCheckPeriod = 5 * time.Second
	config.ConnConfig.RuntimeParams["jit"] = "off" // compiling a query takes longer than any of ours does
	if !strings.Contains(url, "pool_max_conns") {
		config.MaxConns = max(minPool, int32(4*runtime.NumCPU()))
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, err
	}
	deadline := time.Now().Add(wait)
	for {
		err = pool.Ping(ctx)
		switch {
		case err == nil:
			return &DB{Pool: pool, shares: shares{most: max(2, int(config.MaxConns)/2)}}, nil
		case ctx.Err() != nil || time.Now().After(deadline):
			pool.Close()
			return nil, fmt.Errorf("the database does not answer: %w", err)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// Close waits for connections in use and closes them.
func (d *DB) Close() { d.Pool.Close() }

// SchemaDigest differs where the migrations do.
func SchemaDigest() string {
	sum := sha256.New()
	files, _ := fs.Glob(migrations, "migrations/*")
	for _, name := range files {
		content, _ := fs.ReadFile(migrations, name)
		fmt.Fprintf(sum, "%s %d\n%s", name, len(content), content)
	}
	return hex.EncodeToString(sum.Sum(nil))
}

// Migrate brings the schema up to date, and the walls around workspaces with it. Of several instances that start at once, one
// does it and the others wait.
func (d *DB) Migrate(ctx context.Context) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	conn := stdlib.OpenDBFromPool(d.Pool)
	defer conn.Close()
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 120))
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, conn, files, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	if _, err = p.Up(ctx); err != nil {
		return err
	}
	return d.EnsureWalls(ctx)
}

// InWorkspace runs f in a transaction of one workspace: it takes on a role that cannot pass row-level security, whose
// policies see the workspace as sodrik.workspace. The transaction is committed where f returns nil.
func (d *DB) InWorkspace(ctx context.Context, workspace string, f func(tx pgx.Tx) error) error {
	return d.within(ctx, workspace, "BEGIN", f)
}

// Snapshot runs f as InWorkspace does, in a transaction that sees the workspace as it is at its beginning and changes nothing.
func (d *DB) Snapshot(ctx context.Context, workspace string, f func(tx pgx.Tx) error) error {
	return d.within(ctx, workspace, "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY", f)
}

func (d *DB) within(ctx context.Context, workspace, begin string, f func(tx pgx.Tx) error) error {
	if !plainID(workspace) {
		return fmt.Errorf("db: %q cannot be a workspace", workspace)
	}
	release, err := d.shares.take(ctx, workspace)
	if err != nil {
		return err
	}
	defer release()
	// Sent with the BEGIN, as one trip to the server; the identifier holds nothing that would need quoting.
	begin += "; SELECT set_config('sodrik.workspace', '" + workspace +
		"', true), set_config('role', 'sodrik_workspace', true)"
	return pgx.BeginTxFunc(ctx, d.Pool, pgx.TxOptions{BeginQuery: begin}, f)
}

// plainID says whether an identifier is made of letters, digits and hyphens only; the empty one is nobody's workspace.
func plainID(id string) bool {
	return strings.Trim(strings.ToLower(id), "abcdefghijklmnopqrstuvwxyz0123456789-") == ""
}

// Unreachable says whether an error means that the server is away or restarting, so that the same call may succeed later.
func Unreachable(err error) bool {
	var connect *pgconn.ConnectError
	var server *pgconn.PgError
	switch {
	case errors.As(err, &connect):
		return true
	case errors.As(err, &server): // class 08, and the shutdown and start-up states of class 57
		return server.Code[:2] == "08" || server.Code == "57P01" || server.Code == "57P02" || server.Code == "57P03"
	}
	return err != nil && (pgconn.SafeToRetry(err) || errors.Is(err, fs.ErrClosed) || isNetwork(err))
}
