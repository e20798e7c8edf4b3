package optics

import (
	"math"
	"math/rand/v2"
)

const (
	// Automatic exposure first takes its time, from a hundredth of a second in an office to the thirtieth that a video frame
	// lasts, and then amplifies, from ISO 50 to 800.
	longest = 100.0 / 30
	maxGain = 16
)

// develop adds the noise of the sensor and lets automatic exposure bring the brightest twentieth to four fifths.
func develop(light []float64, c Setup) {
	rng := rand.New(rand.NewPCG(c.Seed, 0xCA3E7A))
	exposure := min(max(0.8/max(bright(light), 1e-6), 1), longest)
	for i, l := range light {
		electrons := max(0, l) * c.Camera.Well * exposure
		electrons += rng.NormFloat64() * math.Sqrt(electrons+c.Camera.Noise*c.Camera.Noise)
		light[i] = min(max(electrons, 0), c.Camera.Well*4) / c.Camera.Well
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

// kernel is a Gaussian of a standard deviation in pixels as far as pixels can carry it: below half a cycle a pixel its
// transform is exactly that of the Gaussian. Samples of a narrow Gaussian would blur far less than it does: those of 0.45
// pixels leave 0.77 of the contrast at 0.35 cycles a pixel, the Gaussian 0.61.
func kernel(sigma float64) []float64 {
	reach := int(math.Ceil(3 * sigma))
	if sigma < 1 && sigma > 0 {
		reach = 3
	}
	k := make([]float64, 2*reach+1)
	sum := 0.0
	for i := range k {
		k[i] = carried(sigma, float64(i-reach))
		sum += k[i]
	}
	for i := range k {
		k[i] /= sum
	}
	return k
}

// carried is the kernel at so many pixels from its middle: the integral of exp(−2π²σ²f²)·cos 2πfn over half a cycle, by
// Simpson's rule.
func carried(sigma, n float64) float64 {
	if sigma >= 1 { // what lies beyond half a cycle is less than a hundredth
		return math.Exp(-n * n / (2 * sigma * sigma))
	}
	const steps = 64
	sum := 0.0
	for i := range steps + 1 {
		f := 0.5 * float64(i) / steps
		weight := float64(2 + 2*(i%2))
		if i == 0 || i == steps {
			weight = 1
		}
		sum += weight * math.Exp(-2*math.Pi*math.Pi*sigma*sigma*f*f) * math.Cos(2*math.Pi*f*n)
	}
	return sum
}

// gaussian blurs by a standard deviation in pixels, rows then columns, the edge carried on.
func gaussian(y []float64, width int, sigma float64) []float64 {
	if sigma == 0 {
		return y
	}
	kernel := kernel(sigma)
	reach := len(kernel) / 2
	height := len(y) / width
	rows, out := make([]float64, len(y)), make([]float64, len(y))
	line := make([]float64, width+2*reach)
	for j := range height {
		row := y[j*width:][:width]
		copy(line[reach:], row)
		for i := range reach {
			line[i], line[reach+width+i] = row[0], row[width-1]
		}
		to := rows[j*width:][:width]
		for k, w := range kernel {
			for i, v := range line[k:][:width] {
				to[i] += w * v
			}
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
