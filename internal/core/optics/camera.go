package optics

import (
	"bytes"
	"image"
	"image/jpeg"
	"math"
)

// Camera is a pin-hole with square pixels, a lens before them, and what a phone does to a picture before anybody reads it.
type Camera struct {
	Name  string // completes "through"
	Lines int    // pixels along its shorter side
	Focal float64

	Lens float64 // blur in focus, as a standard deviation in pixels
	// sharpening: how much of a picture's difference from itself blurred by a pixel (1 4 6 4 1) is added to it, 0 for none
	Halo    float64
	Well    float64 // electrons that a pixel holds of a sheet of paper in an office
	Noise   float64 // electrons, of reading one
	Quality int     // of the JPEG that readers are handed, 1 to 100; 0 for the pixels themselves
}

// A phone's video frame: a lens that frames like 26 mm on 36 × 24 mm sees 24/26 of the distance along its short side, and
// readers work on frames of 1,080 lines.
const (
	lines = 1080
	focal = lines * 26.0 / 24
)

// Cameras of three phones, by the spatial frequency at which contrast is halved (MTF50, ISO 12233): 0.38, 0.28 and 0.21
// cycles a pixel. Video of 1,080 lines from phones in use lies roughly between 0.25 and 0.4. Phones sharpen more than these
// do, which helps readers; wells and noise are those of pixels of about 1 µm and of smaller ones. See docs/proof.md.
var (
	Good = Camera{
		Name:    "a good phone's video frame of 1,080 lines",
		Lines:   lines,
		Focal:   focal,
		Lens:    0.5,
		Halo:    0.3,
		Well:    6000,
		Noise:   2,
		Quality: 92,
	}
	Phone = Camera{
		Name:    "an ordinary phone's video frame of 1,080 lines",
		Lines:   lines,
		Focal:   focal,
		Lens:    0.65,
		Halo:    0.1,
		Well:    6000,
		Noise:   3,
		Quality: 82,
	}
	Poor = Camera{
		Name:    "a poor phone's video frame of 1,080 lines",
		Lines:   lines,
		Focal:   focal,
		Lens:    0.85,
		Halo:    0,
		Well:    4000,
		Noise:   4,
		Quality: 65,
	}
)

// MTF is how much of a sinusoid's contrast the camera keeps at a frequency in cycles a pixel, reckoned from its constants:
// pixel, lens, halo.
func (c Camera) MTF(f float64) float64 {
	if f == 0 {
		return 1
	}
	pixel := math.Sin(math.Pi*f) / (math.Pi * f)
	lens := math.Exp(-2 * math.Pi * math.Pi * c.Lens * c.Lens * f * f)
	return pixel * lens * (1 + c.Halo*(1-math.Pow(math.Cos(math.Pi*f), 4)))
}

// MTF50 is the frequency in cycles a pixel at which half of the contrast is left.
func (c Camera) MTF50() float64 {
	low, high := 0.0, 1.0
	for high-low > 1e-6 {
		if f := (low + high) / 2; c.MTF(f) > 0.5 {
			low = f
		} else {
			high = f
		}
	}
	return low
}

// Softer is the camera with a lens that blurs by so many times as much.
func (c Camera) Softer(times float64) Camera {
	c.Lens *= times
	return c
}

// sharpen adds the halo to encoded values, as phones do.
func (c Camera) sharpen(img *image.Gray) {
	if c.Halo <= 0 {
		return
	}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	binomial := func(a, b, c, d, e int32) int32 { return a + e + 4*(b+d) + 6*c }
	rows := make([]int32, w*h) // sixteen times as bright
	for y := range h {
		row, to := img.Pix[y*img.Stride:][:w], rows[y*w:][:w]
		at := func(x int) int32 { return int32(row[min(max(x, 0), w-1)]) }
		for x := range to {
			if x > 1 && x < w-2 {
				to[x] = binomial(int32(row[x-2]), int32(row[x-1]), int32(row[x]), int32(row[x+1]), int32(row[x+2]))
			} else {
				to[x] = binomial(at(x-2), at(x-1), at(x), at(x+1), at(x+2))
			}
		}
	}
	halo := float32(c.Halo) / 256
	for y := range h {
		line := func(d int) []int32 { return rows[min(max(y+d, 0), h-1)*w:][:w] }
		a, b, c, d, e := line(-2), line(-1), line(0), line(1), line(2)
		to := img.Pix[y*img.Stride:][:w]
		for x, v := range to {
			soft := binomial(a[x], b[x], c[x], d[x], e[x])
			to[x] = uint8(min(max(float32(v)+halo*float32(int32(v)*256-soft)+0.5, 0), 255))
		}
	}
}

// stored is the picture after it was compressed.
func (c Camera) stored(img *image.Gray) *image.Gray {
	if c.Quality == 0 {
		return img
	}
	return Compressed(img, c.Quality)
}

// Compressed is what a JPEG of a quality from 1 to 100 leaves of a picture.
func Compressed(img *image.Gray, quality int) *image.Gray {
	var b bytes.Buffer
	if jpeg.Encode(&b, img, &jpeg.Options{Quality: quality}) != nil {
		return img
	}
	back, err := jpeg.Decode(&b)
	g, ok := back.(*image.Gray)
	if err != nil || !ok {
		return img
	}
	out := image.NewGray(img.Rect) // lines of a decoded JPEG are as long as its blocks
	for y := range img.Rect.Dy() {
		copy(out.Pix[y*out.Stride:][:out.Stride], g.Pix[y*g.Stride:])
	}
	return out
}
