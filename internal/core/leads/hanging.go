package leads

import (
	"encoding/json"
	"fmt"
	"regexp"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Hanging is what a house notes of a printed place: where exactly and since when it hangs, how many were printed and what they
// cost.
// None of it is printed, and all of it may be left out.
type Hanging struct {
	Spot, Note  string
	From, Until string // dates, on the clocks of whoever looks
	Prints      int    // 0 for not known
	Cost        string // of all of them, a decimal
}

// Hangings are its fields.
var Hangings = schema.Part{
	Fields: []schema.Field{
		{
			Key:     "spot",
			Type:    schema.Line,
			At:      schema.In(func(h *Hanging) any { return &h.Spot }),
			Most:    120,
			Called:  "spot",
			Label:   "Spot",
			Example: "left of the ticket desk",
			About:   "Where exactly it hangs.",
		},
		{Key: "hangs_from", Type: schema.Moment, At: schema.In(func(h *Hanging) any { return &h.From }), Called: "first day",
			Label: "Hangs from", Example: "1 March 2027", Hint: "Rates count from then on.",
			About: "The first day on which it hangs."},
		{Key: "hangs_until", Type: schema.Moment, At: schema.In(func(h *Hanging) any { return &h.Until }), Called: "last day",
			Label: "Hangs until", Hint: "The last day. Left empty, it stays.", About: "The last day on which it hangs."},
		{Key: "prints", Type: schema.Whole, At: schema.In(func(h *Hanging) any { return &h.Prints }), Least: 0, Most: 100_000_000,
			Called: "print run", Label: "Print run", Mode: "numeric", Example: "4000", About: "How many were printed."},
		{Key: "cost", Type: schema.Amount, At: schema.In(func(h *Hanging) any { return &h.Cost }), Pattern: `^\d{1,9}(\.\d+)?$`,
			Called: "cost", Label: "Cost", Mode: "decimal", Example: "320.00", About: "Of all of them."},
		{Key: "note", Type: schema.Lines, At: schema.In(func(h *Hanging) any { return &h.Note }), Most: 500, Called: "note",
			Label: "Note", About: "What one needs to know here."},
	},
	New: func() any { return &Hanging{} },
}

// ReadHanging reads one from decoded JSON. Problems have pointers below it.
func ReadHanging(v any) (*Hanging, problem.List) {
	var problems problem.List
	o := fields.Open(v, "", &problems)
	h := Hangings.New().(*Hanging)
	Hangings.Read(o, h)
	o.Close()
	if h.Cost != "" && !amount.MatchString(h.Cost) {
		o.Problem("cost", "hanging.cost", "is %q; write an amount, such as 320.00", h.Cost)
	}
	from, badFrom := day(h.From)
	until, badUntil := day(h.Until)
	switch {
	case badFrom:
		o.Problem("hangs_from", "hanging.day", "is no day; write one such as 1 March 2027")
	case badUntil:
		o.Problem("hangs_until", "hanging.day", "is no day; write one such as 28 March 2027")
	case !from.IsZero() && !until.IsZero() && until.Before(from):
		o.Problem("hangs_until", "hanging.order", "comes before the first day")
	}
	return h, problems.Unique()
}

// amount is a decimal.
var amount = regexp.MustCompile(`^\d{1,9}(\.\d{1,4})?$`)

func day(text string) (at time.Time, bad bool) {
	if text == "" {
		return at, false
	}
	at, err := time.Parse("2006-01-02", text)
	return at, err != nil
}

// Within is the days of a span on which it hangs, as indices of its first and the one after its last; without dates, all of them.
// from is the first day of the span.
func (h *Hanging) Within(from time.Time, days int) (first, after int) {
	after = days
	index := func(text string) (int, bool) {
		at, bad := day(text)
		if bad || text == "" {
			return 0, false
		}
		start := time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, time.UTC)
		return int(at.Sub(start).Hours()) / 24, true
	}
	if i, ok := index(h.From); ok {
		first = min(days, max(0, i))
	}
	if i, ok := index(h.Until); ok {
		after = max(first, min(days, i+1))
	}
	return first, after
}

// WithTyped is a hanging with fields as they are typed.
func (h *Hanging) WithTyped(edits map[string]string) (*Hanging, problem.List) {
	doc := Hangings.Write(h, nil).Map()
	var problems problem.List
	for key, text := range edits {
		f := Hangings.Field(key)
		if f == nil {
			problems.Add("/"+key, "field", "is not a field of where it hangs")
			continue
		}
		if f.Unsets(text) {
			delete(doc, key)
			continue
		}
		v, bad := f.Parse("/"+key, text)
		if bad != nil {
			problems = append(problems, *bad)
			continue
		}
		doc[key] = v
	}
	if len(problems) > 0 {
		return nil, problems
	}
	text, err := json.Marshal(doc)
	if err == nil {
		var v any
		if v, err = fields.Decode(text); err == nil {
			return ReadHanging(v)
		}
	}
	return nil, problem.List{{Code: "hanging", Message: fmt.Sprintf("cannot be read: %v", err)}}
}
