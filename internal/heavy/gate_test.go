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
	first, err := g.enter(t.Context(), "a", false)
	if err != nil {
		t.Fatal(err)
	}
	order := make(chan string, 9)
	queued := func(n int) {
		t.Helper()
		for range 1000 {
			g.mu.Lock()
			now := g.hurried.n + g.patients.n
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
			release, err := g.enter(ctx, "a", hurry)
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
		t.Run(want, func(t *testing.T) {
			if got := <-order; got != want {
				t.Errorf("%s comes, %s was due", got, want)
			}
		})
	}
	queued(0)
	last, err := g.enter(t.Context(), "a", false)
	if err != nil {
		t.Fatal("the place was lost")
	}
	defer last()
	over, end := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer end()
	if _, err := g.enter(over, "a", true); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("a second got in: %v", err)
	}
}

// TestTurns: who asks for one thing is not kept waiting by somebody who asks for many.
func TestTurns(t *testing.T) {
	g := newGate(1)
	first, err := g.enter(t.Context(), "much", true)
	if err != nil {
		t.Fatal(err)
	}
	order := make(chan string, 9)
	for i, who := range []string{"much", "much", "much", "little", "much"} {
		go func() {
			release, err := g.enter(t.Context(), who, true)
			if err != nil {
				t.Error(err)
				return
			}
			order <- who
			release()
		}()
		for range 1000 { // they come one after the other
			g.mu.Lock()
			n := g.hurried.n
			g.mu.Unlock()
			if n == i+1 {
				break
			}
			time.Sleep(time.Millisecond)
		}
	}
	first()
	for _, want := range []string{"much", "little", "much", "much", "much"} {
		t.Run(want, func(t *testing.T) {
			if got := <-order; got != want {
				t.Errorf("%s comes, %s was due", got, want)
			}
		})
	}
	if g.free != 1 || len(g.hurried.waiting) != 0 || len(g.hurried.turns) != 0 {
		t.Errorf("left behind: %+v", g)
	}
}
