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
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/ui"
)

// camera looks at the code as a phone would, under circumstances in the query: distance in percent of the place's, tilts in
// degrees, blur in percent of a module, the part of a round it spans in degrees, light in percent of the place's, the others
// in percent.
func (h *Handler) camera(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	get := func(name string) float64 {
		for _, s := range reads.Sliders {
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
		s.Camera = reads.CameraOf(r.URL.Query().Get("phone"))
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
	v := reads.Seen{Picture: template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())),
		Words: fmt.Sprintf("From %s, %s pixels a module, in %s.", measure.Length(setup.Distance).Spoken(),
			measure.Number(seen.PerModule, 1), setup.Camera.Name)}
	for i, x := range seen.Readings {
		a := reads.AnswerOf(x)
		a.Reader = fmt.Sprintf("Phone reader %d", i+1) // engines are named in the evidence
		v.Answers = append(v.Answers, a)
	}
	ui.Render(w, http.StatusOK, pages, "seen", v)
}
