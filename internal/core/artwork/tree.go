package artwork

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"
)

// Limits of a drawing. A reference (use) counts as what it refers to, so that a few lines cannot stand for millions of shapes.
const (
	mostNodes  = 50_000
	mostShapes = 20_000
	mostPoints = 400_000
	mostDepth  = 48
)

// node is an element with its attributes, style declarations among them.
type node struct {
	name string
	attr map[string]string
	kids []*node
	text string // of a style element
}

// parseTree reads XML into nodes. Entities that the document declares itself are refused, and nothing is fetched.
func parseTree(data []byte) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	d.CharsetReader = func(charset string, r io.Reader) (io.Reader, error) {
		return nil, fmt.Errorf("is written in %s; save it in UTF-8", charset)
	}
	var root *node
	var stack []*node
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
			if count++; count > mostNodes {
				return nil, fmt.Errorf("has more than %d elements; simplify the drawing", mostNodes)
			}
			if len(stack) >= mostDepth {
				return nil, fmt.Errorf("is nested more than %d deep; simplify the drawing", mostDepth)
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
				stack[len(stack)-1].text += string(t)
			}
		}
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
		for _, head := range strings.Split(heads, ",") {
			m := selector.FindStringSubmatch(strings.TrimSpace(head))
			if m == nil || m[0] == "" {
				continue
			}
			r := rule{element: m[1], declarations: declarations(body)}
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
			out[strings.ToLower(strings.TrimSpace(key))] = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value), "!important"))
		}
	}
	return out
}

// declared gives the properties of a node: presentation attributes, then rules by how narrow they are, then its own style.
func declared(n *node, sheet []rule) map[string]string {
	out := map[string]string{}
	for k, v := range n.attr {
		out[k] = v
	}
	for narrow := range 3 {
		for _, r := range sheet {
			is := 0
			if r.class != "" {
				is = 1
			} else if r.id != "" {
				is = 2
			}
			if is != narrow || r.element != "" && r.element != n.name || r.id != "" && r.id != n.attr["id"] {
				continue
			}
			if r.class != "" && !hasWord(n.attr["class"], r.class) {
				continue
			}
			for k, v := range r.declarations {
				out[k] = v
			}
		}
	}
	for k, v := range declarations(n.attr["style"]) {
		out[k] = v
	}
	return out
}

func hasWord(list, word string) bool {
	for _, w := range strings.Fields(list) {
		if w == word {
			return true
		}
	}
	return false
}
