package heavy

import (
	"context"
	"sync"
)

// gate lets in so many at a time; who is in no hurry waits until nobody who is waits.
type gate struct {
	mu       sync.Mutex
	free     int
	hurried  []chan struct{}
	patients []chan struct{}
}

func newGate(places int) *gate { return &gate{free: places} }

// enter waits for a place. Leaving through ctx gives its error.
func (g *gate) enter(ctx context.Context, hurry bool) (release func(), err error) {
	g.mu.Lock()
	if g.free > 0 {
		g.free--
		g.mu.Unlock()
		return g.leave, nil
	}
	turn := make(chan struct{})
	queue := &g.patients
	if hurry {
		queue = &g.hurried
	}
	*queue = append(*queue, turn)
	g.mu.Unlock()
	select {
	case <-turn:
		return g.leave, nil
	case <-ctx.Done():
		g.mu.Lock()
		defer g.mu.Unlock()
		for i, t := range *queue {
			if t == turn {
				*queue = append((*queue)[:i], (*queue)[i+1:]...)
				return nil, ctx.Err()
			}
		}
		g.next() // it was our turn just now
		return nil, ctx.Err()
	}
}

func (g *gate) leave() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.next()
}

// next hands a place on.
func (g *gate) next() {
	for _, queue := range []*[]chan struct{}{&g.hurried, &g.patients} {
		if len(*queue) > 0 {
			close((*queue)[0])
			*queue = (*queue)[1:]
			return
		}
	}
	g.free++
}
