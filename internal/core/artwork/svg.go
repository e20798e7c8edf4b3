package artwork

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/svgpath"
)

// style is what a node hands down to those within it.
type style struct {
	fill, stroke               paint
	fillFade, strokeFade, fade float64 // how solid: 1 is solid
	evenOdd, hidden            bool
	color                      paint // what currentColor means
	pen                        pencil
	clip                       *scene.Path // in the drawing's units
}

// paint is a colour, the colour of whoever uses the drawing, a gradient by its id, or nothing.
type paint struct {
	none    bool
	current bool
	colour  ink.Colour
	alpha   float64
	ref     string
}

// drawing is an SVG while it is read.
type drawing struct {
	root   *node
	ids    map[string]*node
	sheet  sheet
	rules  int
	items  []scene.Item
	left   []string
	points int
	budget *Budget
	err    error
	view   box

	stops    map[string]*stops
	pictures map[*node]*scene.Picture
	shapes   map[*node]*outline
	clips    map[string]*scene.Path
}

// outline is a shape in its node's own units, read once however often it is used.
type outline struct {
	path   scene.Path
	closed []bool
	ok     bool
}

// spend counts steps of work. Past the budget the drawing is refused, whatever it would have shown.
func (d *drawing) spend(n int) {
	if d.budget.Steps -= n; d.budget.Steps < 0 && d.err == nil {
		d.err = fmt.Errorf(
			"takes too many steps to draw: its parts refer to one another, or are styled, too often; simplify the drawing")
	}
}

// draftOf reads the geometry of a drawing, and what part of it is the sheet: infinite where it does not say.
func draftOf(data []byte, budget *Budget) (*drawing, box, error) {
	root, err := parseTree(data)
	if err != nil {
		return nil, box{}, err
	}
	d := &drawing{root: root, ids: map[string]*node{}, budget: budget, stops: map[string]*stops{},
		pictures: map[*node]*scene.Picture{}, shapes: map[*node]*outline{}, clips: map[string]*scene.Path{}}
	d.index(root)
	frame := box{math.Inf(-1), math.Inf(-1), math.Inf(1), math.Inf(1)}
	if v := numbers(root.attr["viewBox"]); len(v) == 4 && v[2] > 0 && v[3] > 0 {
		frame = box{v[0], v[1], v[0] + v[2], v[1] + v[3]}
	} else if w, h := length(root.attr["width"], 0), length(root.attr["height"], 0); w > 0 && h > 0 {
		frame = box{0, 0, w, h}
	}
	d.view = frame
	s := style{fill: paint{alpha: 1}, stroke: paint{none: true}, fillFade: 1, strokeFade: 1, fade: 1,
		color: paint{current: true, alpha: 1},
		pen:   pencil{width: 1, miter: 4, linecap: "butt", join: "miter"}}
	d.children(root, d.inherit(root, s), identity, 0)
	if d.err == nil {
		d.err = covers(d.items, frame)
	}
	return d, frame, d.err
}

// covers refuses shapes that lie over one another so often that drawing them takes too long.
func covers(items []scene.Item, frame box) error {
	whole := frame
	if math.IsInf(frame.x0, 0) {
		whole = emptyBox
		for _, it := range items {
			whole = whole.or(boxOf(it))
		}
	}
	all, area := (whole.x1-whole.x0)*(whole.y1-whole.y0), 0.0
	for _, it := range items {
		if b := boxOf(it).and(whole); !b.empty() {
			area += (b.x1 - b.x0) * (b.y1 - b.y0)
		}
	}
	if all > 0 && area > maxCover*all {
		return fmt.Errorf("has shapes that cover it %.0f times over; at most %d times is drawn. Simplify the drawing",
			area/all, maxCover)
	}
	return nil
}

// readSVG rebuilds a drawing from its geometry.
func readSVG(data []byte, budget *Budget) (*Art, error) {
	d, frame, err := draftOf(data, budget)
	if err != nil {
		return nil, err
	}
	a, err := newArt(d.items, frame, d.left)
	if err != nil {
		return nil, err
	}
	if side := max(a.Width, a.Height); side < 10 || side > 10_000 { // so that four decimals are enough
		k := 100 / side
		for i, it := range a.Items {
			a.Items[i] = moved(it, matrix{k, 0, 0, k, 0, 0})
		}
		a.Width, a.Height = a.Width*k, a.Height*k
	}
	return a, nil
}

func (d *drawing) index(n *node) {
	if id := n.attr["id"]; id != "" && d.ids[id] == nil {
		d.ids[id] = n
	}
	if n.name == "style" {
		if strings.Contains(n.text, "@import") {
			d.leave("A style sheet that lies elsewhere was left out.")
		}
		rules := parseSheet(n.text)
		for i := range rules {
			rules[i].order = d.rules
			d.rules++
		}
		d.sheet.add(rules)
	}
	for _, k := range n.kids {
		d.index(k)
	}
}

// leave notes once that something was left out.
func (d *drawing) leave(words string) {
	if !slices.Contains(d.left, words) {
		d.left = append(d.left, words)
	}
}

// children draws what stands within a node.
func (d *drawing) children(n *node, s style, m matrix, depth int) {
	for _, k := range n.kids {
		if d.err != nil {
			return
		}
		d.draw(k, s, m, depth+1)
	}
}

var leftOut = map[string]string{
	"script": "A script was left out.", "foreignObject": "A part that is not SVG was left out.",
	"text":    "Words were left out: turn them into outlines first.",
	"animate": "Movement was left out.", "animateTransform": "Movement was left out.", "animateMotion": "Movement was left out.",
	"set":   "Movement was left out.",
	"video": "A part that is not SVG was left out.", "audio": "A part that is not SVG was left out.",
	"iframe": "A part that is not SVG was left out.",
}

func (d *drawing) draw(n *node, up style, m matrix, depth int) {
	if d.err != nil {
		return
	}
	if depth > maxDepth {
		d.err = fmt.Errorf("is nested more than %d deep; simplify the drawing", maxDepth)
		return
	}
	d.spend(stepsOfNode)
	if words, ok := leftOut[n.name]; ok {
		d.leave(words)
		return
	}
	s, of := d.inherit(n, up), d.declared(n)
	if s.fade == 0 || of["display"] == "none" || d.err != nil {
		return
	}
	m = m.of(d.transform(n, of["transform"]))
	if ref := refOf(of["clip-path"]); ref != "" {
		s.clip = d.clip(ref, s, m)
	}
	for key, words := range map[string]string{"mask": "A mask was left out.",
		"filter": "A filter, such as a shadow or a blur, was left out."} {
		if v := of[key]; v != "" && v != "none" {
			d.leave(words)
		}
	}
	switch n.name {
	case "svg", "g", "a", "switch":
		if n.name == "svg" {
			m = m.of(matrix{1, 0, 0, 1, length(n.attr["x"], 0), length(n.attr["y"], 0)}).
				of(fit(n, length(n.attr["width"], 0), length(n.attr["height"], 0)))
		}
		d.children(n, s, m, depth)
	case "use":
		target := d.ids[strings.TrimPrefix(n.attr["href"], "#")]
		if target == nil || !strings.HasPrefix(n.attr["href"], "#") {
			d.leave("A part that lies elsewhere was left out.")
			return
		}
		m = m.of(matrix{1, 0, 0, 1, length(n.attr["x"], 0), length(n.attr["y"], 0)})
		if target.name == "symbol" {
			m = m.of(fit(target, length(n.attr["width"], 0), length(n.attr["height"], 0)))
			d.children(target, d.inherit(target, s), m, depth+1)
			return
		}
		d.draw(target, s, m, depth+1)
	case "image":
		d.image(n, s, m)
	default:
		if s.hidden {
			return
		}
		if p, closed, ok := d.shape(n); ok && d.err == nil {
			d.paint(p, closed, s, m)
		}
	}
}

// stepsOfNode is what looking at a node costs, in the work of looking at a point.
const stepsOfNode = 12

// fit is the transformation of an inner drawing with a viewBox into its width and height (SVG 2, clause 8.2), in the middle
// and whole.
func fit(n *node, w, h float64) matrix {
	v := numbers(n.attr["viewBox"])
	if len(v) != 4 || v[2] <= 0 || v[3] <= 0 {
		return identity
	}
	if w <= 0 {
		w = v[2]
	}
	if h <= 0 {
		h = v[3]
	}
	k := min(w/v[2], h/v[3])
	return matrix{k, 0, 0, k, (w-v[2]*k)/2 - v[0]*k, (h-v[3]*k)/2 - v[1]*k}
}

// length reads a length in pixels (CSS Values 4, clause 6.2); def where it is none.
func length(s string, def float64) float64 {
	s = strings.TrimSpace(s)
	unit := strings.TrimLeft(s, "0123456789.+-eE")
	if strings.HasPrefix(unit, "m") || strings.HasPrefix(unit, "x") { // an e of em or ex is none of the number
		unit = strings.TrimLeft(s, "0123456789.+-")
	}
	v, err := strconv.ParseFloat(strings.TrimSuffix(s, unit), 64)
	if err != nil || math.IsNaN(v) || math.Abs(v) > 1e9 {
		return def
	}
	k, ok := map[string]float64{"": 1, "px": 1, "pt": 96.0 / 72, "pc": 16, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96}[unit]
	if !ok {
		return def
	}
	return v * k
}

// transform is that of a node, read once.
func (d *drawing) transform(n *node, text string) matrix {
	if n.moved == nil {
		d.spend(len(text))
		m := parseTransform(text)
		n.moved = &m
	}
	return *n.moved
}

// shape is the outline of a basic shape or a path (SVG 2, clause 10), in the node's own units.
func (d *drawing) shape(n *node) (p scene.Path, closed []bool, ok bool) {
	o := d.shapes[n]
	if o == nil {
		o = &outline{}
		if d.spend(len(n.attr["d"]) + len(n.attr["points"])); d.err == nil {
			o.path, o.closed, o.ok = d.outlined(n)
		}
		d.shapes[n] = o
	}
	return o.path, o.closed, o.ok
}

func (d *drawing) outlined(n *node) (p scene.Path, closed []bool, ok bool) {
	at := func(key string) float64 { return length(n.attr[key], 0) }
	switch n.name {
	case "path":
		p, closed, err := svgpath.Parse(n.attr["d"], maxPoints)
		if err != nil { // what was read up to there is drawn
			d.leave("A path is damaged; it was drawn as far as it could be read.")
			if len(p.Ops) > 0 && p.Ops[len(p.Ops)-1] != scene.Close {
				p.Close()
				closed = append(closed, false)
			}
		}
		return p, closed, len(p.Points) > 0
	case "rect":
		w, h, rx, ry := at("width"), at("height"), length(n.attr["rx"], -1), length(n.attr["ry"], -1)
		if w <= 0 || h <= 0 {
			return p, nil, false
		}
		if rx < 0 {
			rx = ry
		}
		if ry < 0 {
			ry = rx
		}
		rx, ry = min(max(rx, 0), w/2), min(max(ry, 0), h/2)
		return scene.RoundRectangle(at("x"), at("y"), w, h, rx, ry), []bool{true}, true
	case "circle", "ellipse":
		rx, ry := at("rx"), at("ry")
		if n.name == "circle" {
			rx, ry = at("r"), at("r")
		}
		if rx <= 0 || ry <= 0 {
			return p, nil, false
		}
		return scene.RoundRectangle(at("cx")-rx, at("cy")-ry, 2*rx, 2*ry, rx, ry), []bool{true}, true
	case "line":
		p.MoveTo(at("x1"), at("y1"))
		p.LineTo(at("x2"), at("y2"))
		p.Close()
		return p, []bool{false}, true
	case "polyline", "polygon":
		v := numbers(n.attr["points"])
		for i := 0; i+1 < len(v); i += 2 {
			if i == 0 {
				p.MoveTo(v[0], v[1])
			} else {
				p.LineTo(v[i], v[i+1])
			}
		}
		if len(v) < 4 {
			return p, nil, false
		}
		p.Close()
		return p, []bool{n.name == "polygon"}, true
	}
	return p, nil, false
}

// paint fills and strokes an outline.
func (d *drawing) paint(p scene.Path, closed []bool, s style, m matrix) {
	if !s.fill.none {
		q := p
		if s.evenOdd {
			if q = d.nonZero(p); d.err != nil {
				return
			}
		}
		d.add(q, s.fill, s.fillFade, s, m, p)
	}
	if !s.stroke.none && s.pen.width > 0 {
		d.spend(stepsOfStroke * len(p.Points))
		if d.err != nil {
			return
		}
		d.add(stroke(p, closed, s.pen), s.stroke, s.strokeFade, s, m, p)
	}
}

// stepsOfClip is what cutting by an outline costs, by the point: it is laid, measured and drawn for every shape that it cuts.
const stepsOfClip = 40

// stepsOfStroke is what going along a line costs, by the point.
const stepsOfStroke = 16

// add is one outline in one paint; whole is what the paint's bounding box is taken of.
func (d *drawing) add(p scene.Path, with paint, fade float64, s style, m matrix, whole scene.Path) {
	it := scene.Item{Name: "shape", Path: m.path(p), At: scene.Unit, Fill: with.colour, Current: with.current, Clip: s.clip}
	solid := fade * s.fade * with.alpha
	if with.ref != "" {
		shade, one, alpha, ok := d.gradient(with.ref, whole, m)
		if !ok {
			return
		}
		it.Shade, it.Fill, solid = shade, one, solid*alpha
	}
	it.Fade = math.Round((1-min(max(solid, 0), 1))*1e4) / 1e4
	if it.Fade == 1 || len(it.Path.Ops) == 0 {
		return
	}
	d.points += len(it.Path.Points)
	d.items = append(d.items, it)
	if len(d.items) > maxShapes || d.points > maxPoints {
		d.err = fmt.Errorf("has more than %d shapes or %d points; simplify the drawing", maxShapes, maxPoints)
	}
}

// clip is the outline of a clipPath in the drawing's units. Where another clip holds already, the narrower of the two is kept.
func (d *drawing) clip(ref string, s style, m matrix) *scene.Path {
	n := d.ids[ref]
	if n == nil || n.name != "clipPath" {
		return s.clip
	}
	if n.attr["clipPathUnits"] == "objectBoundingBox" {
		d.leave("A clip in shares of its shape was left out.")
		return s.clip
	}
	whole := d.clips[ref]
	if whole == nil {
		whole = &scene.Path{}
		d.clips[ref] = whole
		for _, k := range n.kids {
			if d.spend(stepsOfNode); d.err != nil {
				return s.clip
			}
			if k.name == "use" {
				if t := d.ids[strings.TrimPrefix(k.attr["href"], "#")]; t != nil {
					k = t
				}
			}
			if p, _, ok := d.shape(k); ok {
				whole.Append(d.transform(k, k.attr["transform"]).path(p))
			}
		}
	}
	if d.spend(stepsOfClip * len(whole.Points)); d.err != nil {
		return s.clip
	}
	out := m.of(d.transform(n, n.attr["transform"])).path(*whole)
	if len(out.Ops) == 0 {
		return s.clip
	}
	if s.clip != nil {
		a, b := boxOf(scene.Item{Path: out}), boxOf(scene.Item{Path: *s.clip})
		if b.holds(a) {
			return &out
		}
		if !a.holds(b) {
			d.leave("Two clips cross; the inner one was taken.")
			return &out
		}
		return s.clip
	}
	return &out
}

// image takes in a picture that lies in the drawing itself, upright; others are left out.
func (d *drawing) image(n *node, s style, m matrix) {
	href := n.attr["href"]
	_, text, ok := strings.Cut(href, ";base64,")
	if !ok || !strings.HasPrefix(href, "data:image/") {
		d.leave("A picture that lies elsewhere was left out.")
		return
	}
	if m[1] != 0 || m[2] != 0 || m[0] <= 0 || m[3] <= 0 {
		d.leave("A turned picture within it was left out.")
		return
	}
	shown, err := d.picture(n, text)
	if d.err != nil {
		return
	}
	if err != nil {
		d.leave("A picture within it could not be read and was left out.")
		return
	}
	p := *shown
	w, h := length(n.attr["width"], p.Width), length(n.attr["height"], p.Height)
	x, y := length(n.attr["x"], 0), length(n.attr["y"], 0)
	if n.attr["preserveAspectRatio"] != "none" {
		k := min(w/p.Width, h/p.Height)
		x, y, w, h = x+(w-p.Width*k)/2, y+(h-p.Height*k)/2, p.Width*k, p.Height*k
	}
	p.X, p.Y = m.at(x, y)
	p.Width, p.Height = w*m[0], h*m[3]
	d.items = append(d.items, scene.Item{Name: "picture", Picture: &p, At: scene.Unit, Fade: 1 - s.fade, Clip: s.clip})
}

// errUnreadable is a picture within a drawing that is none.
var errUnreadable = errors.New("cannot be read")

// picture decodes a picture that lies in the drawing, once however often it is referred to.
func (d *drawing) picture(n *node, text string) (*scene.Picture, error) {
	if p := d.pictures[n]; p != nil {
		return p, nil
	}
	data, err := base64.StdEncoding.DecodeString(strings.Map(func(r rune) rune {
		if r == ' ' || r == '\n' || r == '\r' || r == '\t' {
			return -1
		}
		return r
	}, text))
	if err != nil || !isPixels(data) || bytes.HasPrefix(data, []byte("GIF8")) {
		return nil, errUnreadable
	}
	pixels, _, err := decodePixels(data, keptSide, d.budget) // not trimmed: what is clear at its edges is part of where it lies
	if errors.Is(err, errManyPixels) {
		d.err = err
	}
	if err != nil {
		return nil, err
	}
	d.pictures[n] = scene.NewPicture(pixels)
	return d.pictures[n], nil
}
