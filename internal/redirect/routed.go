package redirect

import (
	"context"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"sodrik/internal/client"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/route"
)

// asker is who asks, as far as one answer needs to know; what takes long is read once, when it is wanted. Somebody who wants to
// be counted only is led where the routes say all the same, and nothing of it is kept.
type asker struct {
	r       *http.Request
	name    string // of the browser
	agent   browser
	bare    bool
	from    netip.Addr
	at      Place
	tongues []string
	read    bool
	query   url.Values
	answers bool // whether it is near, on a page that was counted when it was asked
}

func (s *Service) askerOf(r *http.Request) *asker {
	name := r.UserAgent()
	return &asker{r: r, query: r.URL.Query(), name: name, agent: agentOf(name), bare: r.Header.Get("Sec-GPC") == "1" ||
		r.Header.Get("DNT") == "1"}
}

// see reads the address, where it is, and the languages.
func (a *asker) see(s *Service) {
	if a.read {
		return
	}
	a.read = true
	a.from = client.Of(a.r, s.o.Proxies)
	a.at = s.o.Places.Of(a.from)
	a.tongues = languagesOf(a.r.Header.Get("Accept-Language"))
}

// answered is what comes of a scan.
type answered struct {
	act   leads.Act
	route string // that fired, "" for none
	draw  float64
}

// answer says what comes of a scan now. Of a stock something is taken where takes is set.
func (s *Service) answer(live *leads.Live, now time.Time, a *asker, takes bool) (out answered) {
	act, is := live.Over(now)
	if is {
		return answered{act: act}
	}
	if len(live.Routes) == 0 && live.As == nil {
		out.act = live.At(now)
		return out
	}
	a.see(s)
	in := route.Input{At: now, Place: live.Place, Country: a.at.Country, Part: a.at.Part, Town: a.at.Town, Languages: a.tongues,
		System: a.agent.system}
	if a.answers = live.Near() && (a.query.Has("near") || a.query.Has("far")); a.answers {
		in.Near, in.Far = a.query["near"], a.query["far"]
	}
	if live.Draws() {
		in.Draw = rand.Float64()
		out.draw = in.Draw
	}
	if as := live.As; as != nil {
		in.Country, in.Part, in.Town, in.Languages, in.System = as.Country, as.Part, as.Town, as.Tongues, as.System
		if as.At != 0 {
			in.At = time.Unix(as.At, 0)
		}
	}
	act, i := live.Answer(&in, func(i int) bool {
		rule := &live.Routes[i].Rule
		return s.stocks.left(a.r.Context(), s.o.Log, takes, rule.Stock, live.Workspace, live.Code, rule.ID)
	})
	if out.act = act; i != route.Everybody {
		out.route = live.Routes[i].Rule.ID
	}
	return out
}

// named is the answer of a route by its id, the usual one where there is none: a file that a page offers is that page's.
func named(live *leads.Live, id string, usual leads.Act) leads.Act {
	for i := range live.Routes {
		if live.Routes[i].Rule.ID == id {
			return live.Routes[i].Act
		}
	}
	return usual
}

// counterWait is how long an answer waits for the count of a stock; without it the next route holds.
const counterWait = 100 * time.Millisecond

// left says whether something of a stock is left, and takes it. The counter is added to in one step for all who answer, so that
// it is never passed: whoever finds it over takes the step back. An answer that dies in between uses one up.
func (s *stocks) left(ctx context.Context, log counter, takes bool, stock int, workspace, code, rule string) bool {
	key := stockKey{workspace, code, rule, stock}
	if _, out := s.out.Load(key); out || !takes {
		return !out
	}
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), counterWait)
	defer cancel()
	n, err := log.Add(ctx, 1, workspace, code, rule)
	if err != nil {
		if s.unasked.Add(1); s.told.Allow() {
			slog.Warn("stocks of routes cannot be asked for; the next route holds", "so far", s.unasked.Load(), "error", err)
		}
		return false
	}
	if n <= stock {
		return true
	}
	s.out.Store(key, true)
	if _, err := log.Add(context.WithoutCancel(ctx), -1, workspace, code, rule); err != nil {
		slog.Warn("a stock counts one too many", "error", err)
	}
	return false
}

// nearPage is the page that asks a phone whether it is near. Its answers lead to the same link again, with what was answered.
func (a *asker) nearPage(act leads.Act, link string) page {
	_, path, _ := strings.Cut(link, "/")
	at := func(key string) string {
		q := url.Values{}
		for k, v := range a.query {
			q[k] = v
		}
		q[key] = append(append([]string{}, q[key]...), act.Near.Route)
		return (&url.URL{Path: "/" + path, RawQuery: q.Encode()}).String()
	}
	return page{Title: act.Title, Lines: act.Lines, Near: act.Near, Yes: at("near"), No: at("far"), Report: path}
}

// others is the query of a scanned address without what a phone answered.
func (a *asker) others() string {
	if !a.answers {
		return a.r.URL.RawQuery
	}
	var out []string
	for _, part := range strings.Split(a.r.URL.RawQuery, "&") {
		if key, _, _ := strings.Cut(part, "="); key != "near" && key != "far" {
			out = append(out, part)
		}
	}
	return strings.Join(out, "&")
}
