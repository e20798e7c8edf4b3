package artwork

import "sync"

// Bounds of a shelf: how many drawings it keeps, and how many bytes of pixels, of which one sheet may have a hundred million.
const (
	maxShelved = 48
	maxPixels  = 200 << 20
)

// Shelf keeps uploads that were read, by a key; the oldest goes first. The zero value is empty. It is safe for concurrent use.
type Shelf struct {
	mu    sync.Mutex
	art   map[string]Upload
	order []string
	bytes int
}

// Get is nil for what is not there.
func (s *Shelf) Get(key string) Upload {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.art[key]
}

// Put keeps an upload.
func (s *Shelf) Put(key string, a Upload) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.art == nil {
		s.art = map[string]Upload{}
	}
	if old := s.art[key]; old != nil {
		s.bytes += a.held() - old.held()
		s.art[key] = a
		return
	}
	s.art[key], s.order, s.bytes = a, append(s.order, key), s.bytes+a.held()
	for len(s.order) > maxShelved || s.bytes > maxPixels && len(s.order) > 1 {
		s.bytes -= s.art[s.order[0]].held()
		delete(s.art, s.order[0])
		s.order = s.order[1:]
	}
}
