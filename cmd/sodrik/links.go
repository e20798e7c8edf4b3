package main

import (
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net"
	"net/netip"
	"os"
	"os/signal"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"sodrik/internal/db"
	"sodrik/internal/eventlog"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/redirect"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
	"sodrik/internal/web"
)

func init() {
	commands = append(commands,
		command{"redirect", "", "answer those who scan short links, with the log that SODRIK_NATS names", redirectOnly},
		command{"log", "", "keep the log of scans and live links, for several processes", logOnly})
}

// linkSettings say where short links stand, and the log behind them.
type linkSettings struct {
	base     string // of links that are drawn, such as https://go.marrowby.example; "" for none
	hosts    string // further hosts, with commas between
	addr     string // to listen on
	nats     string // of a log elsewhere
	dir      string // of one here
	alias    func(asked string) (host string, ok bool)
	certs    string // address on which a proxy asks which hosts are ours; "" for none
	replicas int    // on how many servers of a cluster all is kept
	places   string // file of a database of places; "" for none
	proxies  []netip.Prefix
	metrics  string // of sodrik redirect: address for Prometheus; "" for none
}

// linksFrom reads what the environment says.
func linksFrom() linkSettings {
	return linkSettings{base: os.Getenv("SODRIK_LINKS"), hosts: os.Getenv("SODRIK_LINK_HOSTS"),
		addr: env("SODRIK_LINKS_ADDR", "127.0.0.1:8095"), nats: os.Getenv("SODRIK_NATS"),
		certs: os.Getenv("SODRIK_CERTIFICATES_ADDR"), dir: env("SODRIK_LOG", "sodrik-log"), places: os.Getenv("SODRIK_PLACES"),
		replicas: max(1, number(os.Getenv("SODRIK_REPLICAS")))}
}

// number is a small whole number of a setting, 0 where it is none.
func number(text string) int {
	n, err := strconv.Atoi(text)
	if err != nil || n > 5 {
		return 0
	}
	return n
}

// checked is an error where the base is none.
func (o linkSettings) checked() error {
	if o.base == "" {
		return nil
	}
	scheme, host, ok := strings.Cut(o.base, "://")
	if !ok || scheme != "https" && scheme != "http" || host == "" || strings.Contains(strings.TrimSuffix(host, "/"), "/") {
		return status{exitProblems, fmt.Sprintf("SODRIK_LINKS is %q; write scheme and host of short links, such as "+
			"https://go.marrowby.example", o.base)}
	}
	return nil
}

// all are the hosts that are answered for.
func (o linkSettings) all() (out []string) {
	if _, host, ok := strings.Cut(o.base, "://"); ok {
		out = append(out, strings.TrimSuffix(host, "/"))
	}
	return append(out, strings.FieldsFunc(o.hosts, func(r rune) bool { return r == ',' || r == ' ' })...)
}

// opened opens the log.
func (o linkSettings) opened(ctx context.Context) (*eventlog.Log, error) {
	l, err := eventlog.Open(ctx, eventlog.Options{Dir: o.dir, URL: o.nats, Replicas: o.replicas})
	if errors.Is(err, eventlog.ErrOwned) {
		return nil, status{exitFailed, strings.TrimPrefix(err.Error(), "eventlog: ")}
	}
	return l, err
}

func (o linkSettings) service(log *eventlog.Log, key *seal.Box) (*redirect.Service, error) {
	options := redirect.Options{Log: log, Seal: key, Now: time.Now, Hosts: o.all(), Alias: o.alias, Proxies: o.proxies}
	if o.places != "" {
		var err error
		if options.Places, err = redirect.OpenPlaces(o.places); err != nil {
			return nil, status{exitProblems, fmt.Sprintf("SODRIK_PLACES: %v", err)}
		}
	}
	return redirect.New(options), nil
}

// answering is a part of a process that answers scans: stop ends it, once what it has taken is kept.
type answering struct {
	service *redirect.Service
	log     *eventlog.Log
	stop    func()
}

// answer does within this process all that is behind short links: it answers scans, with a listener of its own, brings live
// links to where they are answered from, and scans into the database.
func (o linkSettings) answer(ctx context.Context, l net.Listener, d *db.DB, key *seal.Box, links *link.Store) (*answering,
	error) {
	log, err := o.opened(ctx)
	if err != nil {
		l.Close()
		return nil, err
	}
	s, err := o.service(log, key)
	if err != nil {
		l.Close()
		log.Close()
		return nil, err
	}
	relay := link.NewRelay(d, log)
	links.Soon = relay.Soon
	if err := o.certificates(ctx, s); err != nil {
		l.Close()
		log.Close()
		return nil, err
	}
	behind, end := context.WithCancel(context.WithoutCancel(ctx)) // which go on until the last phone has its answer
	var parts sync.WaitGroup
	parts.Go(func() { s.Run(behind) })
	parts.Go(func() { relay.Run(behind) })
	parts.Go(func() { (&scans.Ingest{DB: d, Log: log, Now: time.Now}).Run(behind) })
	told := &notices.Store{DB: d, Seal: key, Now: time.Now}
	parts.Go(func() { told.FollowGaps(behind, func() notices.Gap { return notices.Gap(s.Gap()) }) })
	asked, stop := context.WithCancel(ctx)
	answered := make(chan struct{})
	go func() {
		defer func() { answered <- struct{}{} }()
		if err := answerAt(asked, l, s); err != nil {
			slog.Error("short links are not answered", "error", err)
		}
	}()
	return &answering{s, log, func() {
		stop()
		<-answered
		end()
		parts.Wait()
		log.Close()
	}}, nil
}

// countsOf has the counts of a service read by Prometheus, and its readiness say whether scans are kept.
func countsOf(m *web.Metrics, s *redirect.Service) {
	m.Count("sodrik_scans_lost_total", "Scans that could not be kept, and will never be counted.", s.Dropped)
	m.Count("sodrik_unknown_paths_unkept_total", "Paths that are no link, asked for too often to be kept each.", s.Unkept)
	m.Count("sodrik_stocks_unasked_total",
		"Times that the count of a quota could not be asked for, so that the next route held.", s.Unasked)
	m.Gauge("sodrik_scans_waiting", "Scans that wait for the log.", func() float64 { return float64(s.Waiting()) })
	m.Gauge("sodrik_scans_unkept_seconds", "For how long the log has kept no scans; 0 while it does.", func() float64 {
		if g := s.Gap(); !g.Since.IsZero() && g.Until.IsZero() {
			return time.Since(g.Since).Seconds()
		}
		return 0
	})
	m.Ready = func() error {
		if g := s.Gap(); !g.Since.IsZero() && g.Until.IsZero() {
			return fmt.Errorf("scans are not counted since %s; %d are lost, %d wait", g.Since.UTC().Format(time.RFC3339),
				g.Lost, s.Waiting())
		}
		return nil
	}
}

// certificates answers a proxy that asks which hosts are ours, until ctx ends.
func (o linkSettings) certificates(ctx context.Context, s *redirect.Service) error {
	if o.certs == "" {
		return nil
	}
	l, err := listen(o.certs)
	if err != nil {
		return err
	}
	go func() {
		if err := runServer(ctx, l, s.Certificates()); err != nil {
			slog.Error("a proxy is not told which hosts are ours", "error", err)
		}
	}()
	return nil
}

// answerAt answers at a listener until ctx ends and all who asked have their answer.
func answerAt(ctx context.Context, l net.Listener, s *redirect.Service) error {
	select {
	case <-s.Ready(): // who scans before that waits, and does not find nothing
	case <-ctx.Done():
	}
	return runServer(ctx, l, s)
}

// next is an address with the port after that of another.
func next(addr string) string {
	host, port, err := net.SplitHostPort(addr)
	n, bad := strconv.Atoi(port)
	if err != nil || bad != nil || n == 0 {
		return "127.0.0.1:0"
	}
	return net.JoinHostPort(host, strconv.Itoa(n+1))
}

// redirectOnly answers scans, and does nothing else: neither the database nor the pages are needed.
func redirectOnly(args []string) error {
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	o := linksFrom()
	if err := flags("redirect", args, func(f *flag.FlagSet) {
		f.StringVar(&o.addr, "addr", o.addr, "`address` to listen on; SODRIK_LINKS_ADDR sets it too")
		f.StringVar(&o.metrics, "metrics", os.Getenv("SODRIK_METRICS"),
			"`address` at which Prometheus reads counts, and /readyz says whether scans are kept; SODRIK_METRICS. Nowhere if not set")
		f.Usage = redirectUsage(f)
	}); err != nil {
		return err
	}
	if err := cmp.Or(boundMemory(), o.checked()); err != nil {
		return err
	}
	var err error
	if o.proxies, err = networks("SODRIK_PROXIES", os.Getenv("SODRIK_PROXIES")); err != nil {
		return err
	}
	if o.base == "" {
		return status{exitProblems, "SODRIK_LINKS is not set; it names scheme and host of short links, such as " +
			"https://go.marrowby.example"}
	}
	key, err := keyNamed()
	if err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := listen(o.addr)
	if err != nil {
		return err
	}
	defer l.Close()
	log, err := o.opened(ctx)
	if err != nil {
		return err
	}
	defer log.Close()
	s, err := o.service(log, key)
	if err != nil {
		return err
	}
	if err := o.certificates(ctx, s); err != nil {
		return err
	}
	m := web.NewMetrics(nil)
	countsOf(m, s)
	if err := serveMetrics(ctx, o.metrics, m); err != nil {
		return err
	}
	behind, end := context.WithCancel(context.WithoutCancel(ctx))
	ended := make(chan struct{})
	go func() { defer close(ended); s.Run(behind) }()
	go func() {
		<-s.Ready()
		fmt.Printf("Answering for %s at %s, %d links.\n", strings.Join(o.all(), ", "), l.Addr(), s.Links())
	}()
	err = answerAt(ctx, l, s)
	end() // once the last phone has its answer
	<-ended
	return err
}

// logOnly keeps the log for other processes.
func logOnly(args []string) error {
	o := linksFrom()
	addr := env("SODRIK_LOG_ADDR", "127.0.0.1:4222")
	var name, cluster, peers string
	if err := flags("log", args, func(f *flag.FlagSet) {
		f.StringVar(&addr, "addr", addr, "`address` to listen on; SODRIK_LOG_ADDR sets it too")
		f.StringVar(&o.dir, "dir", o.dir, "`folder` of the log; SODRIK_LOG sets it too")
		f.StringVar(&name, "name", "", "of several: the `name` of this one")
		f.StringVar(&cluster, "cluster", "", "of several: `address` on which the others reach this one")
		f.StringVar(&peers, "peers", "", "of several: the `addresses` of all of them, with commas between")
		f.Usage = logUsage(f)
	}); err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := eventlog.Open(ctx, eventlog.Options{Dir: o.dir, Listen: addr, Name: name, Cluster: cluster, Peers: o.peers(peers),
		ServeOnly: true})
	if errors.Is(err, eventlog.ErrOwned) {
		return status{exitFailed, fmt.Sprintf("Another process has the log in %s.", o.dir)}
	}
	if err != nil {
		return err
	}
	defer l.Close()
	fmt.Printf("The log is at %s. Name it in SODRIK_NATS for serve and redirect.\n", l.URL())
	<-ctx.Done()
	return nil
}

// peers are the addresses of the servers of a cluster, as they name one another.
func (linkSettings) peers(list string) (out []string) {
	for _, a := range strings.FieldsFunc(list, func(r rune) bool { return r == ',' || r == ' ' }) {
		out = append(out, "nats://"+strings.TrimPrefix(a, "nats://"))
	}
	return out
}

// redirectUsage is the reference of sodrik redirect.
func redirectUsage(f *flag.FlagSet) func() {
	return func() {
		fmt.Fprint(f.Output(), `sodrik redirect answers those who scan short links, and nothing else. sodrik serve does that itself; on more
machines, as many of these as you like share it. It needs the log, and neither the database nor the pages.

Environment
  SODRIK_LINKS       scheme and host of short links, such as https://go.marrowby.example. Needed.
  SODRIK_LINK_HOSTS  further hosts that are answered for, with commas between. Hosts that workspaces prove need no setting.
  SODRIK_CERTIFICATES_ADDR  address on which a proxy asks, with ?domain=, for which hosts it may have certificates.
  SODRIK_PROXIES     networks of proxies in front: their X-Forwarded-For says whose place and phone it is.
  SODRIK_PLACES      a database of places in MaxMind's open format (City), read again when it changes. Without it: unknown.
  SODRIK_NATS        the log, such as nats://127.0.0.1:4222, from sodrik log. Without it, one in the folder of SODRIK_LOG.
  SODRIK_KEY         the key that sodrik serve has. Needed.

Flags
`)
		f.PrintDefaults()
	}
}

// logUsage is the reference of sodrik log.
func logUsage(f *flag.FlagSet) func() {
	return func() {
		fmt.Fprint(f.Output(), `sodrik log keeps scans and live links for several processes, which name it in SODRIK_NATS. A single sodrik serve
needs none: it has one within. What is acknowledged outlives the process; a power cut may cost a tenth of a second.
Three of them hold all of it three times, and go on while two live: give each a name, an address for the others and theirs,
and set SODRIK_REPLICAS=3 and SODRIK_NATS=nats://…,nats://…,nats://… for serve and redirect.

Flags
`)
		f.PrintDefaults()
	}
}
