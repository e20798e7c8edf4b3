package eventlog

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/nats-io/nats.go/jetstream"
)

// consumer is the name under which the log remembers how far ingest has come.
const consumer = "ingest"

// patience is how long whoever takes events may hold them before they are given to somebody else.
const patience = 30 * time.Second

// Event is one that was published.
type Event struct {
	Sequence uint64
	At       time.Time // when it was kept
	Data     []byte
}

// ingestConfig is how events are given out: each is acknowledged by itself, since who takes a later batch says nothing of an
// earlier one that another holds.
func ingestConfig(size int) jetstream.ConsumerConfig {
	return jetstream.ConsumerConfig{Durable: consumer, AckPolicy: jetstream.AckExplicitPolicy, AckWait: patience,
		MaxAckPending: 2 * size, DeliverPolicy: jetstream.DeliverAllPolicy}
}

// together is how long scans are waited for that come together: whoever looks on sees each within two seconds.
const together = 500 * time.Millisecond

// Ingest gives batches of at most size events to take until ctx ends, in the order in which they were kept where nothing goes
// wrong. A batch for which take gives no error is done with. One for which it does is given again at once, and Ingest ends with
// the error; what a process held that died is given again after half a minute. Whatever take does must do no harm when it is
// done twice. Several may take at once.
func (l *Log) Ingest(ctx context.Context, size int, take func([]Event) error) error {
	c, err := l.js.CreateOrUpdateConsumer(ctx, streamName, ingestConfig(size))
	if err != nil {
		return fmt.Errorf("eventlog: taking scans: %w", err)
	}
	for ctx.Err() == nil {
		batch, err := c.Fetch(size, jetstream.FetchMaxWait(together))
		if err != nil {
			return fmt.Errorf("eventlog: taking scans: %w", err)
		}
		var events []Event
		var held []jetstream.Msg
		for m := range batch.Messages() {
			meta, err := m.Metadata()
			if err != nil {
				return fmt.Errorf("eventlog: taking scans: %w", err)
			}
			events, held = append(events, Event{meta.Sequence.Stream, meta.Timestamp, m.Data()}), append(held, m)
		}
		if len(held) == 0 {
			if err := batch.Error(); err != nil && ctx.Err() == nil {
				return fmt.Errorf("eventlog: taking scans: %w", err)
			}
			continue
		}
		failed := take(events)
		for _, m := range held {
			if failed != nil {
				err = errors.Join(err, m.Nak())
			} else {
				err = errors.Join(err, m.Ack())
			}
		}
		if failed != nil {
			return failed
		}
		// What is taken is taken, whoever leaves now. An acknowledgement that is lost all the same brings its event again.
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience)
		err = errors.Join(err, l.conn.FlushWithContext(end))
		cancel()
		if err != nil {
			return fmt.Errorf("eventlog: scans are taken, and the log was not told: %w", err)
		}
	}
	return ctx.Err()
}

// Trim takes away what was kept before a time and is done with; it gives how many events are left.
func (l *Log) Trim(ctx context.Context, before time.Time) (left uint64, err error) {
	s, err := l.js.Stream(ctx, streamName)
	if err != nil {
		return 0, err
	}
	c, err := l.js.Consumer(ctx, streamName, consumer)
	if errors.Is(err, jetstream.ErrConsumerNotFound) {
		return s.CachedInfo().State.Msgs, nil
	} else if err != nil {
		return 0, err
	}
	done := c.CachedInfo().AckFloor.Stream
	state := s.CachedInfo().State
	low, high := state.FirstSeq, min(done, state.LastSeq) // the first that is to stay lies between them
	for low <= high && high > 0 {
		middle := low + (high-low)/2
		m, err := s.GetMsg(ctx, middle)
		switch {
		case err != nil:
			return 0, err
		case m.Time.Before(before):
			low = middle + 1
		default:
			high = middle - 1
		}
	}
	if low > state.FirstSeq {
		if err := s.Purge(ctx, jetstream.WithPurgeSequence(low)); err != nil {
			return 0, err
		}
	}
	info, err := s.Info(ctx)
	if err != nil {
		return 0, err
	}
	return info.State.Msgs, nil
}
