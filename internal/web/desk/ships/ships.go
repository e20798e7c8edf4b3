// Package ships is the stub of files: whom they are for, what is in them, what was handed over before.
package ships

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/slip"
	"sodrik/internal/records"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// Ships is the stub.
type Ships struct {
	Line       string
	Whom       []Recipient
	Wholly     bool // there is a whole thing that the code lies on
	MediumName string
	Inks       []string
	Label      string        // what a label printer makes of it
	Fields     []forms.Field // resolution, quality, printer
	Inline     string        // SVG to be put into a page
	Alt        string
	Handed     []string // what was handed over last, in words
	Slips      []string // languages of the payment part of a bill
	Since      []string // how the code differs from what was handed over last
	Version    int      // that was
	InPrint    Printed
	Bare       string // what the quick PNG gives
	Without    string // what it leaves out of what the place shows: "without the artwork and its panel", "" for nothing

	files  []File // all of them
	chosen []string
}

// All are all the files that may go together.
func (s Ships) All() []File { return s.files }

// Field finds one of the fields by the end of its path.
func (s Ships) Field(name string) forms.Field {
	for _, f := range s.Fields {
		if strings.HasSuffix(f.Path, "/"+name) {
			return f
		}
	}
	return forms.Field{}
}

// usualFiles go together where nothing else was handed over for the medium before.
var usualFiles = []string{"svg", "pdf", "png"}

// without says what a picture of the code alone leaves out of what a place shows.
func without(m *compose.Rendition, p *place.Placement) string {
	var out []string
	if p != nil && p.Artwork.Source != "" {
		out = append(out, "the artwork")
	}
	if p != nil && p.Artwork.Panel != nil {
		out = append(out, "the panel")
	}
	if p != nil && !p.Words.None() {
		out = append(out, "the words beside it")
	}
	if m.Job.Look.Paper.None && len(out) == 0 {
		out = append(out, "paper")
	}
	switch len(out) {
	case 0:
		return ""
	case 1:
		return "without " + out[0]
	}
	return "without " + strings.Join(out[:len(out)-1], ", ") + " and " + out[len(out)-1]
}

// Of is the stub of a code, before it is known what was handed over.
func Of(b bound.Code) (s Ships) {
	m, i := b.C.Rendition, b.Place
	p := m.Place(i)
	if b.C.Issued != nil {
		s.Version, s.InPrint = b.C.Issued.N, PrintedOf(b.C)
	}
	s.files = filesOf(m, p)
	s.Wholly = slices.ContainsFunc(s.files, func(f File) bool { return f.Whole })
	s.Whom = recipients(m, p)
	if p != nil {
		medium, _ := b.C.House.Medium(p.Medium)
		s.MediumName = medium.Name
	}
	s.Inks = inkLines(m, i)
	s.Bare = measure.Count(m.Wide(nil)) + " px"
	s.Without = without(m, p)
	s.choose(nil, m.Pressed())
	dots, printed := m.Dots(p)
	s.Label = fmt.Sprintf("%s wide: %s a module, black or nothing", printed, measure.Plural(dots.PerModule, "dot"))
	dpi, quality := b.At("/output/dpi"), b.At("/output/quality")
	printer := b.Chosen("/output/printer_dpi", strconv.Itoa(m.Job.Output.PrinterDPI))
	thinner := b.Chosen("/output/thinner_dots", strconv.Itoa(m.Job.Output.Thinner))
	for f, n := range map[*forms.Field]int{&dpi: m.Job.Output.DPI, &quality: m.Job.Output.Quality} {
		if f.Value == "" {
			f.Value = strconv.Itoa(n)
		}
	}
	colour := b.Chosen("/output/colour", m.Job.Output.Colour)
	pixels := b.At("/output/pixels")
	pixels.Hint = fmt.Sprintf("Of a PNG without a place. Now %s, %d a module.", s.Bare, m.Pixels(nil).PerModule)
	s.Fields = []forms.Field{
		dpi,
		pixels,
		quality,
		printer,
		thinner,
		colour,
		b.At("/output/bleed_mm"),
		b.At("/output/reduction_mm"),
		b.At("/output/marks"),
		b.At("/output/overprint"),
	}
	s.Alt = "QR code: " + content.Shown(m.Job.Content)
	s.Inline = svg.Inline(
		m.Scene(p).Reduced(drawn.ScreenPixels),
		s.Alt,
		fmt.Sprintf(`width="%smm"`, measure.Number(m.Scene(p).Width, 2)),
	)
	if len(s.Inline) > maxInline {
		s.Inline = ""
	}
	if m.HasSlip() {
		s.Slips = slip.Languages
	}
	s.line()
	return s
}

// maxInline bounds the text of an SVG that is offered for copying.
const maxInline = 60_000

// choose marks the files that go together: those handed over for the medium before, or where keys is nil the usual ones.
func (s *Ships) choose(keys []string, pressed bool) {
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
		if s.files[i].On = slices.Contains(keys, s.files[i].Format) && s.files[i].Unfit == ""; s.files[i].On {
			s.chosen = append(s.chosen, s.files[i].Named)
		}
	}
}

// Chosen names the files that go together.
func (s Ships) Chosen() string { return strings.Join(s.chosen, ", ") }

func (s *Ships) line() {
	words := s.chosen
	if s.Slips != nil {
		words = append([]string{"payment part"}, words...)
	}
	s.Line = strings.Join(words, " · ")
}

// Before takes in what was handed over: the keys of the files that went together for the medium last, nil for none, and each
// time, newest first.
func (s *Ships) Before(keys []string, list []records.HandOver, pressed bool, now time.Time) {
	if keys != nil {
		s.choose(keys, pressed)
		s.line()
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
		if one.Unsure {
			words += ", perhaps: ask whether the mail came"
		}
		s.Handed = append(s.Handed, words+", "+ui.Ago(now, one.At))
	}
}
