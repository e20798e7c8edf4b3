package proving

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/proof"
)

// TestFlights: several who ask get one and the same; one who leaves does not take it from the others; when all have left it
// stops, and whoever comes then starts afresh.
func TestFlights(t *testing.T) {
	var f flights
	var begun int
	var mu sync.Mutex
	release, stopped := make(chan struct{}), make(chan struct{}, 2)
	slow := func(ctx context.Context) (*proof.Proof, error) {
		mu.Lock()
		begun++
		mu.Unlock()
		select {
		case <-release:
			return &proof.Proof{Where: "here"}, nil
		case <-ctx.Done():
			stopped <- struct{}{}
			return nil, ctx.Err()
		}
	}
	type answer struct {
		p   *proof.Proof
		err error
	}
	ask := func(ctx context.Context) <-chan answer {
		out := make(chan answer, 1)
		go func() {
			p, err := f.do(ctx, "k", time.Minute, slow)
			out <- answer{p, err}
		}()
		return out
	}
	asking := func(n int) {
		t.Helper()
		for range 500 {
			f.mu.Lock()
			now := 0
			if c := f.of["k"]; c != nil {
				now = c.asking
			}
			f.mu.Unlock()
			if now == n {
				return
			}
			time.Sleep(time.Millisecond)
		}
		t.Fatalf("never %d asking", n)
	}
	first, leave := context.WithCancel(t.Context())
	a := ask(first)
	asking(1)
	b := ask(t.Context())
	asking(2)
	leave()
	if got := <-a; !errors.Is(got.err, context.Canceled) {
		t.Errorf("who left gets %v", got.err)
	}
	asking(1)
	c := ask(t.Context())
	asking(2)
	close(release)
	gotB, gotC := <-b, <-c
	if gotB.err != nil || gotB.p != gotC.p || gotB.p.Where != "here" || begun != 1 {
		t.Errorf("%+v %+v, begun %d times", gotB, gotC, begun)
	}
	release = make(chan struct{})
	alone, leave := context.WithCancel(t.Context())
	d := ask(alone)
	asking(1)
	leave()
	<-d
	select {
	case <-stopped:
	case <-time.After(5 * time.Second):
		t.Error("nobody waits for it, and it goes on")
	}
	e := ask(t.Context())
	asking(1)
	close(release)
	if got := <-e; got.err != nil || begun != 3 {
		t.Errorf("%+v, begun %d times", got, begun)
	}
}

// TestFlightPanics: a proof that panics fails for all who wait for it, and for nobody else.
func TestFlightPanics(t *testing.T) {
	var f flights
	_, err := f.do(t.Context(), "a", time.Minute, func(context.Context) (*proof.Proof, error) { panic("index out of range") })
	var caught *caught.Panic
	if !errors.As(err, &caught) || len(caught.Stack) == 0 {
		t.Fatalf("%v", err)
	}
	if p, err := f.do(t.Context(), "a", time.Minute, func(context.Context) (*proof.Proof, error) {
		return &proof.Proof{}, nil
	}); err != nil ||
		p == nil {
		t.Errorf("afterwards: %v, %v", p, err)
	}
}
