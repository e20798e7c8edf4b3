package redirect

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"net/http"
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
	sum := sha256.Sum256([]byte(style))
	return base64.StdEncoding.EncodeToString(sum[:])
}()

// page is what a phone is shown where nothing is led to at once.
type page struct {
	Title   string
	Lines   []string
	Label   string       // of the button
	To      template.URL // of the button; its scheme was chosen by core/leads
	Leads   string       // an address, to be read before one goes there
	Missing bool
}

// ServeHTTP answers a phone.
func (s *Service) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	host := s.host(r.Host)
	switch {
	case !s.ours[host]:
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
	path, below, _ := strings.Cut(strings.Trim(r.URL.Path, "/"), "/")
	link := host + "/" + strings.ToUpper(path)
	live := s.find(link)
	if live == nil {
		s.missing(w, r, host)
		return
	}
	act := live.At(s.o.Now())
	switch {
	case below == "":
		s.keep(r, scan.Scan, link, live, act)
		s.do(w, r, live, act, link)
	case strings.EqualFold(below, "where"):
		s.keep(r, scan.Where, link, live, act)
		s.where(w, r, act)
	case act.File != nil && below == act.File.Name:
		h.Set("Content-Type", act.File.Type)
		h.Set("Content-Disposition", `attachment; filename="`+act.File.Name+`"`)
		h.Set("Content-Length", strconv.Itoa(len(act.File.Text)))
		w.Write([]byte(act.File.Text))
	default:
		s.missing(w, r, host)
	}
}

// host is the name that was asked for, without the port of its scheme, as ours.
func (s *Service) host(asked string) string {
	host := strings.ToLower(asked)
	for _, port := range []string{":443", ":80"} {
		host = strings.TrimSuffix(host, port)
	}
	host = strings.TrimSuffix(host, ".")
	if as, ok := s.o.Alias[host]; ok {
		return as
	}
	return host
}

// ours is the key of the context of our own looks, of which nothing is kept.
type ours struct{}

func uncounted(ctx context.Context) context.Context { return context.WithValue(ctx, ours{}, true) }

// keep puts what was asked into the log before the answer leaves.
func (s *Service) keep(r *http.Request, kind scan.Kind, link string, live *leads.Live, act leads.Act) {
	if r.Context().Value(ours{}) != nil {
		return
	}
	if r.Method == http.MethodHead {
		kind = scan.Head
	}
	e := eventOf(r, s.o.Now(), kind, link)
	if live != nil {
		e.Workspace, e.Code, e.Place, e.Does = live.Workspace, live.Code, live.Place, string(act.Does)
	}
	s.recorder.record(e, s.o.Wait)
}

func (s *Service) do(w http.ResponseWriter, r *http.Request, live *leads.Live, act leads.Act, link string) {
	switch act.Does {
	case leads.Goes:
		to := act.To
		if live.KeepQuery {
			to = withQuery(to, r.URL.RawQuery)
		}
		w.Header().Set("Location", to)
		w.WriteHeader(live.Status)
	case leads.Asks:
		p := page{Title: act.Title, Lines: act.Lines, Label: act.Label, To: template.URL(act.To)}
		if act.File != nil {
			_, path, _ := strings.Cut(link, "/")
			p.To = template.URL("/" + path + "/" + act.File.Name)
		}
		show(w, http.StatusOK, p)
	default:
		show(w, http.StatusOK, page{Title: act.Title, Label: act.Label, To: template.URL(act.To)})
	}
}

// where shows where a link leads, before anybody goes there.
func (s *Service) where(w http.ResponseWriter, _ *http.Request, act leads.Act) {
	switch act.Does {
	case leads.Goes:
		show(w, http.StatusOK, page{Title: "This code leads to", Leads: act.To, Label: "Go there", To: template.URL(act.To)})
	case leads.Asks:
		show(w, http.StatusOK, page{Title: "This code asks: " + act.Title, Lines: act.Lines})
	default:
		show(w, http.StatusOK, page{Title: act.Title, Label: act.Label, To: template.URL(act.To)})
	}
}

// missing is the quiet page of a host for a path that is no link. Such paths are kept without what was asked for, which
// anybody can make up.
func (s *Service) missing(w http.ResponseWriter, r *http.Request, host string) {
	s.keep(r, scan.Unknown, host, nil, leads.Act{})
	show(w, http.StatusNotFound, page{Title: "Nothing is here.", Missing: true,
		Lines: []string{"The code may have been read wrong. Scan it again, or ask whoever put it up."}})
}

func show(w http.ResponseWriter, status int, p page) {
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'sha256-"+styleHash+"'; base-uri 'none'; frame-ancestors 'none'")
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
