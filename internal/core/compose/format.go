package compose

import (
	"slices"
	"strings"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/slip"
)

// Of is what a file shows.
type Of uint8

// What files show.
const (
	Code        Of = iota // the code alone
	Whole                 // the whole thing that the code lies on
	PaymentPart           // the payment part of a Swiss QR-bill
)

// Format is a kind of file that is handed over.
type Format struct {
	Of       Of
	Kind     string // "svg", "pdfx", "label"
	Language string // of a payment part
}

// kinds of files, each with the ending of its name and what it is called.
var kinds = map[string]struct{ ending, title string }{
	"svg": {"svg", "SVG"}, "pdf": {"pdf", "PDF"}, "png": {"png", "PNG"}, "jpg": {"jpg", "JPEG"}, "webp": {"webp", "WebP"},
	"svg-current": {"svg", "SVG in the colour of its text"}, "label": {"png", "PNG for a label printer"},
	"pdfx": {"pdf", "PDF/X-1a"}, "eps": {"eps", "EPS"}, "tif": {"tif", "TIFF"},
}

// of are the kinds that there are of a thing, in the order in which they are offered.
var of = map[Of][]string{
	Code:  {"svg", "pdf", "png", "jpg", "webp", "svg-current", "label", "pdfx", "eps", "tif"},
	Whole: {"pdfx", "svg", "pdf", "png", "jpg"}, PaymentPart: {"pdf", "svg"},
}

// All are the kinds of files, code alone first; payment parts are not among them.
var All = func() (out []Format) {
	for _, o := range []Of{Code, Whole} {
		for _, k := range of[o] {
			out = append(out, Format{Of: o, Kind: k})
		}
	}
	return out
}()

// Keys are those of all formats, payment parts too.
func Keys() (out []string) {
	for _, f := range All {
		out = append(out, f.Key())
	}
	for _, language := range slip.Languages {
		for _, kind := range of[PaymentPart] {
			out = append(out, Format{PaymentPart, kind, language}.Key())
		}
	}
	return out
}

// Formats are those of a code alone that a name's ending tells apart.
var Formats = of[Code][:5]

// Types are the media types of endings.
var Types = map[string]string{"svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png", "jpg": "image/jpeg",
	"webp": "image/webp",
	"eps":  "application/postscript", "tif": "image/tiff"}

// prefixes of the keys of what is not of a code alone.
const (
	wholeKey = "sheet-"
	slipKey  = "slip-"
)

// Key is how a format is written in forms, on the command line and in the API: "svg", "sheet-pdf", "slip-de.pdf".
func (f Format) Key() string {
	switch f.Of {
	case Whole:
		return wholeKey + f.Kind
	case PaymentPart:
		return slipKey + f.Language + "." + f.Kind
	}
	return f.Kind
}

// Ending is that of a file's name.
func (f Format) Ending() string { return kinds[f.Kind].ending }

// Title is what a format is called, "" where there is no such kind.
func (f Format) Title() string { return kinds[f.Kind].title }

// Named is what a format is called, with what it shows.
func (f Format) Named() string {
	switch f.Of {
	case Whole:
		return f.Title() + " of the whole"
	case PaymentPart:
		return "payment part, " + f.Title()
	}
	return f.Title()
}

// Type is the media type.
func (f Format) Type() string { return Types[f.Ending()] }

// FormatOf finds a format by its key; ok is false where there is none.
func FormatOf(key string) (f Format, ok bool) {
	f = Format{Kind: key}
	if kind, whole := strings.CutPrefix(key, wholeKey); whole {
		f = Format{Of: Whole, Kind: kind}
	} else if rest, part := strings.CutPrefix(key, slipKey); part {
		language, kind, _ := strings.Cut(rest, ".")
		f = Format{PaymentPart, kind, language}
		if !slices.Contains(slip.Languages, language) {
			return f, false
		}
	}
	return f, slices.Contains(of[f.Of], f.Kind)
}

// ParseFormat is FormatOf with the problem where there is none.
func ParseFormat(key string) (f Format, problems problem.List) {
	f, ok := FormatOf(key)
	switch {
	case ok:
	case f.Of == Whole:
		problems.Add("/format", "output.format", "%q cannot be written of the whole; svg, pdf, png and jpg can", key)
	default:
		problems.Add("/format", "output.format",
			"%q cannot be written; svg, pdf, png, jpg and webp can, and with sheet- before them all but webp of the whole "+
				"that a code lies on", key)
	}
	return f, problems
}

// MustFormat is FormatOf of a key that is known to be one; it panics where it is none.
func MustFormat(key string) Format {
	f, ok := FormatOf(key)
	if !ok {
		panic("compose: " + key + " is no format")
	}
	return f
}
