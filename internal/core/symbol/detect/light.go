package detect

import (
	"image"
	"math"
)

// light is a picture weighed against a threshold that follows uneven light: −1 is as dark as it gets nearby, 1 as light, 0 on the
// threshold.
type light struct {
	w, h   int
	v      []float32
	effort *int // modules that may still be weighed
}

func valuesOf(img *image.Gray) []float32 {
	b := img.Bounds()
	out := make([]float32, b.Dx()*b.Dy())
	for y := range b.Dy() {
		row := out[y*b.Dx():]
		for x, p := range img.Pix[y*img.Stride:][:b.Dx()] {
			row[x] = float32(p)
		}
	}
	return out
}

// smooth takes noise away that is finer than two pixels, with weights 1 2 1 both ways.
func smooth(v []float32, w int) []float32 {
	h := len(v) / w
	rows, out := make([]float32, len(v)), make([]float32, len(v))
	for y := range h {
		r := v[y*w:][:w]
		o := rows[y*w:][:w]
		for x := range w {
			o[x] = (r[max(x-1, 0)] + 2*r[x] + r[min(x+1, w-1)]) / 4
		}
	}
	for y := range h {
		a, b, c := rows[max(y-1, 0)*w:], rows[y*w:], rows[min(y+1, h-1)*w:]
		o := out[y*w:][:w]
		for x := range w {
			o[x] = (a[x] + 2*b[x] + c[x]) / 4
		}
	}
	return out
}

// sharpen brings out what smoothing takes away.
func sharpen(v, smoothed []float32) []float32 {
	out := make([]float32, len(v))
	for i := range v {
		out[i] = min(max(v[i]+2*(v[i]-smoothed[i]), 0), 255)
	}
	return out
}

// leastContrast is the share of the whole picture's contrast below which a part of it is taken to be of one shade.
const leastContrast = 0.25

// weigh sets the threshold halfway between the darkest and the lightest nearby. Nearby is three parts a side, of n along the shorter side;
// between the middles of parts it runs straight.
func weigh(v []float32, w, h, n int) *light {
	part := max(4, min(w, h)/n)
	pw, ph := (w+part-1)/part, (h+part-1)/part
	lows, highs := make([]float32, pw*ph), make([]float32, pw*ph)
	for i := range lows {
		lows[i], highs[i] = 255, 0
	}
	for y := range h {
		row := v[y*w:][:w]
		at := y / part * pw
		for x, p := range row {
			i := at + x/part
			lows[i], highs[i] = min(lows[i], p), max(highs[i], p)
		}
	}
	low, high := float32(255), float32(0)
	for i := range lows {
		low, high = min(low, lows[i]), max(high, highs[i])
	}
	limit, half := make([]float32, pw*ph), make([]float32, pw*ph)
	for y := range ph {
		for x := range pw {
			lo, hi := float32(255), float32(0)
			for b := max(0, y-1); b <= min(ph-1, y+1); b++ {
				for a := max(0, x-1); a <= min(pw-1, x+1); a++ {
					lo, hi = min(lo, lows[b*pw+a]), max(hi, highs[b*pw+a])
				}
			}
			if hi-lo < leastContrast*(high-low) { // paper, or all ink
				if hi > (low+high)/2 {
					lo = max(0, hi-(high-low))
				} else {
					hi = lo + (high - low)
				}
			}
			limit[y*pw+x], half[y*pw+x] = (lo+hi)/2, max((hi-lo)/2, 2)
		}
	}
	l := &light{w: w, h: h, v: make([]float32, len(v))}
	for y := range h {
		fy := (float32(y)+0.5)/float32(part) - 0.5
		y0 := int(math.Floor(float64(fy)))
		ty := fy - float32(y0)
		r0, r1 := min(max(y0, 0), ph-1)*pw, min(max(y0+1, 0), ph-1)*pw
		for x := range w {
			fx := (float32(x)+0.5)/float32(part) - 0.5
			x0 := int(fx+1) - 1
			tx := fx - float32(x0)
			c0, c1 := min(max(x0, 0), pw-1), min(max(x0+1, 0), pw-1)
			t := (limit[r0+c0]*(1-tx)+limit[r0+c1]*tx)*(1-ty) + (limit[r1+c0]*(1-tx)+limit[r1+c1]*tx)*ty
			k := (half[r0+c0]*(1-tx)+half[r0+c1]*tx)*(1-ty) + (half[r1+c0]*(1-tx)+half[r1+c1]*tx)*ty
			l.v[y*w+x] = min(max((v[y*w+x]-t)/k, -1), 1)
		}
	}
	return l
}

// at is the weight at a point in pixels, straight between the middles of four; beyond the picture it is light.
func (l *light) at(x, y float64) float64 {
	x, y = x-0.5, y-0.5
	if x < 0 || y < 0 || x >= float64(l.w-1) || y >= float64(l.h-1) {
		if x < -1 || y < -1 || x > float64(l.w) || y > float64(l.h) {
			return 1
		}
		x, y = min(max(x, 0), float64(l.w)-1.001), min(max(y, 0), float64(l.h)-1.001)
	}
	i, j := int(x), int(y)
	tx, ty := float32(x-float64(i)), float32(y-float64(j))
	a := l.v[j*l.w+i:]
	b := l.v[(j+1)*l.w+i:]
	return float64((a[0]*(1-tx)+a[1]*tx)*(1-ty) + (b[0]*(1-tx)+b[1]*tx)*ty)
}
