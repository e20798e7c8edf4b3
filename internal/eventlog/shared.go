package eventlog

import (
	"context"
	"errors"

	"github.com/nats-io/nats.go/jetstream"
)

// Shared gives what all who use this log share under a key, in memory alone: whoever asks first gives it. It is gone when the
// log's server ends, and after two days.
func (l *Log) Shared(ctx context.Context, key string, mine []byte) ([]byte, error) {
	for {
		_, err := l.shared.Create(ctx, key, mine)
		if err == nil {
			return mine, nil
		}
		if !errors.Is(err, jetstream.ErrKeyExists) {
			return nil, err
		}
		e, err := l.shared.Get(ctx, key)
		if err == nil {
			return e.Value(), nil
		}
		if !errors.Is(err, jetstream.ErrKeyNotFound) {
			return nil, err
		}
	}
}
