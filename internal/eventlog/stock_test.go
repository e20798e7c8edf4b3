package eventlog

import (
	"sync"
	"sync/atomic"
	"testing"
)

// TestAdd: counters go up and down in one step for all, each by itself, and outlive the server.
func TestAdd(t *testing.T) {
	dir := t.TempDir()
	l := open(t, Options{Dir: dir})
	var most atomic.Int64
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			for range 25 {
				n, err := l.Add(t.Context(), 1, "marrowby", "fair", "seeds")
				if err != nil {
					t.Error(err)
				}
				for was := most.Load(); int64(n) > was && !most.CompareAndSwap(was, int64(n)); was = most.Load() {
				}
			}
		})
	}
	all.Wait()
	if most.Load() != 200 {
		t.Errorf("after 200 steps it is %d", most.Load())
	}
	if n, err := l.Add(t.Context(), -3, "marrowby", "fair", "seeds"); n != 197 || err != nil {
		t.Errorf("three less are %d, %v", n, err)
	}
	if n, err := l.Add(t.Context(), 1, "marrowby", "fair", "other.one"); n != 1 || err != nil {
		t.Errorf("another is %d, %v", n, err)
	}
	l.Close()
	l = open(t, Options{Dir: dir})
	if n, err := l.Add(t.Context(), 1, "marrowby", "fair", "seeds"); n != 198 || err != nil {
		t.Errorf("after a new start it is %d, %v", n, err)
	}
}
