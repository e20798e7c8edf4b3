package detect

import (
	"image"
	"math"
)

// light is a picture weighed against a threshold that follows uneven light: −1 is as dark as it gets nearby, 1 as light, 0 on the
// threshold.
type light struct {
	w, h    int
	v       []float32
	effort  *int // modules that may still be weighed
	crowded bool // there are more candidates for finder patterns than were looked at
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

// minContrast is the share of the whole picture's contrast below which a part of it is taken to be of one shade.
const minContrast = 0.25

// weigh sets the threshold halfway between the darkest and the lightest nearby. Nearby is three parts a side, of n along the
// shorter side; between the middles of parts it runs straight.
func weigh(v []float32, w, h, n int) *light {
	part := max(4, min(w, h)/n)
	pw, ph := (w+part-1)/part, (h+part-1)/part
	lows, highs := make([]float32, pw*ph), make([]float32, pw*ph)
	for i := range lows {
		lows[i], highs[i] = 255, 0
	}
	for y := range h {
		at := y / part * pw
		for i, x := at, 0; x < w; i, x = i+1, x+part {
			lo, hi := lows[i], highs[i]
			for _, p := range v[y*w+x : y*w+min(x+part, w)] {
				lo, hi = min(lo, p), max(hi, p)
			}
			lows[i], highs[i] = lo, hi
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
			if hi-lo < minContrast*(high-low) { // paper, or all ink
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
	// Between the middles of parts the threshold runs straight: down first, a column of parts at a time, then along the row.
	// one more at each end, as far as the picture goes beyond the outer middles
	limits, halves := make([]float32, pw+2), make([]float32, pw+2)
	for y := range h {
		fy := (float32(y)+0.5)/float32(part) - 0.5
		y0 := int(math.Floor(float64(fy)))
		ty := fy - float32(y0)
		r0, r1 := min(max(y0, 0), ph-1)*pw, min(max(y0+1, 0), ph-1)*pw
		for c := range pw {
			limits[c+1] = limit[r0+c]*(1-ty) + limit[r1+c]*ty
			halves[c+1] = half[r0+c]*(1-ty) + half[r1+c]*ty
		}
		limits[0], halves[0], limits[pw+1], halves[pw+1] = limits[1], halves[1], limits[pw], halves[pw]
		from, to := v[y*w:][:w], l.v[y*w:][:w]
		for x := 0; x < w; { // up to the next middle
			fx := (float32(x)+0.5)/float32(part) - 0.5
			c := int(fx + 1) // the part to the left, counted with the one beyond the edge
			end := min(w, int(math.Ceil((float64(c)-0.5)*float64(part)+float64(part)-0.5)))
			end = max(end, x+1)
			step := 1 / float32(part)
			t, k := limits[c]+(limits[c+1]-limits[c])*(fx+1-float32(c)), halves[c]+(halves[c+1]-halves[c])*(fx+1-float32(c))
			dt, dk := (limits[c+1]-limits[c])*step, (halves[c+1]-halves[c])*step
			for ; x < end; x++ {
				to[x] = min(max((from[x]-t)/k, -1), 1)
				t, k = t+dt, k+dk
			}
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
