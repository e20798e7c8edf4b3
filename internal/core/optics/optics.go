// Package optics is a model of what stands between a drawing and the picture that a camera has of it: ink spreads, paper is
// worn, the camera stands at a distance and askew, light is weak, uneven or glaring, lens and hand blur, the sensor has
// noise. It is deterministic: the same scene, setup and seed give the same pixels. It does not judge anything.
//
// Lengths are millimetres, angles degrees, light is relative: 1 is an office.
package optics

import (
	"fmt"
	"image"
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Setup is the circumstances. The zero value of all but Camera and Distance is ideal: nothing spreads, tilts, blurs or is worn.
type Setup struct {
	Camera   Camera
	Distance float64 // from the lens to the middle of the code

	TiltX, TiltY float64 // top and side leaning back, below 85
	Turn         float64 // about the line of sight
	Radius       float64 // of an upright cylinder it is wrapped around, bulging to the camera; 0 is flat
	ShiftX       float64 // pixels, parts of one: where the code lies on the sensor
	ShiftY       float64
	Around       float64 // how much of what lies around it is in the picture, as a share of its longer side; 0 counts as a tenth

	Gain    float64 // by how far dark edges spread, each side
	Even    bool    // they do so alike whichever way they face; else corners spread farther: proofs are calibrated with that
	Dot     float64 // side of a dot of the device that prints or shows it; 0 is finer than matters
	Bilevel bool    // a dot is dark or light and nothing between, as of a thermal head or a photocopier

	Level  float64 // of light; 0 counts as 1, dusk is about 0.02
	Uneven float64 // share of light lost towards one side, 0 to 1
	Glare  float64 // strength of a band of mirrored light, 0 to 1
	Shade  float64 // share of light taken away by a shadow across half of it, 0 to 1

	Blur   float64 // standard deviation on the object, from being out of focus
	Motion float64 // way of the hand during the exposure, on the object

	Wear float64 // share of the code's area scratched and soiled, 0 to 0.5
	Fold float64 // how strong a crease across the code is, 0 to 1
	Torn float64 // how much of the side is missing at the corner without an eye, 0 to 0.5
	Seed uint64  // of wear and noise

	Misplaced float64 // by how much one of two plates that print the ink in equal parts lies off the other
}

// maxObject bounds the pixels along a side of the drawing before the camera.
const maxObject = 2400

// Print is a drawing as it comes from the press, of which many pictures can be taken; it is safe for use by several at once.
type Print struct {
	scene  *scene.Scene
	object *object // without wear
	c      Setup   // what of a setup belongs to the print: Gain, Dot, Bilevel
}

// NewPrint prints a drawing on a ground of luminance ground, as Gain, Dot and Bilevel of the setup say, in fine pixels a
// millimetre. Three times as fine as the nearest picture that will be taken is enough.
func NewPrint(s *scene.Scene, ground, fine float64, c Setup) (*Print, error) {
	return NewPrintIn(s, ground, fine, c, ink.Colour.Luminance)
}

// NewPrintIn is the same in another light: of tells how much of it a colour throws back, ground how much what lies around does.
func NewPrintIn(s *scene.Scene, ground, fine float64, c Setup, of func(ink.Colour) float64) (*Print, error) {
	margin := c.margin(s) * 1.25 // pixels at the edge see beyond it when the camera is tilted
	fine = min(fine, maxObject/(max(s.Width, s.Height)+2*margin))
	o, err := objectOf(s, ground, fine, margin, c, of)
	return &Print{s, o, c}, err
}

// margin of what lies around the drawing that is in the picture, in millimetres.
func (c Setup) margin(s *scene.Scene) float64 {
	share := c.Around
	if share == 0 {
		share = around
	}
	return share * max(s.Width, s.Height)
}

// around is how much of what lies around a drawing is in a picture if nothing else is said, as a share of its longer side.
const around = 0.096

// At is what the print throws back at a point, in millimetres from the drawing's top left corner.
func (p *Print) At(x, y float64) float64 {
	o := p.object
	i, j := int(math.Floor((x+o.margin)*o.fine)), int(math.Floor((y+o.margin)*o.fine))
	if i < 0 || j < 0 || i >= o.width || j >= o.height {
		return o.ground
	}
	return o.y[j*o.width+i]
}

// Expose takes a picture: the part of the frame with the code and a margin around it.
func (p *Print) Expose(c Setup) (*image.Gray, error) {
	if !(c.Distance > 0) || c.Camera.Focal <= 0 || c.Camera.Well <= 0 || math.Abs(c.TiltX) >= 85 || math.Abs(c.TiltY) >= 85 ||
		c.Radius < 0 {
		return nil, fmt.Errorf("optics: nothing is seen from %g mm at tilts of %g and %g degrees", c.Distance, c.TiltX, c.TiltY)
	}
	v := newView(p.scene, c)
	r := v.frame(p.scene, c.margin(p.scene), c)
	if r.Empty() {
		return nil, fmt.Errorf("optics: the code lies outside the frame")
	}
	perMM := c.Camera.Focal / c.Distance // pixels
	light := v.take(p.object.worn(p.scene, c), r, c, p.scene)
	light = gaussian(light, r.Dx(), math.Hypot(c.Camera.Lens, c.Blur*perMM))
	if c.Motion > 0 {
		light = smear(light, r.Dx(), c.Motion*perMM, c.Seed)
	}
	develop(light, c)
	img := raster.Gray(light, r.Dx())
	c.Camera.sharpen(img)
	return c.Camera.stored(img), nil
}

// Expose prints a drawing and takes one picture of it. ground is the luminance around the drawing.
func Expose(s *scene.Scene, ground float64, c Setup) (*image.Gray, error) {
	p, err := NewPrint(s, ground, 3*c.Camera.Focal/max(c.Distance, 1e-6), c)
	if err != nil {
		return nil, err
	}
	return p.Expose(c)
}
