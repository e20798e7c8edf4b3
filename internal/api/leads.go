package api

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
	"sodrik/internal/link"
	"sodrik/internal/people"
)

// Lead is where a dynamic code leads, as the API gives it.
type Lead struct {
	Rev   int64       `json:"rev"            doc:"Counts changes of the draft; it is the ETag too."`
	Links []ShortLink `json:"links"          doc:"Of the draft of the code."`
	Draft any         `json:"draft"          doc:"Where it is to lead."`
	Live  *LiveLead   `json:"live,omitempty" doc:"Where it leads now; absent until the code is handed over."`
	Past  []LiveLead  `json:"past"           doc:"Where it led before, newest first, 20 at most."`
}

// ShortLink is one of the links of a code.
type ShortLink struct {
	Link   string   `json:"link"`
	Places []string `json:"places"`
}

// LiveLead is a destination that is, or was, live.
type LiveLead struct {
	N    int       `json:"n"`
	Lead any       `json:"lead"`
	At   time.Time `json:"at"`
	Who  string    `json:"who,omitempty"`
	Back int       `json:"back,omitempty" doc:"The one that it went back to."`
}

// Links are all short links that were handed over.
type Links struct {
	Links []LinkLive `json:"links"`
}

// LinkLive is a short link with what a phone gets of it now.
type LinkLive struct {
	Link  string `json:"link"`
	Code  string `json:"code"`
	Name  string `json:"name"`
	Place string `json:"place,omitempty"`
	Does  string `json:"does"            doc:"go: it leads on; ask: a page with one button; show: a text to read; quiet: a page without."`
	To    string `json:"to,omitempty"    doc:"Where it leads, or what the button opens."`
}

var exampleLead = map[string]any{"to": map[string]any{"kind": "url", "url": "https://marrowby.example/fair"},
	"then": map[string]any{"kind": "url", "url": "https://marrowby.example/bulbs"}, "from": "2027-03-20T16:00",
	"timezone": "Europe/London", "language": "en", "routes": []any{map[string]any{"languages": []string{"cy"},
		"where": []string{"Wales (GB)"}, "to": map[string]any{"kind": "url", "url": "https://marrowby.example/cy/ffair"}}}}

func leadAnswer(about string) []answer { return []answer{{200, about, Lead{}, nil}} }

var leadOperations = []operation{
	{method: "POST", path: "/codes/{id}/link", id: "turnDynamic", summary: "Lead through a short link",
		about: "What the code says becomes its destination, and the code a short link; each further placement gets one of its " +
			"own. It is live once the code is handed over.", scope: people.ScopeWrite, params: []param{idParam},
		answers: leadAnswer("Where it leads."), do: (*Handler).turn},
	{method: "DELETE", path: "/codes/{id}/link", id: "turnStatic", summary: "Say the destination itself",
		about: "Links that were handed over go on leading.", scope: people.ScopeWrite, params: []param{idParam},
		answers: []answer{{200, "The code as it is now.", Code{}, nil}}, do: (*Handler).turnBack},
	{method: "GET", path: "/codes/{id}/lead", id: "getLead", summary: "Get where a code leads", scope: people.ScopeRead,
		params: []param{idParam}, answers: leadAnswer("Where it leads."), do: (*Handler).lead},
	{method: "PUT", path: "/codes/{id}/lead", id: "changeLead", summary: "Change where a code is to lead",
		about: "The whole draft. Nobody who scans sees it before it is made live. With If-Match it is refused where the draft " +
			"has changed since.", scope: people.ScopeWrite, params: []param{idParam}, body: exampleLead,
		answers: append(leadAnswer("Where it is to lead."), answer{412, "Changed since If-Match.", Details{}, nil}),
		do:      (*Handler).changeLead},
	{method: "POST", path: "/codes/{id}/lead/live", id: "makeLive", summary: "Make the draft live",
		about: "Every short link of the code leads there from now on. A code that was not handed over yet is refused.",
		scope: people.ScopeWrite, params: []param{idParam}, answers: leadAnswer("Where it leads."), do: (*Handler).makeLive},
	{method: "POST", path: "/codes/{id}/lead/back", id: "leadBack", summary: "Lead where it led before", scope: people.ScopeWrite,
		params:  []param{idParam, {in: "query", name: "n", about: "Number of the destination.", example: "1", as: whole(1, 0)}},
		answers: leadAnswer("Where it leads."), do: (*Handler).leadBack},
	{method: "GET", path: "/codes/{id}/lead/who", id: "whoIsLed", summary: "Ask who is sent where",
		about: "What somebody who scans would get of the draft, and why. Nothing is looked up and nothing counted.",
		scope: people.ScopeRead, params: []param{idParam,
			{in: "query", name: "where", about: "The address of the phone, the nearer first.", example: "Cardiff, Wales"},
			{in: "query", name: "languages", about: "Of the phone, the preferred first.", example: "cy,en"},
			{in: "query", name: "system", about: "Of the phone.", example: "ios", as: oneOf("ios", "android", "other")},
			{in: "query", name: "place", about: "Name of the printed place.", example: "gate"},
			{in: "query", name: "at", about: "On the clocks of the code's zone; now if not given.", example: "2027-03-20T11:30"}},
		answers: []answer{{200, "What may come of it.", leads.Who{}, nil}}, do: (*Handler).who},
	{method: "PUT", path: "/codes/{id}/lead/file", id: "leadToFile", summary: "Make a file the draft of where a code leads",
		about: "A PDF, a picture, sound, film or an office document of at most 20 MB. It stands on the host of short links.",
		scope: people.ScopeWrite, takes: servedTypes, limit: leads.MaxServed + 1,
		params:  []param{idParam, {in: "query", name: "name", about: "Of the file.", example: "sowing-guide.pdf"}},
		answers: leadAnswer("Where it is to lead."), do: (*Handler).leadFile},
	{
		method:  "GET",
		path:    "/links",
		id:      "listLinks",
		summary: "List short links",
		about: "All that were handed over, with where each " +
			"leads now.",
		scope:   people.ScopeRead,
		answers: []answer{{200, "By their addresses.", Links{}, nil}},
		do:      (*Handler).links,
	},
}

// servedTypes are the media types of files that a code can open.
var servedTypes = leads.MediaServed()

func init() { operations = append(operations, leadOperations...) }

// sendLead answers where a code leads.
func (h *Handler) sendLead(c *call, x *code.Code, l *link.Led) error {
	out := Lead{Rev: l.Rev, Links: []ShortLink{}, Draft: l.Draft.JSON(), Past: []LiveLead{}}
	for _, p := range link.Links(x.Rendition.Job) {
		out.Links = append(out.Links, ShortLink{p.Address.String(), append([]string{}, p.Names...)})
	}
	live := func(v link.Version) LiveLead {
		return LiveLead{N: v.N, Lead: v.Lead.JSON(), At: v.At.UTC(), Who: v.Who, Back: v.Back}
	}
	if l.Live != nil {
		now := live(*l.Live)
		out.Live = &now
	}
	for _, v := range l.Past {
		out.Past = append(out.Past, live(v))
	}
	c.w.Header().Set("ETag", etag(l.Rev))
	return c.send(http.StatusOK, out)
}

// ledOf reads the code of a call, and where it leads; one that leads through no link is not found.
func (h *Handler) ledOf(c *call) (x *code.Code, l *link.Led, err error) {
	if x, err = h.Codes.Get(c.r.Context(), c.actor(), c.param("id")); err != nil {
		return nil, nil, err
	}
	if l, err = h.Links.Of(c.r.Context(), c.actor(), x); err == nil && l == nil {
		err = code.ErrNotFound
	}
	return x, l, err
}

// lead answers where a code leads; one that leads through no link has none.
func (h *Handler) lead(c *call) error {
	x, l, err := h.ledOf(c)
	if err != nil {
		return err
	}
	return h.sendLead(c, x, l)
}

// who answers what somebody who scans would get of the draft.
func (h *Handler) who(c *call) error {
	_, l, err := h.ledOf(c)
	if err != nil {
		return err
	}
	q := c.r.URL.Query()
	in, problems := route.Asked{
		Where:     q.Get("where"),
		Languages: q.Get("languages"),
		System:    q.Get("system"),
		Place:     q.Get("place"),
		At:        q.Get("at"),
	}.Input(
		l.Draft.Zone,
		h.Codes.Now(),
	)
	if len(problems) > 0 {
		return problems
	}
	return c.send(http.StatusOK, l.Draft.Who(in))
}

// links answers with all short links that hang.
func (h *Handler) links(c *call) error {
	list, err := h.Links.Live(c.r.Context(), c.actor())
	if err != nil {
		return err
	}
	out := Links{Links: []LinkLive{}}
	for _, l := range list {
		a := l.Live.At(h.Codes.Now())
		out.Links = append(out.Links, LinkLive{l.Host + "/" + l.Path, l.Live.Code, l.Code, l.Live.Place, string(a.Does), a.To})
	}
	return c.send(http.StatusOK, out)
}

// leadFile makes a file the draft.
func (h *Handler) leadFile(c *call) error {
	if _, err := h.Links.LeadToFile(c.r.Context(), c.actor(), c.param("id"), c.r.URL.Query().Get("name"), c.body); err != nil {
		return err
	}
	return h.lead(c)
}

func (h *Handler) turn(c *call) error {
	if _, err := h.Links.Turn(c.r.Context(), c.actor(), c.param("id"), code.Anyhow); err != nil {
		return err
	}
	return h.lead(c)
}

func (h *Handler) turnBack(c *call) error {
	x, err := h.Links.TurnBack(c.r.Context(), c.actor(), c.param("id"), code.Anyhow)
	if err != nil {
		return err
	}
	c.w.Header().Set("ETag", etag(x.Rev))
	return c.send(http.StatusOK, codeOf(x))
}

// rev is the draft that a request was made for; 0 is whichever there is.
func (c *call) rev() (int64, error) {
	s := c.r.Header.Get("If-Match")
	if s == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(strings.Trim(s, `"`), 10, 64)
	if err != nil || n < 1 {
		return 0, problem.List{{Code: "if-match", Message: "If-Match is not an ETag that was given out here"}}
	}
	return n, nil
}

func (h *Handler) changeLead(c *call) error {
	v, err := fields.Decode(c.body)
	if err != nil {
		return problem.List{{Code: "json", Message: fmt.Sprintf("the request is not JSON: %v", err)}}
	}
	if at, ok := fields.Storable(v); !ok {
		return problem.List{{Field: at, Code: "text", Message: "holds the character U+0000, which no text may hold"}}
	}
	return h.led(c, func(rev int64) (*link.Led, error) {
		return h.Links.Set(c.r.Context(), c.actor(), c.param("id"), v, rev)
	})
}

func (h *Handler) makeLive(c *call) error {
	return h.led(c, func(rev int64) (*link.Led, error) {
		return h.Links.MakeLive(c.r.Context(), c.actor(), c.param("id"), rev)
	})
}

func (h *Handler) leadBack(c *call) error {
	n, err := strconv.Atoi(c.r.URL.Query().Get("n"))
	if err != nil || n < 1 {
		return problem.List{{Field: "/n", Code: "n", Message: "must be the number of a destination that was live"}}
	}
	return h.led(c, func(rev int64) (*link.Led, error) {
		return h.Links.GoBack(c.r.Context(), c.actor(), c.param("id"), n, rev)
	})
}

// led answers a change of where a code leads.
func (h *Handler) led(c *call, do func(rev int64) (*link.Led, error)) error {
	rev, err := c.rev()
	if err != nil {
		return err
	}
	l, err := do(rev)
	if overtaken := new(code.Overtaken); errors.As(err, &overtaken) {
		return &fault{status: http.StatusPreconditionFailed, title: "Changed since",
			detail: "the draft has changed since the revision of If-Match; get it again"}
	}
	if err != nil {
		return err
	}
	x, err := h.Codes.Get(c.r.Context(), c.actor(), c.param("id"))
	if err != nil {
		return err
	}
	return h.sendLead(c, x, l)
}
