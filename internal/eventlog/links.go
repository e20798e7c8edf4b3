package eventlog

import (
	"context"
	"errors"
	"fmt"

	"github.com/nats-io/nats.go/jetstream"
)

// Change is one link that is put into the bucket or taken out of it.
type Change struct {
	Key      string // letters, digits, and any of -/_=. (NATS, subject-based keys)
	Value    []byte // nil where the link is taken out
	Revision uint64 // grows with each change in the bucket
}

// Put puts a link in, and gives the revision of the bucket from then on.
func (l *Log) Put(ctx context.Context, key string, value []byte) (revision uint64, err error) {
	return l.links.Put(ctx, key, value)
}

// Get gives what is kept under a key, nil where there is nothing.
func (l *Log) Get(ctx context.Context, key string) (value []byte, err error) {
	e, err := l.links.Get(ctx, key)
	if errors.Is(err, jetstream.ErrKeyNotFound) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	return e.Value(), nil
}

// putTries is how often PutNewer looks again because another put something in between.
const putTries = 10

// PutNewer puts a link in unless what is there is as new: newer compares with it. Several may put at once.
func (l *Log) PutNewer(ctx context.Context, key string, value []byte, newer func(than []byte) bool) error {
	for range putTries {
		e, err := l.links.Get(ctx, key)
		switch {
		case errors.Is(err, jetstream.ErrKeyNotFound):
			_, err = l.links.Create(ctx, key, value)
		case err != nil:
			return err
		case !newer(e.Value()):
			return nil
		default:
			_, err = l.links.Update(ctx, key, value, e.Revision())
		}
		if !errors.Is(err, jetstream.ErrKeyExists) {
			return err
		}
	}
	return fmt.Errorf("eventlog: too many put %s at once", key)
}

// Take takes a link out. One that is not there is no error.
func (l *Log) Take(ctx context.Context, key string) error {
	err := l.links.Delete(ctx, key)
	if errors.Is(err, jetstream.ErrKeyNotFound) {
		return nil
	}
	return err
}

// All gives everything that is in the bucket.
func (l *Log) All(ctx context.Context) (map[string][]byte, error) {
	out, done := map[string][]byte{}, errors.New("all of it")
	err := l.Watch(ctx, func(c Change) error {
		if c.Value != nil {
			out[c.Key] = c.Value
		}
		return nil
	}, func() error { return done })
	if err != done {
		return nil, err
	}
	return out, nil
}

// Watch tells every link there is, then calls ready, and then tells every change, until ctx ends or tell or ready gives an
// error. Of changes that follow one another at once, as after a lost connection, the newest alone may be told.
func (l *Log) Watch(ctx context.Context, tell func(Change) error, ready func() error) error {
	w, err := l.links.WatchAll(ctx)
	if err != nil {
		return fmt.Errorf("eventlog: watching links: %w", err)
	}
	defer w.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case e, open := <-w.Updates():
			switch {
			case !open:
				return errors.New("eventlog: watching links has ended")
			case e == nil: // what is there has been told
				if err := ready(); err != nil {
					return err
				}
				continue
			}
			c := Change{Key: e.Key(), Revision: e.Revision()}
			if e.Operation() == jetstream.KeyValuePut {
				c.Value = append([]byte{}, e.Value()...)
			}
			if err := tell(c); err != nil {
				return err
			}
		}
	}
}
