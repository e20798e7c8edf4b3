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
func (a *Asker) Send(ctx context.Context, address string, header map[string]string, body []byte) (status int, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, address, bytes.NewReader(body))
	if err != nil {
		return 0, err
	}
	for name, value := range header {
		r.Header.Set(name, value)
	}
	r.Header.Set("User-Agent", "Sodrik (webhook)")
	w, err := a.client.Do(r)
	if err != nil {
		return 0, err
	}
	defer w.Body.Close()
	io.Copy(io.Discard, io.LimitReader(w.Body, mostRead))
	return w.StatusCode, nil
}
