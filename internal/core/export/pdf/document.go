package pdf

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"io"
	"math"
	"strings"
	"weak"

	"sodrik/internal/core/export"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
)

// Numbers of the objects that are written last, since they name the pages.
const (
	catalogObject = 1
	pagesObject   = 2
)

// Document is a PDF 1.4 of any number of pages, written as a stream: of a page nothing is kept once it is written but its
// number, and the digests of what it shares with others. An outline of some size is written once however many pages show it,
// a letter too; so are gradients, pictures and inks.
type Document struct {
	out     io.Writer
	at      int64
	sum     hash.Hash // of all that is written, for the ID
	offsets []int64   // of objects, by number; 0 for one that is still to come
	pages   []int
	shared  map[[sha256.Size]byte]int           // objects by the digest of what they say
	images  map[weak.Pointer[scene.Picture]]int // known again, not kept
	alone   bool                                // nothing is shared: a file of one page
	meta    export.Meta
	x       *press.Condition // of a PDF/X, that of its first page
	isX     bool
	err     error
}

// NewDocument begins a document.
func NewDocument(w io.Writer, m export.Meta) *Document {
	d := &Document{out: w, sum: sha256.New(), offsets: []int64{0, 0, 0}, shared: map[[sha256.Size]byte]int{},
		images: map[weak.Pointer[scene.Picture]]int{}, meta: m}
	d.write("%PDF-1.4\n%\xE2\xE3\xCF\xD3\n")
	return d
}

// NewDocumentX begins a PDF/X-1a:2003 (ISO 15930-4), whose pages are for one condition. m.Created must not be zero.
func NewDocumentX(w io.Writer, m export.Meta) (*Document, error) {
	if m.Created.IsZero() {
		return nil, ErrDate
	}
	if m.Title == "" {
		m.Title = "Code"
	}
	d := NewDocument(w, m)
	d.isX = true
	return d, nil
}

// ErrPages are pages that do not belong into one document.
var ErrPages = errors.New("pdf: a document is in RGB throughout, or a PDF/X for one printing condition throughout")

// Add writes a page as large as a scene.
func (d *Document) Add(s *scene.Scene) error {
	if d.isX {
		return ErrPages
	}
	p := &parts{document: d}
	drawn := content(s, p)
	box := fmt.Sprintf("[0 0 %s %s]", number(s.Width*point), number(s.Height*point))
	return d.page("/MediaBox "+box+" /TrimBox "+box, p.resources(), drawn)
}

// AddX writes a page of plates, with what stands around it.
func (d *Document) AddX(s *separation.Sheet, p Press) error {
	if !d.isX || d.x != nil && d.x.Key != s.Condition.Key {
		return ErrPages
	}
	d.x = s.Condition
	around := p.Bleed
	if p.Marks {
		around = max(p.Bleed, markGap) + markLength + markRoom
	}
	x := &plates{parts: parts{document: d}, sheet: s, press: p}
	drawn := x.content(around)
	width, height := s.Width+2*around, s.Height+2*around
	box := func(inset float64) string {
		return fmt.Sprintf("[%s %s %s %s]", number(inset*point), number(inset*point), number((width-inset)*point),
			number((height-inset)*point))
	}
	return d.page("/MediaBox "+box(0)+" /BleedBox "+box(around-p.Bleed)+" /TrimBox "+box(around), x.all(), drawn)
}

func (d *Document) page(boxes, resources string, drawn []byte) error {
	at := d.object(pdfpage.Stream("", drawn))
	d.pages = append(d.pages,
		d.object(fmt.Appendf(nil, "<< /Type /Page /Parent %d 0 R %s /Resources %s /Contents %d 0 R >>", pagesObject, boxes,
			resources, at)))
	return d.err
}

// Close writes what names the pages. It does not close the writer.
func (d *Document) Close() error {
	var kids strings.Builder
	for i, n := range d.pages {
		if i > 0 {
			kids.WriteByte(' ')
		}
		fmt.Fprintf(&kids, "%d 0 R", n)
	}
	d.put(pagesObject, fmt.Appendf(nil, "<< /Type /Pages /Kids [%s] /Count %d >>", kids.String(), len(d.pages)))
	catalog, about := fmt.Sprintf("<< /Type /Catalog /Pages %d 0 R", pagesObject), info(d.meta)
	if d.isX {
		if d.x == nil {
			return ErrPages
		}
		c := d.x
		catalog += fmt.Sprintf(
			" /OutputIntents [<< /Type /OutputIntent /S /GTS_PDFX /OutputCondition %s /OutputConditionIdentifier %s "+
				"/RegistryName %s /Info %s >>]",
			text(c.Name), text(c.Identifier), text(press.Registry), text(c.Says))
		date := text(d.meta.Created.UTC().Format("D:20060102150405Z"))
		about = "<< /Title " + text(d.meta.Title) + " /Creator " + text(export.Producer) + " /Producer " + text(export.Producer) +
			" /CreationDate " + date + " /ModDate " + date +
			" /GTS_PDFXVersion (PDF/X-1a:2003) /Trapped /False >>"
	}
	d.put(catalogObject, []byte(catalog+" >>"))
	named := d.object([]byte(about))
	id, start := d.sum.Sum(nil), d.at
	d.write(fmt.Sprintf("xref\n0 %d\n0000000000 65535 f \n", len(d.offsets)))
	for _, at := range d.offsets[1:] {
		d.write(fmt.Sprintf("%010d 00000 n \n", at))
	}
	d.write(fmt.Sprintf("trailer\n<< /Size %d /Root %d 0 R /Info %d 0 R /ID [<%X> <%X>] >>\nstartxref\n%d\n%%%%EOF\n",
		len(d.offsets), catalogObject, named, id[:16], id[:16], start))
	return d.err
}

func (d *Document) write(s string) {
	if d.err == nil {
		_, d.err = io.WriteString(d.out, s)
		io.WriteString(d.sum, s)
		d.at += int64(len(s))
	}
}

// object writes the next object and gives its number.
func (d *Document) object(body []byte) int {
	d.offsets = append(d.offsets, 0)
	n := len(d.offsets) - 1
	d.put(n, body)
	return n
}

func (d *Document) put(n int, body []byte) {
	d.offsets[n] = d.at
	d.write(fmt.Sprintf("%d 0 obj\n", n))
	d.write(string(body))
	d.write("\nendobj\n")
}

// once writes an object unless one that says the same is there.
func (d *Document) once(body []byte) int {
	key := sha256.Sum256(body)
	n, ok := d.shared[key]
	if !ok {
		n = d.object(body)
		d.shared[key] = n
	}
	return n
}

// worth is how many points an outline has to have for it to be written once: with fewer, its name is hardly shorter.
const worth = 8

// form is an outline that is filled with whatever colour is set, as a form XObject (ISO 32000-1, 8.10). ok is false where it
// is to be written in place.
func (d *Document) form(p *scene.Path) (n int, ok bool) {
	if d.alone || len(p.Points) < worth {
		return 0, false
	}
	h := sha256.New()
	var b [16]byte
	for _, op := range p.Ops {
		h.Write([]byte{byte(op)})
	}
	least, most := scene.Point{X: math.Inf(1), Y: math.Inf(1)}, scene.Point{X: math.Inf(-1), Y: math.Inf(-1)}
	for _, q := range p.Points {
		binary.LittleEndian.PutUint64(b[:], math.Float64bits(q.X))
		binary.LittleEndian.PutUint64(b[8:], math.Float64bits(q.Y))
		h.Write(b[:])
		least, most = scene.Point{X: min(least.X, q.X), Y: min(least.Y, q.Y)},
			scene.Point{X: max(most.X, q.X), Y: max(most.Y, q.Y)}
	}
	key := [sha256.Size]byte(h.Sum(nil))
	if n, ok = d.shared[key]; !ok {
		n = d.object(pdfpage.Stream(fmt.Sprintf("/Type /XObject /Subtype /Form /BBox [%s %s %s %s]", number(least.X),
			number(least.Y), number(most.X), number(most.Y)), outlined(*p)))
		d.shared[key] = n
	}
	return n, true
}

func outlined(p scene.Path) []byte {
	var b bytes.Buffer
	outline(&b, p)
	b.WriteString("f\n")
	return b.Bytes()
}
