package proof

import (
	"image"
	"math"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

// The camera of the proof is a phone's.
var (
	frameLines  = float64(optics.Phone.Lines)
	focalLength = optics.Phone.Focal // in pixels
)

const (
	closeFocus = 80.0 // mm; nearer, the lens does not get sharp
	fills      = 0.9  // a code may take this share of the short side
	minPixels  = 2.0  // a module, below which readers begin to fail; see TestLeastPixels in readers
)

// maxFrame bounds a frame's side: 550 × 550 is about 0.3 megapixels, enough for 3 pixels a module in version 40.
const maxFrame = 550

// reach is the nearest and farthest distance in millimetres at which the code fills the frame and at which its modules
// still take minPixels.
func reach(in Input) [2]float64 {
	side := in.Scene.Width
	module := side / float64(in.Symbol.Size+2*in.QuietZone)
	return [2]float64{max(closeFocus, side*focalLength/frameLines/fills), focalLength * module / minPixels}
}

// expose takes the scene in pixels pixels, with a margin of ground around it.
func expose(in Input, pixels int, ground float64) (*image.Gray, error) {
	margin := max(8, pixels/20)
	v := raster.View{Width: pixels + 2*margin, Height: pixels + 2*margin, Scale: float64(pixels) / in.Scene.Width,
		X: float64(margin), Y: float64(margin)}
	y, err := raster.Luminance(in.Scene, v, ground)
	if err != nil {
		return nil, err
	}
	return raster.Gray(y, v.Width), nil
}

// groundOf is the luminance around the code: the placement's background, else a white sheet. A tinted paper ends at the quiet
// zone, and its edge is one more thing for readers to stumble over, as exposure follows the sheet and not the paper.
func groundOf(in Input) float64 {
	if in.Placement != nil && in.Placement.Background != nil {
		return in.Placement.Background.Luminance()
	}
	return 1
}

// paperOf is the colour behind the modules.
func paperOf(in Input) ink.Colour {
	switch {
	case !in.Look.Paper.None:
		return in.Look.Paper.Colour
	case in.Placement != nil && in.Placement.Background != nil:
		return *in.Placement.Background
	}
	return ink.White
}

// contrast is that of the ink which differs least: an eye in a pale ink of its own is as lost as pale modules.
func contrast(in Input) float64 { return ink.Contrast(in.Look.Palest().Colour, paperOf(in)) }

// leastContrast is contrast against what lies behind the modules where it is worst: with a picture beneath them, the module's
// worth of it that is nearest to the ink.
func leastContrast(in Input) float64 {
	plain := contrast(in)
	if in.Look.Backdrop.None() || in.Look.Backdrop.Mode != "under" {
		return plain
	}
	behind := &scene.Scene{Width: in.Scene.Width, Height: in.Scene.Height}
	for _, it := range in.Scene.Items {
		if it.Name == "paper" || it.Name == "backdrop" {
			behind.Items = append(behind.Items, it)
		}
	}
	const per = 3 // pixels a module
	v := raster.Fit(behind, (in.Symbol.Size+2*in.QuietZone)*per)
	y, err := raster.Luminance(behind, v, groundOf(in))
	if err != nil {
		return plain
	}
	palest, least := in.Look.Palest().Colour.Luminance(), plain
	for my := range in.Symbol.Size {
		for mx := range in.Symbol.Size {
			mean := 0.0
			for i := range per * per {
				mean += y[((my+in.QuietZone)*per+i/per)*v.Width+(mx+in.QuietZone)*per+i%per] / (per * per)
			}
			if c := mean - palest; math.Abs(c) < math.Abs(least) {
				least = c
			}
		}
	}
	return least
}

// Figures are what follows without any reader.
type Figures struct {
	Contrast float64    // luminance of the ground less that of the ink, where they differ least
	Reserve  float64    // share of error correction unspent, worst block
	Range    [2]float64 // nearest and farthest distance in millimetres
}

// Measure gives the figures. File, Payload and Content of the input are not used.
func Measure(in Input) Figures { return Figures{leastContrast(in), reserve(in), reach(in)} }

// Drawn draws the scene, takes the middle of every module for dark or light, and has our own decoder correct what it must: what
// is read, and the share of correctable codewords left in the worst block. A mark counts at its worst, whatever the modules
// under it happen to say. The error is that of decoding, where the drawing cannot be read at all.
func Drawn(in Input) (payload string, reserve float64, err error) {
	const per = 3 // pixels a module
	modules := in.Symbol.Size + 2*in.QuietZone
	v := raster.Fit(in.Scene, modules*per)
	y, err := raster.Luminance(in.Scene, v, groundOf(in))
	if err != nil {
		return "", 0, err
	}
	dark := in.Look.Ink.Luminance()
	light := paperOf(in).Luminance()
	r, err := decode.Matrix(in.Symbol.Size, func(mx, my int) bool {
		l := y[((my+in.QuietZone)*per+per/2)*v.Width+(mx+in.QuietZone)*per+per/2]
		return math.Abs(l-dark) < math.Abs(l-light)
	})
	if err != nil {
		return "", 0, err
	}
	may := symbol.BlocksOf(in.Symbol.Version, in.Symbol.Level).Correct
	left := 1 - float64(slices.Max(r.ByBlock))/float64(may)
	if in.Mark != nil {
		left = min(left, in.Mark.Damage.Reserve)
	}
	return r.Payload, left, nil
}

// reserve is that of the drawing; 0 where it cannot be decoded at all.
func reserve(in Input) float64 {
	_, left, err := Drawn(in)
	if err != nil {
		return 0
	}
	return left
}
