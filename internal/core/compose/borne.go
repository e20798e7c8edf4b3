package compose

import (
	"context"
	"fmt"
	"image"
	"math"
	"time"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/symbol/detect"
)

// Borne is a code that the artwork of a placement bears already, and how ours can lie exactly over it.
type Borne struct {
	Payload string
	Width   measure.Length // that ours has to be
	X, Y    measure.Length // of its left and top edge, with the quiet zone
	Covered bool           // ours lies exactly over it
	Hidden  bool           // nothing of its modules is seen beneath ours
	Why     string         // why it cannot, as a clause; "" where it can
}

const (
	borneTime   = 5 * time.Second
	maxStrays   = 0.02 // share of a side by which corners may lie beside those of an upright square
	coveredNear = 0.05 // millimetres by which edges may differ that lie over one another
)

// Over is the patch that lays ours over it at placement i of a job.
func (b Borne) Over(i int) patch.Patch {
	at := fmt.Sprintf("/placements/%d", i)
	hundredths := func(l measure.Length) float64 { return math.Round(float64(l)*100) / 100 }
	return patch.Patch{{Op: "add", Path: at + "/width_mm", Value: hundredths(b.Width)},
		{Op: "add", Path: at + "/artwork/x_mm", Value: hundredths(b.X)}, {Op: "add", Path: at + "/artwork/y_mm",
			Value: hundredths(b.Y)}}
}

// Borne are the codes that the artwork of a placement bears. It is looked at once for each file; ctx bounds that.
func (m *Rendition) Borne(ctx context.Context, p *place.Placement) (out []Borne) {
	sheet := m.Sheet(p)
	if sheet == nil {
		return nil
	}
	w, _, _ := m.Surface(p)
	k := w / sheet.Width
	at := m.For(p)
	composed, _ := m.Compose(p)
	for _, b := range sheet.Borne(func(img *image.Gray) []artwork.Borne { return borneIn(ctx, img) }) {
		x, y := b.Middle()
		side := b.Side() * k * float64(at.Modules()) / float64(at.Symbol.Size)
		one := Borne{Payload: b.Payload, Width: measure.Length(side), X: measure.Length(x*k - side/2),
			Y: measure.Length(y*k - side/2)}
		near := func(a, b float64) bool { return a-b < coveredNear && b-a < coveredNear }
		half, open := b.Side()*k/2, m.Job.Look.Paper.None && p.Artwork.Panel == nil
		one.Hidden = !open && x*k-half > composed.Code.X-coveredNear && x*k+half < composed.Code.X+composed.Code.W+coveredNear &&
			y*k-half > composed.Code.Y-coveredNear && y*k+half < composed.Code.Y+composed.Code.H+coveredNear
		one.Covered = !open && near(composed.Code.X, float64(one.X)) && near(composed.Code.Y, float64(one.Y)) &&
			near(composed.Code.W, side)
		switch {
		case b.Strays() > maxStrays:
			one.Why = "it is turned or bent, and ours lies upright"
		case one.Width < place.MinWidth || one.Width > place.MaxWidth:
			one.Why = "ours would be " + one.Width.String() + " wide; it is from " +
				measure.Length(place.MinWidth).String() + " to " + measure.Length(place.MaxWidth).String()
		case open:
			one.Why = "ours has no paper, so that it would show through; give it paper, or a panel beneath it"
		}
		out = append(out, one)
	}
	return out
}

// borneIn finds the symbols of a picture.
func borneIn(ctx context.Context, img *image.Gray) (out []artwork.Borne) {
	ctx, stop := context.WithTimeout(context.WithoutCancel(ctx), borneTime) // what is found is kept, also for others
	defer stop()
	found, _ := detect.Photo(ctx, img, detect.Quick)
	for _, f := range found {
		out = append(out, artwork.Borne{Payload: f.Payload, Corners: f.Corners})
	}
	return out
}
