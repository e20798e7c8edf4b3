package scanned

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"
)

// TestEnds: a stream ends at once when its server is to end, which would else wait for it.
func TestEnds(t *testing.T) {
	h, began := &Handler{}, make(chan struct{}, 2)
	s := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		ended := h.end(r)
		began <- struct{}{}
		select {
		case <-ended:
		case <-time.After(20 * time.Second):
		}
	}))
	for range 2 {
		go http.Get(s.URL)
		<-began
	}
	ctx, cancel := context.WithTimeout(t.Context(), 5*time.Second)
	defer cancel()
	if err := s.Config.Shutdown(ctx); err != nil {
		t.Errorf("the server waits for its streams: %v", err)
	}
}
