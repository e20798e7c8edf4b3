package scanned

import (
	"bytes"
	"cmp"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"sodrik/internal/core/measure"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// Now is the live strip.
type Now struct {
	Seen  []Seen
	Words string // how many today, and in the last hour
}

// Seen is one scan of it.
type Seen struct{ When, Place, Who string }

const (
	// shown is how many scans the strip shows, told how many it is told at once, looks how often it looks.
	shown, told, looks = 4, 20, time.Second
)

// nowOf is the strip as it stands.
func (h *Handler) nowOf(r *http.Request, zone *time.Location) (n Now, err error) {
	list, err := h.Scans.Latest(r.Context(), ui.Actor(r), "", shown)
	if err != nil {
		return n, err
	}
	for i := len(list) - 1; i >= 0; i-- {
		n.Seen = append(n.Seen, seenOf(list[i], zone))
	}
	n.Words, err = h.today(r, zone)
	return n, err
}

// today says how many scanned today, and in the last hour.
func (h *Handler) today(r *http.Request, zone *time.Location) (string, error) {
	now := h.Codes.Now().In(zone)
	today, hour, err := h.Scans.Since(r.Context(), ui.Actor(r), time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, zone),
		now.Add(-time.Hour))
	return fmt.Sprintf("%s today, %s in the last hour", measure.Count(today), measure.Count(hour)), err
}

func seenOf(s scans.Seen, zone *time.Location) Seen {
	out := Seen{When: s.At.In(zone).Format("15:04:05"), Place: s.Name}
	switch {
	case s.Name != "" && s.Place != "":
		out.Place += ", " + s.Place
	case s.Name == "":
		out.Place = cmp.Or(s.Place, s.Link)
	}
	var who []string
	if s.Town != "" {
		who = append(who, s.Town)
	}
	if s.Language != "" {
		who = append(who, "in "+languageName(s.Language))
	}
	out.Who = strings.Join(who, ", ")
	return out
}

// end is closed once the server is told to end, which would wait for streams as for any request.
func (h *Handler) end(r *http.Request) <-chan struct{} {
	h.ends.Do(func() {
		h.ended = make(chan struct{})
		if s, ok := r.Context().Value(http.ServerContextKey).(*http.Server); ok {
			s.RegisterOnShutdown(func() { close(h.ended) })
		}
	})
	return h.ended
}

// now tells each scan as it comes, as server-sent events (HTML, 9.2). It ends after a while, as every request does; browsers ask
// again, and say which scan they saw last.
func (h *Handler) now(w http.ResponseWriter, r *http.Request) {
	a := askedOf(r, h.Codes.Now())
	last := r.Header.Get("Last-Event-ID")
	if _, err := uuid.Parse(last); err != nil {
		last = scans.From(h.Codes.Now())
	}
	head := w.Header()
	head.Set("Content-Type", "text/event-stream")
	head.Set("X-Accel-Buffering", "no")
	flush := http.NewResponseController(w)
	ended := h.end(r)
	fmt.Fprint(w, "retry: 1000\n\n")
	flush.Flush()
	ticker := time.NewTicker(looks)
	defer ticker.Stop()
	for {
		select {
		case <-r.Context().Done():
			return
		case <-ended:
			return
		case <-ticker.C:
		}
		list, err := h.Scans.Latest(r.Context(), ui.Actor(r), last, told)
		if err != nil {
			return
		}
		for _, s := range list {
			var b bytes.Buffer
			if err := pages.ExecuteTemplate(&b, "seen", seenOf(s, a.span.Zone)); err != nil {
				return
			}
			fmt.Fprintf(w, "id: %s\nevent: scan\ndata: %s\n\n", s.ID, strings.ReplaceAll(b.String(), "\n", " "))
			last = s.ID
		}
		if len(list) > 0 {
			words, err := h.today(r, a.span.Zone)
			if err != nil {
				return
			}
			fmt.Fprintf(w, "event: words\ndata: %s\n\n", words)
			if flush.Flush() != nil {
				return
			}
		}
	}
}
