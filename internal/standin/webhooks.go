package standin

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"

	"sodrik/internal/access"
	"sodrik/internal/core/webhook"
	"sodrik/internal/webhooks"
)

// told are the house's webhooks: its stock list takes what it is told, its old figures do not answer as they should.
var told = []struct {
	address string
	kinds   []string
}{
	{"https://stock.marrowby.example/sodrik", []string{webhook.Versions, webhook.Batches}},
	{"https://figures.marrowby.example/old", []string{webhook.Batches}},
}

// Send answers for hosts of the house; any other is asked for by whoever tries the demonstration.
func (w World) Send(ctx context.Context, address string, header map[string]string, body []byte) (int, error) {
	u, err := url.Parse(address)
	switch {
	case err != nil:
		return 0, err
	case !strings.HasSuffix(u.Hostname(), ".marrowby.example") && w.Own != nil:
		return w.Own.Send(ctx, address, header, body)
	case u.Hostname() == "stock.marrowby.example":
		return http.StatusNoContent, nil
	case u.Hostname() == "figures.marrowby.example":
		return http.StatusServiceUnavailable, nil
	}
	return 0, errors.New("standin: no such host")
}

// Webhooks makes the house's webhooks where there are none, and tries each.
func Webhooks(ctx context.Context, s *webhooks.Store) error {
	actor := access.OfProgram(Workspace, "Tamsin Ashdown")
	there, err := s.List(ctx, actor)
	if err != nil || len(there) > 0 {
		return err
	}
	for _, one := range told {
		id, err := s.Add(ctx, actor, one.address, one.kinds)
		if err == nil {
			err = s.Try(ctx, actor, id)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
