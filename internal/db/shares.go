package db

import (
	"context"
	"sync"
)

// shares keeps any workspace from holding more than half of the connections, so that whatever one does, the others are answered.
type shares struct {
	most int
	mu   sync.Mutex
	of   map[string]*share
}

// share is one workspace's: its places, and how many hold or await one.
type share struct {
	places chan struct{}
	users  int
}

// take waits for a place of a workspace. Leaving through ctx gives its error.
func (s *shares) take(ctx context.Context, workspace string) (release func(), err error) {
	if s.most == 0 {
		return func() {}, nil
	}
	s.mu.Lock()
	one := s.of[workspace]
	if one == nil {
		if s.of == nil {
			s.of = map[string]*share{}
		}
		one = &share{places: make(chan struct{}, s.most)}
		s.of[workspace] = one
	}
	one.users++
	s.mu.Unlock()
	done := func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		if one.users--; one.users == 0 {
			delete(s.of, workspace)
		}
	}
	select {
	case one.places <- struct{}{}:
		return func() { <-one.places; done() }, nil
	case <-ctx.Done():
		done()
		return nil, ctx.Err()
	}
}
