// Package leaving is the page of the leaving pack: everything of ours that an ordinary web server needs to go on without us,
// and its rehearsal.
package leaving

import (
	"archive/zip"
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"html"
	"io/fs"
	"net/http"
	"os"
	"regexp"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/archive"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Follower follows a short link as a phone would that scanned it.
type Follower interface {
	Look(ctx context.Context, address string) (leads.Hop, error)
}

// Handler serves the page.
type Handler struct {
	Archive *archive.Store
	Links   *link.Store
	Follow  Follower // nil where nothing answers short links in this process
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Look)).Get("/leaving", h.page)
	r.With(may(people.Manage)).Post("/leaving/pack", h.pack)
	r.With(may(people.Manage)).Post("/leaving/rehearse", h.rehearse)
	r.With(may(people.Manage)).Post("/leaving/everything", h.everything)
}

// View is the page.
type View struct {
	ui.Frame
	Links     []Row
	Owner     bool
	Rehearsal *Rehearsal
}

// Row is a short link with what it does.
type Row struct{ Link, Code, Does string }

// Rehearsal is what became of serving the pack.
type Rehearsal struct {
	Words   string
	Differs []string // links that would end elsewhere
	Lost    []string // what the pack cannot hold
}

func (h *Handler) view(r *http.Request, links []leave.Link, now time.Time) View {
	v := View{Frame: ui.FrameOf(r, "Leaving pack", "person"), Owner: ui.May(r, people.Manage)}
	for _, l := range links {
		a := l.Live.Lasting(now)
		does := a.To
		if a.Does != leads.Goes {
			does = a.Title
		}
		if a.Does == leads.Asks { // the number says more than that it will be called
			does = a.Label + ": " + a.Lines[0]
		}
		v.Links = append(v.Links, Row{l.Host + "/" + l.Path, l.Code, does})
	}
	return v
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	links, err := h.Links.Live(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "leaving", h.view(r, links, h.Links.Codes.Now()))
}

func (h *Handler) pack(w http.ResponseWriter, r *http.Request) {
	file, err := os.CreateTemp("", "sodrik-leaving-") // which may be large, and whole before the first byte leaves
	if err == nil {
		defer os.Remove(file.Name())
		defer file.Close()
		err = h.Links.Pack(r.Context(), ui.Actor(r), file)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	now := h.Links.Codes.Now()
	ui.Attached(w, "leaving-pack-"+now.Format("2006-01-02")+".zip")
	http.ServeContent(w, r, "", now, file)
}

// everythingFor is how long the archive of a workspace may take, to be made and to be taken.
const everythingFor = 30 * time.Minute

// everything hands over the archive of the workspace, which may be large: other answers have less time.
func (h *Handler) everything(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := ui.Longer(r, everythingFor)
	defer cancel()
	http.NewResponseController(w).SetWriteDeadline(time.Now().Add(everythingFor))
	file, err := os.CreateTemp("", "sodrik-everything-")
	if err == nil {
		defer os.Remove(file.Name())
		defer file.Close()
		_, err = h.Archive.Export(ctx, ui.Actor(r), file)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	now := h.Links.Codes.Now()
	ui.Attached(w, "everything-"+now.Format("2006-01-02")+".zip")
	http.ServeContent(w, r, "", now, file)
}

// rehearse serves the pack, and holds where each link ends there against where it ends today.
func (h *Handler) rehearse(w http.ResponseWriter, r *http.Request) {
	file, links, at, err := h.Links.Rehearsed(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := h.view(r, links, at)
	if v.Rehearsal, err = h.rehearsed(r.Context(), file, links, at); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "leaving", v)
}

func (h *Handler) rehearsed(ctx context.Context, file []byte, links []leave.Link, at time.Time) (*Rehearsal, error) {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		return nil, err
	}
	out, same := &Rehearsal{}, 0
	for _, l := range links {
		address := l.Host + "/" + l.Path
		for _, words := range l.Lost(at) {
			out.Lost = append(out.Lost, address+": "+words)
		}
		there, err := served(z, l)
		if err != nil {
			return nil, err
		}
		today := ended(l, at)
		if h.Follow != nil {
			if hop, err := h.Follow.Look(ctx, "https://"+address); err == nil {
				today = hop.To + hop.Page
			}
		}
		if there == today {
			same++
			continue
		}
		out.Differs = append(out.Differs, fmt.Sprintf("%s ends at %s today, and at %s with the pack.", address, today, there))
	}
	out.Words = fmt.Sprintf("%d of %d end where they do today.", same, len(links))
	return out, nil
}

// ended is where a link ends as the database has it: an address, or the title of a page.
func ended(l leave.Link, at time.Time) string {
	if a := l.Live.At(at); a.Does != leads.Goes {
		return a.Title
	} else {
		return a.To
	}
}

var refresh, title = regexp.MustCompile(`content="0; url=([^"]*)"`), regexp.MustCompile(`<title>([^<]*)</title>`)

// served is what a server of plain files, which has nothing but the pack, gives for a link.
func served(z *zip.Reader, l leave.Link) (string, error) {
	host, _, _ := strings.Cut(l.Host, ":")
	root, err := fs.Sub(z, "site/"+host)
	if err != nil {
		return "", err
	}
	page, err := fs.ReadFile(root, l.Path+"/index.html")
	if errors.Is(err, fs.ErrNotExist) {
		return fmt.Sprintf("status %d", http.StatusNotFound), nil
	} else if err != nil {
		return "", err
	}
	for _, find := range []*regexp.Regexp{refresh, title} {
		if m := find.FindStringSubmatch(string(page)); m != nil {
			return html.UnescapeString(m[1]), nil
		}
	}
	return "a page that says nothing", nil
}
