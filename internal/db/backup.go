package db

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Backup writes a database as one file of PostgreSQL's custom format, which Restore and pg_restore read. The file holds
// contents sealed; the key is not in it.
func Backup(ctx context.Context, address, file string) error {
	part := file + ".part"
	if err := tool(ctx, address, "pg_dump", "--format=custom", "--no-owner", "--no-privileges", "--file="+part); err != nil {
		os.Remove(part)
		return err
	}
	return os.Rename(part, file)
}

// ErrNotEmpty is the error of a restore into a database that holds something.
var ErrNotEmpty = errors.New("the database is not empty; make a new one with CREATE DATABASE, and restore into that")

// Restore reads what Backup wrote into an empty database, and makes role, grants and policies there, which belong to the
// server and are in no file.
func Restore(ctx context.Context, address, file string) error {
	if _, err := os.Stat(file); err != nil {
		return err
	}
	d, err := Open(ctx, address, 10*time.Second)
	if err != nil {
		return err
	}
	defer d.Close()
	var tables int
	if err := d.Pool.QueryRow(ctx, `SELECT count(*) FROM pg_tables WHERE schemaname = 'public'`).Scan(&tables); err != nil {
		return err
	}
	if tables > 0 {
		return ErrNotEmpty
	}
	// The policies in the file name the role.
	if err := pgx.BeginFunc(ctx, d.Pool, func(tx pgx.Tx) error { return ensureRole(ctx, tx) }); err != nil {
		return err
	}
	if err := tool(ctx, address, "pg_restore", "--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction",
		file); err != nil {
		return err
	}
	if err := d.Migrate(ctx); err != nil {
		return err
	}
	return d.Ready(ctx)
}

// tool runs one of PostgreSQL's programs against a database. The password goes by the environment, where other users of the
// machine do not see it.
func tool(ctx context.Context, address, name string, args ...string) error {
	path, err := toolPath(name)
	if err != nil {
		return err
	}
	u, err := url.Parse(address)
	if err != nil {
		return errors.New("the address of the database cannot be read")
	}
	password, _ := u.User.Password()
	u.User = url.User(u.User.Username())
	query := u.Query()
	for key := range query {
		if strings.HasPrefix(key, "pool_") { // of this program's pool
			query.Del(key)
		}
	}
	u.RawQuery = query.Encode()
	at := "--dbname=" + u.String()
	cmd := exec.CommandContext(ctx, path, append([]string{at}, args...)...)
	cmd.Env = append(os.Environ(), "PGPASSWORD="+password)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s failed: %w\n%s", name, err, strings.TrimSpace(string(out)))
	}
	return nil
}

// toolPath looks where Debian puts the newest, then along the path.
func toolPath(name string) (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	if len(found) > 0 {
		slices.SortFunc(found, func(a, b string) int { return len(b) - len(a) + strings.Compare(b, a) })
		return found[0], nil
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is not installed: install Debian's package postgresql-client", name)
	}
	return path, nil
}
