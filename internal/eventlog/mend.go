package eventlog

import (
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync/atomic"
	"time"

	"github.com/nats-io/nats-server/v2/server"
	"github.com/nats-io/nats.go/jetstream"
	"golang.org/x/sys/unix"
)

const (
	// looks is how often an embedded server looks whether its store takes events, and mendEvery how often it mends it at most.
	looks, mendEvery = 500 * time.Millisecond, 5 * time.Second
	// suspicious is for how long nothing is kept before the store is taken for broken.
	suspicious = 2 * time.Second
	// room is how many bytes of the disk must be free before the store is opened again.
	room = 16 << 20
)

// health is what is known of the store of an embedded server. Once a write has failed, NATS takes no more into a stream until its
// store is opened again, though there may long be room.
type health struct {
	broken  atomic.Bool  // the server said that a write failed
	failing atomic.Int64 // since when Publish fails, in nanoseconds of Unix time; 0: it does not
}

// published notes how a Publish ended.
func (h *health) published(err error) {
	var api *jetstream.APIError
	switch {
	case err == nil:
		h.failing.Store(0)
	case errors.As(err, &api) && api.ErrorCode == tooManyBytes: // the stream is as large as it may be, and takes more by itself
	default:
		h.failing.CompareAndSwap(0, time.Now().UnixNano())
	}
}

// tooManyBytes is the code of NATS for a stream that has reached its bytes.
const tooManyBytes = 10077

func (h *health) ill(s *server.Server) bool {
	since := h.failing.Load()
	return h.broken.Load() || !s.JetStreamEnabled() || since != 0 && time.Since(time.Unix(0, since)) > suspicious
}

// mend opens the store of the embedded server again where it takes nothing any more, as soon as the disk has room.
func (l *Log) mend(o Options, c server.JetStreamConfig) {
	var last time.Time
	for {
		select {
		case <-l.closed:
			return
		case <-time.After(looks):
		}
		if !l.health.ill(l.server) || time.Since(last) < mendEvery || free(o.Dir) < room {
			continue
		}
		last = time.Now()
		slog.Warn("the store of the log takes no events; it is opened again", "folder", o.Dir)
		l.health.broken.Store(false)
		l.health.failing.Store(0)
		err := l.server.ShutdownJetStream()
		if err == nil {
			config := c
			err = l.server.EnableJetStream(&config)
		}
		if err != nil {
			l.health.broken.Store(true)
			slog.Error("the store of the log cannot be opened", "folder", o.Dir, "error", err)
		}
	}
}

// free is how many bytes of the disk of a folder this process may still write.
func free(dir string) uint64 {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0
	}
	return s.Bavail * uint64(s.Bsize)
}

// watcher is the logger of the embedded server: it passes on what is wrong, and hears when a write failed.
type watcher struct{ health *health }

func (w watcher) Errorf(format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	if strings.Contains(strings.ToLower(text), "write error") {
		w.health.broken.Store(true)
	}
	slog.Error("log: " + text)
}

func (w watcher) Fatalf(format string, args ...any) { w.Errorf(format, args...) }
func (w watcher) Warnf(format string, args ...any) {
	slog.Debug("log: " + fmt.Sprintf(format, args...))
}
func (watcher) Noticef(string, ...any) {}
func (watcher) Debugf(string, ...any)  {}
func (watcher) Tracef(string, ...any)  {}
