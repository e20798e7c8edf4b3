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
}

func newRecorder(log *eventlog.Log) *recorder {
	return &recorder{log: log, in: make(chan *scanned, waiting)}
}

// record has a scan kept, and waits until it is, but no longer than wait; kept is false where that did not suffice.
func (r *recorder) record(e scan.Event, wait time.Duration) (kept bool) {
	s := &scanned{id: e.ID, text: e.Encode(), kept: make(chan struct{})}
	select {
	case r.in <- s:
	default:
		r.dropped.Add(1)
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

// run keeps scans until ctx ends, and then what is still waiting.
func (r *recorder) run(ctx context.Context) {
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
	var end time.Time
	for failed := false; ; failed = true {
		try, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience)
		err := r.log.Publish(try, batch[0].id, message.Bytes())
		cancel()
		if err == nil {
			for _, s := range batch {
				close(s.kept)
			}
			return
		}
		if !failed {
			slog.Error("scans are not kept; tried again", "scans", len(batch), "error", err)
		}
		if ctx.Err() != nil {
			if end.IsZero() {
				end = time.Now().Add(leaving)
			}
			if time.Now().After(end) {
				r.dropped.Add(int64(len(batch)))
				return
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
}
