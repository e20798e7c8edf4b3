package worker

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"
	"time"

	"sodrik/internal/batches"
	"sodrik/internal/core/table"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
)

// many gives a worker the work of batches.
func many(w *Worker) *Worker {
	queue, err := NewBatches(w.Codes.DB)
	if err != nil {
		panic(err)
	}
	w.Batches = &batches.Store{Codes: w.Codes, Queue: queue}
	return w
}

// packets makes a batch of so many rows, all of which say what the one reader here reads.
func packets(t *testing.T, w *Worker, n int) (id string) {
	t.Helper()
	if _, err := w.Codes.EnsureWorkspace(t.Context(), workspace, "Marrowby"); err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	b.WriteString("SKU;Link\n")
	for i := range n {
		fmt.Fprintf(&b, "MB-%05d;https://marrowby.example/fair\n", i+1)
	}
	rows, err := table.Open(t.Context(), strings.NewReader(b.String()), table.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if id, err = w.Batches.Create(t.Context(), loader, batches.Ask{Name: "Packets", Rows: rows}); err != nil {
		t.Fatal(err)
	}
	return id
}

// TestBatches: what a request does not do by itself of a batch is done by the worker: rows are made, what occurs is proved, files
// are made.
func TestBatches(t *testing.T) {
	t.Parallel()
	w := many(open(t))
	w.sweeps = []sweep{{"batches", time.Minute, w.unfinished}}
	id := packets(t, w, 700)
	get := func() *batches.Batch {
		b, err := w.Batches.Get(t.Context(), loader, id)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	if b := get(); b.Stale != 700 {
		t.Fatalf("%d of 700 rows are left to the worker", b.Stale)
	}
	run(t, w)
	until(t, "all rows and a verdict", 60*time.Second, func() bool {
		b := get()
		return b.Stale == 0 && b.Bad == 0 && len(b.Sorts) == 1 && b.Sorts[0].Verdict != ""
	})
	made, err := w.Batches.Start(t.Context(), loader, id, batches.AsZip)
	if err != nil {
		t.Fatal(err)
	}
	until(t, "its files", 60*time.Second, func() bool { return entries(t, w, made) == 701 })
}

// entries is how many files a run has, 0 while it is not done.
func entries(t *testing.T, w *Worker, made string) int {
	t.Helper()
	r, err := w.Batches.Run(t.Context(), loader, made)
	if err != nil {
		t.Fatal(err)
	}
	if r.State == batches.Failed {
		t.Fatal(r.Note)
	}
	if r.State != batches.Done {
		return 0
	}
	var out bytes.Buffer
	if err := w.Batches.Take(t.Context(), loader, made, false, func(*batches.Run, string) io.Writer { return &out }); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for _, f := range z.File {
		if seen[f.Name] {
			t.Errorf("%s is there twice", f.Name)
		}
		seen[f.Name] = true
	}
	return len(z.File)
}

// dyingOfBatches names the database on which a process works on batches until it is killed.
const dyingOfBatches = "SODRIK_TEST_DYING_OF_BATCHES"

// dieOfBatches works on batches until it is killed.
func dieOfBatches(url string) {
	d, err := db.Open(context.Background(), url, 10*time.Second)
	if err != nil {
		panic(err)
	}
	w := many(on(d, nil))
	w.sweeps, w.timeout, w.rescue = []sweep{}, 20*time.Second, 25*time.Second
	panic(w.Run(context.Background()))
}

// TestBatchKilled: a process is killed in the middle of making files; another brings them to their end, each once.
func TestBatchKilled(t *testing.T) {
	t.Parallel()
	d := dbtest.Open(t)
	if err := Migrate(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	w := many(on(d, nil)) // under the key that the other process has
	w.sweeps, w.timeout, w.rescue = []sweep{}, 20*time.Second, 25*time.Second
	id := packets(t, w, 3000)
	if err := w.Batches.Check(t.Context(), workspace, id); err != nil {
		t.Fatal(err)
	}
	made, err := w.Batches.Start(t.Context(), loader, id, batches.AsZip)
	if err != nil {
		t.Fatal(err)
	}
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(self)
	cmd.Env = append(os.Environ(), dyingOfBatches+"="+w.Codes.DB.Pool.Config().ConnString())
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	done := func() int {
		return count(t, w.Codes.DB, `SELECT count(*)::int FROM batch_parts WHERE state = 'done'`)
	}
	middle := func() int {
		return count(t, w.Codes.DB, `SELECT count(*)::int FROM batch_parts WHERE state <> 'done' AND began IS NOT NULL`)
	}
	until(t, "some parts, and one in the middle", 60*time.Second, func() bool { return done() >= 3 && middle() > 0 })
	if err := cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	cmd.Wait()
	if n := done(); n == 16 {
		t.Fatal("all was done before it was killed")
	}
	t.Logf("killed with %d parts done and %d in the middle", done(), middle())
	run(t, w)
	until(t, "all of it", 2*time.Minute, func() bool { return entries(t, w, made) == 3001 })
}
