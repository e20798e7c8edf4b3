package pdfpage

import (
	"bytes"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// Document is what a check before printing looks at.
type Document struct {
	Streams   bool // has streams of objects or of their table
	Encrypted bool
	ID        bool
	Version   string            // that the catalog names, "" for none
	Info      map[string]string // texts and names
	Intents   int               // output intents of the kind GTS_PDFX
	Condition string            // identifier of the first
	Registry  string
	Profile   bool
	Catalog   map[string]bool // entries that matter
	Pages     []Seen
}

// Seen is one page of a document.
type Seen struct {
	Media, Crop, Trim, Bleed, Art *Box
	Annotations                   int
	Fonts                         []Font
	Operators                     []string // of painting in RGB that its contents use, each once
	Spaces                        []Space
	States                        []string // what of a state is transparency, "" for nothing
	Objects                       []string // what of an object is forbidden, "" for nothing
}

// Font is a font that a page uses.
type Font struct {
	Name     string
	Embedded bool
}

// Space is a colour space: its family, and what it stands on.
type Space struct{ Family, Base string }

// Holds says that a box lies in another.
func (b Box) Holds(c Box) bool {
	const near = 1e-3
	return c.X0 >= b.X0-near && c.Y0 >= b.Y0-near && c.X1 <= b.X1+near && c.Y1 <= b.Y1+near
}

// Inspect reads what a check needs.
func Inspect(file []byte) (d *Document, err error) {
	defer func() {
		if recover() != nil {
			d, err = nil, ErrDamaged
		}
	}()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := pdfcpu.Read(bytes.NewReader(file), conf)
	if err != nil {
		return nil, ErrDamaged
	}
	if err := ctx.EnsurePageCount(); err != nil {
		return nil, ErrDamaged
	}
	d = &Document{Streams: ctx.Read.UsingXRefStreams || ctx.Read.UsingObjectStreams, Encrypted: ctx.Encrypt != nil,
		ID: len(ctx.ID) == 2, Info: map[string]string{}, Catalog: map[string]bool{}}
	look := &looker{ctx: ctx, d: d}
	root, err := ctx.Catalog()
	if err != nil {
		return nil, ErrDamaged
	}
	d.Version = look.text(root["Version"])
	if ctx.Info != nil {
		if info, err := ctx.DereferenceDict(*ctx.Info); err == nil {
			for key, o := range info {
				d.Info[key] = look.text(o)
			}
		}
	}
	for _, key := range []string{"OpenAction", "AA"} {
		_, d.Catalog[key] = root.Find(key)
	}
	if names := look.dict(root["Names"]); names != nil {
		_, d.Catalog["Names/JavaScript"] = names.Find("JavaScript")
	}
	if form := look.dict(root["AcroForm"]); form != nil {
		_, d.Catalog["AcroForm/XFA"] = form.Find("XFA")
	}
	if intents, err := ctx.DereferenceArray(root["OutputIntents"]); err == nil {
		for _, o := range intents {
			if one := look.dict(o); one != nil && look.text(one["S"]) == "GTS_PDFX" {
				if d.Intents++; d.Intents == 1 {
					d.Condition, d.Registry = look.text(one["OutputConditionIdentifier"]), look.text(one["RegistryName"])
					_, d.Profile = one.Find("DestOutputProfile")
				}
			}
		}
	}
	for n := 1; n <= ctx.PageCount; n++ {
		page, _, inherited, err := ctx.PageDict(n, false)
		if err != nil || page == nil {
			return nil, ErrDamaged
		}
		d.Pages = append(d.Pages, look.page(n, page, inherited))
	}
	return d, nil
}

type looker struct {
	ctx  *model.Context
	d    *Document
	seen []int // objects that were looked at
}

func (k *looker) dict(o types.Object) types.Dict {
	if o == nil {
		return nil
	}
	d, err := k.ctx.DereferenceDict(o)
	if err != nil {
		if s, _, err := k.ctx.DereferenceStreamDict(o); err == nil && s != nil {
			return s.Dict
		}
		return nil
	}
	return d
}

// text is a name or a string as text.
func (k *looker) text(o types.Object) string {
	if o == nil {
		return ""
	}
	v, err := k.ctx.Dereference(o)
	if err != nil {
		return ""
	}
	switch v := v.(type) {
	case types.Name:
		return v.Value()
	case types.StringLiteral:
		if s, err := types.StringLiteralToString(v); err == nil {
			return s
		}
		return v.Value()
	case types.HexLiteral:
		if s, err := types.HexLiteralToString(v); err == nil {
			return s
		}
		return v.Value()
	}
	return ""
}

func (k *looker) box(o types.Object) *Box {
	if o == nil {
		return nil
	}
	a, err := k.ctx.DereferenceArray(o)
	if err != nil || len(a) != 4 {
		return nil
	}
	var v [4]float64
	for i := range a {
		if v[i], err = k.ctx.DereferenceNumber(a[i]); err != nil {
			return nil
		}
	}
	return &Box{min(v[0], v[2]), min(v[1], v[3]), max(v[0], v[2]), max(v[1], v[3])}
}

func (k *looker) page(n int, page types.Dict, inherited *model.InheritedPageAttrs) (s Seen) {
	if inherited.MediaBox != nil {
		b := boxOf(inherited.MediaBox)
		s.Media = &b
	}
	if inherited.CropBox != nil {
		b := boxOf(inherited.CropBox)
		s.Crop = &b
	}
	s.Trim, s.Bleed, s.Art = k.box(page["TrimBox"]), k.box(page["BleedBox"]), k.box(page["ArtBox"])
	if a, err := k.ctx.DereferenceArray(page["Annots"]); err == nil {
		s.Annotations = len(a)
	}
	if g := k.dict(page["Group"]); g != nil && k.text(g["S"]) == "Transparency" {
		s.Objects = append(s.Objects, "the page is a group of transparency")
	}
	if text, err := k.ctx.PageContent(page, n); err == nil {
		s.paints(text)
	}
	res := k.dict(page["Resources"])
	if res == nil {
		res = inherited.Resources
	}
	k.resources(res, &s, 0)
	return s
}

// paints notes the operators that paint in RGB.
func (s *Seen) paints(text []byte) {
	eachOperator(text, func(op string) {
		if (op == "rg" || op == "RG") && !slices.Contains(s.Operators, op) {
			s.Operators = append(s.Operators, op)
		}
	})
}

func (k *looker) resources(res types.Dict, s *Seen, depth int) {
	if res == nil || depth > 8 {
		return
	}
	each := func(kind string, f func(o types.Object)) {
		for _, o := range k.dict(res[kind]) {
			f(o)
		}
	}
	each("ColorSpace", func(o types.Object) { k.space(o, s) })
	each("Shading", func(o types.Object) {
		if d := k.dict(o); d != nil {
			k.space(d["ColorSpace"], s)
		}
	})
	each("ExtGState", func(o types.Object) { k.state(o, s) })
	each("Font", func(o types.Object) { k.font(o, s) })
	each("XObject", func(o types.Object) { k.object(o, s, depth) })
}

// state looks at a state of graphics for transparency and what is not for press.
func (k *looker) state(o types.Object, s *Seen) {
	d := k.dict(o)
	for _, key := range []string{"ca", "CA"} {
		if v, err := k.ctx.DereferenceNumber(d[key]); d[key] != nil && (err != nil || v != 1) {
			s.States = append(s.States, key+" below 1")
		}
	}
	if m := k.text(d["SMask"]); d["SMask"] != nil && m != "None" {
		s.States = append(s.States, "a soft mask")
	}
	if m := k.text(d["BM"]); d["BM"] != nil && m != "Normal" && m != "Compatible" {
		s.States = append(s.States, "the blend mode "+m)
	}
	for _, key := range []string{"TR", "HTP"} {
		if _, ok := d.Find(key); ok {
			s.States = append(s.States, key)
		}
	}
}

// font looks whether a font is embedded.
func (k *looker) font(o types.Object, s *Seen) {
	d := k.dict(o)
	f := Font{Name: k.text(d["BaseFont"]), Embedded: k.text(d["Subtype"]) == "Type3"}
	of := d
	if list, err := k.ctx.DereferenceArray(d["DescendantFonts"]); err == nil && len(list) > 0 {
		of = k.dict(list[0])
	}
	desc := k.dict(of["FontDescriptor"])
	for _, key := range []string{"FontFile", "FontFile2", "FontFile3"} {
		if _, ok := desc.Find(key); ok {
			f.Embedded = true
		}
	}
	s.Fonts = append(s.Fonts, f)
}

// object looks into a picture or a form, each once.
func (k *looker) object(o types.Object, s *Seen, depth int) {
	if ref, is := o.(types.IndirectRef); is {
		if slices.Contains(k.seen, ref.ObjectNumber.Value()) {
			return
		}
		k.seen = append(k.seen, ref.ObjectNumber.Value())
	}
	stream, _, err := k.ctx.DereferenceStreamDict(o)
	if err != nil || stream == nil {
		return
	}
	d := stream.Dict
	for _, f := range stream.FilterPipeline {
		if f.Name == "LZWDecode" || f.Name == "JPXDecode" || f.Name == "JBIG2Decode" {
			s.Objects = append(s.Objects, "an object is packed by "+f.Name)
		}
	}
	switch k.text(d["Subtype"]) {
	case "Image":
		if d["SMask"] != nil {
			s.Objects = append(s.Objects, "a picture has a soft mask")
		}
		if d["Alternates"] != nil {
			s.Objects = append(s.Objects, "a picture has alternates")
		}
		if d["ColorSpace"] != nil {
			k.space(d["ColorSpace"], s)
		}
	case "Form":
		if g := k.dict(d["Group"]); g != nil && k.text(g["S"]) == "Transparency" {
			s.Objects = append(s.Objects, "a form is a group of transparency")
		}
		if stream.Decode() == nil {
			s.paints(stream.Content)
		}
		k.resources(k.dict(d["Resources"]), s, depth+1)
	case "PS":
		s.Objects = append(s.Objects, "there is PostScript in it")
	}
}

// space notes a colour space.
func (k *looker) space(o types.Object, s *Seen) {
	v, err := k.ctx.Dereference(o)
	if err != nil || v == nil {
		return
	}
	switch v := v.(type) {
	case types.Name:
		s.Spaces = append(s.Spaces, Space{Family: v.Value()})
	case types.Array:
		if len(v) == 0 {
			return
		}
		one := Space{Family: k.text(v[0])}
		at := map[string]int{"Separation": 2, "DeviceN": 2, "Indexed": 1}[one.Family]
		if at > 0 && at < len(v) {
			if base, err := k.ctx.Dereference(v[at]); err == nil {
				switch base := base.(type) {
				case types.Name:
					one.Base = base.Value()
				case types.Array:
					one.Base = k.text(base[0])
				}
			}
		}
		s.Spaces = append(s.Spaces, one)
	}
}
