package heavy

import (
	"context"
	"errors"
	"testing"
	"time"
)

// TestGate: those in a hurry go first, whoever leaves the queue loses nobody's place, and never more than the places are in.
func TestGate(t *testing.T) {
	g := newGate(1)
	first, err := g.enter(t.Context(), false)
	if err != nil {
		t.Fatal(err)
	}
	order := make(chan string, 9)
	queued := func(n int) {
		t.Helper()
		for range 1000 {
			g.mu.Lock()
			now := len(g.hurried) + len(g.patients)
			g.mu.Unlock()
			if now == n {
				return
			}
			time.Sleep(time.Millisecond)
		}
		t.Fatalf("never %d in the queue", n)
	}
	enter := func(name string, hurry bool, ctx context.Context) {
		go func() {
			release, err := g.enter(ctx, hurry)
			if err != nil {
				order <- name + " left"
				return
			}
			order <- name
			time.Sleep(5 * time.Millisecond)
			release()
		}()
	}
	enter("patient", false, t.Context())
	queued(1)
	ctx, cancel := context.WithCancel(t.Context())
	enter("tired", true, ctx)
	queued(2)
	enter("hurried", true, t.Context())
	queued(3)
	cancel()
	if got := <-order; got != "tired left" {
		t.Error(got)
	}
	first()
	for _, want := range []string{"hurried", "patient"} {
		if got := <-order; got != want {
			t.Errorf("%s comes, %s was due", got, want)
		}
	}
	queued(0)
	last, err := g.enter(t.Context(), false)
	if err != nil {
		t.Fatal("the place was lost")
	}
	defer last()
	over, end := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer end()
	if _, err := g.enter(over, true); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("a second got in: %v", err)
	}
}
