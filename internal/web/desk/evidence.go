package desk

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"html/template"
	"image"
	"image/png"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"golang.org/x/image/draw"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/ui"
)

// Evidence is every condition with what the camera saw.
type Evidence struct {
	CodeID string
	Place  int
	Groups []EvidenceGroup
}

// EvidenceGroup is one set of conditions.
type EvidenceGroup struct {
	Title, Words string
	Cards        []EvidenceCard
}

// EvidenceCard is one condition.
type EvidenceCard struct {
	Key, Words string
	Picture    template.URL
	Hits       []FamilyHits
}

// FamilyHits is how many draws a family read.
type FamilyHits struct {
	Family, Count string
	Enough        bool // for the condition
}

// Witness is one picture at large.
type Witness struct {
	Seen
	CodeID, Key, Title string
	Place              int
	Draws              []WitnessDraw
}

// WitnessDraw leads to another draw of the same condition.
type WitnessDraw struct {
	Index   int
	Name    string
	Current bool
}

// groupWords says what each set is.
var groupWords = map[proof.Stage][2]string{
	proof.Ordinary: {"Ordinary", "All of this counts for the verdict."},
	proof.Hard:     {"Harder", "It happens, not to everybody. It does not change the verdict."},
	proof.Abuse:    {"Wear and damage", "Few codes survive this."},
}

// familyNames are what families are called.
var familyNames = map[string]string{"zbar": "zbar", "zxing": "zxing", "sodrik": "our own"}

func familyName(key string) string {
	if n := familyNames[key]; n != "" {
		return n
	}
	return key
}

// NewEvidence lays a proof beside its pictures.
func NewEvidence(c *code.Code, p *proof.Proof, album []proof.Page, place int) (*Evidence, error) {
	out := &Evidence{CodeID: c.ID, Place: place}
	for _, set := range []proof.Stage{proof.Ordinary, proof.Hard, proof.Abuse} {
		g := EvidenceGroup{Title: groupWords[set][0], Words: groupWords[set][1]}
		for _, page := range album {
			if page.Stage != set {
				continue
			}
			picture, err := pictureURL(contact(page.Image))
			if err != nil {
				return nil, err
			}
			card := EvidenceCard{Key: page.Key, Words: upperFirst(page.Words), Picture: picture}
			if o, ok := p.Outcome(page.Key); ok {
				card.Hits = hitsOf(o)
			}
			g.Cards = append(g.Cards, card)
		}
		if len(g.Cards) > 0 {
			out.Groups = append(out.Groups, g)
		}
	}
	return out, nil
}

func hitsOf(o proof.Outcome) (out []FamilyHits) {
	for _, family := range []string{"zbar", "zxing", "sodrik"} {
		if n, ok := o.Hits[family]; ok {
			out = append(out, FamilyHits{familyName(family), fmt.Sprintf("%d/%d", n, o.Draws), o.Meets(family)})
		}
	}
	return out
}

// kindName is what a family is called where no engine is named.
func kindName(n int) string {
	return [...]string{"First kind", "Second kind", "Third kind", "Another kind"}[min(n, 3)]
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// contactSide is the side of a picture in the list.
const contactSide = 88

func contact(img *image.Gray) *image.Gray {
	b := img.Bounds()
	k := float64(contactSide) / float64(max(b.Dx(), b.Dy()))
	if k >= 1 {
		return img
	}
	out := image.NewGray(image.Rect(0, 0, max(1, int(float64(b.Dx())*k)), max(1, int(float64(b.Dy())*k))))
	draw.ApproxBiLinear.Scale(out, out.Rect, img, b, draw.Src, nil)
	return out
}

func pictureURL(img *image.Gray) (template.URL, error) {
	var b bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img)
	return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())), err
}

// evidence answers every condition as the camera saw it; it waits for the readers.
func (h *Handler) evidence(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	p, err := h.Store.Prove(code.Hurry(r.Context()), ui.Actor(r), c.Rendition, i, proof.Abuse)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	album, err := h.Store.Album(r.Context(), c.Rendition, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v, err := NewEvidence(c, p, album, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "evidence", v)
}

// witness answers one picture at large, with what each reader makes of it.
func (h *Handler) witness(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	draw, _ := strconv.Atoi(r.URL.Query().Get("draw"))
	seen, condition, ok, err := h.Store.Witness(r.Context(), c.Rendition, i, chi.URLParam(r, "condition"), draw)
	if err == nil && !ok {
		err = code.ErrNotFound
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := Witness{CodeID: c.ID, Key: condition.Key, Title: upperFirst(condition.Words), Place: i}
	if v.Picture, err = pictureURL(seen.Image); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Words = fmt.Sprintf("Picture %d of %d.", draw+1, condition.Draws)
	if condition.Draws > 1 {
		v.Words = fmt.Sprintf("Picture %d of %d, %s pixels a module in the camera.", draw+1, condition.Draws, measure.Number(seen.PerModule, 1))
		for n := range condition.Draws {
			v.Draws = append(v.Draws, WitnessDraw{n, strconv.Itoa(n + 1), n == draw})
		}
	}
	for _, x := range seen.Readings {
		v.Answers = append(v.Answers, answerOf(x))
	}
	ui.Render(w, http.StatusOK, pages, "witness", v)
}
