package drawn

import (
	"image"

	"golang.org/x/image/draw"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/typeface"
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

// Frames draws a code in every frame, side by side.
func Frames(m *compose.Rendition) (*image.NRGBA, error) {
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
