package pdf

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"sync"
	"weak"

	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// object is what stands beside a page's content: a gradient, a picture, a state, an outline. It has no number yet.
type object struct {
	key  [sha256.Size]byte // of what it says
	body []byte
	mask int // of a picture: which of the page's objects is its mask, −1 for none
}

// maskHere stands in the body of a picture for the number of its mask.
const maskHere = "\x00MASK\x00"

func whole(body []byte) object { return object{key: sha256.Sum256(body), body: body, mask: -1} }

// masked are the objects of a picture: its mask, of which nothing is known where it has none, and its colours, which are
// others under another mask.
func masked(mask, colours []byte) (made [2]object) {
	made[1] = whole(colours)
	if mask != nil {
		made[0] = whole(mask)
		made[1].key = sha256.Sum256(append(made[0].key[:], made[1].key[:]...))
	}
	return made
}

// numbered is the body of an object once its mask has a number.
func (o *object) numbered(mask int) []byte {
	if o.mask < 0 {
		return o.body
	}
	return bytes.Replace(o.body, []byte(maskHere), fmt.Appendf(nil, "%d 0 R", mask), 1)
}

// parts are the objects of a page while its content is written. Its names are by their places among them, so that pages are
// made side by side, before anything has a number.
type parts struct {
	cache                      *cache // of the document; nil shares nothing
	objects                    []object
	at                         map[[sha256.Size]byte]int // objects by their keys
	outlines                   map[*scene.Path]int       // objects of letters by their outlines
	shadings, pictures, states resource
}

// resource is a kind of resources of a page: names, and the objects that they mean.
type resource struct {
	of    []int
	names []string
}

// add takes an object and gives its place.
func (p *parts) add(body []byte) int { return p.put(whole(body)) }

func (p *parts) put(o object) int {
	if i, ok := p.at[o.key]; ok {
		return i
	}
	if p.at == nil {
		p.at = map[[sha256.Size]byte]int{}
	}
	p.objects = append(p.objects, o)
	p.at[o.key] = len(p.objects) - 1
	return len(p.objects) - 1
}

// masked adds a picture with its mask.
func (p *parts) masked(made [2]object) int {
	if made[0].key != [sha256.Size]byte{} {
		made[1].mask = p.put(made[0])
	}
	return p.put(made[1])
}

// named gives an object a name among the resources of a kind, and gives the name.
func (p *parts) named(list *resource, letter string, n int) string {
	for i, there := range list.of {
		if there == n {
			return list.names[i]
		}
	}
	name := fmt.Sprintf("/%s%d", letter, n)
	list.of, list.names = append(list.of, n), append(list.names, name)
	return name
}

// filled fills an outline with the colour that is set; letters are those that it is made of.
func (p *parts) filled(b *bytes.Buffer, path *scene.Path, letters []scene.Letter) {
	shares := p.cache != nil && !p.cache.alone
	if shares && len(letters) > 0 {
		for _, l := range letters {
			b.WriteString("q 1 0 0 1 ")
			b.WriteString(precise(l.X))
			b.WriteByte(' ')
			b.WriteString(precise(l.Y))
			b.WriteString(" cm ")
			if n, ok := p.letter(l.Outline); ok {
				b.WriteString(p.named(&p.pictures, "O", n))
				b.WriteString(" Do ")
			} else {
				outline(b, *l.Outline)
				b.WriteString("f ")
			}
			b.WriteString("Q\n")
		}
		return
	}
	if shares && len(path.Points) >= worth {
		b.WriteString(p.named(&p.pictures, "O", p.put(form(path))) + " Do\n")
		return
	}
	outline(b, *path)
	b.WriteString("f\n")
}

// letter is the object of a letter's outline; ok is false where it is to be written in place.
func (p *parts) letter(outline *scene.Path) (n int, ok bool) {
	if len(outline.Points) < worth {
		return 0, false
	}
	if n, ok = p.outlines[outline]; !ok {
		if p.outlines == nil {
			p.outlines = map[*scene.Path]int{}
		}
		n = p.put(form(outline))
		p.outlines[outline] = n
	}
	return n, true
}

// worth is how many points an outline has to have for it to be written once: with fewer, its name is hardly shorter.
const worth = 8

// form is an outline that is filled with whatever colour is set, as a form XObject (ISO 32000-1, 8.10).
func form(p *scene.Path) object {
	h := sha256.New()
	keyed := make([]byte, 0, len(p.Ops)+16*len(p.Points))
	for _, op := range p.Ops {
		keyed = append(keyed, byte(op))
	}
	least, most := scene.Point{X: math.Inf(1), Y: math.Inf(1)}, scene.Point{X: math.Inf(-1), Y: math.Inf(-1)}
	for _, q := range p.Points {
		keyed = binary.LittleEndian.AppendUint64(keyed, math.Float64bits(q.X))
		keyed = binary.LittleEndian.AppendUint64(keyed, math.Float64bits(q.Y))
		least, most = scene.Point{X: min(least.X, q.X), Y: min(least.Y, q.Y)},
			scene.Point{X: max(most.X, q.X), Y: max(most.Y, q.Y)}
	}
	h.Write(keyed)
	body := pdfpage.Stream(fmt.Sprintf("/Type /XObject /Subtype /Form /BBox [%s %s %s %s]", number(least.X),
		number(least.Y), number(most.X), number(most.Y)), outlined(*p))
	return object{key: [sha256.Size]byte(h.Sum(nil)), body: body, mask: -1}
}

func outlined(p scene.Path) []byte {
	var b bytes.Buffer
	outline(&b, p)
	b.WriteString("f\n")
	return b.Bytes()
}

// resources writes the resources of a page; number gives each of its objects its number.
func (p *parts) resources(number func(i int) int) string {
	return "<<" + p.shadings.written("Shading", number) + p.pictures.written("XObject", number) + p.states.written("ExtGState",
		number) +
		" >>"
}

func (r *resource) written(kind string, number func(i int) int) string {
	if len(r.of) == 0 {
		return ""
	}
	var b strings.Builder
	b.WriteString(" /" + kind + " <<")
	for k, i := range r.of {
		fmt.Fprintf(&b, " %s %d 0 R", r.names[k], number(i))
	}
	b.WriteString(" >>")
	return b.String()
}

// kept are the objects of a page with numbers from first on.
func (p *parts) kept(first int) (out [][]byte) {
	for i := range p.objects {
		out = append(out, p.objects[i].numbered(first+p.objects[i].mask))
	}
	return out
}

// cache is what pages of a document have in common while they are made. It is safe for concurrent use.
type cache struct {
	alone  bool // nothing is shared: a file of one page
	mu     sync.Mutex
	images map[weak.Pointer[scene.Picture]][2]object // known again, without their bodies, and though the picture is not kept
	bodies map[[sha256.Size]byte][]byte              // of pictures that are still to be written
}

// picture makes the objects of a picture, once for all pages.
func (c *cache) picture(pic *scene.Picture, produce func() (mask, colours []byte)) [2]object {
	if c == nil {
		return masked(produce())
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	made, ok := c.images[weak.Make(pic)]
	if !ok {
		made = masked(produce())
		if c.images == nil {
			c.images, c.bodies = map[weak.Pointer[scene.Picture]][2]object{}, map[[sha256.Size]byte][]byte{}
		}
		for i := range made {
			if made[i].body == nil {
				continue
			}
			c.bodies[made[i].key] = made[i].body
			made[i].body = nil
		}
		c.images[weak.Make(pic)] = made
	}
	return made
}

// take gives up the body of a picture.
func (c *cache) take(key [sha256.Size]byte) []byte {
	c.mu.Lock()
	defer c.mu.Unlock()
	body := c.bodies[key]
	delete(c.bodies, key)
	return body
}
