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

// Ingest gives batches of at most size events to take, in the order in which they were kept, until ctx ends. A batch for which
// take gives no error is done with; others come again, and so does what a process held that died: whatever take does must do no
// harm when it is done twice.
func (l *Log) Ingest(ctx context.Context, size int, take func([]Event) error) error {
	c, err := l.js.CreateOrUpdateConsumer(ctx, streamName, jetstream.ConsumerConfig{Durable: consumer,
		AckPolicy: jetstream.AckAllPolicy, AckWait: patience, MaxAckPending: 2 * size, DeliverPolicy: jetstream.DeliverAllPolicy})
	if err != nil {
		return fmt.Errorf("eventlog: taking scans: %w", err)
	}
	for ctx.Err() == nil {
		batch, err := c.Fetch(size, jetstream.FetchMaxWait(time.Second))
		if err != nil {
			return fmt.Errorf("eventlog: taking scans: %w", err)
		}
		var events []Event
		var last jetstream.Msg
		for m := range batch.Messages() {
			meta, err := m.Metadata()
			if err != nil {
				return fmt.Errorf("eventlog: taking scans: %w", err)
			}
			events = append(events, Event{meta.Sequence.Stream, meta.Timestamp, m.Data()})
			last = m
		}
		if err := batch.Error(); err != nil && !errors.Is(err, context.DeadlineExceeded) && ctx.Err() == nil && last == nil {
			return fmt.Errorf("eventlog: taking scans: %w", err)
		}
		if last == nil {
			continue
		}
		if err := take(events); err != nil {
			return err
		}
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience) // what is taken is taken, whoever leaves now
		err = last.DoubleAck(end)
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
