package outside

import (
	"bytes"
	"context"
	"io"
	"net/http"
)

// mostRead is how much of an answer is read, so that its connection ends in order.
const mostRead = 64 << 10

// Send posts a body to an address and gives the status of the answer. It follows no redirect, and what is answered is not kept.
func (a *Asker) Send(ctx context.Context, address string, header http.Header, body []byte) (status int, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, address, bytes.NewReader(body))
	if err != nil {
		return 0, err
	}
	r.Header = header.Clone()
	r.Header.Set("User-Agent", "Sodrik (webhook)")
	w, err := a.client.Do(r)
	if err != nil {
		return 0, err
	}
	defer w.Body.Close()
	io.Copy(io.Discard, io.LimitReader(w.Body, mostRead))
	return w.StatusCode, nil
}
