package standin

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/db"
	"sodrik/internal/link"
	"sodrik/internal/webhooks"
)

// LinkHost is where the demonstration's short links stand, and LinkAlias a name for it that browsers resolve to this machine.
const (
	LinkHost  = "https://go.marrowby.example"
	LinkAlias = "go.marrowby.localhost"
)

// hung is a dynamic code of the demonstration: its job, the words of its links by the index of the place (−1 for its own),
// since how many days it hangs, and how it is scanned at each place, in their order.
type hung struct {
	campaign, job string
	words         map[int]string
	since         int
	lead          map[string]string // what is typed of where it leads
	routes        []map[string][]string
	noted         []map[string]string
	courses       []course
}

// hungCodes are those codes. The destination of the first changes when the fair is over.
var hungCodes = []hung{
	{campaign: trade, job: `{"name": "Spring seed list", "content": {"kind": "url", "url": "https://marrowby.example/seed-list"},
		"look": {"ink": "#12352b"}, "placements": [
		{"name": "leaflet", "medium": "leaflet", "substrate": "uncoated", "width_mm": 30, "distance_mm": 300, "light": "indoor"}]}`,
		words: map[int]string{-1: "seeds"}, since: 182, noted: []map[string]string{{"prints": "6000", "cost": "410.00"}},
		courses: []course{{perDay: 5, weekend: 1.2, until: 12}}},
	{
		campaign: packets,
		job: `{"name": "Broad bean recipes", "content": {"kind": "url", "url": "https://marrowby.example/recipes/broad-bean"},
		"look": {"ink": "#5a2d0c"}, "placements": [
		{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 216, "light": "indoor"},
		{"name": "shop shelf", "medium": "shelf-label", "substrate": "coated", "width_mm": 30, "distance_mm": 300, "light": "indoor"}]}`,
		words:   map[int]string{-1: "bean-back", 1: "bean-shelf"},
		since:   182,
		noted:   []map[string]string{{"prints": "24000"}, {"prints": "60", "spot": "above the beans"}},
		courses: []course{{perDay: 3, weekend: 1.5, grow: 3}, {perDay: 2, weekend: 2}},
	},
	{
		campaign: fair,
		job: `{"name": "On at the fair today", "content": {"kind": "url", "url": "https://marrowby.example/fair/today"},
		"look": {"ink": "#12352b"}, "placements": [
		{"name": "lane sign", "medium": "poster-a2", "substrate": "film", "width_mm": 160, "distance_mm": 1500, "light": "outdoor"},
		{"name": "tea tent", "medium": "table-tent", "substrate": "uncoated", "width_mm": 50, "distance_mm": 400, "light": "indoor"}]}`,
		words: map[int]string{-1: "fair-lane", 1: "fair-tent"},
		since: 20,
		lead: map[string]string{"then": "https://marrowby.example/bulbs", "from": "2027-03-20T16:00", "timezone": "Europe/London",
			"message": "The fair is over. See you next spring.", "instead": "marrowby.example", "language": "English"},
		routes: []map[string][]string{
			{"languages": {"Welsh"}, "to": {"marrowby.example/cy/ffair"}},
			{"weekdays": {"sa", "su"}, "hours": {"09:00-18:00"}, "to": {"marrowby.example/fair/weekend"}},
		},
		noted: []map[string]string{
			{"prints": "12", "cost": "240.00", "spot": "at the turning"},
			{"prints": "40", "cost": "90.00"},
		},
		courses: []course{{perDay: 14, weekend: 2, opening: 3}, {perDay: 6, weekend: 2}},
	},
}

// loadLinks makes the demonstration's dynamic codes, and hands them over.
func loadLinks(ctx context.Context, links *link.Store) error {
	for _, one := range hungCodes {
		if err := one.load(ctx, links); err != nil {
			return fmt.Errorf("demonstration: %w", err)
		}
	}
	return nil
}

func (c hung) load(ctx context.Context, links *link.Store) error {
	actor := Loader()
	m, problems := compose.Parse([]byte(c.job), nil)
	if len(problems) > 0 {
		return problems
	}
	id, err := links.Codes.Create(ctx, actor, m, c.campaign)
	if err != nil {
		return err
	}
	if _, err := links.Turn(ctx, actor, id, code.Anyhow); err != nil {
		return err
	}
	for place, word := range c.words {
		if _, err := links.Word(ctx, actor, id, place, word, code.Anyhow); err != nil {
			return err
		}
	}
	if len(c.lead) > 0 {
		if _, err := links.Edit(ctx, actor, id, c.lead, "GB", 0); err != nil {
			return err
		}
	}
	for _, r := range c.routes {
		if _, _, err := links.EditRoute(ctx, actor, id, "", r, "GB"); err != nil {
			return err
		}
	}
	made, err := links.Codes.Issue(ctx, actor, id)
	if err != nil {
		return err
	}
	for i, p := range link.Links(made.Rendition.Job) {
		if err := links.Hang(ctx, actor, id, p.Address.String(), c.noted[i]); err != nil {
			return err
		}
	}
	return links.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error { // it has hung for a while
		_, err := tx.Exec(ctx, `UPDATE lead_versions SET at = $3 WHERE workspace = $1 AND code = $2`, actor.Workspace, id,
			links.Codes.Now().AddDate(0, 0, -c.since))
		return err
	})
}

// Near is how the made-up hosts of short links are reached on this machine: each under its own name below localhost, which
// browsers resolve to it, at a port. As says which host a name stands for, at where a link can be tried.
func Near(port string) (as func(asked string) (string, bool), at func(shortlink.Address) string) {
	const made, here = ".example", ".localhost"
	as = func(asked string) (string, bool) {
		name, ok := strings.CutSuffix(asked, ":"+port)
		if host, is := strings.CutSuffix(name, here); ok && is {
			return host + made, true
		}
		return strings.TrimPrefix(LinkHost, "https://"), ok && (name == "127.0.0.1" || name == "localhost")
	}
	return as, func(a shortlink.Address) string {
		return "http://" + strings.TrimSuffix(a.Host, made) + here + ":" + port + "/" + a.Path
	}
}

// Names stands in for name servers: hosts below marrowby.example hold the TXT record of the demonstration's workspace, all but
// old ones, whose names end in old.marrowby.example. Nothing else is there.
type Names struct{ DB *db.DB }

// LookupTXT answers as *net.Resolver does.
func (n Names) LookupTXT(ctx context.Context, name string) ([]string, error) {
	host, ok := strings.CutPrefix(name, "_sodrik.")
	if !ok || !strings.HasSuffix(host, ".marrowby.example") || strings.HasSuffix(host, "old.marrowby.example") {
		return nil, &net.DNSError{Err: "no such host", Name: name, IsNotFound: true}
	}
	var token string
	err := n.DB.Pool.QueryRow(ctx, `SELECT token FROM link_hosts WHERE workspace = $1 AND host = $2`, Workspace, host).
		Scan(&token)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, &net.DNSError{Err: "no such host", Name: name, IsNotFound: true}
	}
	return []string{"v=spf1 -all", shortlink.Proof(token)}, err
}

// World stands in for web servers of others: an old host of the house, as it answers before its name points here.
type World struct {
	// Own reaches what whoever tries the demonstration runs on this machine; nil for nothing.
	Own webhooks.Sender
}

// oldPaths are what the old host leads to; one of them is not what its own table says.
var oldPaths = map[string]string{"/spring": "https://marrowby.example/spring", "/bulbs/2025": "https://marrowby.example/bulbs",
	"/shop_1.html": "https://marrowby.example/shop", "/chat": "https://marrowby.example/contact"}

// OldTable is a table of where the old host leads, as the house has it.
const OldTable = "path,destination,name\n/spring,https://marrowby.example/spring,Spring list\n" +
	"/bulbs/2025,https://marrowby.example/bulbs,Bulbs of 2025\n/shop_1.html,https://marrowby.example/shop,Shop\n" +
	"/chat,https://marrowby.example/talk,Chat\n"

// Ask answers for leaf.marrowby.example alone.
func (World) Ask(_ context.Context, address string) (to string, err error) {
	path, ok := strings.CutPrefix(address, "https://leaf.marrowby.example")
	if !ok {
		return "", errors.New("standin: no such host")
	}
	return oldPaths[strings.ToLower(path)], nil
}

// Status answers for the house's own site, on which one page is missing.
func (World) Status(_ context.Context, address string) (int, error) {
	switch {
	case !strings.HasPrefix(address, "https://marrowby.example"):
		return 0, errors.New("standin: no such host")
	case strings.HasPrefix(address, "https://marrowby.example/seed-list"):
		return http.StatusNotFound, nil
	}
	return http.StatusOK, nil
}

// Certificate ends in two months.
func (World) Certificate(context.Context, string) (time.Time, error) {
	return time.Now().AddDate(0, 2, 0), nil
}
