package artwork

import "sync"

// Bounds of a shelf: how many drawings it keeps, and how many bytes of pixels, of which one sheet may have a hundred million.
const (
	mostShelved = 48
	mostPixels  = 200 << 20
)

// Shelf keeps art that was read, by a key; the oldest goes first. The zero value is empty. It is safe for concurrent use.
type Shelf struct {
	mu    sync.Mutex
	art   map[string]*Art
	order []string
	bytes int
}

// Get is nil for what is not there.
func (s *Shelf) Get(key string) *Art {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.art[key]
}

// Put keeps art.
func (s *Shelf) Put(key string, a *Art) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.art == nil {
		s.art = map[string]*Art{}
	}
	if old := s.art[key]; old != nil {
		s.bytes += a.held() - old.held()
		s.art[key] = a
		return
	}
	s.art[key], s.order, s.bytes = a, append(s.order, key), s.bytes+a.held()
	for len(s.order) > mostShelved || s.bytes > mostPixels && len(s.order) > 1 {
		s.bytes -= s.art[s.order[0]].held()
		delete(s.art, s.order[0])
		s.order = s.order[1:]
	}
}

// held is how many bytes its pixels take, and its file where it keeps that.
func (a *Art) held() (n int) {
	items := a.Items
	if a.Sheet != nil {
		items, n = a.Sheet.Items, len(a.Sheet.PDF)
	}
	for _, it := range items {
		if it.Picture != nil && it.Picture.Pixels != nil {
			n += len(it.Picture.Pixels.Pix)
		}
	}
	return n
}
