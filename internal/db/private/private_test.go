package private

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
)

func query(t *testing.T, s *Server, database, sql string) string {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 15*time.Second)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, s.URL(database))
		if err == nil {
			defer conn.Close(ctx)
			var out string
			if err = conn.QueryRow(ctx, sql).Scan(&out); err == nil {
				return out
			}
		}
		if ctx.Err() != nil {
			t.Fatalf("%s: %v", sql, err)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// TestLife starts a server, keeps data over a stop, comes back after a kill, and leaves nothing running.
func TestLife(t *testing.T) {
	// A folder that the account postgres can enter, whoever runs the test.
	dir, err := os.MkdirTemp("", "sodrik-life-")
	if err != nil {
		t.Fatal(err)
	}
	os.Chmod(dir, 0o711)
	t.Cleanup(func() { os.RemoveAll(dir) })
	options := Options{Dir: filepath.Join(dir, "pg"), Brief: true}
	s, err := Start(t.Context(), options)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.CreateDatabase(t.Context(), "kept", false); err != nil {
		t.Fatal(err)
	}
	if got := query(t, s, "postgres", `SELECT current_setting('listen_addresses')`); got != "127.0.0.1" {
		t.Errorf("it listens on %s", got)
	}
	if got := query(t, s, "postgres", `SHOW unix_socket_directories`); got != "" {
		t.Errorf("it has sockets in %s", got)
	}
	if _, err := pgx.Connect(t.Context(), strings.Replace(s.URL("kept"), s.password, "wrong", 1)); err == nil {
		t.Error("a wrong password was let in")
	}
	before := s.PID()
	if err := syscall.Kill(before, syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	if got := query(t, s, "kept", `SELECT 'back'`); got != "back" || s.PID() == before {
		t.Errorf("after a kill: %s", got)
	}
	pid := s.PID()
	s.Stop()
	if err := syscall.Kill(pid, 0); err == nil {
		t.Error("the server still runs after Stop")
	}
	again, err := Start(t.Context(), options)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Stop()
	if got := query(t, again, "postgres", `SELECT count(*)::text FROM pg_database WHERE datname = 'kept'`); got != "1" {
		t.Error("the database was lost over a stop")
	}
	if err := again.CreateDatabase(t.Context(), "kept", true); err != nil {
		t.Fatal(err)
	}
}

func TestNotADatabase(t *testing.T) {
	dir := t.TempDir()
	os.MkdirAll(filepath.Join(dir, "pg"), 0o700)
	os.WriteFile(filepath.Join(dir, "pg", "letter.txt"), []byte("keep me"), 0o600)
	if s, err := Start(t.Context(), Options{Dir: filepath.Join(dir, "pg")}); err == nil {
		s.Stop()
		t.Error("a folder with something else in it was taken for a database")
	}
	if b, _ := os.ReadFile(filepath.Join(dir, "pg", "letter.txt")); string(b) != "keep me" {
		t.Error("what was in the folder is gone")
	}
}
