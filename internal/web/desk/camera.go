package desk

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"html/template"
	"image/png"
	"math"
	"net/http"
	"strconv"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/ui"
)

// Slider is one circumstance under which the camera looks.
type Slider struct {
	Name, Label       string
	Least, Most, Step string
	Value, Unit       string
}

// sliders in the order of what usually matters.
var sliders = []Slider{
	{"distance", "Distance", "10", "400", "5", "100", " %"},
	{"tilt", "Leaning back", "0", "75", "1", "0", "°"},
	{"side", "From the side", "0", "75", "1", "0", "°"},
	{"curve", "Around a bottle", "0", "150", "2", "0", "°"},
	{"blur", "Out of focus", "0", "200", "2", "0", " %"},
	{"light", "Light", "1", "100", "1", "100", " %"},
	{"shade", "Shadow", "0", "95", "1", "0", " %"},
	{"glare", "Glare", "0", "100", "1", "0", " %"},
	{"wear", "Worn", "0", "30", "1", "0", " %"},
}

// Seen is the picture with the readers' answers.
type Seen struct {
	Picture template.URL
	Words   string
	Answers []Answer
}

// Answer is what one reader makes of it.
type Answer struct {
	Reader, Says string
	Read         bool
}

// camera looks at the code as a phone would, under circumstances in the query: distance in percent of the place's, tilts in degrees, blur in
// percent of a module, the part of a round it spans in degrees, light in percent of the place's, the others in percent.
func (h *Handler) camera(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	get := func(name string) float64 {
		for _, s := range sliders {
			if s.Name != name {
				continue
			}
			least, _ := strconv.ParseFloat(s.Least, 64)
			most, _ := strconv.ParseFloat(s.Most, 64)
			v, err := strconv.ParseFloat(r.URL.Query().Get(name), 64)
			if err != nil || v != v {
				v, _ = strconv.ParseFloat(s.Value, 64)
			}
			return min(max(v, least), most)
		}
		return 0
	}
	seen, setup, err := h.Store.See(r.Context(), c.Rendition, i, func(in proof.Input, s *optics.Setup) {
		s.Distance *= get("distance") / 100
		s.TiltX, s.TiltY = get("tilt"), get("side")
		s.Blur = get("blur") / 100 * in.Scene.Width / float64(layout.Modules(in.Symbol, in.QuietZone))
		if angle := get("curve") * math.Pi / 180; angle > 0 { // that the code spans of the bottle
			s.Radius = in.Scene.Width / angle
		}
		light := get("light") / 100
		s.Level *= light * light * light // even steps for the eye
		s.Shade, s.Glare, s.Wear = get("shade")/100, get("glare")/100, get("wear")/100
	})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	var b bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, seen.Image); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := Seen{Picture: template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())),
		Words: fmt.Sprintf("From %s, %s pixels a module, in %s.", measure.Length(setup.Distance).Spoken(), measure.Number(seen.PerModule, 1), setup.Camera.Name)}
	for i, x := range seen.Readings {
		a := answerOf(x)
		a.Reader = fmt.Sprintf("Phone reader %d", i+1) // engines are named in the evidence
		v.Answers = append(v.Answers, a)
	}
	ui.Render(w, http.StatusOK, pages, "seen", v)
}

func answerOf(x proof.Reading) Answer {
	a := Answer{Reader: proof.ReaderName(x.Reader), Says: "does not read it", Read: x.Read}
	switch {
	case x.Read:
		a.Says = "reads it in " + measure.Number(x.MS, 0) + " ms"
	case x.Payload != "":
		a.Says = "reads something else"
	case x.Inverted:
		a.Says = "reads it with dark and light exchanged"
	case x.Error != "":
		a.Says = "did not answer"
	}
	return a
}
