package private

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"
)

// TestModel: what fills a model is done once for each key, every server begins with a copy, and none with what another has
// written. Models of long ago are forgotten when one is made.
func TestModel(t *testing.T) {
	caches := t.TempDir()
	t.Setenv("XDG_CACHE_HOME", caches)
	old := filepath.Join(caches, "sodrik", "databases", "old")
	if err := os.MkdirAll(old, 0o700); err != nil {
		t.Fatal(err)
	}
	long := time.Now().Add(-kept - time.Hour)
	if err := os.Chtimes(old, long, long); err != nil {
		t.Fatal(err)
	}
	filled := 0
	begin := func(key string) *Server {
		model := Model{Key: key, Fill: func(ctx context.Context, s *Server) error {
			filled++
			return s.CreateDatabase(ctx, "filled", true)
		}}
		s, err := Start(t.Context(), Options{Brief: true, Model: model})
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(s.Stop)
		return s
	}
	const databases = `SELECT string_agg(datname, ' ' ORDER BY datname) FROM pg_database WHERE NOT datistemplate`
	one := begin("a")
	if err := one.CreateDatabase(t.Context(), "own", true); err != nil {
		t.Fatal(err)
	}
	if got := query(t, one, "postgres", databases); got != "filled own postgres" {
		t.Errorf("the first has %s", got)
	}
	if got := query(t, begin("a"), "postgres", databases); got != "filled postgres" || filled != 1 {
		t.Errorf("the second has %s, filled %d times", got, filled)
	}
	if begin("b"); filled != 2 {
		t.Errorf("filled %d times for two keys", filled)
	}
	if _, err := os.Stat(old); err == nil {
		t.Error("a model of long ago is still there")
	}
	if left, _ := filepath.Glob(filepath.Join(caches, "sodrik", "databases", "*")); len(left) != 2 {
		t.Errorf("models: %v", left)
	}
}

// TestNoRoomForModels: an account without a folder for caches has its servers made each on its own.
func TestNoRoomForModels(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	t.Setenv("XDG_CACHE_HOME", file)
	s, err := Start(t.Context(), Options{Brief: true})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	if got := query(t, s, "postgres", `SELECT 'there'`); got != "there" {
		t.Error(got)
	}
}

// TestLeftBehind: what a killed test left in memory is put away a day later, and not what is in use.
func TestLeftBehind(t *testing.T) {
	memory := inMemory()
	if memory == "" {
		t.Skip("this machine has no room in memory")
	}
	left := func(age time.Duration) string {
		dir, err := os.MkdirTemp(memory, temporary)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { os.RemoveAll(dir) })
		at := time.Now().Add(-age)
		if err := os.Chtimes(dir, at, at); err != nil {
			t.Fatal(err)
		}
		return dir
	}
	old, young := left(25*time.Hour), left(23*time.Hour)
	inMemory()
	if _, err := os.Stat(old); err == nil {
		t.Error("what is a day old is still there")
	}
	if _, err := os.Stat(young); err != nil {
		t.Error(err)
	}
}
