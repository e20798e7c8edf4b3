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
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/slip"
	"sodrik/internal/handover"
	"sodrik/internal/web/ui"
)

// File is one format to take.
type File struct {
	Format, Title, What string
	On                  bool // among those that go together
}

// Ship is the stub of files.
type Ship struct {
	Line    string
	Files   []File // of the code alone: for print and screens
	Sheet   []File // of the whole that it lies on
	Press   []File // for a press
	Pressed bool   // it is made for one
	Inks    []string
	Label   string  // what a label printer makes of it
	Fields  []Field // resolution, quality, printer
	Inline  string  // SVG to be put into a page
	Alt     string
	Handed  []string // what was handed over last, in words
	Address string   // of the picture that a page can show
	Mails   bool     // files can be sent by mail from here
}

// Chosen is how many files go together.
func (s Ship) Chosen() (n int) {
	for _, f := range s.All() {
		if f.On {
			n++
		}
	}
	return n
}

// All are all the files that may go together.
func (s Ship) All() []File { return append(append(slices.Clone(s.Files), s.Sheet...), s.Press...) }

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
	Whole bool
}

// Row is a file of the desk.
func (v View) Row(f File, whole bool) ShipRow { return ShipRow{f, v.ID, v.Place, v.Stale, whole} }

// usualFiles go together where nothing else was handed over for the medium before.
var usualFiles = []string{"svg", "pdf", "png"}

func (v *View) ships(b builder, i int) {
	m := b.c.Rendition
	p := m.Place(i)
	size := m.Pixels(p)
	width := "1 mm a module"
	if p != nil {
		width = p.Width.String() + " wide"
	}
	if f := m.Framed(p); m.Job.Look.Frame.None() && f.Left > 0 {
		width = fmt.Sprintf("%s mm with its disc", measure.Number(f.Scene.Width, 1))
	} else if !m.Job.Look.Frame.None() {
		width = fmt.Sprintf("%s × %s mm with its frame", measure.Number(f.Scene.Width, 1), measure.Number(f.Scene.Height, 1))
	}
	pixels := measure.Count(m.Across(p)) + " px"
	if s, _ := place.SubstrateOf(substrateOf(p)); s.Screen {
		pixels += fmt.Sprintf(" on the screen; prints up to %s mm at 300 dpi", measure.Number(float64(m.Across(p))/300*25.4, 0))
	} else if p != nil {
		pixels += fmt.Sprintf(", %s at %s dpi", p.Width, measure.Number(size.Resolution(float64(p.Width)), 0))
	} else {
		pixels += fmt.Sprintf(", up to %s mm at 300 dpi", measure.Number(float64(m.Across(p))/300*25.4, 0))
	}
	s := &v.Ship
	s.Files = []File{{"svg", "SVG", width + ", one outline a colour", false}, {"pdf", "PDF", width + ", page is the trim size", false}, {"png", "PNG", pixels, false},
		{"jpg", "JPEG", pixels + ", no transparency", false}, {"webp", "WebP", measure.Count(m.Across(p)) + " px, without loss", false}}
	if compose.HasSurface(p) {
		if c, ok := m.Compose(p); ok {
			whole := fmt.Sprintf("%s × %s mm", measure.Number(c.Width, 1), measure.Number(c.Height, 1))
			page := whole + ", page is the trim size"
			if sheet := m.Sheet(p); sheet != nil && sheet.PDF != nil {
				page = "your file, the code added to page " + strconv.Itoa(sheet.Page)
			}
			dots := fmt.Sprintf("%s px wide, %s", measure.Count(m.SheetPixels(p, c)), whole)
			s.Sheet = []File{{"sheet-pdf", "PDF", page, false}, {"sheet-svg", "SVG", whole, false}, {"sheet-png", "PNG", dots, false}, {"sheet-jpg", "JPEG", dots, false}}
		}
	}
	s.Pressed, s.Inks = m.Pressed(), inkLines(m, i)
	condition := m.Condition(p)
	s.Press = []File{{"pdfx", "PDF/X-1a", "inks of " + condition.Identifier + ", checked", false}, {"eps", "EPS", "the same inks", false}, {"tif", "TIFF", pixels + ", CMYK", false}}
	if len(s.Sheet) > 0 {
		s.Press = append(s.Press, File{"sheet-pdfx", "PDF/X-1a", "the whole", false})
	}
	s.choose(nil)
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
	s.Fields = []Field{dpi, quality, printer, thinner, colour, b.at("/output/bleed_mm"), b.at("/output/reduction_mm"), b.at("/output/marks"), b.at("/output/overprint")}
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

func substrateOf(p *place.Placement) string {
	if p == nil {
		return ""
	}
	return p.Substrate
}

// maxInline bounds the text of an SVG that is offered for copying.
const maxInline = 60_000

// choose marks the files that go together.
func (s *Ship) choose(keys []string) {
	if keys == nil {
		keys = usualFiles
		if s.Pressed {
			keys = []string{"pdfx", "png"}
		}
		if len(s.Sheet) > 0 {
			keys = append(slices.Clone(keys), s.Sheet[0].Format)
		}
	}
	for _, list := range [][]File{s.Files, s.Sheet, s.Press} {
		for i := range list {
			list[i].On = slices.Contains(keys, list[i].Format)
		}
	}
}

func (s *Ship) line(slip bool) {
	var words []string
	if slip {
		words = append(words, "payment part")
	}
	for _, f := range s.Files {
		if f.On {
			words = append(words, f.Title)
		}
	}
	for _, f := range s.Sheet {
		if f.On {
			words = append(words, f.Title+" of the whole")
		}
	}
	for _, f := range s.Press {
		if f.On && strings.HasPrefix(f.Format, "sheet-") {
			words = append(words, f.Title+" of the whole")
		} else if f.On {
			words = append(words, f.Title)
		}
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
		return handover.Ask{}, problem.List{{Code: "form", Message: "the form did not arrive whole; try again"}}
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
		v.Ship.choose(keys)
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
	v.Ship.Mails = h.Door.Post != nil
	return nil
}
