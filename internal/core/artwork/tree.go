package artwork

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
)

// Limits of a drawing. A reference (use) counts as what it refers to, so that a few lines cannot stand for millions of shapes.
const (
	maxNodes  = 50_000
	maxShapes = 20_000
	maxPoints = 400_000
	maxDepth  = 48
	maxSteps  = 6_000_000 // of work: nodes visited, rules held against them, points looked at
	maxCover  = 100       // times that all shapes together may cover the whole
)

// node is an element with its attributes, style declarations among them.
type node struct {
	name string
	attr map[string]string
	kids []*node
	text string // of a style element

	of    map[string]string // its properties, once they were asked for
	moved *matrix           // its transformation, likewise
}

// parseTree reads XML into nodes. Entities that the document declares itself are refused, and nothing is fetched.
func parseTree(data []byte) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	d.CharsetReader = func(charset string, r io.Reader) (io.Reader, error) {
		return nil, fmt.Errorf("is written in %s; save it in UTF-8", charset)
	}
	var root *node
	var stack []*node
	texts := map[*node]*strings.Builder{}
	count := 0
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var syntax *xml.SyntaxError
			if errors.As(err, &syntax) {
				return nil, fmt.Errorf("is not an SVG that can be read: %s in line %d", syntax.Msg, syntax.Line)
			}
			return nil, err
		}
		switch t := t.(type) {
		case xml.Directive:
			if bytes.Contains(bytes.ToUpper(t), []byte("ENTITY")) {
				return nil, fmt.Errorf("declares entities, which can stand for endless text; save it as plain SVG")
			}
		case xml.StartElement:
			if count++; count > maxNodes {
				return nil, fmt.Errorf("has more than %d elements; simplify the drawing", maxNodes)
			}
			if len(stack) >= maxDepth {
				return nil, fmt.Errorf("is nested more than %d deep; simplify the drawing", maxDepth)
			}
			n := &node{name: t.Name.Local, attr: map[string]string{}}
			if t.Name.Space != "" && t.Name.Space != "http://www.w3.org/2000/svg" {
				n.name = "?" + n.name // not of SVG
			}
			for _, a := range t.Attr {
				n.attr[a.Name.Local] = strings.TrimSpace(a.Value)
			}
			if len(stack) > 0 {
				up := stack[len(stack)-1]
				up.kids = append(up.kids, n)
			} else if root == nil {
				root = n
			}
			stack = append(stack, n)
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		case xml.CharData:
			if len(stack) > 0 && stack[len(stack)-1].name == "style" {
				n := stack[len(stack)-1]
				if texts[n] == nil {
					texts[n] = &strings.Builder{}
				}
				texts[n].Write(t)
			}
		}
	}
	for n, b := range texts {
		n.text = b.String()
	}
	if root == nil || root.name != "svg" {
		return nil, fmt.Errorf("is not an SVG: its first element has to be svg")
	}
	return root, nil
}

// rule is one rule of a style sheet with a simple selector: an element, a class, an id, or all.
type rule struct {
	element, class, id string
	declarations       map[string]string
	order              int // of all rules of the drawing
}

var (
	comment  = regexp.MustCompile(`(?s)/\*.*?\*/`)
	selector = regexp.MustCompile(`^([a-zA-Z]*|\*)([.#][\w-]+)?$`)
)

// parseSheet reads a style sheet. Rules for anything but simple selectors, and what begins with an at sign, are left out.
func parseSheet(s string) (out []rule) {
	s = comment.ReplaceAllString(s, "")
	for {
		heads, rest, ok := strings.Cut(s, "{")
		if !ok {
			return out
		}
		body, after, ok := strings.Cut(rest, "}")
		if !ok {
			return out
		}
		s = after
		if at := strings.LastIndexByte(heads, ';'); at >= 0 { // @import …;
			heads = heads[at+1:]
		}
		var of map[string]string
		for _, head := range strings.Split(heads, ",") {
			m := selector.FindStringSubmatch(strings.TrimSpace(head))
			if m == nil || m[0] == "" {
				continue
			}
			if of == nil {
				of = declarations(body)
			}
			r := rule{element: m[1], declarations: of}
			if r.element == "*" {
				r.element = ""
			}
			if m[2] != "" && m[2][0] == '.' {
				r.class = m[2][1:]
			} else if m[2] != "" {
				r.id = m[2][1:]
			}
			out = append(out, r)
		}
	}
}

func declarations(s string) map[string]string {
	out := map[string]string{}
	for _, d := range strings.Split(s, ";") {
		if key, value, ok := strings.Cut(d, ":"); ok {
			out[strings.ToLower(strings.TrimSpace(key))] = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value),
				"!important"))
		}
	}
	return out
}

// sheet is the rules of all style sheets of a drawing, by how narrow they are and by what they name, so that a node is held
// against few of them.
type sheet struct {
	all     []rule            // of elements, and of anything
	classes map[string][]rule // by the name of the class
	ids     map[string][]rule
}

func (s *sheet) add(list []rule) {
	if s.classes == nil {
		s.classes, s.ids = map[string][]rule{}, map[string][]rule{}
	}
	for _, r := range list {
		switch {
		case r.class != "":
			s.classes[r.class] = append(s.classes[r.class], r)
		case r.id != "":
			s.ids[r.id] = append(s.ids[r.id], r)
		default:
			s.all = append(s.all, r)
		}
	}
}

// declared gives the properties of a node: presentation attributes, then rules by how narrow they are, then its own style.
func (d *drawing) declared(n *node) map[string]string {
	if n.of != nil {
		return n.of
	}
	out := make(map[string]string, len(n.attr)+4)
	for k, v := range n.attr {
		out[k] = v
	}
	apply := func(list []rule) {
		d.spend(len(list))
		for _, r := range list {
			if r.element == "" || r.element == n.name {
				d.spend(len(r.declarations))
				for k, v := range r.declarations {
					out[k] = v
				}
			}
		}
	}
	if d.err == nil {
		apply(d.sheet.all)
	}
	if classes := strings.Fields(n.attr["class"]); len(classes) > 0 && len(d.sheet.classes) > 0 && d.err == nil {
		var list []rule
		for _, c := range slices.Compact(slices.Sorted(slices.Values(classes))) {
			list = append(list, d.sheet.classes[c]...)
		}
		slices.SortStableFunc(list, func(a, b rule) int { return a.order - b.order })
		apply(list)
	}
	if d.err == nil {
		apply(d.sheet.ids[n.attr["id"]])
	}
	for k, v := range declarations(n.attr["style"]) {
		out[k] = v
	}
	n.of = out
	return out
}
