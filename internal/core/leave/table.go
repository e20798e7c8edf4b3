package leave

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"strconv"
	"time"

	"sodrik/internal/core/leads"
	tabular "sodrik/internal/core/table"
)

// row is a link as a table has it.
type row struct {
	Link        string   `json:"link"`
	Answer      string   `json:"answer"` // redirect, button, file or page
	Destination string   `json:"destination,omitempty"`
	Status      int      `json:"status"`
	Code        string   `json:"code"`
	Place       string   `json:"place,omitempty"`
	Words       string   `json:"words,omitempty"` // of a page
	Lost        []string `json:"lost,omitempty"`  // what the pack cannot hold
}

func rowOf(l Link, now time.Time) row {
	a := l.Live.Lasting(now)
	r := row{Link: "https://" + l.Host + "/" + l.Path, Destination: a.To, Status: 200, Code: l.Code, Place: l.Live.Place,
		Lost: l.Lost(now)}
	switch {
	case a.Does == leads.Goes:
		r.Answer, r.Status = "redirect", l.Live.Status
	case a.File != nil:
		r.Answer, r.Destination, r.Words = "file", "/"+l.Path+"/"+a.File.Name, a.Title
	case a.Does == leads.Asks:
		r.Answer, r.Words = "button", a.Title
	default:
		r.Answer, r.Words = "page", a.Title
	}
	return r
}

// table is the links as CSV (RFC 4180).
func table(links []Link, now time.Time) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	w.Write([]string{"link", "answer", "destination", "status", "code", "place", "words"})
	for _, l := range links {
		r := rowOf(l, now)
		w.Write(
			[]string{
				r.Link,
				r.Answer,
				r.Destination,
				strconv.Itoa(r.Status),
				tabular.Plain(r.Code),
				tabular.Plain(r.Place),
				tabular.Plain(r.Words),
			},
		)
	}
	w.Flush()
	return b.Bytes()
}

func list(links []Link, now time.Time) []byte {
	rows := make([]row, 0, len(links))
	for _, l := range links {
		rows = append(rows, rowOf(l, now))
	}
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	if err := e.Encode(rows); err != nil {
		panic("leave: " + err.Error()) // plain values alone
	}
	return b.Bytes()
}
