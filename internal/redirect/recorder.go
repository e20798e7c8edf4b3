package redirect

import (
	"bytes"
	"context"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
)

const (
	// shared is how many scans that arrive together share a message at most.
	shared = 64
	// waiting is how many scans wait for the log at most; what comes on top is dropped, and counted.
	waiting = 20000
	// hands is how many messages are on their way at once.
	hands = 4
	// patience is how long a message may take before it is sent again.
	patience = 2 * time.Second
	// leaving is how long scans may still be kept when the process is to end.
	leaving = 5 * time.Second
)

// scanned is a scan that is to be kept.
type scanned struct {
	id   string
	text []byte
	kept chan struct{} // closed once it is
}

// recorder puts scans into the log. Scans that arrive together share a message, one a line. A message that the log does not
// acknowledge is sent again under the same id.
type recorder struct {
	log     *eventlog.Log
	in      chan *scanned
	dropped atomic.Int64
	gap     atomic.Pointer[Gap] // the newest; nil: everything was kept at once
	lost    atomic.Int64        // what was dropped when the gap began
	end     atomic.Int64        // when a process that is to end tries no longer, in nanoseconds of Unix time
}

// Gap is a time in which the log kept no scans.
type Gap struct {
	Since time.Time
	Until time.Time // zero: it lasts
	Lost  int64     // scans that will never be counted
}

// oneGap is how soon after its end another failure belongs to a gap: while the log comes back, some messages are kept before
// others.
const oneGap = 5 * patience

// failed notes that a message was not kept, and says it in the log once a gap.
func (r *recorder) failed(err error) {
	was := r.gap.Load()
	switch {
	case was != nil && was.Until.IsZero():
		return
	case was != nil && time.Since(was.Until) < oneGap:
		r.gap.CompareAndSwap(was, &Gap{Since: was.Since})
		return
	case !r.gap.CompareAndSwap(was, &Gap{Since: time.Now()}):
		return
	}
	r.lost.Store(r.dropped.Load())
	slog.Error("scans are not kept; tried again until they are", "error", err)
}

// recovered notes that messages are kept again.
func (r *recorder) recovered() {
	was := r.gap.Load()
	if was == nil || !was.Until.IsZero() {
		return
	}
	now := Gap{Since: was.Since, Until: time.Now(), Lost: r.dropped.Load() - r.lost.Load()}
	if r.gap.CompareAndSwap(was, &now) {
		slog.Warn("scans are kept again", "since", now.Since, "lost", now.Lost)
	}
}

// newest is the newest gap, with what it has lost so far.
func (r *recorder) newest() (g Gap) {
	if p := r.gap.Load(); p != nil {
		if g = *p; g.Until.IsZero() {
			g.Lost = r.dropped.Load() - r.lost.Load()
		}
	}
	return g
}

func newRecorder(log *eventlog.Log) *recorder {
	return &recorder{log: log, in: make(chan *scanned, waiting)}
}

// record has a scan kept, and waits until it is, but no longer than wait; kept is false where that did not suffice. While nothing
// is kept nobody waits: the scan is, once the log takes it.
func (r *recorder) record(e scan.Event, wait time.Duration) (kept bool) {
	s := &scanned{id: e.ID, text: e.Encode(), kept: make(chan struct{})}
	select {
	case r.in <- s:
	default:
		r.dropped.Add(1)
		return false
	}
	if g := r.gap.Load(); g != nil && g.Until.IsZero() {
		return false
	}
	t := time.NewTimer(wait)
	defer t.Stop()
	select {
	case <-s.kept:
		return true
	case <-t.C:
		return false
	}
}

// run keeps scans until ctx ends, and then what is still waiting, for as long as leaving; what is left then is lost, and said.
func (r *recorder) run(ctx context.Context) {
	var before atomic.Int64
	stop := context.AfterFunc(ctx, func() {
		before.Store(r.dropped.Load())
		r.end.Store(time.Now().Add(leaving).UnixNano())
	})
	defer func() {
		if n := r.dropped.Load() - before.Load(); !stop() && n > 0 {
			slog.Error("scans are lost: the log did not take them before the process ended", "scans", n)
		}
	}()
	var all sync.WaitGroup
	for range hands {
		all.Go(func() {
			for {
				select {
				case s := <-r.in:
					r.keep(ctx, r.more(s))
				case <-ctx.Done():
					for {
						select {
						case s := <-r.in:
							r.keep(ctx, r.more(s))
						default:
							return
						}
					}
				}
			}
		})
	}
	all.Wait()
}

// more is a scan with those that wait behind it.
func (r *recorder) more(first *scanned) []*scanned {
	batch := []*scanned{first}
	for len(batch) < shared {
		select {
		case s := <-r.in:
			batch = append(batch, s)
		default:
			return batch
		}
	}
	return batch
}

// keep sends a message until it is acknowledged. Once the process is to end it tries for a while, and no longer.
func (r *recorder) keep(ctx context.Context, batch []*scanned) {
	var message bytes.Buffer
	for i, s := range batch {
		if i > 0 {
			message.WriteByte('\n')
		}
		message.Write(s.text)
	}
	for {
		left := patience
		if end := r.end.Load(); end != 0 {
			left = min(left, time.Until(time.Unix(0, end)))
		}
		if left <= 0 {
			r.dropped.Add(int64(len(batch)))
			return
		}
		try, cancel := context.WithTimeout(context.WithoutCancel(ctx), left)
		err := r.log.Publish(try, batch[0].id, message.Bytes())
		cancel()
		if err == nil {
			r.recovered()
			for _, s := range batch {
				close(s.kept)
			}
			return
		}
		r.failed(err)
		time.Sleep(50 * time.Millisecond)
	}
}
