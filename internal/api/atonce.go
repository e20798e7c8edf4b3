package api

import (
	"context"
	"sync"
	"time"
)

// Bounds of what one token has under way, and how long a request waits for its turn.
const (
	tokenAtOnce = 4
	tokenWaits  = 20 * time.Second
)

// atOnce keeps a token from having more requests under way than its share.
type atOnce struct {
	mu sync.Mutex
	of map[string]*turnstile
}

type turnstile struct {
	places chan struct{}
	users  int
}

func (a *atOnce) take(ctx context.Context, token string) (done func(), err error) {
	a.mu.Lock()
	t := a.of[token]
	if t == nil {
		if a.of == nil {
			a.of = map[string]*turnstile{}
		}
		t = &turnstile{places: make(chan struct{}, tokenAtOnce)}
		a.of[token] = t
	}
	t.users++
	a.mu.Unlock()
	left := func() {
		a.mu.Lock()
		defer a.mu.Unlock()
		if t.users--; t.users == 0 {
			delete(a.of, token)
		}
	}
	ctx, cancel := context.WithTimeout(ctx, tokenWaits)
	defer cancel()
	select {
	case t.places <- struct{}{}:
		return func() { <-t.places; left() }, nil
	case <-ctx.Done():
		left()
		return nil, ctx.Err()
	}
}
