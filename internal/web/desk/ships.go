package desk

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/slip"
	"sodrik/internal/mailer"
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
	m := b.c.Made
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
			s.Sheet = []File{{compose.OnSheet + "pdf", "PDF", page, false}, {compose.OnSheet + "svg", "SVG", whole, false}, {compose.OnSheet + "png", "PNG", dots, false}, {compose.OnSheet + "jpg", "JPEG", dots, false}}
		}
	}
	s.Pressed, s.Inks = m.Pressed(), inkLines(m, i)
	condition := m.Condition(p)
	s.Press = []File{{"pdfx", "PDF/X-1a", "inks of " + condition.Identifier + ", checked", false}, {"eps", "EPS", "the same inks", false}, {"tif", "TIFF", pixels + ", CMYK", false}}
	if len(s.Sheet) > 0 {
		s.Press = append(s.Press, File{compose.OnSheet + "pdfx", "PDF/X-1a", "the whole", false})
	}
	s.choose(nil)
	dots, real := m.Dots(p)
	s.Label = fmt.Sprintf("%s wide: %s a module, black or nothing", real, measure.Plural(dots.PerModule, "dot"))
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
	if len(s.Inline) > mostInline {
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

// mostInline bounds the text of an SVG that is offered for copying.
const mostInline = 60_000

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
		if f.On && strings.HasPrefix(f.Format, compose.OnSheet) {
			words = append(words, f.Title+" of the whole")
		} else if f.On {
			words = append(words, f.Title)
		}
	}
	s.Line = strings.Join(words, " · ")
}

// shipped is one file to hand over.
type shipped struct {
	format, name string
	place        int
	data         []byte
}

// ship hands over files: one as it is, several as a zip. It issues a version first. format and place may be repeated; place −1 is the bare PNG of at
// least compose.BarePixels. A file that does not read back is handed over only to whoever insists.
func (h *Handler) ship(w http.ResponseWriter, r *http.Request) {
	c, bundle, err := h.bundle(r)
	if err != nil {
		h.failShip(w, r, err)
		return
	}
	if len(bundle) == 1 && r.Form.Get("everything") == "" {
		ui.Attachment(w, bundle[0].format, bundle[0].name, bundle[0].data)
		return
	}
	data, err := h.pack(r, c, bundle, r.Form.Get("everything") != "")
	if err != nil {
		h.failShip(w, r, err)
		return
	}
	ui.Attachment(w, "zip", h.named(c, -1, "zip"), data)
}

// unread is what stops a handing over: files that say nothing, or something else.
type unread struct{ names []string }

func (u *unread) Error() string {
	return fmt.Sprintf("%s does not read back: no reader finds in it what it should say", strings.Join(u.names, ", "))
}

// failShip answers what stopped a handing over.
func (h *Handler) failShip(w http.ResponseWriter, r *http.Request, err error) {
	var u *unread
	if !errors.As(err, &u) || r.FormValue("copy") != "" {
		if u != nil {
			err = problem.List{{Field: "/format", Code: "output.unread", Message: u.Error()}}
		}
		ui.Fail(w, r, err)
		return
	}
	v := struct {
		ui.Frame
		ID    string
		Names []string
		Form  map[string][]string
		Path  string
	}{ui.FrameOf(r, "Not handed over", "codes"), chi.URLParam(r, "id"), u.names, r.Form, r.URL.Path}
	ui.Render(w, http.StatusConflict, pages, "unread", v)
}

// bundle makes the files that a form asks for, of a version issued for them, reads them back, and keeps on record what is downloaded.
func (h *Handler) bundle(r *http.Request) (*code.Code, []shipped, error) {
	if err := r.ParseForm(); err != nil {
		return nil, nil, problem.List{{Code: "form", Message: "the form did not arrive whole; try again"}}
	}
	formats, places := r.Form["format"], r.Form["place"]
	if len(formats) == 0 {
		return nil, nil, problem.List{{Field: "/format", Code: "output.none", Message: "none is chosen; choose SVG, PDF or PNG"}}
	}
	c, err := h.Store.Issue(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		return nil, nil, err
	}
	files, err := h.shipment(r.Context(), c, formats, places)
	if err != nil {
		return nil, nil, err
	}
	if r.Form.Get("insist") == "" {
		var u unread
		for _, f := range files {
			ok, err := h.Store.ReadBack(r.Context(), c.Made, f.place, f.format, f.data)
			if err != nil {
				return nil, nil, err
			}
			if !ok {
				u.names = append(u.names, f.name)
			}
		}
		if len(u.names) > 0 {
			return nil, nil, &u
		}
	}
	if r.Form.Get("copy") != "" || r.Form.Has("to") { // a mail is on record once it is sent
		return c, files, nil
	}
	return c, files, h.record(r, c, files, code.HandOver{Way: code.ByFiles})
}

// record keeps what was handed over.
func (h *Handler) record(r *http.Request, c *code.Code, files []shipped, out code.HandOver) error {
	return h.Store.Record(r.Context(), ui.Actor(r), c.ID, handOver(r, c, files, out))
}

// handOver says what of a code was handed over.
func handOver(r *http.Request, c *code.Code, files []shipped, out code.HandOver) code.HandOver {
	out.N, out.Files = c.Issued.N, r.Form["format"]
	if len(files) > 0 && files[0].place >= 0 {
		out.Medium = c.Made.Job.Placements[files[0].place].Medium
	}
	return out
}

// pack makes a zip of files; with everything, the proof sheet, the job and a note to the printer are in it too.
func (h *Handler) pack(r *http.Request, c *code.Code, files []shipped, everything bool) ([]byte, error) {
	if everything {
		more, err := h.beside(r.Context(), ui.Actor(r), c, files)
		if err != nil {
			return nil, err
		}
		files = append(files, more...)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		e, err := z.CreateHeader(&zip.FileHeader{Name: f.name, Method: zip.Deflate, Modified: c.Issued.At.UTC()})
		if err == nil {
			_, err = e.Write(f.data)
		}
		if err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

// beside is what goes with the files: the proof sheet, the job file, and a note to the printer.
func (h *Handler) beside(ctx context.Context, actor access.Actor, c *code.Code, files []shipped) ([]shipped, error) {
	sheet, verdicts, err := h.provedSheet(ctx, actor, c)
	if err != nil {
		return nil, err
	}
	text, err := c.Made.Job.MarshalJSON()
	if err != nil {
		return nil, err
	}
	var names []string
	for _, f := range files {
		names = append(names, f.name)
	}
	note := compose.Note(c.Made, c.Name(), c.Issued.N, c.Issued.At.Format("2 January 2006"), verdicts, names)
	named := func(what, ending string) string {
		return c.House.FileNames().File(export.Named{Name: c.Name() + " " + what, Version: c.Issued.N}, ending)
	}
	return []shipped{{name: named("proof sheet", "pdf"), data: sheet}, {name: named("job", "json"), data: append(text, '\n')}, {name: named("note to the printer", "txt"), data: []byte(note)}}, nil
}

// provedSheet draws the proof sheet, and gives the verdict of every placement.
func (h *Handler) provedSheet(ctx context.Context, actor access.Actor, c *code.Code) ([]byte, map[int]proof.Verdict, error) {
	s, verdicts, err := h.sheet(ctx, actor, c)
	if err != nil {
		return nil, nil, err
	}
	return pdf.Encode(s, export.Meta{Title: c.Name() + ", proof sheet", Payload: content.Shown(c.Made.Job.Content)}), verdicts, nil
}

// named is what a file of a code is called.
func (h *Handler) named(c *code.Code, i int, format string) string {
	return fileName(c.House.FileNames(), c.Made.Job, i, c.Issued.N, format)
}

// shipment makes the files of an issued code, one for each format and placement.
func (h *Handler) shipment(ctx context.Context, c *code.Code, formats, places []string) (out []shipped, err error) {
	n := len(c.Made.Job.Placements)
	if len(places) == 0 || n == 0 {
		places = []string{"-1"}
	}
	for _, p := range places {
		i := job.PlacementAt(c.Draft, p)
		if i < 0 {
			var err error
			if i, err = strconv.Atoi(p); err != nil {
				i = n
			}
		}
		if i < -1 || i >= n {
			return nil, problem.List{{Field: "/placements", Code: "place.unknown", Message: "has no such place any more; look at the desk again"}}
		}
		for _, format := range formats {
			if strings.HasPrefix(format, compose.OnSheet) && !compose.HasSurface(c.Made.Place(i)) && len(places) > 1 {
				continue // places that say nothing of what the code lies on have no whole
			}
			data, err := h.Store.File(ctx, c.Made, format, c.Made.Place(i), compose.MetaOf(format, c.Made.Title(i), c.Issued.At))
			if err != nil {
				return nil, err
			}
			file := shipped{format, fileName(c.House.FileNames(), c.Made.Job, i, c.Issued.N, format), i, data}
			if slices.ContainsFunc(out, func(s shipped) bool { return s.name == file.name }) {
				file.name = fmt.Sprintf("%d-%s", i+1, file.name)
			}
			out = append(out, file)
		}
	}
	return out, nil
}

// mail sends files to somebody.
func (h *Handler) mail(w http.ResponseWriter, r *http.Request) {
	if _, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	refuse := func(problems problem.List) { h.mailed(w, r, "", problems) }
	to := strings.TrimSpace(r.FormValue("to"))
	switch {
	case h.Post == nil:
		refuse(problem.List{{Field: "/to", Code: "mail.none", Message: "cannot be reached: no mail server is set up here"}})
		return
	case to == "" || strings.Count(to, "@") != 1 || strings.ContainsAny(to, " ,;<>\r\n"):
		refuse(problem.List{{Field: "/to", Code: "mail.address", Message: fmt.Sprintf("is %q, which is no mail address; write one such as wren@printer.example", to)}})
		return
	}
	counted, err := h.Store.BeginMail(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), to)
	if problems, ok := code.IsProblem(err); ok {
		refuse(problems)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	defer func() { // takes nothing off where it was sent
		if err := counted.Unsent(context.WithoutCancel(r.Context())); err != nil {
			slog.Error("a mail that was not sent stays counted", "error", err)
		}
	}()
	c, files, err := h.bundle(r)
	var u *unread
	if errors.As(err, &u) {
		refuse(problem.List{{Field: "/to", Code: "output.unread", Message: "was not written to: " + u.Error()}})
		return
	}
	if problems, ok := code.IsProblem(err); ok {
		refuse(problems)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	l := mailer.Letter{To: []string{to}, Subject: fmt.Sprintf("%s, version %d", c.Name(), c.Issued.N)}
	if who := ui.MailOf(r); who != "" {
		l.ReplyTo = who
	}
	l.Body = fmt.Sprintf("%s sends the files of %s, version %d.\n\nIt says: %s\n", ui.NameOf(r), c.Name(), c.Issued.N, content.Shown(c.Made.Job.Content))
	if note := strings.TrimSpace(r.FormValue("note")); note != "" {
		l.Body = note + "\n\n" + l.Body
	}
	if r.FormValue("zip") != "" {
		data, err := h.pack(r, c, files, true)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		l.Files = []mailer.File{{Name: h.named(c, -1, "zip"), Type: "application/zip", Data: data}}
	} else {
		for _, f := range files {
			ending := f.name[strings.LastIndexByte(f.name, '.')+1:]
			l.Files = append(l.Files, mailer.File{Name: f.name, Type: compose.Types[ending], Data: f.data})
		}
	}
	total := 0
	for _, f := range l.Files {
		total += len(f.Data)
	}
	if total > code.MostMailBytes {
		refuse(problem.List{{Field: "/to", Code: "mail.large", Message: fmt.Sprintf("would get %d MB, more than most mailboxes take, %d MB; send fewer files, or download them", total>>20, code.MostMailBytes>>20)}})
		return
	}
	if err := h.Post.Post(r.Context(), l); err != nil {
		if errors.Is(err, mailer.ErrBounced) {
			refuse(problem.List{{Field: "/to", Code: "mail.bounced", Message: fmt.Sprintf("refused the mail: %v. Nothing was sent", err)}})
			return
		}
		refuse(problem.List{{Field: "/to", Code: "mail.server", Message: fmt.Sprintf("cannot be reached just now: the mail server says %v. Nothing was sent; try again", err)}})
		return
	}
	if err := counted.Sent(context.WithoutCancel(r.Context()), handOver(r, c, files, code.HandOver{})); err != nil {
		ui.Fail(w, r, err)
		return
	}
	h.mailed(w, r, fmt.Sprintf("Sent to %s: %s.", to, strings.ToLower(measure.Plural(len(l.Files), "file"))), nil)
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
	if p := c.Made.Place(v.Place); p != nil {
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
				if strings.HasPrefix(key, compose.OnSheet) {
					f.Title += " of the whole"
				}
				titles = append(titles, f.Title)
			}
		}
		words := fmt.Sprintf("v%d: %s", one.N, strings.Join(titles, ", "))
		if one.Recipient != "" {
			words += " to " + one.Recipient
		}
		v.Ship.Handed = append(v.Ship.Handed, words+", "+ui.Ago(h.Store.Now(), one.At))
	}
	v.Ship.Mails = h.Post != nil
	return nil
}
