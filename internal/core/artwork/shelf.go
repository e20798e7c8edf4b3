package artwork

import "sync"

// Bounds of a shelf: how many drawings it keeps, and how many sheets, which may be 36 MB each.
const (
	mostShelved = 48
	mostSheets  = 6
)

// Shelf keeps art that was read, by a key; the oldest goes first. The zero value is empty. It is safe for concurrent use.
type Shelf struct {
	mu    sync.Mutex
	art   map[string]*Art
	order []string
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
	if s.art[key] == nil {
		most := mostShelved
		if a.Sheet != nil {
			most = mostSheets
		}
		if len(s.order) >= most {
			delete(s.art, s.order[0])
			s.order = s.order[1:]
		}
		s.order = append(s.order, key)
	}
	s.art[key] = a
}
