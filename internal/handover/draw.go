package handover

import (
	"context"
	"fmt"
	"sync"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/place"
)

type placement = place.Placement

// draw makes a file of a version and reads it back, or takes it as it was made and read before: what is frozen stays the same.
func (d *Door) draw(ctx context.Context, workspace string, p *Parcel, i int, f compose.Format) (data []byte, reads bool,
	err error) {
	key := fmt.Sprint(workspace, " ", p.Rendition.Job.DigestWide(), " ", i, " ", f.Key(), " ", p.At.UnixNano())
	if kept, ok := d.drawn.get(key); ok {
		return kept.data, kept.reads, nil
	}
	at := p.Rendition.Place(i)
	data, err = d.Codes.File(ctx, p.Rendition, f, at, compose.MetaOf(f, p.Rendition.Title(i), p.At))
	if err != nil {
		return nil, false, err
	}
	if reads, err = d.Codes.ReadBack(ctx, p.Rendition, i, f, data); err != nil {
		return nil, false, err
	}
	d.drawn.put(key, drawn{data, reads})
	return data, reads, nil
}

// drawn is a file with what came of reading it back.
type drawn struct {
	data  []byte
	reads bool
}

// maxDrawn bounds what is kept of files, in bytes; one file larger than an eighth of it is not kept.
const maxDrawn = 64 << 20

// shelf keeps files of issued versions, the newest of them. The zero value is empty.
type shelf struct {
	mu    sync.Mutex
	files map[string]drawn
	order []string
	bytes int
}

func (s *shelf) get(key string) (drawn, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	f, ok := s.files[key]
	return f, ok
}

func (s *shelf) put(key string, f drawn) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if _, there := s.files[key]; there || len(f.data) > maxDrawn/8 {
		return
	}
	if s.files == nil {
		s.files = map[string]drawn{}
	}
	s.files[key], s.order, s.bytes = f, append(s.order, key), s.bytes+len(f.data)
	for s.bytes > maxDrawn {
		s.bytes -= len(s.files[s.order[0]].data)
		delete(s.files, s.order[0])
		s.order = s.order[1:]
	}
}
