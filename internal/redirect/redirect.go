// Package redirect answers those who scan: host and path → destination, from memory. It knows neither the database nor the
// pages of the application: live links come out of the bucket of the log, and every scan goes into its stream before the
// answer leaves. It listens where nothing else does, and never sets or reads a cookie.
package redirect

import (
	"context"
	"log/slog"
	"net/netip"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"

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
	// Alias says which host a name stands for under which it is asked for as well, such as one that leads to this machine
	Alias func(asked string) (host string, ok bool)
	// Proxies are the networks of proxies in front, whose X-Forwarded-For is believed
	Proxies []netip.Prefix
	Places  *Places       // nil where no data of places is
	Wait    time.Duration // that an answer waits at most until its scan is kept; 0 is 150 ms
}

// Service answers.
type Service struct {
	o        Options
	ours     map[string]bool            // by the settings
	hosts    sync.Map                   // that workspaces have proved → *standing
	houses   sync.Map                   // workspace → *house
	files    sync.Map                   // "go.marrowby.example/f/k7…" → *served
	opened   *lru.Cache[string, []byte] // files by their ids
	links    sync.Map                   // "go.marrowby.example/FA1R" → *held
	count    atomic.Int64
	ready    chan struct{}
	recorder *recorder
	phones   phones
	unknown  *rate.Limiter // of paths that are no link
	unkept   atomic.Int64
	reports  *turns
	goals    *rate.Limiter
	stocks   stocks
}

// held is a live link in memory.
type held struct {
	seq  uint64
	live *leads.Live
}

// standing is a host of a workspace.
type standing struct {
	seq       uint64
	workspace string
	ours      bool
}

// house is what quiet pages of a workspace show.
type house struct {
	seq uint64
	leads.House
}

// unknownEach is how many paths that are no link are kept in a second, unknownAtOnce how many may come together. Others are
// counted alone, so that nobody fills the log with them.
const unknownEach, unknownAtOnce = 5, 50

// usualWait is how long an answer waits for its scan to be kept; people do not notice it.
const usualWait = 150 * time.Millisecond

// New gives a service that knows no link yet.
func New(o Options) *Service {
	agents() // so that the first who scans does not wait for it
	if o.Wait == 0 {
		o.Wait = usualWait
	}
	s := &Service{
		o:        o,
		ours:     map[string]bool{},
		ready:    make(chan struct{}),
		recorder: newRecorder(o.Log),
		phones:   phones{log: o.Log},
		opened:   newMemory[[]byte](filesHeld),
		unknown:  rate.NewLimiter(unknownEach, unknownAtOnce),
		reports:  newTurns(reportsEach),
		goals:    rate.NewLimiter(reachedEach, reachedAtOnce),
		stocks:   stocks{told: rate.NewLimiter(rate.Every(time.Minute), 1)},
	}
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

// Gap is the newest time in which scans were not kept, zero where they always were.
func (s *Service) Gap() Gap { return s.recorder.newest() }

// Waiting is how many scans wait for the log.
func (s *Service) Waiting() int { return len(s.recorder.in) }

// Unkept is how many paths that are no link were asked for since the start and not kept, since there were too many.
func (s *Service) Unkept() int64 { return s.unkept.Load() }

// take keeps a change of the bucket. What cannot be read leaves what was there.
func (s *Service) take(c eventlog.Change) {
	link, ok := livelink.Link(c.Key)
	if !ok {
		return
	}
	if c.Value == nil {
		s.drop(link)
		return
	}
	v, err := livelink.Unpack(c.Value)
	if err == nil {
		var text []byte
		if text, err = s.o.Seal.Open(v.Sealed, livelink.Place(v.Workspace, link)); err == nil {
			err = s.hold(link, v, text)
		}
	}
	if err == nil {
		return
	}
	slog.Error("a live link cannot be read; what was there goes on", "link", link, "error", err)
}

// hold keeps what was read in memory, unless what is there is newer. Beside links the bucket holds hosts, which end with a slash,
// and houses, which begin with one.
func (s *Service) hold(link string, v livelink.Value, text []byte) error {
	switch {
	case strings.HasPrefix(link, "/"):
		h, err := leads.DecodeHouse(text)
		if was, ok := s.houses.Load(link[1:]); err == nil && (!ok || was.(*house).seq <= v.Seq) {
			s.houses.Store(link[1:], &house{v.Seq, h})
		}
		return err
	case strings.HasSuffix(link, "/"):
		h, err := leads.DecodeStanding(text)
		name := strings.TrimSuffix(link, "/")
		if was, ok := s.hosts.Load(name); err == nil && (!ok || was.(*standing).seq <= v.Seq) {
			s.hosts.Store(name, &standing{v.Seq, v.Workspace, h.Ours})
		}
		return err
	}
	if _, id, is := strings.Cut(link, leads.FilesBelow); is {
		f, err := leads.DecodeServed(text)
		if err == nil {
			f.ID = id
			s.files.Store(link, &served{v.Workspace, f})
			s.opened.Remove(id)
		}
		return err
	}
	live, err := leads.Decode(text)
	if err != nil {
		return err
	}
	live.Workspace = v.Workspace // whose row it is, wherever it was compiled
	if was, ok := s.links.Load(link); ok && was.(*held).seq > v.Seq {
		return nil
	}
	if _, was := s.links.Swap(link, &held{v.Seq, live}); !was {
		s.count.Add(1)
	}
	return nil
}

// drop forgets a link, a host or a house.
func (s *Service) drop(link string) {
	switch {
	case strings.HasPrefix(link, "/"):
		s.houses.Delete(link[1:])
	case strings.HasSuffix(link, "/"):
		s.hosts.Delete(strings.TrimSuffix(link, "/"))
	case strings.Contains(link, leads.FilesBelow):
		s.files.Delete(link)
	default:
		if _, was := s.links.LoadAndDelete(link); was {
			s.count.Add(-1)
		}
	}
}

// Answers says whether a host is one that is answered for, and whose it is, "" for nobody's in particular.
func (s *Service) Answers(host string) (workspace string, ours bool) {
	if h, ok := s.hosts.Load(host); ok && h.(*standing).ours {
		return h.(*standing).workspace, true
	}
	return "", s.ours[host]
}

// forget drops links that the bucket does not hold any more.
func (s *Service) forget(seen map[string]bool) {
	for _, of := range []struct {
		held          *sync.Map
		before, after string
	}{{&s.links, "", ""}, {&s.hosts, "", "/"}, {&s.houses, "/", ""}, {&s.files, "", ""}} {
		of.held.Range(func(key, _ any) bool {
			if link := of.before + key.(string) + of.after; !seen[livelink.Key(link)] {
				s.drop(link)
			}
			return true
		})
	}
}

// find gives what is live of a host and a path, nil for nothing.
func (s *Service) find(link string) *leads.Live {
	if v, ok := s.links.Load(link); ok {
		return v.(*held).live
	}
	return nil
}
