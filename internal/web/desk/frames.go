package desk

import (
	"bytes"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"html/template"
	"image"
	"image/png"
	"maps"
	"net/http"

	"golang.org/x/image/draw"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/typeface"
	"sodrik/internal/web/ui"
)

// frameSide is the side of a picture of a frame in pixels: twice as many as it has on the page, for screens that show two.
const frameSide = 96

// shapes are the frames in the order of their pictures; the first is none.
var shapes = append([]string{""}, look.Frames...)

// framed is a code in a frame of a shape, with words that suit what it does.
func framed(m *compose.Rendition, shape string) *compose.Rendition {
	out, job := *m, *m.Job
	f := job.Look.Frame
	if f.None() {
		f = look.Frame{Size: 1, Font: typeface.Faces[0].Key, Ink: ink.Black}
	}
	f.Shape, f.Text = shape, content.CallFor(m.Job.Content)
	job.Look.Frame, job.Look.Outline = f, ""
	out.Job = &job
	return &out
}

// drawFrames draws a code in every frame, side by side.
func drawFrames(m *compose.Rendition) (*image.NRGBA, error) {
	out := image.NewNRGBA(image.Rect(0, 0, frameSide*len(shapes), frameSide))
	for i, shape := range shapes {
		s := framed(m, shape).Scene(nil).Reduced(thumbSide)
		width := frameSide
		if s.Height > s.Width {
			width = max(1, int(frameSide*s.Width/s.Height))
		}
		picture, err := raster.Draw(s, raster.Fit(s, width))
		if err != nil {
			return nil, err
		}
		b := picture.Bounds()
		at := image.Pt(i*frameSide+(frameSide-b.Dx())/2, (frameSide-b.Dy())/2)
		draw.Draw(out, b.Sub(b.Min).Add(at), picture, b.Min, draw.Over)
	}
	return out, nil
}

// frames answers the code in every frame, as one picture.
func (h *Handler) frames(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	picture, err := drawFrames(c.Rendition)
	var b bytes.Buffer
	if err == nil {
		err = png.Encode(&b, picture)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	w.Write(b.Bytes())
}

// framePicture shows the picture of frame i; the browser fetches it when it comes into view. Its address is another only where the code looks otherwise
// within its frame, so that nobody who types words on a frame sees all of them drawn anew.
func framePicture(c *code.Code, i int) template.HTML {
	sum := fnv.New64a()
	sum.Write([]byte(c.Rendition.Symbol.Digest()))
	if worn, ok := patch.Get(c.Draft, "/look"); ok {
		if m, ok := worn.(map[string]any); ok {
			within := maps.Clone(m)
			delete(within, "frame")
			json.NewEncoder(sum).Encode(within)
		}
	}
	return template.HTML(fmt.Sprintf(`<img class="sprite s%d" src="/codes/%s/frames?of=%x" loading="lazy" alt="">`, i, c.ID, sum.Sum64()))
}
