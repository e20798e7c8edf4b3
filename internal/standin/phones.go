package standin

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"
)

// Phones are those of made-up people, who scan when somebody wants them to: they ask the service that answers short links, as any
// phone does, and are counted as any is.
type Phones struct{ Address string } // of that service, host and port

// madeUpPhones are names of browsers as such phones send them.
var madeUpPhones = []struct{ name, agent string }{
	{"iOS", "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.0 Mobile/15E148 Safari/604.1"},
	{"Android", "Mozilla/5.0 (Linux; Android 15; Pixel 8) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/131.0.0.0 Mobile Safari/537.36"},
}

// Towns are where made-up phones can be.
func (Phones) Towns() (out []string) {
	for _, t := range towns {
		if t.name != "" && !strings.Contains(t.network, ":") {
			out = append(out, t.name)
		}
	}
	return out
}

// Systems are what they run.
func (Phones) Systems() (out []string) {
	for _, p := range madeUpPhones {
		out = append(out, p.name)
	}
	return out
}

// Scan has a phone of a town scan a link, host and path; a town and a system that are not there are an error.
func (p Phones) Scan(ctx context.Context, link, town, language, system string) error {
	host, path, _ := strings.Cut(link, "/")
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+p.Address+"/"+path, nil)
	if err != nil {
		return err
	}
	from, err := addressIn(town)
	if err != nil {
		return err
	}
	r.Host = host
	r.Header.Set("X-Forwarded-For", from.String())
	r.Header.Set("Accept-Language", language)
	for _, m := range madeUpPhones {
		if m.name == system {
			r.Header.Set("User-Agent", m.agent)
		}
	}
	if r.UserAgent() == "" {
		return fmt.Errorf("standin: there is no made-up phone with %q", system)
	}
	client := &http.Client{Timeout: 5 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}, Transport: &http.Transport{DialContext: (&net.Dialer{Timeout: time.Second}).DialContext, DisableKeepAlives: true}}
	w, err := client.Do(r)
	if err != nil {
		return err
	}
	return w.Body.Close()
}

// addressIn is some address of a town.
func addressIn(town string) (netip.Addr, error) {
	for _, t := range towns {
		if t.name == town {
			p := netip.MustParsePrefix(t.network)
			a := p.Addr()
			for range rand.IntN(1<<(32-p.Bits())-1) + 1 {
				a = a.Next()
			}
			return a, nil
		}
	}
	return netip.Addr{}, fmt.Errorf("standin: there is no made-up town %q", town)
}
