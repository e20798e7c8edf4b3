package pdf

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"hash"
	"io"
	"strings"

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
	shared  map[[sha256.Size]byte]int // objects by the digest of what they say
	cache   *cache
	meta    export.Meta
	x       *press.Condition // of a PDF/X, that of its first page
	isX     bool
	err     error
}

// NewDocument begins a document.
func NewDocument(w io.Writer, m export.Meta) *Document {
	d := &Document{out: w, sum: sha256.New(), offsets: []int64{0, 0, 0}, shared: map[[sha256.Size]byte]int{}, cache: &cache{},
		meta: m}
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

// Page is a page that is made and waits to be written. Making pages takes long, and any number are made at once; they are
// written one after the other.
type Page struct {
	boxes     string
	content   []byte // as a stream
	objects   []object
	resources func(number func(i int) int) string
	condition *press.Condition // of a PDF/X
}

// Make makes a page as large as a scene. It is safe for concurrent use.
func (d *Document) Make(s *scene.Scene) *Page {
	p := &parts{cache: d.cache}
	drawn := content(s, p)
	box := fmt.Sprintf("[0 0 %s %s]", number(s.Width*point), number(s.Height*point))
	return &Page{"/MediaBox " + box + " /TrimBox " + box, pdfpage.Stream("", drawn), p.objects, p.resources, nil}
}

// MakeX makes a page of plates, with what stands around it. It is safe for concurrent use.
func (d *Document) MakeX(s *separation.Sheet, p Press) *Page {
	around := p.Bleed
	if p.Marks {
		around = max(p.Bleed, markGap) + markLength + markRoom
	}
	x := &plates{parts: parts{cache: d.cache}, sheet: s, press: p}
	drawn := x.content(around)
	width, height := s.Width+2*around, s.Height+2*around
	box := func(inset float64) string {
		return fmt.Sprintf("[%s %s %s %s]", number(inset*point), number(inset*point), number((width-inset)*point),
			number((height-inset)*point))
	}
	return &Page{"/MediaBox " + box(0) + " /BleedBox " + box(around-p.Bleed) + " /TrimBox " + box(around),
		pdfpage.Stream("", drawn), x.objects, x.all, s.Condition}
}

// Put writes a page that the document has made.
func (d *Document) Put(p *Page) error {
	switch {
	case d.isX != (p.condition != nil), d.isX && d.x != nil && d.x.Key != p.condition.Key:
		return ErrPages
	case d.isX:
		d.x = p.condition
	}
	numbers := make([]int, len(p.objects))
	for i := range p.objects {
		numbers[i] = d.once(&p.objects[i], numbers)
	}
	at := d.object(p.content)
	d.pages = append(d.pages,
		d.object(fmt.Appendf(nil, "<< /Type /Page /Parent %d 0 R %s /Resources %s /Contents %d 0 R >>", pagesObject, p.boxes,
			p.resources(func(i int) int { return numbers[i] }), at)))
	return d.err
}

// Add writes a page as large as a scene.
func (d *Document) Add(s *scene.Scene) error { return d.Put(d.Make(s)) }

// AddX writes a page of plates, with what stands around it.
func (d *Document) AddX(s *separation.Sheet, p Press) error { return d.Put(d.MakeX(s, p)) }

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

// once writes an object of a page, whose objects before it have numbers, unless one that says the same is there.
func (d *Document) once(o *object, numbers []int) int {
	if o.body == nil {
		o.body = d.cache.take(o.key)
	}
	n, ok := d.shared[o.key]
	if ok {
		return n
	}
	mask := 0
	if o.mask >= 0 {
		mask = numbers[o.mask]
	}
	n = d.object(o.numbered(mask))
	d.shared[o.key] = n
	return n
}
