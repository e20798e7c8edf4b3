package upkeep

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// TestTimetable has three instances look at one timetable: each job is done once in its time, and one that fails or panics does not hold up another.
func TestTimetable(t *testing.T) {
	t.Parallel()
	d := dbtest.Open(t)
	key := sealtest.Box(t)
	var failed, wild, sound atomic.Int32
	jobs := []Job{
		{"fails", time.Hour, func(context.Context) (int64, error) { failed.Add(1); return 0, errors.New("no") }},
		{"panics", time.Hour, func(context.Context) (int64, error) { wild.Add(1); panic("wild") }},
		{"sound", time.Hour, func(context.Context) (int64, error) { sound.Add(1); return 1, nil }},
	}
	round := func(now time.Time) {
		t.Helper()
		ctx, cancel := context.WithCancel(t.Context())
		at := &code.Store{DB: d, PanelVersion: "none", Now: func() time.Time { return now }, Seal: key}
		done := make(chan bool)
		for range 3 {
			go func() { Run(ctx, at, jobs); done <- true }()
		}
		time.Sleep(700 * time.Millisecond) // three looks at the timetable take some milliseconds
		cancel()
		for range 3 {
			<-done
		}
	}
	start := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		after time.Duration
		want  int32
	}{{0, 1}, {59 * time.Minute, 1}, {61 * time.Minute, 2}} {
		round(start.Add(c.after))
		if failed.Load() != c.want || wild.Load() != c.want || sound.Load() != c.want {
			t.Errorf("after %v the jobs were done %d, %d and %d times, not %d", c.after, failed.Load(), wild.Load(), sound.Load(), c.want)
		}
	}
}

// TestTemporaryFolders leaves alone what is new, and what holds anything but pictures for readers.
func TestTemporaryFolders(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	old := time.Now().Add(-2 * temporaryFor)
	for _, c := range []struct {
		dir, file string
		at        time.Time
	}{{"sodrik-old", "a.pgm", old}, {"sodrik-new", "a.pgm", time.Now()}, {"sodrik-other", "notes.txt", old}, {"others-old", "a.pgm", old}} {
		dir := filepath.Join(os.TempDir(), c.dir)
		if err := os.Mkdir(dir, 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, c.file), nil, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(dir, c.at, c.at); err != nil {
			t.Fatal(err)
		}
	}
	clearTemporary()
	left, _ := filepath.Glob(filepath.Join(os.TempDir(), "*"))
	if len(left) != 3 {
		t.Errorf("left are %v", left)
	}
	if _, err := os.Stat(filepath.Join(os.TempDir(), "sodrik-old")); !os.IsNotExist(err) {
		t.Error("an old folder of pictures stays")
	}
}
