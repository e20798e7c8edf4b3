package records

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// Bounds of what is said of a printing.
const (
	maxPrinter  = 120           // characters
	maxQuantity = 1_000_000_000 // pieces
	maxAhead    = 366           // days from now
)

// ReadPrinting reads what a person typed: a day such as 2027-03-02 or 2 March 2027, a printer, a number. Its problems point
// to /on, /printer, /quantity.
func ReadPrinting(on, printer, quantity string, now time.Time) (p code.Printing, problems problem.List) {
	p.Printer = strings.Join(strings.Fields(printer), " ")
	if len([]rune(p.Printer)) > maxPrinter {
		problems.Add("/printer", "printing.printer", "has more than %d characters; a name is enough", maxPrinter)
	}
	var err error
	for _, layout := range []string{"2006-01-02", "2 January 2006", "2 Jan 2006"} {
		if p.On, err = time.Parse(layout, strings.Join(strings.Fields(on), " ")); err == nil {
			break
		}
	}
	switch {
	case err != nil:
		problems.Add("/on", "printing.on", "is no day; write it such as 2 March 2027")
	case p.On.After(now.AddDate(0, 0, maxAhead)), p.On.Year() < 1990:
		problems.Add("/on", "printing.on", "lies too far away; write the day on which it went to print")
	}
	number := strings.NewReplacer(",", "", " ", "", "\u00a0", "", "\u202f", "").Replace(strings.TrimSpace(quantity))
	if number != "" {
		if _, err := fmt.Sscanf(number, "%d", &p.Quantity); err != nil || fmt.Sprint(p.Quantity) != number || p.Quantity < 1 ||
			p.Quantity > maxQuantity {
			problems.Add("/quantity", "printing.quantity", "is no number of pieces; write it such as 2000, or leave it empty")
		}
	}
	return p, problems
}

// SayPrinted notes that version n of a code is in print.
func (s *Records) SayPrinted(ctx context.Context, actor access.Actor, id string, n int, p code.Printing) error {
	return s.notePrinting(ctx, actor, id, n, &p)
}

// TakePrintBack takes back that version n of a code is in print.
func (s *Records) TakePrintBack(ctx context.Context, actor access.Actor, id string, n int) error {
	return s.notePrinting(ctx, actor, id, n, nil)
}

func (s *Records) notePrinting(ctx context.Context, actor access.Actor, id string, n int, p *code.Printing) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	var on *time.Time
	who := ""
	if p == nil {
		p = &code.Printing{}
	} else {
		on, who = &p.On, actor.Name
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(
			ctx,
			`UPDATE issued_versions SET printed_on = $4, printer = $5, quantity = $6, printed_who = $7
				WHERE workspace = $1 AND code = $2 AND n = $3`,
			actor.Workspace,
			id,
			n,
			on,
			p.Printer,
			p.Quantity,
			who,
		)
		if err == nil && tag.RowsAffected() == 0 {
			err = code.ErrNotFound
		}
		return err
	})
}
