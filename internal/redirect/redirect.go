// Package redirect answers those who scan: host and path → destination, from memory. It knows neither the database nor the
// pages of the application: live links come out of the bucket of the log, and every scan goes into its stream before the
// answer leaves. It listens where nothing else does, and never sets or reads a cookie.
package redirect

import (
	"context"
	"log/slog"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
	"sodrik/internal/seal"
)

// Options of New.
type Options struct {
	Log   *eventlog.Log
	Seal  *seal.Box
	Now   func() time.Time
	Hosts []string // that are ours, with a port where it is not the scheme's own
	// Alias are names under which a host is asked for as well, such as one that leads to this machine, and what each stands for
	Alias map[string]string
	Wait  time.Duration // that an answer waits at most until its scan is kept; 0 is 150 ms
}

// Service answers.
type Service struct {
	o        Options
	ours     map[string]bool
	links    sync.Map // "go.marrowby.example/FA1R" → *held
	count    atomic.Int64
	ready    chan struct{}
	recorder *recorder
}

// held is a live link in memory.
type held struct {
	seq  uint64
	live *leads.Live
}

// usualWait is how long an answer waits for its scan to be kept; people do not notice it.
const usualWait = 150 * time.Millisecond

// New gives a service that knows no link yet.
func New(o Options) *Service {
	if o.Wait == 0 {
		o.Wait = usualWait
	}
	s := &Service{o: o, ours: map[string]bool{}, ready: make(chan struct{}), recorder: newRecorder(o.Log)}
	for _, h := range o.Hosts {
		s.ours[strings.ToLower(h)] = true
	}
	return s
}

// Run follows the bucket and keeps scans until ctx ends. A connection that is lost is looked for again; meanwhile what is in
// memory answers.
func (s *Service) Run(ctx context.Context) {
	done := make(chan struct{})
	go func() { defer close(done); s.recorder.run(ctx) }()
	var once sync.Once
	for ctx.Err() == nil {
		seen := map[string]bool{}
		err := s.o.Log.Watch(ctx, func(c eventlog.Change) error {
			s.take(c)
			if seen != nil {
				seen[c.Key] = true
			}
			return nil
		}, func() error {
			s.forget(seen)
			seen = nil
			once.Do(func() { close(s.ready) })
			return nil
		})
		if ctx.Err() == nil {
			slog.Error("live links are not followed; tried again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
	<-done
}

// Ready is closed once every live link is in memory.
func (s *Service) Ready() <-chan struct{} { return s.ready }

// Links is how many links are in memory; Dropped is how many scans could not be kept since the start.
func (s *Service) Links() int     { return int(s.count.Load()) }
func (s *Service) Dropped() int64 { return s.recorder.dropped.Load() }

// take keeps a change of the bucket. What cannot be read leaves what was there.
func (s *Service) take(c eventlog.Change) {
	link, ok := livelink.Link(c.Key)
	if !ok {
		return
	}
	if c.Value == nil {
		if _, was := s.links.LoadAndDelete(link); was {
			s.count.Add(-1)
		}
		return
	}
	v, err := livelink.Unpack(c.Value)
	if err == nil {
		if was, ok := s.links.Load(link); ok && was.(*held).seq > v.Seq {
			return
		}
		var text []byte
		if text, err = s.o.Seal.Open(v.Sealed, livelink.Place(v.Workspace, link)); err == nil {
			var live *leads.Live
			if live, err = leads.Decode(text); err == nil {
				if _, was := s.links.Swap(link, &held{v.Seq, live}); !was {
					s.count.Add(1)
				}
				return
			}
		}
	}
	slog.Error("a live link cannot be read; what was there goes on", "link", link, "error", err)
}

// forget drops links that the bucket does not hold any more.
func (s *Service) forget(seen map[string]bool) {
	s.links.Range(func(link, _ any) bool {
		if !seen[livelink.Key(link.(string))] {
			s.links.Delete(link)
			s.count.Add(-1)
		}
		return true
	})
}

// find gives what is live of a host and a path, nil for nothing.
func (s *Service) find(link string) *leads.Live {
	if v, ok := s.links.Load(link); ok {
		return v.(*held).live
	}
	return nil
}
