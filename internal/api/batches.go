package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"time"

	"sodrik/internal/batches"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
	"sodrik/internal/people"
)

// Batches are those in use.
type Batches struct {
	Batches []Batch `json:"batches"`
}

// Batch is many codes of the rows of a table, as the API gives it.
type Batch struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	Campaign string            `json:"campaign,omitempty"`
	Kind     string            `json:"kind"             doc:"Of the content."`
	Columns  []string          `json:"columns"`
	Set      map[string]string `json:"set"              doc:"Fields that differ, by pointer into the job: texts with blanks such as {sku}."`
	Key      string            `json:"key,omitempty"    doc:"The column by which a row is known again."`
	Rows     int               `json:"rows"`
	Bad      int               `json:"bad"              doc:"Rows that cannot be made."`
	Stale    int               `json:"stale"            doc:"Rows that are still to be made."`
	Linked   int               `json:"linked,omitempty" doc:"Rows that lead through a short link."`
	Sizes    []BatchSize       `json:"sizes"            doc:"The versions that occur."`
	Changed  time.Time         `json:"changed"`
}

// BatchSize is the codes of one version, proved on the one with the least reserve.
type BatchSize struct {
	Version int    `json:"version"`
	Codes   int    `json:"codes"`
	Row     int    `json:"row"               doc:"The row that was proved."`
	Verdict string `json:"verdict,omitempty" doc:"Absent while it is not proved."`
}

// BatchRows are rows of a batch.
type BatchRows struct {
	Rows []BatchRow `json:"rows"`
	Next int        `json:"next,omitempty" doc:"Ask for rows after this one; absent on the last page."`
}

// BatchRow is one row.
type BatchRow struct {
	N        int          `json:"n"`
	Key      string       `json:"key"`
	Name     string       `json:"name"`
	State    string       `json:"state,omitempty"    doc:"good or bad; absent while it is still to be made."`
	Says     string       `json:"says,omitempty"     doc:"Without secrets."`
	Leads    string       `json:"leads,omitempty"    doc:"Where its short link is to lead, in words."`
	Version  int          `json:"version,omitempty"`
	Reserve  float64      `json:"reserve,omitempty"`
	Code     string       `json:"code,omitempty"     doc:"Id of the code, where it has a desk of its own."`
	Problems problem.List `json:"problems,omitempty"`
}

// BatchUpdate says what a newer table changed.
type BatchUpdate struct {
	New     int      `json:"new"`
	Changed int      `json:"changed"`
	Same    int      `json:"same"`
	Bad     int      `json:"bad"    doc:"Rows without a key of their own, which were left out."`
	Gone    []string `json:"gone"   doc:"Keys that the table has no more; their rows stay."`
}

// BatchFiles is the making of files of a batch.
type BatchFiles struct {
	ID     string `json:"id"`
	As     string `json:"as"`
	State  string `json:"state"          doc:"working, done, stopped, failed, or unread: labels do not read back from the file."`
	Labels int    `json:"labels"`
	Made   int    `json:"made"`
	Note   string `json:"note,omitempty" doc:"What was read back, or why it failed."`
	Bytes  int64  `json:"bytes"`
}

var (
	batchParam = param{in: "path", name: "id", about: "Of the batch."}
	runParam   = param{in: "path", name: "run", about: "Of the files."}
	tables     = []string{"text/csv", "text/tab-separated-values", "text/plain", "text/vcard", "text/calendar",
		"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
	exampleSet = map[string]string{"/key": "SKU", "/set/content/url": "https://marrowby.example/p/{SKU}", "/line": "{Variety}",
		"/sheet/sheet": "a4-3x7"}
	batchAnswer = answer{200, "The batch.", Batch{}, nil}
)

// maxRowsFile bounds a table that comes in.
const maxRowsFile = 32 << 20

func init() {
	operations = append(operations,
		operation{method: "GET", path: "/batches", id: "listBatches", summary: "List batches", scope: people.ScopeRead,
			answers: []answer{{200, "The newest change first.", Batches{}, nil}}, do: (*Handler).batches},
		operation{method: "POST", path: "/batches", id: "makeBatch", summary: "Make a batch of rows",
			about: "A code of each row of a CSV, XLSX, vCards or a calendar file. Columns find their fields by their heads; rows are " +
				"made and proved afterwards.", scope: people.ScopeWrite, takes: tables, limit: maxRowsFile,
			params: []param{{in: "query", name: "name", about: "Of the batch.", example: "Plant labels"},
				{in: "query", name: "campaign", about: "Made where it is not there."},
				{in: "query", name: "kind", about: "Of the content; found out if not given.", example: "url"},
				{in: "query", name: "look", about: "Key of a look; plain if not given."},
				{in: "query", name: "like", about: "Id of a code that is the pattern."},
				{in: "query", name: "heads", about: "Whether the first row names the columns; found out if not given.",
					as: oneOf(string(table.HeadsThere), string(table.HeadsNone))},
				{in: "query", name: "delimiter", about: "What stands between cells; found out if not given.",
					as: oneOf(delimiterKeys()...)},
				{in: "query", name: "encoding", about: "Of a text; found out if not given.", as: oneOf(encodingKeys()...)},
				{in: "query", name: "tab", about: "Sheet of a workbook; the first that holds anything if not given."}},
			answers: []answer{{201, "Made; Location says where.", Batch{}, nil}}, do: (*Handler).makeBatch},
		operation{method: "GET", path: "/batches/{id}", id: "getBatch", summary: "Get a batch", scope: people.ScopeRead,
			params: []param{batchParam}, answers: []answer{batchAnswer}, do: (*Handler).batch},
		operation{method: "PATCH", path: "/batches/{id}", id: "changeBatch", summary: "Change a batch",
			about: "An object of texts by what they set: /name, /campaign, /key, /line, /file, /same, /formats, /kind, /look, /set and the " +
				"pointer of a field, /job and the pointer of a field of the pattern, /sheet and a key. They are taken in the order of their " +
				"pointers; the first that is wrong ends it.", scope: people.ScopeWrite, params: []param{batchParam},
			body:    exampleSet,
			answers: []answer{batchAnswer}, do: (*Handler).changeBatch},
		operation{method: "GET", path: "/batches/{id}/rows", id: "listBatchRows", summary: "List rows of a batch",
			scope: people.ScopeRead,
			params: []param{batchParam, {in: "query", name: "state", about: "Of the rows; any if not given.",
				as: oneOf("good", "bad", "desk")},
				{in: "query", name: "after", about: "Rows after this one.", example: "100", as: whole(0, batches.MaxRows)},
				{in: "query", name: "limit", about: "Rows in an answer, 100 if not given.", example: "100", as: whole(1, 1000)}},
			answers: []answer{{200, "In their order.", BatchRows{}, nil}}, do: (*Handler).batchRows},
		operation{method: "PUT", path: "/batches/{id}/rows", id: "updateBatchRows", summary: "Take the same table in again",
			about: "Rows are known again by their key: new ones come, changed ones change, those that are gone stay. The table is " +
				"read as it was the first time.",
			scope: people.ScopeWrite, takes: tables, limit: maxRowsFile, params: []param{batchParam},
			answers: []answer{{200, "What it changed.", BatchUpdate{}, nil}}, do: (*Handler).updateBatch},
		operation{method: "POST", path: "/batches/{id}/files", id: "makeBatchFiles", summary: "Make files of a batch",
			about: "Of all rows that can be made. They are made afterwards; ask how far they are.", scope: people.ScopeWrite,
			params: []param{batchParam, {in: "query", name: "as",
				about:   "Imposed sheets, a page each, a zip of files, or a table.",
				example: "sheets", as: oneOf(batches.AsSheets, batches.AsPages, batches.AsZip, batches.AsTable)}},
			answers: []answer{{202, "Begun; Location says where.", BatchFiles{}, nil}}, do: (*Handler).makeFiles},
		operation{method: "GET", path: "/batches/{id}/files/{run}", id: "getBatchFiles", summary: "Ask how far files are",
			scope: people.ScopeRead, params: []param{batchParam, runParam},
			answers: []answer{{200, "How far they are.", BatchFiles{}, nil}}, do: (*Handler).files},
		operation{method: "GET", path: "/batches/{id}/files/{run}/file", id: "getBatchFile", summary: "Get files of a batch",
			scope: people.ScopeRead, params: []param{batchParam, runParam, {in: "query", name: "insist",
				about: "true gives a file whose labels do not read back.", as: map[string]any{"type": "boolean"}}},
			answers: []answer{{200, "The file, or a zip of several.", nil, []string{"application/pdf", "application/zip",
				"text/csv"}}},
			do: (*Handler).takeFiles})
}

func delimiterKeys() (out []string) {
	for _, d := range table.Delimiters {
		out = append(out, d.Key)
	}
	return out
}

func encodingKeys() (out []string) {
	for _, e := range table.Encodings {
		out = append(out, e.Key)
	}
	return out
}

func batchOf(b *batches.Batch) Batch {
	out := Batch{ID: b.ID, Name: b.Name, Campaign: b.Campaign, Kind: b.Plan.Kind(), Columns: b.Columns, Set: map[string]string{},
		Key: b.Plan.Key, Rows: b.Rows, Bad: b.Bad, Stale: b.Stale, Linked: b.Linked, Sizes: []BatchSize{},
		Changed: b.Changed.UTC()}
	for _, s := range b.Plan.Set {
		out.Set[s.Path] = s.Text
	}
	for _, o := range b.Sorts {
		out.Sizes = append(out.Sizes, BatchSize{o.Version, o.Codes, o.Row, o.Verdict})
	}
	return out
}

func (h *Handler) batches(c *call) error {
	all, err := h.Batches.List(c.r.Context(), c.actor())
	if err != nil {
		return err
	}
	out := Batches{Batches: []Batch{}}
	for _, b := range all {
		out.Batches = append(out.Batches, batchOf(b))
	}
	return c.send(http.StatusOK, out)
}

// sendBatch answers a batch as it is now.
func (h *Handler) sendBatch(c *call, status int, id string) error {
	b, err := h.Batches.Get(c.r.Context(), c.actor(), id)
	if err != nil {
		return err
	}
	return c.send(status, batchOf(b))
}

func (h *Handler) batch(c *call) error { return h.sendBatch(c, http.StatusOK, c.param("id")) }

func (h *Handler) makeBatch(c *call) error {
	q := c.r.URL.Query()
	o, problems := table.ReadOptions(q.Get)
	if len(problems) > 0 {
		return problems
	}
	rows, err := table.Open(c.r.Context(), bytes.NewReader(c.body), o)
	if err != nil {
		return err
	}
	id, err := h.Batches.Create(c.r.Context(), c.actor(), batches.Ask{Name: q.Get("name"), Campaign: q.Get("campaign"),
		Rows: rows,
		Kind: q.Get("kind"), Look: q.Get("look"), Like: q.Get("like")})
	if err != nil {
		return err
	}
	c.w.Header().Set("Location", "/api/v1/batches/"+id)
	return h.sendBatch(c, http.StatusCreated, id)
}

func (h *Handler) changeBatch(c *call) error {
	var texts map[string]string
	if err := json.Unmarshal(c.body, &texts); err != nil || texts == nil {
		return problem.List{{Code: "json", Message: "the request is not an object of texts; send such as {\"/key\": \"SKU\"}"}}
	}
	var paths []string
	for path := range texts {
		paths = append(paths, path)
	}
	slices.Sort(paths)
	if at := slices.Index(paths, "/kind"); at > 0 { // fields are of a kind
		paths = slices.Insert(slices.Delete(paths, at, at+1), 0, "/kind")
	}
	for _, path := range paths {
		if err := h.Batches.Set(c.r.Context(), c.actor(), c.param("id"), path, texts[path]); err != nil {
			return err
		}
	}
	return h.batch(c)
}

func (h *Handler) batchRows(c *call) error {
	q, f := c.r.URL.Query(), batches.Filter{Limit: 100}
	var problems problem.List
	read := func(name string, into *int, least, most int) {
		if text := q.Get(name); text != "" {
			n, err := strconv.Atoi(text)
			if err != nil || n < least || n > most {
				problems.Add("/"+name, "number", "is %q; it is a number from %d to %d", text, least, most)
				return
			}
			*into = n
		}
	}
	read("after", &f.After, 0, batches.MaxRows)
	read("limit", &f.Limit, 1, 1000)
	if f.State = q.Get("state"); f.State != "" && !slices.Contains([]string{"good", "bad", "desk"}, f.State) {
		problems.Add("/state", "state", "is %q; it is good, bad or desk", f.State)
	}
	if len(problems) > 0 {
		return problems
	}
	if _, err := h.Batches.Get(c.r.Context(), c.actor(), c.param("id")); err != nil {
		return err
	}
	f.Limit++
	rows, err := h.Batches.Rows(c.r.Context(), c.actor(), c.param("id"), f)
	if err != nil {
		return err
	}
	out := BatchRows{Rows: []BatchRow{}}
	if len(rows) == f.Limit {
		rows = rows[:len(rows)-1]
		out.Next = rows[len(rows)-1].N
	}
	for _, r := range rows {
		out.Rows = append(out.Rows, BatchRow{N: r.N, Key: r.Key, Name: r.Name, State: r.State, Says: r.Says, Leads: r.Leads,
			Version: r.Version, Reserve: r.Reserve, Code: r.Code, Problems: r.Problems})
	}
	return c.send(http.StatusOK, out)
}

func (h *Handler) updateBatch(c *call) error {
	b, err := h.Batches.Get(c.r.Context(), c.actor(), c.param("id"))
	if err != nil {
		return err
	}
	rows, err := table.Open(c.r.Context(), bytes.NewReader(c.body), b.Read)
	if err != nil {
		return err
	}
	u, err := h.Batches.Update(c.r.Context(), c.actor(), c.param("id"), rows)
	if err != nil {
		return err
	}
	return c.send(http.StatusOK, BatchUpdate{u.New, u.Changed, u.Same, u.Bad, append([]string{}, u.Gone...)})
}

// sendFiles answers how far files are.
func (h *Handler) sendFiles(c *call, status int, run string) error {
	r, err := h.Batches.Run(c.r.Context(), c.actor(), run)
	if err != nil {
		return err
	}
	if r.Batch != c.param("id") {
		return batches.ErrNotFound
	}
	return c.send(status, BatchFiles{r.ID, r.Asked.As, r.State, r.Labels, r.Made, r.Note, r.Bytes})
}

func (h *Handler) makeFiles(c *call) error {
	run, err := h.Batches.Start(c.r.Context(), c.actor(), c.param("id"), c.r.URL.Query().Get("as"))
	if err != nil {
		return err
	}
	c.w.Header().Set("Location", fmt.Sprintf("/api/v1/batches/%s/files/%s", c.param("id"), run))
	return h.sendFiles(c, http.StatusAccepted, run)
}

func (h *Handler) files(c *call) error { return h.sendFiles(c, http.StatusOK, c.param("run")) }

// takeFor is how long a download may go on.
const takeFor = 30 * time.Minute

func (h *Handler) takeFiles(c *call) error {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(c.r.Context()), takeFor) // others have less
	defer cancel()
	http.NewResponseController(c.w).SetWriteDeadline(time.Now().Add(takeFor))
	begun := false
	err := h.Batches.Take(ctx, c.actor(), c.param("run"), c.r.URL.Query().Get("insist") == "true",
		func(r *batches.Run, name string) io.Writer {
			begun = true
			c.w.Header().Set("Content-Type", map[string]string{"pdf": "application/pdf", "zip": "application/zip",
				"csv": "text/csv"}[r.Ending()])
			c.w.Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
			return c.w
		})
	if err != nil && begun { // too late to say so: what came must not be taken for all
		panic(http.ErrAbortHandler)
	}
	return err
}
