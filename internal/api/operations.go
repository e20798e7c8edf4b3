package api

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/handover"
	"sodrik/internal/people"
	"sodrik/internal/proving"
	"sodrik/internal/readers"
	"sodrik/internal/records"
	"sodrik/internal/shelf"
)

// Job is a job file; its schema is published beside the document.
type Job map[string]any

// Code is a code as the API gives it.
type Code struct {
	ID       string       `json:"id"`
	Rev      int64        `json:"rev" doc:"Counts changes; it is the ETag too."`
	State    string       `json:"state" doc:"active or retired"`
	Campaign string       `json:"campaign,omitempty"`
	Name     string       `json:"name"`
	Payload  string       `json:"payload" doc:"Of the newest state that could be made."`
	Job      any          `json:"job" doc:"The draft."`
	Problems problem.List `json:"problems" doc:"What is wrong with the draft."`
	Issued   int          `json:"issued" doc:"Number of the newest issued version, 0 for none."`
	Printed  bool         `json:"printed" doc:"The draft is the newest issued version."`
	Changed  time.Time    `json:"changed"`
}

// Listing is as many codes as one answer holds.
type Listing struct {
	Codes []Code `json:"codes"`
	Next  string `json:"next,omitempty" doc:"Cursor of the next page; absent on the last."`
}

// NewCode is a request to make a code.
type NewCode struct {
	Campaign string `json:"campaign,omitempty"`
	Job      Job    `json:"job"`
}

// Asset is an upload as the API gives it.
type Asset struct {
	Source string   `json:"source" doc:"As a job names it: under look.mark or look.backdrop, a placement's artwork, or as a font."`
	Name   string   `json:"name"`
	Aspect float64  `json:"aspect" doc:"Width by height of what is seen of it."`
	Left   []string `json:"left" doc:"What of the file was left out or changed."`
}

// Version is an issued version.
type Version struct {
	N       int       `json:"n"`
	At      time.Time `json:"at"`
	Payload string    `json:"payload"`
	Job     any       `json:"job"`
}

var exampleJob = Job{"name": "Gate poster", "content": map[string]any{"kind": "url", "url": "https://marrowby.example/fair"},
	"placements": []any{map[string]any{"name": "gate", "medium": "poster-a2"}}}

var (
	placementParam = param{in: "query", name: "placement", about: "Name of the placement; the first if not given.",
		example: "gate"}
	formatParam = param{in: "query", name: "format",
		about: "svg, pdf, png, jpg or webp; svg-current without the colour of the ink; label for a label printer; sheet-svg, " +
			"sheet-pdf, sheet-png or sheet-jpg for the whole that the code lies on; pdfx, eps and tif for a press, and " +
			"sheet-pdfx.", example: "svg", as: oneOf(compose.Keys()...)}
	idParam      = param{in: "path", name: "id", about: "Of the code."}
	versionParam = param{in: "path", name: "n", about: "Number of the version.", example: "1", as: whole(1, 0)}
)

// What an upload may be; its bytes tell, whatever the request calls it.
var (
	pictures = []string{"image/png", "image/jpeg", "image/gif", "image/webp", "image/svg+xml", "application/pdf"}
	uploads  = []string{"image/svg+xml", "image/png", "image/jpeg", "image/webp", "application/pdf", "font/ttf", "font/otf"}
	drawn    = slices.Compact(slices.Sorted(maps.Values(compose.Types)))
	oneOf    = func(values ...string) map[string]any { return map[string]any{"type": "string", "enum": values} }
	whole    = func(least, most int) map[string]any {
		out := map[string]any{"type": "integer", "minimum": least}
		if most > 0 {
			out["maximum"] = most
		}
		return out
	}
)

const maxPicture = 20 << 20

var operations = []operation{
	{method: "POST", path: "/encode", id: "encode", summary: "Encode a job",
		about: "Gives payload, version, level, mask, segments and matrix.", scope: people.ScopeMake,
		body: exampleJob, answers: []answer{{200, "The symbol.", compose.Encoded{}, nil}}, do: (*Handler).encode},
	{method: "POST", path: "/draw", id: "draw", summary: "Draw a job",
		about: "Gives the file: the same bytes as the command line and the desk.", scope: people.ScopeMake,
		body: exampleJob, params: []param{formatParam, placementParam}, answers: []answer{{200, "The file.", nil, drawn}},
		do: (*Handler).draw},
	{method: "POST", path: "/prove", id: "prove", summary: "Prove a job",
		about: "Has independent readers read it, and says what was found.", scope: people.ScopeMake,
		body: exampleJob, params: []param{placementParam}, answers: []answer{{200, "The proof.", proof.Proof{}, nil}},
		do: (*Handler).prove},
	{method: "POST", path: "/read", id: "read", summary: "Read a picture",
		about: "Finds the codes in a PNG, JPEG, GIF or WebP, in an SVG, or on the first pages of a PDF.", scope: people.ScopeMake,
		takes: pictures, limit: maxPicture,
		answers: []answer{{200, "What was found; no symbol is an empty list.", readers.Found{}, nil}}, do: (*Handler).read},
	{method: "POST", path: "/assets", id: "uploadAsset", summary: "Upload a mark, artwork or a typeface",
		about: "A mark is an SVG, PNG, JPEG or WebP of at most 10 MB, rebuilt from its geometry or pixels. Artwork that a " +
			"code lies on is a PDF, SVG or picture, kept as it is; a typeface is a TTF or OTF of at most 5 MB. Jobs name each " +
			"by the source that is given back.", scope: people.ScopeWrite,
		takes: uploads, limit: artwork.MaxBytes + 1,
		params: []param{{in: "query", name: "name", about: "Of the file.", example: "logo.svg"},
			{in: "query", name: "as", about: "What it is for; a mark if not given.", example: "mark",
				as: oneOf("mark", "artwork", "typeface")}}, answers: []answer{{201, "Kept.", Asset{}, nil}},
		do: (*Handler).upload},
	{method: "GET", path: "/codes", id: "listCodes", summary: "List codes", about: "In pages, newest change first.",
		scope: people.ScopeRead,
		params: []param{{in: "query", name: "q",
			about: "Words that must all occur in its name, what it says, its labels or its note."},
			{in: "query", name: "state", about: "Active if not given.", example: "active", as: oneOf(code.Active, code.Retired)},
			{in: "query", name: "limit", about: "Codes a page; 20 if not given.", example: "20", as: whole(1, 100)},
			{in: "query", name: "cursor", about: "Of the page before."}},
		answers: []answer{{200, "A page.", Listing{}, nil}}, do: (*Handler).list},
	{method: "POST", path: "/codes", id: "makeCode", summary: "Make a code", scope: people.ScopeWrite, keyed: true,
		again: (*Handler).madeBefore,
		body:  NewCode{Job: exampleJob}, answers: []answer{{201, "Made; Location says where.", Code{}, nil}},
		do: (*Handler).make},
	{method: "GET", path: "/codes/{id}", id: "getCode", summary: "Get a code", scope: people.ScopeRead, params: []param{idParam},
		answers: []answer{{200, "The code, with an ETag.", Code{}, nil}, {304, "Not changed since If-None-Match.", nil, nil}},
		do:      (*Handler).get},
	{method: "PATCH", path: "/codes/{id}", id: "changeCode", summary: "Change a code",
		about: "A JSON Patch (RFC 6902) on the job, as one edit: add, replace, remove and test, 200 at most. With If-Match it " +
			"is refused where the code has changed since.", scope: people.ScopeWrite, keyed: true,
		again:  (*Handler).changedBefore,
		params: []param{idParam}, body: patch.Patch{{Op: "add", Path: "/look", Value: map[string]any{"ink": "#12352b"}}},
		answers: []answer{{200, "The code as it is now.", Code{}, nil}, {412, "Changed since If-Match.", Details{}, nil}},
		do:      (*Handler).change},
	{method: "POST", path: "/codes/{id}/versions", id: "issueVersion", summary: "Issue a version",
		about: "Freezes the code as it stands; the newest version again where nothing has changed.", scope: people.ScopeWrite,
		keyed: true, again: (*Handler).issuedBefore,
		params: []param{idParam}, answers: []answer{{200, "The version.", Version{}, nil}}, do: (*Handler).issue},
	{method: "GET", path: "/codes/{id}/versions/{n}", id: "getVersion", summary: "Get an issued version", scope: people.ScopeRead,
		params: []param{idParam, versionParam}, answers: []answer{{200, "The version.", Version{}, nil}}, do: (*Handler).version},
	{method: "GET", path: "/codes/{id}/versions/{n}/file", id: "getFile", summary: "Get a file of an issued version",
		scope: people.ScopeRead,
		params: []param{idParam, versionParam, formatParam, placementParam,
			{in: "query", name: "insist",
				about: "true gives the file although it does not read back, which the record of what was handed over says; " +
					"without it such a file is answered by 409.", as: map[string]any{"type": "boolean"}}},
		answers: []answer{{200, "The file.", nil, drawn}}, do: (*Handler).file},
}

func (c *call) made() (*compose.Rendition, error) {
	house, err := c.house()
	if err != nil {
		return nil, err
	}
	m, problems := compose.ParseIn(c.body, house, c.find)
	return m, problems.Err()
}

// pick is the index of the placement that the request names.
func (c *call) pick(m *compose.Rendition) (int, error) {
	i, problems := m.Pick(c.r.URL.Query().Get("placement"))
	return i, problems.Err()
}

func (h *Handler) encode(c *call) error {
	m, err := c.made()
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, m.Encoded())
}

func (h *Handler) draw(c *call) error {
	m, err := c.made()
	if err != nil {
		return err
	}
	i, err := c.pick(m)
	if err != nil {
		return err
	}
	f, problems := compose.ParseFormat(c.format())
	if len(problems) > 0 {
		return problems
	}
	data, err := c.codes.File(c.r.Context(), m, f, m.Place(i), compose.MetaOf(f, m.Title(i), time.Now()))
	if err != nil {
		return err
	}
	c.sendFile(f, data)
	return nil
}

// format is the key of the format that a request asks for.
func (c *call) format() string { return strings.ToLower(c.r.URL.Query().Get("format")) }

func (c *call) sendFile(f compose.Format, data []byte) {
	c.w.Header().Set("Content-Type", f.Type())
	c.w.Header().Set("Content-Length", strconv.Itoa(len(data)))
	c.w.Write(data)
}

func (h *Handler) prove(c *call) error {
	m, err := c.made()
	if err != nil {
		return err
	}
	i, err := c.pick(m)
	if err != nil {
		return err
	}
	p, err := h.Codes.Prove(proving.Hurry(c.r.Context()), c.actor(), m, i, proof.Margins)
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, p)
}

func (h *Handler) read(c *call) error {
	found, err := readers.File(c.r.Context(), c.body)
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, found)
}

func (h *Handler) upload(c *call) error {
	ctx, actor, name := c.r.Context(), c.actor(), c.r.URL.Query().Get("name")
	var a shelf.Asset
	var err error
	switch as := c.r.URL.Query().Get("as"); as {
	case "", "mark":
		a, err = h.Codes.Upload(ctx, actor, name, c.body)
	case "artwork":
		a, err = h.Codes.UploadArtwork(ctx, actor, name, c.body)
	case "typeface":
		a, err = h.Codes.UploadFace(ctx, actor, c.body)
	default:
		return problem.List{{Field: "/as", Code: "asset.as", Message: fmt.Sprintf("is %q; it is mark, artwork or typeface", as)}}
	}
	if err != nil {
		return err
	}
	left := a.Left
	if left == nil {
		left = []string{}
	}
	return c.send(http.StatusCreated, Asset{a.Source, a.Name, a.Is.Aspect(), left})
}

func codeOf(c *code.Code) Code {
	out := Code{ID: c.ID, Rev: c.Rev, State: c.State, Campaign: c.Campaign, Name: c.Name(), Payload: c.Rendition.Payload,
		Job: c.Draft, Problems: c.Problems, Printed: c.AsIssued(), Changed: c.Changed.UTC()}
	if out.Problems == nil {
		out.Problems = problem.List{}
	}
	if c.Issued != nil {
		out.Issued = c.Issued.N
	}
	return out
}

func etag(rev int64) string { return fmt.Sprintf(`"%d"`, rev) }

func (h *Handler) list(c *call) error {
	q := c.r.URL.Query()
	limit, state := 20, code.Active
	var problems problem.List
	if s := q.Get("limit"); s != "" {
		n, err := strconv.Atoi(s)
		if err != nil || n < 1 || n > 100 {
			problems.Add("/limit", "limit", "must be a number from 1 to 100")
		}
		limit = n
	}
	if s := q.Get("state"); s == code.Retired {
		state = s
	} else if s != "" && s != code.Active {
		problems.Add("/state", "state", "is %q; it must be active or retired", s)
	}
	after := code.Cursor{}
	if s := q.Get("cursor"); s != "" {
		b, err := base64.RawURLEncoding.DecodeString(s)
		if err != nil || json.Unmarshal(b, &after) != nil {
			problems.Add("/cursor", "cursor", "is not one that was given out here")
		}
	}
	if len(problems) > 0 {
		return problems
	}
	codes, next, err := h.Codes.Listed(c.r.Context(), c.actor(), state, q.Get("q"), after, limit)
	if err != nil {
		return err
	}
	out := Listing{Codes: []Code{}}
	for _, x := range codes {
		out.Codes = append(out.Codes, codeOf(x))
	}
	if next != nil {
		b, err := json.Marshal(next)
		if err != nil {
			return err
		}
		out.Next = base64.RawURLEncoding.EncodeToString(b)
	}
	return c.send(http.StatusOK, out)
}

func (h *Handler) make(c *call) error {
	var in struct {
		Campaign string          `json:"campaign"`
		Job      json.RawMessage `json:"job"`
	}
	d := json.NewDecoder(bytes.NewReader(c.body))
	d.DisallowUnknownFields()
	if err := d.Decode(&in); err != nil {
		return problem.List{{Code: "json", Message: fmt.Sprintf("the request is not what is asked for: %v", err)}}
	}
	if _, ok := fields.Storable(in.Campaign); !ok {
		return problem.List{{Field: "/campaign", Code: "text", Message: "holds the character U+0000, which no text may hold"}}
	}
	house, err := c.house()
	if err != nil {
		return err
	}
	m, problems := compose.ParseIn(in.Job, house, c.find)
	if len(problems) > 0 {
		return problems.Nest("/job")
	}
	id, err := h.Links.Create(c.r.Context(), c.actor(), m, strings.TrimSpace(in.Campaign), c.find)
	if err != nil {
		return err
	}
	return h.madeBefore(c, people.Effect{Code: id})
}

// madeBefore answers a code that was made.
func (h *Handler) madeBefore(c *call, e people.Effect) error {
	made, err := h.Codes.Get(c.r.Context(), c.actor(), e.Code)
	if err != nil {
		return err
	}
	c.w.Header().Set("Location", "/api/v1/codes/"+e.Code)
	c.w.Header().Set("ETag", etag(made.Rev))
	return c.send(http.StatusCreated, codeOf(made))
}

func (h *Handler) get(c *call) error {
	x, err := h.Codes.Get(c.r.Context(), c.actor(), c.param("id"))
	if err != nil {
		return err
	}
	c.w.Header().Set("ETag", etag(x.Rev))
	if c.r.Header.Get("If-None-Match") == etag(x.Rev) {
		c.w.WriteHeader(http.StatusNotModified)
		return nil
	}
	return c.send(http.StatusOK, codeOf(x))
}

func (h *Handler) change(c *call) error {
	var p patch.Patch
	if err := json.Unmarshal(c.body, &p); err != nil {
		return problem.List{{Code: "patch", Message: fmt.Sprintf("the request is not a JSON Patch: %v", err)}}
	}
	if p == nil { // null
		return problem.List{{Code: "patch", Message: "the request is not a JSON Patch: it is null; send a list of operations"}}
	}
	var unknown problem.List
	for i, op := range p {
		if !slices.Contains(patch.Kinds, op.Op) {
			unknown.Add(fmt.Sprintf("/%d/op", i), "patch.op", "is %q; an operation here is add, replace, remove or test", op.Op)
		}
	}
	if len(unknown) > 0 {
		return unknown
	}
	want := int64(-1)
	if s := c.r.Header.Get("If-Match"); s != "" {
		n, err := strconv.ParseInt(strings.Trim(s, `"`), 10, 64)
		if err != nil {
			return problem.List{{Code: "if-match", Message: "If-Match is not an ETag that was given out here"}}
		}
		want = n
	}
	x, err := h.Codes.PatchAt(c.r.Context(), c.actor(), c.param("id"), p, want)
	if err == code.ErrChanged {
		return &fault{status: http.StatusPreconditionFailed, title: "Changed since",
			detail: "the code has changed since the revision of If-Match; get it again"}
	} else if err != nil {
		return err
	}
	c.w.Header().Set("ETag", etag(x.Rev))
	return c.send(http.StatusOK, codeOf(x))
}

// changedBefore answers a change that was made, with the code as it is now.
func (h *Handler) changedBefore(c *call, e people.Effect) error {
	x, err := h.Codes.Get(c.r.Context(), c.actor(), e.Code)
	if err != nil {
		return err
	}
	c.w.Header().Set("ETag", etag(x.Rev))
	return c.send(http.StatusOK, codeOf(x))
}

// issuedBefore answers a version that was issued.
func (h *Handler) issuedBefore(c *call, e people.Effect) error {
	st, err := h.Codes.At(c.r.Context(), c.actor(), e.Code, "v"+strconv.Itoa(e.Version))
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, Version{N: e.Version, At: st.At.UTC(), Payload: st.Rendition.Payload, Job: st.Rendition.Job})
}

func (h *Handler) issue(c *call) error {
	x, err := h.Codes.Issue(c.r.Context(), c.actor(), c.param("id"))
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, Version{N: x.Issued.N, At: x.Issued.At.UTC(), Payload: x.Rendition.Payload,
		Job: x.Rendition.Job})
}

func (h *Handler) versionAt(c *call) (code.State, int, error) {
	n, err := strconv.Atoi(c.param("n"))
	if err != nil || n < 1 {
		return code.State{}, 0, code.ErrNotFound
	}
	st, err := h.Codes.At(c.r.Context(), c.actor(), c.param("id"), "v"+strconv.Itoa(n))
	return st, n, err
}

func (h *Handler) version(c *call) error {
	st, n, err := h.versionAt(c)
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, Version{N: n, At: st.At.UTC(), Payload: st.Rendition.Payload, Job: st.Rendition.Job})
}

func (h *Handler) file(c *call) error {
	st, n, err := h.versionAt(c)
	if err != nil {
		return err
	}
	i, err := c.pick(st.Rendition)
	if err != nil {
		return err
	}
	p, err := h.Door.Give(c.r.Context(), c.actor(), handover.Ask{Code: c.param("id"), Version: n, Formats: []string{c.format()},
		Places: []string{strconv.Itoa(i)}, Way: records.ByAPI,
		Insist: c.r.URL.Query().Get("insist") == "true"})
	var u *handover.Unread
	if errors.As(err, &u) {
		return &fault{status: http.StatusConflict, title: "The file does not read back", detail: u.Error() +
			"; with insist=true it is given all the same", problems: u.Problem()}
	}
	if err != nil {
		return err
	}
	c.sendFile(p.Files[0].Format, p.Files[0].Data)
	return nil
}
