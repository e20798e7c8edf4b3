package eventlog

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"golang.org/x/sys/unix"
)

// TestDiskFull fills the disk of a log until nothing is kept, and frees it again: the log takes events by itself, what it had
// said to be kept is there, and whoever watches links and takes scans goes on. The disk is one of 64 MB in memory, which root
// may mount.
func TestDiskFull(t *testing.T) {
	dir := t.TempDir()
	if err := unix.Mount("tmpfs", dir, "tmpfs", 0, "size=64m"); err != nil {
		t.Skip("a small disk cannot be made here:", err)
	}
	t.Cleanup(func() { unix.Unmount(dir, 0) })
	l, err := Open(t.Context(), Options{Dir: filepath.Join(dir, "log"), MaxSize: 40 << 20})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(l.Close)
	var taken atomic.Int64
	go func() {
		for t.Context().Err() == nil {
			l.Ingest(t.Context(), 100, func(e []Event) error { taken.Add(int64(len(e))); return nil })
			time.Sleep(50 * time.Millisecond)
		}
	}()
	seen := make(chan string, 100)
	go func() {
		for t.Context().Err() == nil {
			l.Watch(t.Context(), func(c Change) error { seen <- c.Key; return nil }, func() error { return nil })
			time.Sleep(50 * time.Millisecond)
		}
	}()
	n := 0
	kept := func() error {
		ctx, cancel := context.WithTimeout(t.Context(), time.Second)
		defer cancel()
		n++
		return l.Publish(ctx, fmt.Sprint("event ", n), bytes.Repeat([]byte("scan "), 200))
	}
	ballast := filepath.Join(dir, "ballast")
	fill := func() {
		f, err := os.OpenFile(ballast, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		for block := make([]byte, 64<<10); ; {
			if _, err := f.Write(block); err != nil {
				return
			}
		}
	}
	good := 0
	for range 100 {
		if err := kept(); err != nil {
			t.Fatal(err)
		}
		good++
	}
	fill()
	refused := 0
	for end := time.Now().Add(20 * time.Second); refused < 3 && time.Now().Before(end); {
		if kept() != nil {
			refused++
		} else {
			good++
			fill()
		}
	}
	if refused == 0 {
		t.Fatal("the disk is full, and everything is kept")
	}
	if err := os.Remove(ballast); err != nil {
		t.Fatal(err)
	}
	back := time.Now()
	for kept() != nil {
		if time.Since(back) > 20*time.Second {
			t.Fatal("there has been room for 20 s, and nothing is kept")
		}
		time.Sleep(100 * time.Millisecond)
	}
	good++
	for end := time.Now().Add(30 * time.Second); taken.Load() < int64(good); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("%d of %d that were kept arrive", taken.Load(), good)
		}
	}
	if _, err := l.links.Put(t.Context(), "after", []byte("x")); err != nil {
		t.Fatal(err)
	}
	select {
	case <-seen:
	case <-time.After(10 * time.Second):
		t.Fatal("links are not watched any more")
	}
}
