package redirect

import (
	"context"
	"sync"
	"sync/atomic"

	"golang.org/x/time/rate"
)

// counter is a log that counts.
type counter interface {
	Add(ctx context.Context, n int, keys ...string) (now int, err error)
}

// stocks remembers which are used up, so that their counters are not asked again. One that is raised is another.
type stocks struct {
	out     sync.Map // stockKey → true
	unasked atomic.Int64
	told    *rate.Limiter
}

type stockKey struct {
	workspace, code, rule string
	stock                 int
}

// Unasked is how often the count of a stock could not be asked for since the start, so that the next route held.
func (s *Service) Unasked() int64 { return s.stocks.unasked.Load() }
