package batched

import (
	"fmt"
	"net/http"

	"sodrik/internal/batches"
	"sodrik/internal/core/measure"
	"sodrik/internal/people"
	"sodrik/internal/records"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// Taken is what was handed over of a batch, and what is said of its print.
type Taken struct {
	Batch string
	Files []TakenFile
	May   bool
}

// TakenFile is one of them.
type TakenFile struct {
	Run, What, Words string
	File             string // what it is, while it is kept: "ZIP, 45 kB"
	InPrint          string // since when and by whom, "" where nobody said so
	Said             Said   // as typed
}

// Said is what somebody typed of a print.
type Said struct {
	Run, On, Printer, Quantity string
	Errors                     map[string]string
}

func takenFile(t batches.Taken) TakenFile {
	f := TakenFile{Run: t.Run, What: fmt.Sprintf("%s of %s", made[t.What], measure.Plural(t.Labels, "label")),
		Words: "handed over " + t.At.Format("2 January 2006") + " by " + t.Who}
	if t.Printed != nil {
		f.InPrint = "It is " + t.Printed.String()
	}
	return f
}

// takenOf reads what was handed over; said is what somebody typed and could not be taken.
func (h *Handler) takenOf(r *http.Request, id string, said Said) (Taken, error) {
	out := Taken{Batch: id, May: ui.May(r, people.Change)}
	all, err := h.Batches.Taken(r.Context(), ui.Actor(r), id)
	if err != nil || len(all) == 0 {
		return out, err
	}
	runs, err := h.Batches.Runs(r.Context(), ui.Actor(r), id)
	for _, t := range all {
		f := takenFile(t)
		for _, run := range runs {
			if run.ID == t.Run && runOf(run, h.Codes.Now()).Take {
				f.File = kept(run)
			}
		}
		if f.Run == said.Run {
			f.Said = said
		}
		out.Files = append(out.Files, f)
	}
	return out, err
}

func (h *Handler) taken(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	v, err := h.takenOf(r, b.ID, Said{})
	if err == nil {
		ui.Render(w, http.StatusOK, pages, "batch-taken", v)
	}
	return err
}

// printed notes that a file is in print, or takes that back.
func (h *Handler) printed(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	typed := Said{Run: r.FormValue("run"), On: r.FormValue("on"),
		Printer: r.FormValue("printer"), Quantity: r.FormValue("quantity")}
	status := http.StatusOK
	var err error
	if r.FormValue("back") != "" {
		err, typed = h.Batches.TakePrintBack(r.Context(), ui.Actor(r), b.ID, typed.Run), Said{}
	} else {
		said, problems := records.ReadPrinting(typed.On, typed.Printer, typed.Quantity, h.Codes.Now())
		if len(problems) == 0 {
			err, typed = h.Batches.SayPrinted(r.Context(), ui.Actor(r), b.ID, typed.Run, said), Said{}
		} else {
			status, typed.Errors = http.StatusUnprocessableEntity, map[string]string{}
			for _, p := range problems {
				typed.Errors[p.Field[1:]] = forms.Sentence(p)
			}
		}
	}
	var v Taken
	if err == nil {
		v, err = h.takenOf(r, b.ID, typed)
	}
	if err == nil {
		ui.Render(w, status, pages, "batch-taken", v)
	}
	return err
}
