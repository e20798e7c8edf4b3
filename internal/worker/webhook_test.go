package worker

import (
	"context"
	"net/http"
	"sync/atomic"
	"testing"
	"time"

	"sodrik/internal/core/webhook"
	"sodrik/internal/scans"
	"sodrik/internal/webhooks"
)

// stock takes the second call.
type stock struct{ calls atomic.Int32 }

func (s *stock) Send(context.Context, string, map[string]string, []byte) (int, error) {
	if s.calls.Add(1) == 1 {
		return http.StatusServiceUnavailable, nil
	}
	return http.StatusOK, nil
}

// TestWebhooks: what is handed over is told without anybody asking, and made again when it is not taken.
func TestWebhooks(t *testing.T) {
	t.Parallel()
	w := open(t)
	id := twoPlaces(t, w.Codes, "https://marrowby.example/fair")
	queue, err := NewWebhooks(w.Codes.DB)
	if err != nil {
		t.Fatal(err)
	}
	far := &stock{}
	w.Webhooks = &webhooks.Store{DB: w.Codes.DB, Seal: w.Codes.Seal, Now: time.Now,
		Scans: &scans.Store{DB: w.Codes.DB, Now: time.Now}, Queue: queue, Send: far}
	if _, err := w.Webhooks.Add(t.Context(), loader, "https://stock.marrowby.example/in",
		[]string{webhook.Versions}); err != nil {
		t.Fatal(err)
	}
	w.sweeps = []sweep{}
	run(t, w)
	if _, err := w.Codes.Issue(t.Context(), loader, id); err != nil {
		t.Fatal(err)
	}
	state := func() string {
		list, err := w.Webhooks.Calls(t.Context(), loader, "")
		if err != nil || len(list) == 0 {
			return ""
		}
		return list[0].State
	}
	until(t, "the first call", 20*time.Second, func() bool { return far.calls.Load() == 1 })
	until(t, "the second call", 30*time.Second, func() bool { return state() == webhooks.Taken })
	if n := far.calls.Load(); n != 2 {
		t.Errorf("%d calls", n)
	}
}
