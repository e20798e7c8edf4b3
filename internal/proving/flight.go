package proving

import (
	"context"
	"sync"
	"time"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/proof"
)

// flights makes a thing once however many ask for it at a time, and stops making it when the last of them has left.
type flights struct {
	mu sync.Mutex
	of map[string]*flight
}

type flight struct {
	asking int
	cancel context.CancelFunc
	done   chan struct{}
	proof  *proof.Proof
	err    error
}

// do waits for the proof of a key, which prove makes within limit. Leaving through ctx gives its error.
func (f *flights) do(
	ctx context.Context,
	key string,
	limit time.Duration,
	prove func(context.Context) (*proof.Proof, error),
) (*proof.Proof, error) {
	f.mu.Lock()
	c := f.of[key]
	if c == nil {
		// What the context carries goes along; that the first who asked has left does not end it for the others.
		within, cancel := context.WithTimeout(context.WithoutCancel(ctx), limit)
		c = &flight{cancel: cancel, done: make(chan struct{})}
		if f.of == nil {
			f.of = map[string]*flight{}
		}
		f.of[key] = c
		go func() {
			func() {
				defer caught.To(&c.err) // one proof fails, not the process
				c.proof, c.err = prove(within)
			}()
			f.mu.Lock()
			if f.of[key] == c {
				delete(f.of, key)
			}
			f.mu.Unlock()
			cancel()
			close(c.done)
		}()
	}
	c.asking++
	f.mu.Unlock()
	select {
	case <-c.done:
		return c.proof, c.err
	case <-ctx.Done():
		f.mu.Lock()
		if c.asking--; c.asking == 0 {
			c.cancel()
			if f.of[key] == c { // whoever asks from now on starts afresh
				delete(f.of, key)
			}
		}
		f.mu.Unlock()
		return nil, ctx.Err()
	}
}
