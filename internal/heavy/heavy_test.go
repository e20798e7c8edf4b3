package heavy

import (
	"context"
	"errors"
	"testing"
	"time"
)

// TestNested: what has a place takes no second one, so that it cannot wait for itself; who has left gets none.
func TestNested(t *testing.T) {
	done := make(chan error)
	go func() {
		done <- Do(t.Context(), func(ctx context.Context) error {
			return Do(ctx, func(ctx context.Context) error { return Do(ctx, func(context.Context) error { return nil }) })
		})
	}()
	select {
	case err := <-done:
		if err != nil {
			t.Fatal(err)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("it waits for itself")
	}
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	if err := Do(gone, func(context.Context) error { return nil }); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
}
