package eventlog

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"
)

// Names of the stream of stocks, and of what stands before each of its counters.
const (
	stocksName    = "STOCKS"
	stocksSubject = "stocks."
	// increment is the header by which a message adds to the counter of its subject (ADR-49 of the server)
	increment = "Nats-Incr"
)

// prepareStocks makes the counters of stocks.
func (l *Log) prepareStocks(ctx context.Context, replicas int) error {
	_, err := l.js.CreateOrUpdateStream(ctx, jetstream.StreamConfig{Name: stocksName, Subjects: []string{stocksSubject + ">"},
		Storage: jetstream.FileStorage, MaxMsgsPerSubject: 1, AllowMsgCounter: true, AllowDirect: true, Replicas: replicas})
	if err != nil {
		return fmt.Errorf("eventlog: the counters of stocks: %w", err)
	}
	return nil
}

// stockOf is the subject of a counter; ids of Sodrik hold no dots, and what does is written without.
func stockOf(keys []string) string {
	clean := make([]string, len(keys))
	for i, k := range keys {
		clean[i] = strings.NewReplacer(".", "_", " ", "_", "*", "_", ">", "_").Replace(k)
	}
	return stocksSubject + strings.Join(clean, ".")
}

// Add adds to a counter, in one step for all who use this log, and gives what it then is. An error says that it may have been
// added to or not.
func (l *Log) Add(ctx context.Context, n int, keys ...string) (now int, err error) {
	m := nats.NewMsg(stockOf(keys))
	m.Header.Set(increment, fmt.Sprintf("%+d", n))
	ack, err := l.js.PublishMsg(ctx, m, jetstream.WithRetryAttempts(0))
	if err != nil {
		return 0, err
	}
	if now, err = strconv.Atoi(ack.Value); err != nil {
		return 0, fmt.Errorf("eventlog: a counter answers %q", ack.Value)
	}
	return now, nil
}
