package optics

import (
	"math"
	"math/rand/v2"
)

// The sensor: how many electrons a pixel holds of a sheet of paper in an office, and the noise of reading one. Typical of pixels of about
// 1 µm: full wells of some 6,000 electrons, read noise of 2 to 3, of which we take the worse.
const (
	fullWell  = 6000.0
	readNoise = 3.0

	// Automatic exposure first takes its time, from a hundredth of a second in an office to the thirtieth that a video frame lasts, and then
	// amplifies, from ISO 50 to 800.
	longest = 100.0 / 30
	maxGain = 16
)

// develop adds the noise of the sensor and lets automatic exposure bring the brightest twentieth to four fifths.
func develop(light []float64, c Setup) {
	rng := rand.New(rand.NewPCG(c.Seed, 0xCA3E7A))
	exposure := min(max(0.8/max(bright(light), 1e-6), 1), longest)
	for i, l := range light {
		electrons := max(0, l) * fullWell * exposure
		electrons += rng.NormFloat64() * math.Sqrt(electrons+readNoise*readNoise)
		light[i] = min(max(electrons, 0), fullWell*4) / fullWell
	}
	k := 0.8 / max(bright(light), 0.8/maxGain)
	for i := range light {
		light[i] = min(light[i]*k, 1)
	}
}

// bright is the value that a twentieth of the pixels exceed.
func bright(light []float64) float64 {
	var count [512]int
	for _, l := range light {
		count[int(min(max(l/2, 0), 1)*511)]++
	}
	left := len(light) / 20
	for i := len(count) - 1; i >= 0; i-- {
		if left -= count[i]; left < 0 {
			return (float64(i) + 0.5) / 511 * 2
		}
	}
	return 0
}

// gaussian blurs by a standard deviation in pixels, rows then columns, the edge carried on.
func gaussian(y []float64, width int, sigma float64) []float64 {
	reach := int(math.Ceil(3 * sigma))
	if reach == 0 {
		return y
	}
	kernel := make([]float64, 2*reach+1)
	sum := 0.0
	for i := range kernel {
		d := float64(i - reach)
		kernel[i] = math.Exp(-d * d / (2 * sigma * sigma))
		sum += kernel[i]
	}
	for i := range kernel {
		kernel[i] /= sum
	}
	height := len(y) / width
	rows, out := make([]float64, len(y)), make([]float64, len(y))
	for j := range height {
		row := y[j*width:][:width]
		for i := range width {
			v := 0.0
			for k, w := range kernel {
				v += w * row[min(max(i+k-reach, 0), width-1)]
			}
			rows[j*width+i] = v
		}
	}
	for j := range height {
		for k, w := range kernel {
			from := rows[min(max(j+k-reach, 0), height-1)*width:][:width]
			to := out[j*width:][:width]
			for i, v := range from {
				to[i] += w * v
			}
		}
	}
	return out
}

// smear blurs along a straight way of so many pixels, in a direction that follows from the seed.
func smear(y []float64, width int, way float64, seed uint64) []float64 {
	height := len(y) / width
	sin, cos := math.Sincos(float64(seed%8) * math.Pi / 8)
	n := max(2, int(math.Ceil(way*2)))
	out := make([]float64, len(y))
	for j := range height {
		for i := range width {
			v := 0.0
			for k := range n {
				d := way * (float64(k)/float64(n-1) - 0.5)
				a := min(max(int(math.Round(float64(i)+cos*d)), 0), width-1)
				b := min(max(int(math.Round(float64(j)+sin*d)), 0), height-1)
				v += y[b*width+a]
			}
			out[j*width+i] = v / float64(n)
		}
	}
	return out
}
