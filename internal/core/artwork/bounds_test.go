package artwork

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"math/rand/v2"
	"runtime"
	"strings"
	"testing"
	"time"

	"sodrik/internal/costtest"
)

// Figures that an upload of up to 10 MB keeps to: two seconds of a processor, of which a machine that does something else may
// take as much again, and 300 MB. What is measured on a quiet machine stands in docs/reliability.md.
const (
	maxTime   = 4 * time.Second
	maxMemory = 300 << 20
)

// costs is how long something takes of the processor, and how much memory is in use at most meanwhile.
func costs(f func()) (took time.Duration, peak uint64) {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	start, stop, done := m.HeapAlloc, make(chan bool), make(chan uint64)
	go func() {
		most := uint64(0)
		for {
			select {
			case <-stop:
				done <- most
				return
			case <-time.After(2 * time.Millisecond):
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapAlloc)
			}
		}
	}()
	at := costtest.CPU()
	f()
	took = costtest.CPU() - at
	close(stop)
	return took, <-done - min(start, m.HeapAlloc)
}

func svgOf(inner string) []byte {
	return []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">` + inner + `</svg>`)
}

// hostile are drawings that cost far more than their bytes, if they are let.
func hostile() map[string][]byte {
	out := map[string][]byte{}
	uses := `<g id="a0"></g>`
	for i := range 11 {
		uses += fmt.Sprintf(`<g id="a%d">%s</g>`, i+1, strings.Repeat(fmt.Sprintf(`<use href="#a%d"/>`, i), 12))
	}
	out["uses by twelve, nothing painted"] = svgOf("<defs>" + uses + `</defs><use href="#a11"/>`)
	var rules, classes strings.Builder
	for i := range 20_000 {
		fmt.Fprintf(&rules, "path{fill:#%06x}", i)
		fmt.Fprintf(&classes, ".c{stroke-width:%d}", i)
	}
	out["rules by elements"] = svgOf("<style>" + rules.String() + "</style>" + strings.Repeat(`<path d="M0 0h1v1z"/>`, 40_000))
	out["rules of a class by elements"] = svgOf("<style>" + classes.String() + "</style>" +
		strings.Repeat(`<path class="c" d="M0 0h1v1z"/>`, 40_000))
	out["one rule with many heads"] = svgOf("<style>" + strings.Repeat("path,", 200_000) + "path{" +
		strings.Repeat("fill:red;", 20_000) + "}</style><path d=\"M0 0h9v9z\"/>")
	out["even-odd outlines"] = svgOf(`<path fill-rule="evenodd" d="` + strings.Repeat("M0 0h99v99h-99z", 60_000) + `"/>`)
	out["shapes over one another"] = svgOf(strings.Repeat(`<rect width="100" height="100"/>`, 19_000))
	stops := strings.Repeat(`<stop offset="0.5" stop-color="red"/>`, 40_000)
	out["a gradient of many colours"] = svgOf("<linearGradient id=\"g\">" + stops + "</linearGradient>" +
		strings.Repeat(`<path fill="url(#g)" d="M0 0h1v1z"/>`, 9_000))
	out["a long path, used and hidden"] = svgOf(`<path id="p" visibility="hidden" d="M0 0` + strings.Repeat("l1 1", 300_000) +
		`"/>` + strings.Repeat(`<use href="#p"/>`, 40_000))
	out["a long path, used and not filled"] = svgOf(`<path id="p" fill="none" d="M0 0` + strings.Repeat("l1 1", 300_000) + `"/>` +
		strings.Repeat(`<use href="#p"/>`, 40_000))
	out["clips of many parts"] = svgOf(`<clipPath id="c">` + strings.Repeat(`<rect width="9" height="9"/>`, 20_000) +
		`</clipPath>` + strings.Repeat(`<rect clip-path="url(#c)" width="1" height="1"/>`, 20_000))
	out["deep strokes"] = svgOf(`<g stroke="red" stroke-linejoin="round" fill="none">` +
		strings.Repeat(`<path d="M0 0c9 9 0 9 1 1s3 3 3 3"/>`, 40_000) + `</g>`)
	out["transforms"] = svgOf(`<g id="t" transform="` + strings.Repeat("scale(1)", 600_000) + `"/>` +
		strings.Repeat(`<use href="#t"/>`, 40_000))
	out["style in crumbs"] = svgOf("<style>" + strings.Repeat("a<!-- -->", 600_000) + "</style>")
	var b bytes.Buffer
	png.Encode(&b, image.NewGray(image.Rect(0, 0, 5000, 5000)))
	one := fmt.Sprintf(`<image href="data:image/png;base64,%s" width="9" height="9"/>`, base64Of(b.Bytes()))
	out["many large pictures"] = svgOf(strings.Repeat(one, 60))
	return out
}

// TestHostileDrawings: whatever a drawing of up to 10 MB does, it costs at most two seconds and 300 MB, or it is refused with
// a reason.
func TestHostileDrawings(t *testing.T) {
	for name, data := range hostile() {
		t.Run(name, func(t *testing.T) {
			if len(data) > MaxBytes {
				t.Fatalf("the test's drawing is %d bytes long", len(data))
			}
			for what, read := range map[string]func() error{
				"as a mark": func() error {
					a, err := Read(data)
					if err == nil {
						a.Normal()
						a.rows()
					}
					return err
				},
				"as artwork": func() error {
					s, err := ReadSheet(data)
					if err == nil {
						s.Free()
						s.Inks()
						s.Cut(Rect{W: s.Width, H: s.Height}, 1000)
					}
					return err
				},
			} {
				var err error
				took, peak := costs(func() { err = read() })
				t.Logf("%s: %d bytes, %v, %d MB: %v", what, len(data), took.Round(time.Millisecond), peak>>20, err)
				if took > maxTime || peak > maxMemory {
					t.Errorf("%s takes %v and %d MB", what, took, peak>>20)
				}
			}
		})
	}
}

func noise(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range img.Pix {
		img.Pix[i] = uint8(r.Uint32())
		if i%4 == 3 {
			img.Pix[i] = 255
		}
	}
	return img
}

// TestLargePictures: any picture of 24 megapixels is taken, within two seconds and 300 MB; strips and more pixels are refused
// before they are decoded.
func TestLargePictures(t *testing.T) {
	files := map[string][]byte{}
	put := func(name string, encode func(*bytes.Buffer) error) {
		var b bytes.Buffer
		if err := encode(&b); err != nil {
			t.Fatal(err)
		}
		files[name] = b.Bytes()
	}
	smooth := image.NewNRGBA64(image.Rect(0, 0, 6000, 4000))
	for i := 0; i < len(smooth.Pix); i += 8 {
		smooth.Pix[i], smooth.Pix[i+6], smooth.Pix[i+7] = uint8(i>>12), 255, 255
	}
	fast := png.Encoder{CompressionLevel: png.BestSpeed}
	put("16 bits a channel, 24 MP", func(b *bytes.Buffer) error { return fast.Encode(b, smooth) })
	photo := noise(6000, 4000)
	opaque := &image.RGBA{Pix: photo.Pix, Stride: photo.Stride, Rect: photo.Rect} // which is encoded in a third of the time
	put("JPEG, 24 MP", func(b *bytes.Buffer) error { return jpeg.Encode(b, opaque, &jpeg.Options{Quality: 30}) })
	put("tall, 24 MP", func(b *bytes.Buffer) error { return fast.Encode(b, image.NewGray(image.Rect(0, 0, 1500, 16000))) })
	for name, data := range files {
		t.Run(name, func(t *testing.T) {
			if len(data) > MaxBytes {
				t.Skipf("%d bytes", len(data))
			}
			for what, read := range map[string]func() error{
				"as a mark":  func() error { _, err := Read(data); return err },
				"as artwork": func() error { _, err := ReadSheet(data); return err },
			} {
				var err error
				took, peak := costs(func() { err = read() })
				t.Logf("%s: %d bytes, %v, %d MB", what, len(data), took.Round(time.Millisecond), peak>>20)
				if err != nil || took > maxTime || peak > maxMemory {
					t.Errorf("%s: %v, %v and %d MB", what, err, took, peak>>20)
				}
			}
		})
	}
	for _, c := range []struct {
		w, h int
		why  string
	}{{40_000_000, 1, "megapixels are taken"}, {20_001, 300, "a side has 20,000 at most"}, {6000, 59, "is a strip"},
		{5100, 5100, "at most 26 megapixels"}} {
		t.Run(fmt.Sprint(c.w), func(t *testing.T) {
			if err := Measure(c.w, c.h); err == nil || !strings.Contains(err.Error(), c.why) {
				t.Errorf("%d × %d: %v, want %q", c.w, c.h, err, c.why)
			}
		})
	}
	for _, c := range [][2]int{{20_000, 1300}, {5000, 5000}, {100, 10_000}, {1, 1}} {
		if err := Measure(c[0], c[1]); err != nil {
			t.Errorf("%v: %v", c, err)
		}
	}
}

func shrunk(img image.Image, w, h int) *image.NRGBA {
	t := &intake{w: img.Bounds().Dx(), h: img.Bounds().Dy()}
	t.shrink(w, h)
	t.take(img)
	return t.picture()
}

// TestDeep: pictures of sixteen bits a channel come in as the standard library decodes them, the upper eight bits kept.
func TestDeep(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	rgba, grey := image.NewNRGBA64(image.Rect(0, 0, 37, 23)), image.NewGray16(image.Rect(0, 0, 37, 23))
	for i := range rgba.Pix {
		rgba.Pix[i] = uint8(r.Uint32())
	}
	opaque := image.NewNRGBA64(rgba.Rect)
	copy(opaque.Pix, rgba.Pix)
	for i := 0; i < len(opaque.Pix); i += 8 {
		opaque.Pix[i+6], opaque.Pix[i+7] = 255, 255
	}
	for i := range grey.Pix {
		grey.Pix[i] = uint8(r.Uint32())
	}
	for _, img := range []image.Image{rgba, opaque, grey} {
		for _, level := range []png.CompressionLevel{png.NoCompression, png.BestCompression} {
			var b bytes.Buffer
			if err := (&png.Encoder{CompressionLevel: level}).Encode(&b, img); err != nil {
				t.Fatal(err)
			}
			got, _, err := decodePixels(b.Bytes(), 0, NewBudget())
			if err != nil {
				t.Fatal(err)
			}
			for y := range 23 {
				for x := range 37 {
					var want color.NRGBA
					switch c := img.At(x, y).(type) {
					case color.NRGBA64:
						want = color.NRGBA{uint8(c.R >> 8), uint8(c.G >> 8), uint8(c.B >> 8), uint8(c.A >> 8)}
					case color.Gray16:
						want = color.NRGBA{uint8(c.Y >> 8), uint8(c.Y >> 8), uint8(c.Y >> 8), 255}
					}
					if got.NRGBAAt(x, y) != want {
						t.Fatalf("%T at %d, %d: %v, want %v", img, x, y, got.NRGBAAt(x, y), want)
					}
				}
			}
			if _, _, err := decodePixels(b.Bytes()[:b.Len()/2], 0, NewBudget()); err == nil {
				t.Error("half a file was taken")
			}
		}
	}
}

// TestShrunk: a picture made smaller keeps its mean, and each pixel is the mean of those it stands for.
func TestShrunk(t *testing.T) {
	img := noise(301, 203)
	for i := 3; i < len(img.Pix); i += 28 {
		img.Pix[i] = 0
	}
	for _, to := range [][2]int{{100, 67}, {301, 203}, {7, 5}, {1, 1}} {
		small := shrunk(img, to[0], to[1])
		weigh := func(p *image.NRGBA) (c [4]float64) {
			for i := 0; i < len(p.Pix); i += 4 {
				a := float64(p.Pix[i+3])
				for k := range 3 {
					c[k] += float64(p.Pix[i+k]) * a
				}
				c[3] += a
			}
			n := float64(len(p.Pix) / 4)
			return [4]float64{c[0] / c[3], c[1] / c[3], c[2] / c[3], c[3] / n}
		}
		was, is := weigh(img), weigh(small)
		for k := range was {
			if math.Abs(was[k]-is[k]) > 1.5 {
				t.Errorf("%v: channel %d is %.2f, it was %.2f", to, k, is[k], was[k])
			}
		}
	}
	checks := image.NewNRGBA(image.Rect(0, 0, 4, 4))
	for i, v := range []uint8{0, 40, 80, 120, 0, 40, 80, 120, 8, 8, 0, 0, 8, 8, 0, 0} {
		checks.SetNRGBA(i%4, i/4, color.NRGBA{v, v, v, 255})
	}
	small := shrunk(checks, 2, 2)
	for i, want := range []uint8{20, 100, 8, 0} {
		if got := small.NRGBAAt(i%2, i/2).R; got != want {
			t.Errorf("pixel %d is %d, want %d", i, got, want)
		}
	}
}

func base64Of(b []byte) string { return base64.StdEncoding.EncodeToString(b) }
