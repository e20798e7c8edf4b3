package desk

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/slip"
	"sodrik/internal/handover"
	"sodrik/internal/web/ui"
)

// File is one format to take.
type File struct {
	Format, Title, Named, What string
	Size, Pixels               string // of what it shows, in mm, and of its pixels, "" where it has none
	Whole                      bool   // of the whole thing that the code lies on
	On                         bool   // among those that go together
}

// Ship is the stub of files.
type Ship struct {
	Line       string
	Whom       []Recipient
	Wholly     bool // there is a whole thing that the code lies on
	MediumName string
	Inks       []string
	Label      string  // what a label printer makes of it
	Fields     []Field // resolution, quality, printer
	Inline     string  // SVG to be put into a page
	Alt        string
	Handed     []string // what was handed over last, in words
	Bare       string   // what the quick PNG gives

	files  []File // all of them
	chosen []string
}

// All are all the files that may go together.
func (s Ship) All() []File { return s.files }

// Field finds one of the fields by the end of its path.
func (s Ship) Field(name string) Field {
	for _, f := range s.Fields {
		if strings.HasSuffix(f.Path, "/"+name) {
			return f
		}
	}
	return Field{}
}

// ShipRow is a file with what its forms need.
type ShipRow struct {
	File
	ID    string
	Place int
	Stale bool
}

// FileList is the files for somebody, with what their forms need.
type FileList struct{ Files []ShipRow }

// List are the files for a recipient.
func (v View) List(r Recipient) (out FileList) {
	for _, f := range v.Ship.files {
		if slices.Contains(r.files, f.Format) {
			out.Files = append(out.Files, ShipRow{f, v.ID, v.Place, v.Stale})
		}
	}
	slices.SortStableFunc(out.Files, func(a, b ShipRow) int {
		return slices.Index(r.files, a.Format) - slices.Index(r.files, b.Format)
	})
	return out
}

// usualFiles go together where nothing else was handed over for the medium before.
var usualFiles = []string{"svg", "pdf", "png"}

func (v *View) ships(b builder, i int) {
	m := b.c.Rendition
	p := m.Place(i)
	s := &v.Ship
	s.files = filesOf(m, p)
	s.Wholly = slices.ContainsFunc(s.files, func(f File) bool { return f.Whole })
	s.Whom = recipients(m, p)
	if p != nil {
		medium, _ := b.c.House.Medium(p.Medium)
		s.MediumName = medium.Name
	}
	s.Inks = inkLines(m, i)
	s.Bare = measure.Count(m.Across(nil)) + " px"
	s.choose(nil, m.Pressed())
	dots, printed := m.Dots(p)
	s.Label = fmt.Sprintf("%s wide: %s a module, black or nothing", printed, measure.Plural(dots.PerModule, "dot"))
	dpi, quality := b.at("/output/dpi"), b.at("/output/quality")
	printer := b.chosen("/output/printer_dpi", strconv.Itoa(m.Job.Output.PrinterDPI))
	thinner := b.chosen("/output/thinner_dots", strconv.Itoa(m.Job.Output.Thinner))
	for f, n := range map[*Field]int{&dpi: m.Job.Output.DPI, &quality: m.Job.Output.Quality} {
		if f.Value == "" {
			f.Value = strconv.Itoa(n)
		}
	}
	colour := b.chosen("/output/colour", m.Job.Output.Colour)
	pixels := b.at("/output/pixels")
	pixels.Hint = fmt.Sprintf("Of a PNG without a place. Now %s, %d a module.", s.Bare, m.Pixels(nil).PerModule)
	s.Fields = []Field{dpi, pixels, quality, printer, thinner, colour, b.at("/output/bleed_mm"), b.at("/output/reduction_mm"), b.at("/output/marks"), b.at("/output/overprint")}
	s.Alt = "QR code: " + content.Shown(m.Job.Content)
	s.Inline = svg.Inline(m.Scene(p).Reduced(screenPixels), s.Alt, fmt.Sprintf(`width="%smm"`, measure.Number(m.Scene(p).Width, 2)))
	if len(s.Inline) > maxInline {
		s.Inline = ""
	}
	if m.HasSlip() {
		v.Slips = slip.Languages
	}
	s.line(v.Slips != nil)
}

// maxInline bounds the text of an SVG that is offered for copying.
const maxInline = 60_000

// choose marks the files that go together: those handed over for the medium before, or where keys is nil the usual ones.
func (s *Ship) choose(keys []string, pressed bool) {
	if keys == nil {
		keys = usualFiles
		if pressed {
			keys = []string{"pdfx", "png"}
		}
		if s.Wholly {
			keys = append(slices.Clone(keys), "sheet-pdf")
		}
	}
	s.chosen = nil
	for i := range s.files {
		if s.files[i].On = slices.Contains(keys, s.files[i].Format); s.files[i].On {
			s.chosen = append(s.chosen, s.files[i].Named)
		}
	}
}

// Chosen names the files that go together.
func (s Ship) Chosen() string { return strings.Join(s.chosen, ", ") }

func (s *Ship) line(slip bool) {
	words := s.chosen
	if slip {
		words = append([]string{"payment part"}, words...)
	}
	s.Line = strings.Join(words, " · ")
}

// ship hands over files: one as it is, several as a zip. format and place may be repeated; place −1 is the bare PNG of at least compose.BarePixels.
func (h *Handler) ship(w http.ResponseWriter, r *http.Request) {
	a, err := askOf(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	p, err := h.Door.Give(r.Context(), ui.Actor(r), a)
	if err != nil {
		h.failShip(w, r, a, err)
		return
	}
	if len(p.Files) == 1 && !a.All {
		ui.Attachment(w, p.Files[0].Name, p.Files[0].Data)
		return
	}
	data, err := h.Door.Pack(r.Context(), ui.Actor(r), p, a.All)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, p.ZipName(), data)
}

// askOf is what the form of the stub asks for.
func askOf(r *http.Request) (handover.Ask, error) {
	if err := r.ParseForm(); err != nil {
		return handover.Ask{}, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}}
	}
	return handover.Ask{Code: chi.URLParam(r, "id"), Formats: r.Form["format"], Places: r.Form["place"], Way: code.ByFiles, Insist: r.Form.Get("insist") != "",
		All: r.Form.Get("everything") != "", Copied: r.Form.Get("copy") != ""}, nil
}

// failShip answers what stopped a handing over: what does not read back is handed over to whoever insists.
func (h *Handler) failShip(w http.ResponseWriter, r *http.Request, a handover.Ask, err error) {
	var u *handover.Unread
	switch {
	case !errors.As(err, &u):
		ui.Fail(w, r, err)
	case a.Copied:
		ui.Fail(w, r, u.Problem())
	default:
		v := struct {
			ui.Frame
			ID     string
			Names  []string
			Method string
			Form   map[string][]string
			Path   string
		}{ui.FrameOf(r, "Not handed over", "codes"), a.Code, u.Names, strings.ToLower(r.Method), r.Form, r.URL.Path}
		ui.Render(w, http.StatusConflict, pages, "unread", v)
	}
}

// mail sends files to somebody.
func (h *Handler) mail(w http.ResponseWriter, r *http.Request) {
	if _, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	a, err := askOf(r)
	if err == nil {
		a.To, a.Note, a.All = r.FormValue("to"), r.FormValue("note"), r.FormValue("zip") != ""
		var done string
		if done, err = h.Door.Send(r.Context(), ui.Actor(r), a, ui.MailOf(r)); err == nil {
			h.mailed(w, r, done, nil)
			return
		}
	}
	if problems, ok := code.IsProblem(err); ok {
		h.mailed(w, r, "", problems)
		return
	}
	ui.Fail(w, r, err)
}

// mailed answers the slot under the form of a mail.
func (h *Handler) mailed(w http.ResponseWriter, r *http.Request, done string, problems problem.List) {
	v := struct{ Done, Wrong string }{Done: done}
	if len(problems) > 0 {
		v.Wrong = "The address " + problems[0].Message + "."
		if problems[0].Field != "/to" {
			v.Wrong = strings.ToUpper(problems[0].Message[:1]) + problems[0].Message[1:] + "."
		}
	}
	if r.Header.Get("HX-Request") == "" {
		if len(problems) > 0 {
			ui.Fail(w, r, problems)
			return
		}
		http.Redirect(w, r, "/codes/"+chi.URLParam(r, "id"), http.StatusSeeOther)
		return
	}
	ui.Render(w, http.StatusOK, pages, "mailed", v)
}

// afterwards adds to the view what was handed over before.
func (h *Handler) afterwards(r *http.Request, c *code.Code, v *View) error {
	medium := ""
	if p := c.Rendition.Place(v.Place); p != nil {
		medium = p.Medium
	}
	keys, list, err := h.Store.Afterwards(r.Context(), ui.Actor(r), c.ID, medium)
	if err != nil {
		return err
	}
	if keys != nil {
		v.Ship.choose(keys, c.Rendition.Pressed())
		v.Ship.line(v.Slips != nil)
	}
	for _, one := range list {
		var titles []string
		for _, key := range one.Files {
			if f, ok := compose.FormatOf(key); ok {
				titles = append(titles, f.Named())
			}
		}
		words := fmt.Sprintf("v%d: %s", one.N, strings.Join(titles, ", "))
		if one.Recipient != "" {
			words += " to " + one.Recipient
		}
		v.Ship.Handed = append(v.Ship.Handed, words+", "+ui.Ago(h.Store.Now(), one.At))
	}
	return nil
}
