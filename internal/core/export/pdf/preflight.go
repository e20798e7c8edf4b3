package pdf

import (
	"bytes"
	"fmt"
	"strings"

	"sodrik/internal/core/pdfpage"
)

// Preflight checks a file against the rules of PDF/X-1a:2003 (ISO 15930-4:2003) and names what it breaks, nothing where it
// keeps them all. The name of the standard stands in a file of ours only where this finds nothing; there is no outside
// validator here.
func Preflight(file []byte) (wrong []string) {
	add := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	if !bytes.HasPrefix(file, []byte("%PDF-1.4")) && !bytes.HasPrefix(file, []byte("%PDF-1.3")) {
		add("the header names no version up to 1.4")
	}
	d, err := pdfpage.Inspect(file)
	if err != nil {
		return append(wrong, "it cannot be read: "+err.Error())
	}
	if d.Streams {
		add("it has streams of objects or of their table, which version 1.4 has not")
	}
	if d.Encrypted {
		add("it is encrypted")
	}
	if !d.ID {
		add("the trailer has no ID")
	}
	if d.Info["GTS_PDFXVersion"] != "PDF/X-1a:2003" {
		add("it does not say that it is PDF/X-1a:2003")
	}
	for _, key := range []string{"Title", "CreationDate", "ModDate", "Producer", "Creator"} {
		if d.Info[key] == "" {
			add("Info has no %s", key)
		}
	}
	if t := d.Info["Trapped"]; t != "True" && t != "False" {
		add("Trapped is %q and neither True nor False", t)
	}
	if d.Intents != 1 || d.Condition == "" {
		add("there is not one output intent GTS_PDFX with the identifier of its condition")
	}
	if d.Registry == "" && !d.Profile {
		add("the output condition is neither registered nor is its profile there")
	}
	for _, key := range []string{"OpenAction", "AA", "Names/JavaScript", "AcroForm/XFA"} {
		if d.Catalog[key] {
			add("the catalog has %s", key)
		}
	}
	for i, p := range d.Pages {
		checkPage(p, fmt.Sprintf("page %d", i+1), add)
	}
	if strings.Contains(d.Version, "1.5") || strings.Contains(d.Version, "1.6") || strings.Contains(d.Version, "1.7") ||
		strings.Contains(d.Version, "2.") {
		add("the catalog names version %s", d.Version)
	}
	return wrong
}

// checkPage holds a page against the rules: its boxes, and what it is painted with.
func checkPage(p pdfpage.Seen, at string, add func(format string, args ...any)) {
	if p.Trim == nil && p.Art == nil || p.Trim != nil && p.Art != nil {
		add("%s has not one of TrimBox and ArtBox", at)
	}
	inner := p.Trim
	if inner == nil {
		inner = p.Art
	}
	for name, outer := range map[string]*pdfpage.Box{"BleedBox": p.Bleed, "CropBox": p.Crop, "MediaBox": p.Media} {
		if inner != nil && outer != nil && !outer.Holds(*inner) {
			add("%s: the trim lies beyond the %s", at, name)
		}
	}
	if p.Bleed != nil && p.Media != nil && !p.Media.Holds(*p.Bleed) {
		add("%s: the bleed lies beyond the MediaBox", at)
	}
	if p.Annotations > 0 {
		add("%s has annotations", at)
	}
	for _, f := range p.Fonts {
		if !f.Embedded {
			add("%s: the font %s is not embedded", at, f.Name)
		}
	}
	for _, use := range p.Operators {
		switch use {
		case "rg", "RG":
			add("%s is painted in RGB (%s)", at, use)
		}
	}
	for _, s := range p.Spaces {
		switch s.Family {
		case "DeviceCMYK", "DeviceGray", "Separation", "DeviceN", "Indexed", "Pattern":
		default:
			add("%s has the colour space %s", at, s.Family)
		}
		if (s.Family == "Separation" || s.Family == "DeviceN" || s.Family == "Indexed") && s.Base != "DeviceCMYK" &&
			s.Base != "DeviceGray" && s.Base != "Separation" && s.Base != "DeviceN" {
			add("%s: the alternate of %s is %s", at, s.Family, s.Base)
		}
	}
	for _, g := range p.States {
		if g != "" {
			add("%s: a state has %s", at, g)
		}
	}
	for _, o := range p.Objects {
		if o != "" {
			add("%s: %s", at, o)
		}
	}
}
