package redirect

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/scan"
)

//go:embed pages.html
var pagesText string

var pages = template.Must(template.New("pages").Parse(pagesText))

// styleHash allows the pages' own style, and no other.
var styleHash = func() string {
	_, style, _ := strings.Cut(pagesText, "<style>")
	style, _, _ = strings.Cut(style, "</style>")
	return hashOf(style)
}()

// scriptHash allows the script by which a phone looks where it is, and no other.
var scriptHash = func() string {
	_, script, _ := strings.Cut(pagesText, "<script>")
	script, _, _ = strings.Cut(script, "</script>")
	return hashOf(script)
}()

// hashOf is that of a style, as a content security policy has it.
func hashOf(style string) string {
	sum := sha256.Sum256([]byte(style))
	return base64.StdEncoding.EncodeToString(sum[:])
}

var hexColour = regexp.MustCompile(`^#[0-9a-f]{6}$`)

// colours are the house's own as a style; they stand in for the usual ones where a phone is not set to dark.
func (h *house) colours() template.CSS {
	if !hexColour.MatchString(h.Ink) || !hexColour.MatchString(h.Paper) {
		return ""
	}
	return template.CSS("@media not (prefers-color-scheme: dark) { :root { --desk: " + h.Paper + "; --pine: " + h.Ink +
		"; --head: " +
		h.Ink + "; } }")
}

// page is what a phone is shown where nothing is led to at once.
type page struct {
	Title   string
	Lines   []string
	Label   string       // of the button
	To      template.URL // of the button; its scheme was chosen by core/leads
	Leads   string       // an address, to be read before one goes there
	Missing bool
	Report  string       // path of the link that can be reported
	Near    *leads.Near  // what a phone compares its place with
	Yes, No string       // where its answers lead
	Of, Why string       // of a report, as it is written
	Most    int          // characters of it
	House   string       // name of whoever is behind the link
	Colours template.CSS // of theirs
}

// ServeHTTP answers a phone.
func (s *Service) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	host := s.host(r.Host)
	whose, ours := s.Answers(host)
	switch {
	case !ours:
		http.Error(w, "This server does not answer for that host.", http.StatusMisdirectedRequest)
		return
	case r.Method != http.MethodGet && r.Method != http.MethodHead:
		h.Set("Allow", "GET, HEAD")
		http.Error(w, "A short link is asked for with GET.", http.StatusMethodNotAllowed)
		return
	case r.URL.Path == "/robots.txt":
		h.Set("Content-Type", "text/plain; charset=utf-8")
		w.Write([]byte("User-agent: *\nDisallow: /\n"))
		return
	}
	if strings.HasPrefix(r.URL.Path, leads.FilesBelow) {
		if !s.file(w, r, host) {
			s.missing(w, r, host, whose)
		}
		return
	}
	if strings.EqualFold(strings.Trim(r.URL.Path, "/"), "report") {
		s.report(w, r, host, whose)
		return
	}
	if strings.EqualFold(strings.Trim(r.URL.Path, "/"), "reached") {
		s.reached(w, r, host)
		return
	}
	live, link, below := s.resolve(host, strings.Trim(r.URL.Path, "/"))
	if live == nil || whose != "" && live.Workspace != whose { // a host that one has proved answers for no other
		s.missing(w, r, host, whose)
		return
	}
	who := s.askerOf(r)
	person := below == "" && r.Method == http.MethodGet && !who.agent.robot && !own(r.Context()) && !live.Trial
	got := s.answer(live, s.o.Now(), who, person)
	act := got.act
	if id := r.URL.Query().Get("route"); below != "" && id != "" {
		act = named(live, id, act)
	}
	switch {
	case below == "":
		if !who.answers {
			s.keep(who, scan.Scan, link, live, got)
		}
		s.do(w, who, live, got, link)
	case strings.EqualFold(below, "where"):
		s.keep(who, scan.Where, link, live, got)
		s.where(w, live, act, link)
	case act.File != nil && below == act.File.Name:
		h.Set("Content-Type", act.File.Type)
		h.Set("Content-Disposition", `attachment; filename="`+act.File.Name+`"`)
		h.Set("Content-Length", strconv.Itoa(len(act.File.Text)))
		w.Write([]byte(act.File.Text))
	default:
		s.missing(w, r, host, whose)
	}
}

// resolve finds the link of a path, which may be one that came from elsewhere, of several parts, and what is asked for below it.
func (s *Service) resolve(host, path string) (live *leads.Live, link, below string) {
	link = host + "/" + strings.ToUpper(path)
	if live = s.find(link); live != nil {
		return live, link, ""
	}
	if i := strings.LastIndexByte(path, '/'); i > 0 {
		link, below = host+"/"+strings.ToUpper(path[:i]), path[i+1:]
		live = s.find(link)
	}
	return live, link, below
}

// host is the name that was asked for, without the port of its scheme, as ours.
func (s *Service) host(asked string) string {
	host := strings.ToLower(asked)
	for _, port := range []string{":443", ":80"} {
		host = strings.TrimSuffix(host, port)
	}
	host = strings.TrimSuffix(host, ".")
	if s.o.Alias != nil {
		if as, ok := s.o.Alias(host); ok {
			return as
		}
	}
	return host
}

// ours is the key of the context of our own looks, of which nothing is kept.
type ours struct{}

func uncounted(ctx context.Context) context.Context { return context.WithValue(ctx, ours{}, true) }

func own(ctx context.Context) bool { return ctx.Value(ours{}) != nil }

// keep puts what was asked into the log before the answer leaves.
func (s *Service) keep(who *asker, kind scan.Kind, link string, live *leads.Live, got answered) {
	r := who.r
	if own(r.Context()) || live != nil && live.Trial {
		return
	}
	if kind == scan.Unknown && !s.unknown.Allow() { // anybody can make up paths by the thousand
		s.unkept.Add(1)
		return
	}
	if r.Method == http.MethodHead {
		kind = scan.Head
	}
	e := s.eventOf(who, s.o.Now(), kind, link)
	if live != nil {
		e.Workspace, e.Code, e.Place, e.Does = live.Workspace, live.Code, live.Place, string(got.act.Does)
	}
	if !e.Bare {
		e.Route, e.Draw = got.route, got.draw
	}
	s.recorder.record(e, s.o.Wait)
}

func (s *Service) do(w http.ResponseWriter, who *asker, live *leads.Live, got answered, link string) {
	act := got.act
	switch act.Does {
	case leads.Goes:
		to := act.To
		if live.KeepQuery {
			to = withQuery(to, who.others())
		}
		w.Header().Set("Location", to)
		if live.MaxAge > 0 {
			w.Header().Set("Cache-Control", "max-age="+strconv.Itoa(live.MaxAge))
		}
		w.WriteHeader(live.Status)
	case leads.Nears:
		s.show(w, http.StatusOK, live.Workspace, who.nearPage(act, link))
	default:
		p := page{Title: act.Title, Lines: act.Lines, Label: act.Label, To: template.URL(act.To)}
		_, p.Report, _ = strings.Cut(link, "/")
		if act.File != nil {
			at := url.URL{Path: "/" + p.Report + "/" + act.File.Name}
			if got.route != "" {
				at.RawQuery = "route=" + got.route
			}
			p.To = template.URL(at.String())
		}
		s.show(w, http.StatusOK, live.Workspace, p)
	}
}

// where shows where a link leads, before anybody goes there.
func (s *Service) where(w http.ResponseWriter, live *leads.Live, act leads.Act, link string) {
	p := page{Title: act.Title, Label: act.Label, To: template.URL(act.To)}
	switch act.Does {
	case leads.Goes:
		p = page{Title: "This code leads to", Leads: act.To, Label: "Go there", To: template.URL(act.To)}
	case leads.Asks, leads.Nears:
		p = page{Title: "This code asks: " + act.Title, Lines: act.Lines}
	}
	_, p.Report, _ = strings.Cut(link, "/")
	s.show(w, http.StatusOK, live.Workspace, p)
}

// missing is the quiet page of a host for a path that is no link. Such paths are kept without what was asked for, which
// anybody can make up.
func (s *Service) missing(w http.ResponseWriter, r *http.Request, host, whose string) {
	s.keep(s.askerOf(r), scan.Unknown, host, nil, answered{})
	s.show(w, http.StatusNotFound, whose, page{Title: "Nothing is here.", Missing: true,
		Lines: []string{"The code may have been read wrong. Scan it again, or ask whoever put it up."}})
}

// show shows a page in the colours of a workspace.
func (s *Service) show(w http.ResponseWriter, status int, workspace string, p page) {
	styles := "'sha256-" + styleHash + "'"
	if v, ok := s.houses.Load(workspace); ok {
		of := v.(*house)
		p.House = of.Name
		if p.Colours = of.colours(); p.Colours != "" {
			styles += " 'sha256-" + hashOf(string(p.Colours)) + "'"
		}
	}
	script := ""
	if p.Near != nil {
		script = " script-src 'sha256-" + scriptHash + "';"
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Content-Security-Policy",
		"default-src 'none';"+script+" style-src "+styles+"; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
	w.WriteHeader(status)
	pages.Execute(w, p)
}

// withQuery adds what follows the question mark of a scanned address to a destination, before its fragment.
func withQuery(to, query string) string {
	if query == "" {
		return to
	}
	to, fragment, anchored := strings.Cut(to, "#")
	mark := "?"
	if strings.Contains(to, "?") {
		mark = "&"
	}
	to += mark + ascii(query)
	if anchored {
		to += "#" + fragment
	}
	return to
}

// ascii escapes what a URI cannot hold (RFC 3986, 2.1) and leaves the rest.
func ascii(query string) string {
	var b strings.Builder
	for i := range len(query) {
		if c := query[i]; c <= ' ' || c > '~' || strings.IndexByte("\"<>\\^`{|}#", c) >= 0 {
			fmt.Fprintf(&b, "%%%02X", c)
		} else {
			b.WriteByte(c)
		}
	}
	return b.String()
}
