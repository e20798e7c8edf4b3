package redirect

import (
	"bytes"
	"context"
	"html"
	"net/http"
	"strings"

	"sodrik/internal/core/leads"
)

// phoneName is as what our own phone asks.
const phoneName = "Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0 Mobile Safari/537.36"

// Look follows a short link as a phone does that has scanned it, through the service itself, and is not counted. Nothing is
// fetched from elsewhere.
func (s *Service) Look(ctx context.Context, address string) (leads.Hop, error) {
	hop := leads.Hop{Asked: address}
	r, err := http.NewRequestWithContext(uncounted(ctx), http.MethodGet, address, nil)
	if err != nil {
		return hop, err
	}
	r.Header.Set("User-Agent", phoneName)
	w := &kept{header: http.Header{}, status: http.StatusOK}
	s.ServeHTTP(w, r)
	hop.Status, hop.To = w.status, w.header.Get("Location")
	if hop.To == "" {
		_, title, _ := strings.Cut(w.body.String(), "<title>")
		title, _, _ = strings.Cut(title, "</title>")
		hop.Page = html.UnescapeString(title)
	}
	return hop, nil
}

// kept is an answer that stays here.
type kept struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func (k *kept) Header() http.Header         { return k.header }
func (k *kept) WriteHeader(status int)      { k.status = status }
func (k *kept) Write(b []byte) (int, error) { return k.body.Write(b) }
