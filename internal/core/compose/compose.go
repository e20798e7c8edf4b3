// Package compose leads from a job to everything made from it: payload, symbol, scene, files, and the input of a proof. It
// is the only place that knows the order.
package compose

import (
	"errors"
	"fmt"
	"hash/fnv"
	"image"

	"sodrik/internal/core/content"
	"sodrik/internal/core/export/bitmap"
	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
	"sodrik/internal/core/symbol"
)

// Rendition is a job carried out. It is immutable.
type Rendition struct {
	Job     *job.Job
	Payload string
	Symbol  *symbol.Symbol
	Mark    *layout.Marked // as it is drawn, nil for none
	Ground  *layout.Ground // the picture behind it, nil for none
	Kept    string         // what was done so that the mark keeps the reserve asked for, "" for nothing

	brought brought

	plain *symbol.Symbol        // before it made room for a mark
	keyed map[string]*Rendition // of placements that say something of their own, by keyOf
}

// Parse reads a job file and makes it.
func Parse(text []byte, find Assets) (*Rendition, problem.List) { return ParseIn(text, nil, find) }

// ParseIn is Parse in a house, whose colours the job may name; nil is none.
func ParseIn(text []byte, house *style.Style, find Assets) (*Rendition, problem.List) {
	j, problems := job.ParseIn(text, house)
	if len(problems) > 0 {
		return nil, problems
	}
	return Make(j, find)
}

// Read makes a decoded job. The job comes back even where problems keep it from being made.
func Read(v any, find Assets) (*Rendition, *job.Job, problem.List) {
	j, problems := job.Read(v)
	if len(problems) > 0 {
		return nil, j, problems
	}
	m, problems := Make(j, find)
	return m, j, problems
}

// Typed makes a draft beside which stands text that it cannot hold, by pointer. Each such text is a problem of its field;
// the draft beneath may still be made.
func Typed(draft any, unparsed map[string]string, find Assets) (*Rendition, problem.List) {
	made, _, problems := Read(draft, find)
	for path, text := range unparsed {
		if p := job.Unparsed(draft, path, text); p != nil {
			problems = append(problems, *p)
		}
	}
	return made, problems
}

// Make encodes the job's content, and once more for each placement whose keyword changes it. The job stays as it is: what is
// made holds one of its own, whose words know their typefaces.
func Make(asked *job.Job, find Assets) (*Rendition, problem.List) {
	j, problems := faced(asked, find)
	if len(problems) > 0 {
		return nil, problems
	}
	m, problems := encode(j, find)
	if len(problems) > 0 {
		return nil, problems
	}
	if m.brought, problems = bring(j, find); len(problems) > 0 {
		return nil, problems
	}
	for i := range j.Placements {
		p := &j.Placements[i]
		if key := keyOf(p); key == "" || m.keyed[key] != nil {
			continue
		}
		said, bad := saidAt(j.Content, p, fmt.Sprintf("/placements/%d/", i))
		if bad != nil {
			problems = append(problems, *bad)
			continue
		}
		with := *j
		with.Content = said
		one, more := encode(&with, find)
		for _, bad := range more {
			problems.Add(fmt.Sprintf("/placements/%d/%s", i, ownField(p)), bad.Code, "makes the content one that %s", bad.Message)
		}
		if m.keyed == nil {
			m.keyed = map[string]*Rendition{}
		}
		if one != nil {
			one.brought = m.brought
		}
		m.keyed[keyOf(p)] = one
	}
	if len(problems) > 0 {
		return nil, problems
	}
	return m, nil
}

// For is what is made for a placement: with its keyword or its short link where it has one of its own. nil is the job without
// placement.
func (m *Rendition) For(p *place.Placement) *Rendition {
	if p != nil && m.keyed[keyOf(p)] != nil {
		return m.keyed[keyOf(p)]
	}
	return m
}

// keyOf tells placements apart that say something of their own; "" where one says what the code says.
func keyOf(p *place.Placement) string {
	switch {
	case p.Link != "":
		return "link " + p.Link
	case p.Keyword != "":
		return "keyword " + p.Keyword
	}
	return ""
}

// ownField is the field by which a placement says something of its own.
func ownField(p *place.Placement) string {
	if p.Link != "" {
		return "link"
	}
	return "keyword"
}

// saidAt is what a placement says that has a keyword or a short link; at is its pointer with a slash behind it.
func saidAt(c content.Content, p *place.Placement, at string) (content.Content, *problem.Problem) {
	if p.Link != "" {
		d, ok := c.(*content.Dynamic)
		if !ok {
			return nil, &problem.Problem{Field: at + "link", Code: "place.link", Message: fmt.Sprintf(
				"is only for codes that lead through a short link; this one is of kind %s", c.Kind())}
		}
		own, err := d.Through(p.Link)
		if err != nil {
			return nil, &problem.Problem{Field: at + "link", Code: "link.form", Message: err.Error()}
		}
		return own, nil
	}
	keyed, ok := c.(content.Keyed)
	if !ok {
		return nil, &problem.Problem{Field: at + "keyword", Code: "place.keyword", Message: fmt.Sprintf(
			"is only for codes that write a text or an e-mail; this one is of kind %s", c.Kind())}
	}
	return keyed.With(p.Keyword), nil
}

// options are the encoder's, with what the content's standard prescribes. A job that asks for something else has a problem.
func options(j *job.Job) (symbol.Options, problem.List) {
	o := j.Symbol.Options()
	c, ok := j.Content.(content.Prescriptive)
	if !ok {
		return o, nil
	}
	var problems problem.List
	p := c.Prescribes()
	if p.Raw {
		o.Charset = symbol.CharsetRaw
	}
	o.FNC1 = p.FNC1
	if p.Level != "" {
		level, _ := symbol.ParseLevel(p.Level)
		if o.Level != symbol.LevelAuto && o.Level != level {
			problems.Add("/symbol/level", "symbol.prescribed", "is %v; %s prescribes %v. Leave it at auto", o.Level,
				p.Name, level)
		}
		o.Level, o.NoBoost = level, true
	}
	if p.MaxVersion > 0 {
		if o.MinVersion > p.MaxVersion {
			problems.Add("/symbol/min_version", "symbol.prescribed", "is %d; %s goes up to version %d", o.MinVersion, p.Name,
				p.MaxVersion)
			o.MinVersion = 1
		}
		o.MaxVersion = min(o.MaxVersion, p.MaxVersion)
	}
	return o, problems
}

// crossed says whether the Swiss cross will lie in the middle.
func crossed(j *job.Job) bool {
	c, ok := j.Content.(content.Prescriptive)
	return ok && c.Prescribes().Cross
}

// clearOfCross is the first version above 6 whose alignment patterns the Swiss cross does not touch. Versions 7 to 13 have one
// in the very middle; with the cross over it, one family of readers finds nothing, at any size and with any mask.
const clearOfCross = 14

// encodeClear encodes; where a cross would cover the middle alignment pattern, in the next version in which it does not.
func encodeClear(payload string, o symbol.Options, cross bool) (*symbol.Symbol, error) {
	s, err := symbol.Encode(payload, o)
	if err == nil && cross && s.Version >= 7 && s.Version < clearOfCross && (o.MaxVersion == 0 || o.MaxVersion >= clearOfCross) {
		o.MinVersion = clearOfCross
		return symbol.Encode(payload, o)
	}
	return s, err
}

func encode(j *job.Job, find Assets) (*Rendition, problem.List) {
	payload := j.Content.Payload()
	o, problems := options(j)
	if len(problems) > 0 {
		return nil, problems
	}
	s, err := encodeClear(payload, o, crossed(j))
	if err != nil {
		var long *symbol.TooLongError
		if !errors.As(err, &long) {
			problems.Add("/symbol", "symbol", "%v", err)
			return nil, problems
		}
		limit := fmt.Sprintf("version %d at level %v holds", long.Max, long.Level)
		switch {
		case long.Max < symbol.MaxVersion && long.Max < j.Symbol.MaxVersion:
			problems.Add(bodyOf(j), "symbol.long",
				"is too long: it takes %s codewords, and %s ends at version %d, which holds %s", measure.Count(long.Need),
				j.Content.(content.Prescriptive).Prescribes().Name, long.Max, measure.Count(long.Have))
		case long.Max < symbol.MaxVersion:
			problems.Add("/symbol/max_version", "symbol.long",
				"is %d: the content takes %s codewords, %s %s; allow a larger version or shorten the content",
				long.Max, measure.Count(long.Need), limit, measure.Count(long.Have))
		case long.Level != symbol.L && long.Need <= symbol.DataCodewords(symbol.MaxVersion, symbol.L):
			problems.Add(bodyOf(j), "symbol.long",
				"is too long for level %v: it takes %s codewords, %s %s; shorten it, or choose level L, which holds %s",
				long.Level, measure.Count(long.Need), limit, measure.Count(long.Have),
				measure.Count(symbol.DataCodewords(symbol.MaxVersion, symbol.L)))
		default:
			problems.Add(bodyOf(j), "symbol.long", "is too long for any code: it takes %s codewords, %s %s; shorten it",
				measure.Count(long.Need), limit, measure.Count(long.Have))
		}
		return nil, problems
	}
	made := &Rendition{Job: j, Payload: payload, Symbol: s, plain: s}
	if !j.Look.Mark.None() {
		f, did, problems := fitMark(j, s, o, func(o symbol.Options) (*symbol.Symbol, error) {
			return symbol.Encode(payload, o)
		}, find)
		if len(problems) > 0 {
			return nil, problems
		}
		made.Symbol, made.Mark, made.Kept = f.symbol, f.mark, did
	}
	if b := j.Look.Backdrop; !b.None() {
		art, bad := find.artOf(b.Source)
		if bad != nil {
			bad.Field = "/look/backdrop/source"
			return nil, problem.List{*bad}
		}
		if made.Ground, err = layout.Lay(made.Symbol.Size, b, art); err != nil {
			problems.Add("/look/backdrop/source", "backdrop", "cannot be drawn: %v", err)
			return nil, problems
		}
	}
	if problems := made.tooThin(); len(problems) > 0 {
		return nil, problems
	}
	return made, nil
}

// bodyOf points to the field a person would shorten.
func bodyOf(j *job.Job) string { return "/content/" + content.KindOf(j.Content.Kind()).Long }

// Modules is the number of modules along one side, quiet zone included.
func (m *Rendition) Modules() int { return layout.Modules(m.Symbol, m.Job.Symbol.QuietZone) }

// Unframed draws the code at the size of a placement, with its figures beneath where it has them.
func (m *Rendition) Unframed(p *place.Placement) *scene.Scene {
	out := m.bare(p)
	if c, ok := m.Job.Content.(content.HumanReadable); ok && p != nil && p.HumanReadable {
		paper := &m.Job.Look.Paper.Colour
		if m.Job.Look.Paper.None {
			paper = nil
		}
		layout.Readable(out, c.Interpretation(), m.Job.Look.Ink, paper)
	}
	return out
}

// Scene draws the code at the size of a placement, with its figures and its frame; nil is 1 mm a module.
func (m *Rendition) Scene(p *place.Placement) *scene.Scene { return m.Framed(p).Scene }

// Framed is the same, and says where in it the code lies.
func (m *Rendition) Framed(p *place.Placement) layout.Framed {
	f := m.around(p)
	l := m.Job.Look
	if l.Caption.None() {
		return f
	}
	var paper *ink.Colour
	if !l.Paper.None && l.Frame.None() && !m.round(p) {
		paper = &l.Paper.Colour
	}
	return layout.Caption(f, l.Caption, l.Ink, paper)
}

// around draws frame or disc.
func (m *Rendition) around(p *place.Placement) layout.Framed {
	inner := m.Unframed(p)
	f := m.Job.Look.Frame
	var paper *ink.Colour
	if !m.Job.Look.Paper.None {
		paper = &m.Job.Look.Paper.Colour
	}
	switch {
	case m.round(p):
		f := layout.Round(inner, m.Job.Look, m.For(p).Modules(), seedOf(m.For(p).Payload), paper)
		f.Scene = m.thinned(f.Scene, p, "filling")
		return f
	case f.None():
		return layout.Framed{Scene: inner}
	}
	return layout.Frame(inner, m.Job.Look, m.For(p).Modules(), paper)
}

// round says whether the code lies in a disc; with figures beneath it does not.
func (m *Rendition) round(p *place.Placement) bool {
	_, readable := m.Job.Content.(content.HumanReadable)
	return m.Job.Look.Outline == "round" && !(readable && p != nil && p.HumanReadable)
}

// seedOf makes the same disc of the same payload.
func seedOf(payload string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(payload))
	return h.Sum64()
}

// bare is the symbol with its quiet zone and nothing beneath.
func (m *Rendition) bare(p *place.Placement) *scene.Scene { return m.thinned(m.drawn(p), p) }

// drawn is the same with all of its width.
func (m *Rendition) drawn(p *place.Placement) *scene.Scene {
	var width measure.Length
	if p != nil {
		m, width = m.For(p), p.Width
	}
	out := layout.DrawOn(m.Symbol, m.Job.Look, m.Job.Symbol.QuietZone, width, m.Mark, m.Ground)
	if c, ok := m.Job.Content.(content.Prescriptive); ok && c.Prescribes().Cross {
		at := out.Items[len(out.Items)-1].At // there is no mark beside a cross
		out.Items = append(out.Items, layout.Cross(float64(m.Symbol.Size), at)...)
	}
	return out
}

// BarePixels is the least side of a PNG where no placement says how large it prints.
const BarePixels = 2000

// Pixels is the size of the PNG for a placement, without one as wide as the job asks or BarePixels: at least the job's
// resolution, or on a screen no more than its pixels; whole pixels a module.
func (m *Rendition) Pixels(p *place.Placement) bitmap.Size {
	if n := m.Modules(); p == nil && m.Job.Output.Pixels > 0 {
		per := max(1, m.Job.Output.Pixels/(n+2*m.margin(nil)))
		return bitmap.Size{PerModule: per, Pixels: per * n}
	} else if p == nil {
		return bitmap.SizeFor(n, BarePixels)
	}
	n := m.For(p).Modules()
	// a screen shows as many as it has: no more than there is room for
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen && p.Pixels > 0 {
		per := max(1, p.Pixels/n)
		return bitmap.Size{PerModule: per, Pixels: per * n}
	}
	return bitmap.SizeFor(n, p.Width.Pixels(float64(m.Job.Output.DPI)))
}

// Across is how many pixels the whole PNG is wide, frame included: whole ones a module.
func (m *Rendition) Across(p *place.Placement) int {
	n := m.For(p).Modules()
	return m.Pixels(p).Pixels / n * (n + 2*m.margin(p))
}

// Wide is how many pixels a picture file of the code is wide: as many as the job asks of one without a placement, the margin
// takes what whole pixels a module leave, else Across.
func (m *Rendition) Wide(p *place.Placement) int {
	across := m.Across(p)
	if p == nil {
		return max(across, m.Job.Output.Pixels)
	}
	return across
}

// widened is a scene with a margin all around, so that its file is as wide as was asked. Where the margin cannot be halved in
// whole pixels, the one more stands to the right and below.
func (m *Rendition) widened(s *scene.Scene, p *place.Placement) *scene.Scene {
	across, wide := m.Across(p), m.Wide(p)
	if wide == across {
		return s
	}
	px := s.Width / float64(across)
	rest, left := float64(wide-across)*px, float64((wide-across)/2)*px
	out := &scene.Scene{Width: s.Width + rest, Height: s.Height + rest}
	if l := m.Job.Look; !l.Paper.None && l.Frame.None() && !m.round(p) { // around a frame or a disc nothing is printed
		out.Items = append(out.Items, scene.Item{Name: "margin", Path: scene.Rectangle(0, 0, out.Width, out.Height),
			At:   scene.At(1, 0, 0),
			Fill: m.Job.Look.Paper.Colour})
	}
	out.Items = append(out.Items, scene.Transformed(s.Items, scene.At(1, left, left))...)
	return out
}

// margin is how many modules stand on each side of a code, for its frame or disc.
func (m *Rendition) margin(p *place.Placement) int {
	n := m.For(p).Modules()
	if m.round(p) {
		return layout.RoundMargin(n)
	}
	return layout.FrameMargins(m.Job.Look.Frame, n)
}

// Proof gives the input of a proof for placement i of the job; i −1 is none. Readers are handed the very pixels that the PNG
// is written from, which keeps each of them.
func (m *Rendition) Proof(i int) (proof.Input, error) {
	at := m.Place(i)
	m = m.For(at)
	in := proof.Input{Payload: m.Payload, Content: m.Job.Content, Symbol: m.Symbol, Look: m.Job.Look, Mark: m.Mark,
		QuietZone: m.Job.Symbol.QuietZone, Index: i, Placement: at}
	in.Scene = m.bare(in.Placement)
	in.Thinner = func() *proof.Fix {
		if steps := m.Price().Steps; len(steps) > 0 {
			return &proof.Fix{Label: steps[0].Label, Patch: steps[0].Patch}
		}
		return nil
	}
	without := *m // figures beneath and frames around are nothing to be read by a camera
	bare := *m.Job
	bare.Look.Frame, bare.Look.Outline, bare.Look.Caption = look.Frame{}, "square", look.Caption{}
	without.Job = &bare
	plain := in.Placement
	if plain != nil && plain.HumanReadable {
		at := *plain
		at.HumanReadable, plain = false, &at
	}
	drawing := without.Scene(plain)
	img, err := raster.Draw(drawing, raster.Fit(drawing, m.proofPixels(plain)))
	if err != nil {
		return in, problem.List{{Field: "/output", Code: "output.png", Message: err.Error()}}
	}
	if l := m.Job.Look; !l.Frame.None() || m.round(in.Placement) || !l.Caption.None() {
		framed := m.Framed(in.Placement)
		in.Framed, in.Words = framed.Scene, framed.Words/glyph.Point
	}
	if in.Framed != nil { // what stands right beside the code is where readers look for it
		whole := m.Framed(at)
		in.Scene = &scene.Scene{Width: in.Scene.Width, Height: in.Scene.Height,
			Items: moved(whole.Scene.Items, -whole.Left, -whole.Top)}
		if m.round(at) {
			n := float64(m.Modules())
			in.Around = (float64(layout.RoundMargin(m.Modules())) + 1) / n
		}
	}
	m.underProof(&in)
	if in.Press = m.printing(at); in.Press != nil { // readers see what the paper will show
		in.Scene = m.OnPaper(in.Scene, at)
	}
	in.File = shrink(img, m.Modules(), in)
	return in, nil
}

// maxProofPixels bounds the side of what readers are handed: about 0.3 megapixels, but two pixels a module at least.
const maxProofPixels = 550

// proofPixels is how wide the PNG of a proof is: as wide as that which is handed over, but at most twice as fine as what
// readers are handed of it, since drawing a poster at its resolution takes longer than all of the proof and shows them
// nothing more.
func (m *Rendition) proofPixels(p *place.Placement) int {
	n := m.Modules()
	return n * min(m.Pixels(p).Pixels/n, 2*max(2, maxProofPixels/n))
}

// shrink takes the pixels of a file down to what readers are handed, whole pixels a module, and flattens them onto the
// ground they will lie on. Each pixel is one of the file's.
func shrink(img *image.NRGBA, modules int, in proof.Input) *image.Gray {
	side := img.Bounds().Dx()
	small := modules * min(side/modules, max(2, maxProofPixels/modules))
	ground := 255.0
	if in.Placement != nil && in.Placement.Background != nil {
		ground = luma(in.Placement.Background.R, in.Placement.Background.G, in.Placement.Background.B)
	}
	out := image.NewGray(image.Rect(0, 0, small, small))
	for y := range small {
		for x := range small {
			c := img.NRGBAAt((2*x+1)*side/(2*small), (2*y+1)*side/(2*small))
			a := float64(c.A) / 255
			out.Pix[y*out.Stride+x] = uint8(luma(c.R, c.G, c.B)*a + ground*(1-a) + 0.5)
		}
	}
	return out
}

// luma is the grey of a colour as programs that read picture files reckon it, in the encoded values (ITU-R BT.709).
func luma(r, g, b uint8) float64 {
	return 0.2126*float64(r) + 0.7152*float64(g) + 0.0722*float64(b)
}
