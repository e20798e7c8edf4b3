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

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/measure"
	"sodrik/internal/web/ui"
)

// Plates is the view of a code as its plates.
type Plates struct {
	Condition string
	Plates    []PlateTile
	Total     string
	Over      bool // total ink is above the limit
	Together  template.URL
	Off       template.URL // an eye with one plate off
	OffWords  string
	Colours   []string // what cannot be had, in words
	Why       string
}

// PlateTile is one ink.
type PlateTile struct {
	Name, Coverage string
	Spot, Empty    bool
	Picture        template.HTML
}

// plates answers the view.
func (h *Handler) plates(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	v, err := platesOf(c.Rendition, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, "plates", v)
}

func platesOf(m *compose.Rendition, i int) (v Plates, err error) {
	p := m.Place(i)
	condition := m.Condition(p)
	v.Condition = condition.Name
	if !m.Pressed() {
		v.Condition += ", which its substrate is nearest to"
	}
	s, problems := m.Separated(p, false)
	if len(problems) > 0 {
		v.Why = "The plates cannot be made: " + problems[0].Message + "."
		return v, nil
	}
	f, err := s.Figures()
	if err != nil {
		return v, err
	}
	v.Total, v.Over = measure.Number(f.Most, 0)+" %", f.Most > condition.Limit+0.5
	for k, plate := range s.Plates {
		t := PlateTile{Name: plate.Name, Spot: plate.Spot, Empty: !s.Used(k), Coverage: measure.Number(f.Coverage[k], 1) + " %"}
		if !t.Empty {
			t.Picture = template.HTML(svg.Inline(s.Plate(k).Reduced(screenPixels), plate.Name+", plate", ""))
		}
		v.Plates = append(v.Plates, t)
	}
	img, err := compose.DrawPlates(s)
	if err != nil {
		return v, err
	}
	v.Together = pngURL(img)
	off, which, err := m.Misplaced(i, s)
	if err != nil {
		return v, err
	}
	if off != nil {
		v.Off, v.OffWords = pngURL(off), fmt.Sprintf("%s off by a tenth of a millimetre, as happens on a good press.", which)
	}
	if s.Off >= press.Seen {
		v.Colours = append(v.Colours, fmt.Sprintf("%s cannot be had in these inks: off by ΔE %s.", s.OffOf, measure.Number(s.Off, 1)))
	}
	return v, nil
}

func pngURL(img image.Image) template.URL {
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		return ""
	}
	return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes()))
}

// inkLines says for every ink of the look which shares print it, and what that looks like.
func inkLines(m *compose.Rendition, i int) (out []string) {
	c := m.Condition(m.Place(i))
	seen := map[string]bool{}
	for k, part := range m.Job.Look.Parts() {
		words := part.Words + ": "
		if strings.HasPrefix(part.Path, "/look/ink/stops/") {
			words = fmt.Sprintf("Ink, colour %d: ", k+1)
		}
		if part.Colour.Spot != "" {
			words += "spot " + part.Colour.Spot
		} else {
			inks := c.Separate(part.Colour)
			var shares []string
			for k, v := range inks.CMYK {
				if v > 0 {
					shares = append(shares, "CMYK"[k:k+1]+" "+measure.Number(v, 0))
				}
			}
			words += strings.Join(shares, " ")
			if inks.Off >= press.Seen {
				words += ", off by ΔE " + measure.Number(inks.Off, 1)
			}
		}
		if !seen[words] {
			seen[words] = true
			out = append(out, words)
		}
	}
	return out
}
