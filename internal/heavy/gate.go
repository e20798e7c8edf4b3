package heavy

import (
	"context"
	"sync"
)

// gate lets in so many at a time; who is in no hurry waits until nobody who is waits. Among equals it goes around by whom
// they are for, so that one who asks for a hundred things does not keep another waiting for one.
type gate struct {
	mu       sync.Mutex
	free     int
	hurried  queue
	patients queue
}

// queue is who waits, in the order in which they came, for each of those they are for; turns is whose turn is next.
type queue struct {
	waiting map[string][]chan struct{}
	turns   []string
	n       int
}

func (q *queue) push(who string, turn chan struct{}) {
	if q.waiting == nil {
		q.waiting = map[string][]chan struct{}{}
	}
	if len(q.waiting[who]) == 0 {
		q.turns = append(q.turns, who)
	}
	q.waiting[who] = append(q.waiting[who], turn)
	q.n++
}

// pop gives the next, nil where nobody waits.
func (q *queue) pop() chan struct{} {
	if q.n == 0 {
		return nil
	}
	who := q.turns[0]
	turn := q.waiting[who][0]
	q.turns = q.turns[1:]
	q.take(who, 0)
	if len(q.waiting[who]) > 0 {
		q.turns = append(q.turns, who)
	}
	return turn
}

func (q *queue) take(who string, i int) {
	list := q.waiting[who]
	if q.waiting[who] = append(list[:i:i], list[i+1:]...); len(q.waiting[who]) == 0 {
		delete(q.waiting, who)
	}
	q.n--
}

// leave takes one who waits out; ok is false where it was their turn already.
func (q *queue) leave(who string, turn chan struct{}) (ok bool) {
	for i, t := range q.waiting[who] {
		if t != turn {
			continue
		}
		q.take(who, i)
		if len(q.waiting[who]) == 0 {
			for k, w := range q.turns {
				if w == who {
					q.turns = append(q.turns[:k:k], q.turns[k+1:]...)
					break
				}
			}
		}
		return true
	}
	return false
}

func newGate(places int) *gate { return &gate{free: places} }

// enter waits for a place, for whom it is. Leaving through ctx gives its error.
func (g *gate) enter(ctx context.Context, who string, hurry bool) (release func(), err error) {
	g.mu.Lock()
	if g.free > 0 {
		g.free--
		g.mu.Unlock()
		return g.leave, nil
	}
	turn := make(chan struct{})
	q := &g.patients
	if hurry {
		q = &g.hurried
	}
	q.push(who, turn)
	g.mu.Unlock()
	select {
	case <-turn:
		return g.leave, nil
	case <-ctx.Done():
		g.mu.Lock()
		defer g.mu.Unlock()
		if !q.leave(who, turn) {
			g.next() // it was our turn just now
		}
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
	for _, q := range []*queue{&g.hurried, &g.patients} {
		if turn := q.pop(); turn != nil {
			close(turn)
			return
		}
	}
	g.free++
}
