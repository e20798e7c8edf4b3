package link

import (
	"context"
	"errors"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/miekg/dns"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/core/style"
	"sodrik/internal/eventlog"
	"sodrik/internal/housestyle"
)

// names is a name server on loopback, which holds TXT records and can be told to fail.
type names struct {
	records map[string][]string
	broken  bool
	asked   int
}

func (n *names) ServeDNS(w dns.ResponseWriter, r *dns.Msg) {
	n.asked++
	m := new(dns.Msg)
	m.SetReply(r)
	texts, there := n.records[strings.TrimSuffix(r.Question[0].Name, ".")]
	switch {
	case n.broken:
		m.Rcode = dns.RcodeServerFailure
	case !there:
		m.Rcode = dns.RcodeNameError
	case r.Question[0].Qtype == dns.TypeTXT:
		for _, text := range texts {
			m.Answer = append(m.Answer, &dns.TXT{Hdr: dns.RR_Header{Name: r.Question[0].Name, Rrtype: dns.TypeTXT,
				Class: dns.ClassINET}, Txt: []string{text}})
		}
	}
	w.WriteMsg(m)
}

// asking has a store ask a name server of its own.
func asking(t *testing.T, s *Store) *names {
	t.Helper()
	n := &names{records: map[string][]string{}}
	conn, err := net.ListenPacket("udp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	server := &dns.Server{PacketConn: conn, Handler: n}
	go server.ActivateAndServe()
	t.Cleanup(func() { server.Shutdown() })
	s.Resolver = &net.Resolver{PreferGo: true, Dial: func(ctx context.Context, _, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, "udp", conn.LocalAddr().String())
	}}
	return n
}

func host(t *testing.T, s *Store, name string) Host {
	t.Helper()
	list, _, err := s.Hosts(t.Context(), ws)
	if err != nil {
		t.Fatal(err)
	}
	for _, h := range list {
		if h.Name == name {
			return h
		}
	}
	return Host{}
}

func problemOf(err error) string {
	var list problem.List
	if errors.As(err, &list) {
		return list[0].Field + " " + list[0].Code
	}
	if err != nil {
		return err.Error()
	}
	return ""
}

// TestHosts: a host is proved by its record, asked for again, chosen for new links, and goes on answering once its record is
// gone.
func TestHosts(t *testing.T) {
	s := open(t)
	now := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	s.Codes.Now = func() time.Time { return now }
	n := asking(t, s)
	ctx := t.Context()
	const seed = "seed.marrowby.example"
	for text, want := range map[string]string{"": "/host host", "seed": "/host host", "127.0.0.1": "/host host",
		"seed.marrowby.example:8443": "/host host.port", "https://GO.marrowby.example/": "/host host.server"} {
		t.Run(text, func(t *testing.T) {
			if _, err := s.AddHost(ctx, ws, text); problemOf(err) != want {
				t.Errorf("%q: %v, want %s", text, err, want)
			}
		})
	}
	name, err := s.AddHost(ctx, ws, " https://Seed.Marrowby.example/ ")
	if err != nil || name != seed || n.asked == 0 {
		t.Fatalf("%q %v, asked %d times", name, err, n.asked)
	}
	if _, err := s.AddHost(ctx, ws, seed); problemOf(err) != "/host host.twice" {
		t.Errorf("twice: %v", err)
	}
	if h := host(t, s, seed); h.Proved != nil || h.Usable() || h.Asked == nil {
		t.Errorf("without a record: %+v", h)
	}
	if err := s.ChooseHost(ctx, ws, seed); problemOf(err) != "/host host.unproved" {
		t.Errorf("chosen unproved: %v", err)
	}
	_, token, err := s.Hosts(ctx, ws)
	if err != nil || len(token) < 20 {
		t.Fatalf("the token is %q, %v", token, err)
	}
	ask := func() Host {
		t.Helper()
		if err := s.AskHost(ctx, ws, seed); err != nil {
			t.Fatal(err)
		}
		return host(t, s, seed)
	}
	record := shortlink.Record(seed)
	n.records[record] = []string{"v=spf1 -all", shortlink.Proof("other")}
	if h := ask(); h.Proved != nil {
		t.Errorf("proved by another's token: %+v", h)
	}
	n.records[record] = []string{"v=spf1 -all", shortlink.Proof(token)}
	if h := ask(); h.Proved == nil || !h.Usable() {
		t.Errorf("with its record: %+v", h)
	}

	// Another workspace cannot prove it as well, not even with its own record beside.
	if _, err := s.AddHost(ctx, elsewhere, seed); err != nil {
		t.Fatal(err)
	}
	_, theirs, err := s.Hosts(ctx, elsewhere)
	if err != nil || theirs == token {
		t.Fatalf("two workspaces have one token, %v", err)
	}
	n.records[record] = append(n.records[record], shortlink.Proof(theirs))
	if err := s.AskHost(ctx, elsewhere, seed); problemOf(err) != "/host host.taken" {
		t.Errorf("proved by two: %v", err)
	}

	// New links are drawn there once it is chosen; a word may stand on any host of the workspace.
	first := Links(turn(t, s, fair(t, s)).Rendition.Job)[0].Address
	if err := s.ChooseHost(ctx, ws, seed); err != nil {
		t.Fatal(err)
	}
	if base, err := s.Base(ctx, ws); base != "https://"+seed || err != nil {
		t.Errorf("links are drawn at %q, %v", base, err)
	}
	id := fair(t, s)
	second := Links(turn(t, s, id).Rendition.Job)[0].Address
	if first.Host != "go.marrowby.example" || second.Host != seed {
		t.Errorf("links are drawn at %s, then at %s", first, second)
	}
	c, err := s.Word(ctx, ws, id, -1, "go.marrowby.example/tulip", code.Anyhow)
	if err != nil || Links(c.Rendition.Job)[0].Address.String() != "go.marrowby.example/TULIP" {
		t.Errorf("a word on another host: %v", err)
	}
	if _, err := s.Word(ctx, ws, id, -1, "bbc.example/tulip", code.Anyhow); problemOf(err) != "/word link.elsewhere" {
		t.Errorf("a word on a host that is not ours: %v", err)
	}
	if _, err := s.Word(ctx, ws, id, -1, seed+"/crocus", code.Anyhow); err != nil {
		t.Error(err)
	}
	if err := s.RemoveHost(ctx, ws, seed); problemOf(err) != "/host host.links" {
		t.Errorf("taken away with links on it: %v", err)
	}

	// Those who answer know it, a name server that fails takes nothing away, a record that is gone stops new links alone.
	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	r := service(t, s, log)
	start(t, NewRelay(s.Codes.DB, log).Run)
	until(t, "the host is answered for", 5*time.Second, func() bool { w, ours := r.Answers(seed); return ours && w == inWS })
	n.broken = true
	if h := ask(); !h.Usable() || h.Trouble == "" {
		t.Errorf("while the name server fails: %+v", h)
	}
	n.broken = false
	delete(n.records, record)
	now = now.AddDate(0, 0, 1)
	if missing, err := s.AskAll(ctx); missing != 1 || err != nil {
		t.Errorf("%d are missing, %v", missing, err)
	}
	if h := host(t, s, seed); h.Usable() || h.Missing == nil || !h.Missing.Equal(now) || h.Trouble != "" {
		t.Errorf("without its record any more: %+v", h)
	}
	gone := now
	now = now.AddDate(0, 0, 1)
	if h := ask(); !h.Missing.Equal(gone) {
		t.Errorf("it is missing since %v", h.Missing)
	}
	if base, err := s.Base(ctx, ws); base != "https://go.marrowby.example" || err != nil {
		t.Errorf("links are drawn at %q, %v", base, err)
	}
	if _, ours := r.Answers(seed); !ours {
		t.Error("a host whose record is gone is not answered for any more")
	}
	n.records[record] = []string{shortlink.Proof(token)}
	if h := ask(); !h.Usable() || h.Missing != nil {
		t.Errorf("with its record again: %+v", h)
	}

	// One without links can be taken away, and is not answered for then.
	n.records[shortlink.Record("spare.marrowby.example")] = []string{shortlink.Proof(token)}
	if _, err := s.AddHost(ctx, ws, "spare.marrowby.example"); err != nil {
		t.Fatal(err)
	}
	until(t, "a second host", 5*time.Second, func() bool { _, ours := r.Answers("spare.marrowby.example"); return ours })
	if err := s.RemoveHost(ctx, ws, "spare.marrowby.example"); err != nil {
		t.Fatal(err)
	}
	until(t, "it is gone", 5*time.Second, func() bool { _, ours := r.Answers("spare.marrowby.example"); return !ours })
	if err := s.RemoveHost(ctx, ws, "go.marrowby.example"); !errors.Is(err, code.ErrNotFound) {
		t.Errorf("the server's own is taken away: %v", err)
	}
	if err := s.ChooseHost(ctx, ws, "go.marrowby.example"); err != nil {
		t.Fatal(err)
	}
	if base, err := s.Base(ctx, ws); base != "https://go.marrowby.example" || err != nil {
		t.Errorf("links are drawn at %q, %v", base, err)
	}
}

// TestBarred: what an owner or the operator does not want is never made live, by whichever act; what is live can be paused
// and goes on.
func TestBarred(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	issue(t, s, id)
	edit := func(to string) error {
		_, err := s.Edit(ctx, ws, id, map[string]string{"to": to}, "GB", 0)
		return err
	}
	live := func(to string) {
		t.Helper()
		if err := edit(to); err != nil {
			t.Fatal(err)
		}
		if _, err := s.MakeLive(ctx, ws, id, 0); err != nil {
			t.Fatal(err)
		}
	}
	live("https://shop.example/a")
	live("https://marrowby.example/b")
	if err := edit("https://shop.example/waits"); err != nil { // a draft from before the rule
		t.Fatal(err)
	}
	if err := s.Allow(ctx, ws, "marrowby.example, one two"); problemOf(err) != "/hosts host" {
		t.Errorf("words that are no hosts: %v", err)
	}
	if err := s.Allow(ctx, ws, "marrowby.example"); err != nil {
		t.Fatal(err)
	}
	if list, err := s.Allowed(ctx, elsewhere); list != nil || err != nil {
		t.Errorf("another workspace is bound too: %v %v", list, err)
	}
	if _, err := s.MakeLive(ctx, ws, id, 0); problemOf(err) != "/to lead.host" {
		t.Errorf("a draft from before: %v", err)
	}
	if err := edit("https://shop.example/c"); problemOf(err) != "/to lead.host" {
		t.Errorf("typed: %v", err)
	}
	shop := map[string]any{"kind": "url", "url": "https://shop.example"}
	if _, err := s.Set(ctx, ws, id, map[string]any{"to": shop}, 0); problemOf(
		err,
	) !=
		"/to lead.host" {
		t.Errorf("by the API: %v", err)
	}
	if _, err := s.GoBack(ctx, ws, id, 2, 0); problemOf(err) != "/to lead.host" {
		t.Errorf("back to it: %v", err)
	}
	if _, err := s.SwapAll(ctx, ws, []string{id}, Swap{Find: "marrowby.example/b", With: "shop.example/b"}); problemOf(err) !=
		"/with lead.host" {
		t.Errorf("with many: %v", err)
	}
	other := create(t, s, `{"name":"Shop","content":{"kind":"url","url":"shop.example"},`+places+`}`)
	if _, err := s.Turn(ctx, ws, other, code.Anyhow); problemOf(err) != "/content/kind lead.host" {
		t.Errorf("turned: %v", err)
	}
	for _, rest := range []bool{true, false} {
		if _, err := s.Rest(ctx, ws, id, rest, 0); err != nil {
			t.Errorf("paused %v: %v", rest, err)
		}
	}
	s.Blocked = func(host string) bool { return host == "marrowby.example" }
	for _, rest := range []bool{true, false} {
		if _, err := s.Rest(ctx, ws, id, rest, 0); err != nil {
			t.Errorf("of a host that is blocked since, paused %v: %v", rest, err)
		}
	}
	if err := edit("https://marrowby.example/d"); problemOf(err) != "/to lead.blocked" {
		t.Errorf("blocked: %v", err)
	}
	s.Blocked = nil
	if err := s.Allow(ctx, ws, " "); err != nil {
		t.Fatal(err)
	}
	live("https://shop.example/free")
	if got := answers(t, s); !strings.Contains(got[a.String()], "shop.example/free") {
		t.Errorf("without a rule any more: %v", got)
	}
}

// TestDress: quiet pages stand in the colours of the house, and follow a change of those.
func TestDress(t *testing.T) {
	s := open(t)
	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	r := service(t, s, log)
	start(t, NewRelay(s.Codes.DB, log).Run)
	house := &housestyle.Store{DB: s.Codes.DB, Now: s.Codes.Now, Changed: s.Dress}
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	issue(t, s, id)
	page := func() string {
		w := httptest.NewRecorder()
		r.ServeHTTP(w, httptest.NewRequest(http.MethodGet, a.URL()+"/where", nil))
		return w.Body.String()
	}
	until(t, "its name", 5*time.Second, func() bool { return strings.Contains(page(), `class="house">`+inWS) })
	paint := func(text string) {
		t.Helper()
		v, _ := ink.Parse(text)
		if _, err := house.Change(t.Context(), access.OfProgram(inWS, "Ada Thorne"), -1, func(h *style.Style) error {
			h.Colours = []style.Colour{{Key: "main", Name: "Main", Value: v}}
			return nil
		}); err != nil {
			t.Fatal(err)
		}
	}
	paint("#12352b")
	until(t, "its colour", 5*time.Second, func() bool { return strings.Contains(page(), "--pine: #12352b") })
	paint("#ffffee")
	until(t, "none that can be read", 5*time.Second, func() bool { return !strings.Contains(page(), "<style>@media") })
}

// TestRegistered: until when a name is registered is noted by owners, as a date, and taken back by none.
func TestRegistered(t *testing.T) {
	s := open(t)
	s.Resolver = &net.Resolver{}
	if _, err := s.Codes.DB.Pool.Exec(t.Context(), `INSERT INTO link_hosts (workspace, host, token, added_at)
		VALUES ($1, 'qr.marrowby.example', 'x', now())`, inWS); err != nil {
		t.Fatal(err)
	}
	noted := func() *time.Time {
		t.Helper()
		list, _, err := s.Hosts(t.Context(), ws)
		if err != nil || len(list) != 2 {
			t.Fatal(list, err)
		}
		return list[1].Registered
	}
	if err := s.Registered(t.Context(), ws, "qr.marrowby.example", "2027-12-31"); err != nil {
		t.Fatal(err)
	}
	if at := noted(); at == nil || at.Format(time.DateOnly) != "2027-12-31" {
		t.Errorf("noted is %v", at)
	}
	for _, bad := range []string{"31.12.2027", "soon", "2027-02-30"} {
		t.Run(bad, func(t *testing.T) {
			if err := s.Registered(t.Context(), ws, "qr.marrowby.example", bad); !refused(err, "/registered") {
				t.Errorf("%q: %v", bad, err)
			}
		})
	}
	if err := s.Registered(t.Context(), ws, "other.example", "2027-12-31"); err == nil {
		t.Error("another's host is noted")
	}
	if err := s.Registered(t.Context(), ws, "qr.marrowby.example", ""); err != nil || noted() != nil {
		t.Errorf("it is not taken back: %v, %v", noted(), err)
	}
}

// TestHung: a place hangs as it is noted, else since its code first led somewhere, by the dates of where somebody looks from.
func TestHung(t *testing.T) {
	zone, err := time.LoadLocation("Pacific/Auckland")
	if err != nil {
		t.Fatal(err)
	}
	from := time.Date(2027, 3, 1, 0, 0, 0, 0, zone)
	late := time.Date(2027, 3, 4, 20, 0, 0, 0, time.UTC) // the fifth there
	for name, c := range map[string]struct {
		since       time.Time
		from, until string
		first, last int
	}{
		"long before": {from.AddDate(-1, 0, 0), "", "", 0, 28}, "within": {late, "", "", 4, 28},
		"afterwards": {from.AddDate(0, 2, 0), "", "", 28, 28},
		"noted":      {late, "2027-03-02", "2027-03-10", 1, 10}, "noted to come": {late, "2027-06-01", "", 28, 28},
		"until before it led": {late, "", "2027-03-02", 2, 2}, "not known": {time.Time{}, "", "", 0, 28},
	} {
		t.Run(name, func(t *testing.T) {
			p := Placed{Since: c.since, Noted: leads.Hanging{From: c.from, Until: c.until}}
			if first, after := p.Hung(from, 28); first != c.first || after != c.last {
				t.Errorf("%s: from %d to %d", name, first, after)
			}
		})
	}
}
