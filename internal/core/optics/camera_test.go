package optics

import (
	"image"
	"math"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// TestSlantedEdge measures each camera as ISO 12233 has it: an edge 5° off the vertical, of a contrast low enough that
// nothing clips, is found row by row, its rows are laid over one another in quarters of a pixel, and the Fourier transform of
// how it rises is the response. What comes out is what docs/proof.md says, and what follows from the constants.
func TestSlantedEdge(t *testing.T) {
	for _, c := range []struct {
		camera Camera
		want   float64 // MTF50 in cycles a pixel
	}{{Good, 0.38}, {Phone, 0.28}, {Poor, 0.21}} {
		t.Run(c.camera.Name, func(t *testing.T) {
			exact := c.camera.MTF50()
			if math.Abs(exact-c.want) > 0.005 {
				t.Errorf("by its constants MTF50 is %.3f, want %.2f", exact, c.want)
			}
			if got := mtf50(edge(t, c.camera)); math.Abs(got-exact) > 0.02 {
				t.Errorf("on a slanted edge MTF50 is %.3f, by its constants %.3f", got, exact)
			}
		})
	}
	if soft := Phone.Softer(1.5); math.Abs(soft.Lens-0.975) > 1e-9 || soft.MTF50() >= Phone.MTF50() {
		t.Errorf("%+v", soft)
	}
	if Phone.MTF(0) != 1 {
		t.Error(Phone.MTF(0))
	}
}

// edge is a picture of a slanted edge, linear, without noise and compression, which a chart's many rows would average out.
func edge(t *testing.T, c Camera) [][]float64 {
	t.Helper()
	c.Quality, c.Noise, c.Well = 0, 0, 1e9
	const side = 160.0
	lean := side * math.Tan(5*math.Pi/180) / 2
	dark := ink.Colour{R: 120, G: 120, B: 120}
	var path scene.Path
	path.MoveTo(0, 0)
	path.LineTo(side/2+lean, 0)
	path.LineTo(side/2-lean, side)
	path.LineTo(0, side)
	path.Close()
	sc := &scene.Scene{Width: side, Height: side, Items: []scene.Item{{Path: path, At: scene.Unit, Fill: dark}}}
	img, err := Expose(sc, 1, Setup{Camera: c, Distance: c.Focal}) // a pixel a millimetre
	if err != nil {
		t.Fatal(err)
	}
	r := img.Rect.Inset(30)
	var rows [][]float64
	for y := r.Min.Y; y < r.Max.Y; y++ {
		row := make([]float64, 0, r.Dx())
		for x := r.Min.X; x < r.Max.X; x++ {
			row = append(row, decoded(img.GrayAt(x, y).Y))
		}
		rows = append(rows, row)
	}
	return rows
}

func decoded(v uint8) float64 {
	f := float64(v) / 255
	if f <= 0.04045 {
		return f / 12.92
	}
	return math.Pow((f+0.055)/1.055, 2.4)
}

// mtf50 of rows across an edge.
func mtf50(rows [][]float64) float64 {
	// The edge of a row is the centroid of how it rises; a straight line through those is the edge.
	n, sx, sy, sxx, sxy := 0.0, 0.0, 0.0, 0.0, 0.0
	for y, row := range rows {
		sum, at := 0.0, 0.0
		for x := 1; x < len(row); x++ {
			d := row[x] - row[x-1]
			sum, at = sum+d, at+d*(float64(x)-0.5)
		}
		at /= sum
		n, sx, sy, sxx, sxy = n+1, sx+float64(y), sy+at, sxx+float64(y*y), sxy+float64(y)*at
	}
	slope := (n*sxy - sx*sy) / (n*sxx - sx*sx)
	middle := (sy - slope*sx) / n
	const per, reach = 4, 16 // bins a pixel; pixels either side
	total, count := make([]float64, 2*reach*per), make([]float64, 2*reach*per)
	for y, row := range rows {
		for x, v := range row {
			bin := int(math.Floor((float64(x) - middle - slope*float64(y) + reach) * per))
			if bin >= 0 && bin < len(total) {
				total[bin], count[bin] = total[bin]+v, count[bin]+1
			}
		}
	}
	rises := make([]float64, len(total)-1)
	for i := range rises {
		window := 0.54 + 0.46*math.Cos(2*math.Pi*(float64(i+1)-reach*per)/(2*reach*per)) // Hamming's
		rises[i] = (total[i+1]/count[i+1] - total[i]/count[i]) * window
	}
	response := func(f float64) float64 {
		re, im := 0.0, 0.0
		for i, d := range rises {
			sin, cos := math.Sincos(2 * math.Pi * f * float64(i) / per)
			re, im = re+d*cos, im+d*sin
		}
		x := math.Pi * f / per // what differences of bins lose, which the standard puts back
		return math.Hypot(re, im) * x / math.Sin(x)
	}
	whole := response(1e-6)
	for f := 0.01; f < 1; f += 0.001 {
		if response(f) < whole/2 {
			return f
		}
	}
	return 1
}

// TestHalo: sharpening leaves flat parts as they are and makes either side of an edge darker and lighter than it was.
func TestHalo(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 40, 9))
	for i := range img.Pix {
		img.Pix[i] = 60
		if i%40 >= 20 {
			img.Pix[i] = 180
		}
	}
	Camera{Halo: 0.5}.sharpen(img)
	row := img.Pix[4*40:][:40]
	// Five of the sixteen parts of the kernel lie beyond the edge for the pixel beside it: 120·5/16 = 37.5 off, of which half
	// is added; one part for the next.
	if row[5] != 60 || row[35] != 180 || row[17] != 60 || math.Abs(float64(row[18])-(60-3.75)) > 0.6 ||
		math.Abs(float64(row[19])-(60-18.75)) > 0.6 || math.Abs(float64(row[20])-(180+18.75)) > 0.6 {
		t.Errorf("%v", row[15:25])
	}
}

// TestCompressed: what a JPEG leaves has the lines of the picture that went in, whatever its blocks are, and at the best
// quality nearly its values.
func TestCompressed(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 37, 11))
	for i := range img.Pix {
		img.Pix[i] = uint8(40 + 4*(i%37))
	}
	out := Compressed(img, 100)
	if out.Rect != img.Rect || out.Stride != 37 || len(out.Pix) != len(img.Pix) {
		t.Fatalf("%v, %d a line, %d in all", out.Rect, out.Stride, len(out.Pix))
	}
	for i, v := range out.Pix {
		if math.Abs(float64(v)-float64(img.Pix[i])) > 3 {
			t.Fatalf("pixel %d is %d, was %d", i, v, img.Pix[i])
		}
	}
}
