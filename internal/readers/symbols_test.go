package readers

import (
	"context"
	"flag"
	"fmt"
	"image"
	"strings"
	"sync"
	"testing"
	"time"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/symbol"
)

// panel is the full one; these tests are about what independent engines make of our symbols, so that they need all of them.
func panel(t testing.TB) []proof.Reader {
	t.Helper()
	p := Panel()
	if len(p.Readers) != 4 {
		t.Fatalf("only %d of the readers sodrik, gozxing, zbar and zxing-cpp are here; install zbar-tools and zxing-cpp-tools",
			len(p.Readers))
	}
	return p.Readers
}

// picture draws a symbol with so many pixels a module.
func pictured(t testing.TB, s *symbol.Symbol, perModule int) *image.Gray {
	t.Helper()
	sc := layout.Draw(s, look.Default(), 4, 0, nil)
	y, err := raster.Luminance(sc, raster.Fit(sc, perModule*layout.Modules(s, 4)), 1)
	if err != nil {
		t.Fatal(err)
	}
	return raster.Gray(y, perModule*layout.Modules(s, 4))
}

// reads hands one picture to every reader and compares byte for byte.
func reads(t *testing.T, all []proof.Reader, img *image.Gray, want, what string) {
	t.Helper()
	for _, r := range all {
		a := r.Read(t.Context(), []*image.Gray{img})[0]
		if a.Err != nil || len(a.Payloads) != 1 || a.Payloads[0] != want {
			t.Errorf("%s: %s reads %.40q, %v; want %.40q", what, r.Name(), a.Payloads, a.Err, want)
		}
	}
}

var modes = []struct {
	mode symbol.Mode
	fill string // repeated to fill the symbol
}{
	{symbol.ModeNumeric, "9521234500018"}, {symbol.ModeAlphanumeric, "HTTPS://MARROWBY.EXAMPLE/B7K $%*+-."},
	{symbol.ModeByte, "https://marrowby.example/fair?utm_source=gate#7;"}, {symbol.ModeKanji, "種子球根春市庭薔薇豆"},
}

var every = flag.Bool("every", false, "every mode of every version and level, which takes a minute and a half more")

// TestEverySymbol fills every version and level, in one mode in turn or with -every in each, and has each reader give the payload
// back.
func TestEverySymbol(t *testing.T) {
	all := panel(t)
	var wg sync.WaitGroup
	queue := make(chan func())
	for range 3 {
		wg.Go(func() {
			for f := range queue {
				f()
			}
		})
	}
	for v := 1; v <= 40; v++ {
		if testing.Short() && v%9 != 1 {
			continue
		}
		for l := symbol.L; l <= symbol.H; l++ {
			// one level of each version, with one mode, both in turn, so that all meet all within sixteen versions
			for i, m := range modes {
				if !*every && (i != (v/4+int(l))%len(modes) || (v+int(l))%4 > 0) {
					continue
				}
				queue <- func() {
					s, text := filled(t, m.mode, m.fill, v, l)
					reads(t, all, pictured(t, s, 4), text, fmt.Sprintf("%d-%v %v", v, l, m.mode))
				}
			}
		}
	}
	close(queue)
	wg.Wait()
}

// filled makes the longest segment of a mode that fits, found by halving.
func filled(t *testing.T, mode symbol.Mode, fill string, v int, l symbol.Level) (*symbol.Symbol, string) {
	t.Helper()
	runes := []rune(strings.Repeat(fill, 7100/len([]rune(fill))))
	o := symbol.Options{Level: l, NoBoost: true, MinVersion: v, MaxVersion: v}
	encode := func(n int, o symbol.Options) (*symbol.Symbol, error) {
		return symbol.EncodeSegments([]symbol.Segment{{Mode: mode, Text: string(runes[:n])}}, o)
	}
	search := o
	search.Mask = symbol.Pattern(0) // choosing one takes longest, and does not change what fits
	low, high := 0, len(runes)
	for low < high {
		mid := (low + high + 1) / 2
		if _, err := encode(mid, search); err == nil {
			low = mid
		} else {
			high = mid - 1
		}
	}
	s, err := encode(low, o)
	if err != nil || low == 0 {
		t.Fatalf("%d-%v %v holds nothing: %v", v, l, mode, err)
	}
	return s, string(runes[:low])
}

// TestMasks has every mask read, forced, in a small and a large symbol.
func TestMasks(t *testing.T) {
	all := panel(t)
	for k := range 8 {
		for _, v := range []int{2, 8, 21} {
			s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{Mask: symbol.Pattern(k), MinVersion: v})
			if err != nil || s.Mask != k {
				t.Fatal(err)
			}
			reads(t, all, pictured(t, s, 5), "https://marrowby.example/fair", fmt.Sprintf("version %d mask %d", v, k))
		}
	}
}

// TestBeyondASCII: text announced with ECI 26 comes back identical from all three, mixed with other modes.
func TestBeyondASCII(t *testing.T) {
	all := panel(t)
	for _, text := range []string{"Käse", "Grüße aus dem Gewächshaus 0123456789 ABCDEFGHIJKLMNOP", "春の球根市 2027", "🌱 Sow now",
		"Łódź – jardín – ñandú", "ÀÉ"} {
		t.Run(text, func(t *testing.T) {
			s, err := symbol.Encode(text, symbol.Options{})
			if err != nil {
				t.Fatal(err)
			}
			reads(t, all, pictured(t, s, 5), text, text)
		})
	}
	for _, text := range []string{"種子", "春の球根市 2027, 3 Yen", "薔薇 ABC 12345678"} {
		t.Run(text, func(t *testing.T) {
			s, err := symbol.Encode(text, symbol.Options{Kanji: true})
			if err != nil {
				t.Fatal(err)
			}
			if s.Segments[0].Mode == symbol.ModeECI {
				t.Errorf("%q was not written in kanji mode", text)
			}
			reads(t, all, pictured(t, s, 5), text, text)
		})
	}
}

// TestLeastPixels supports the two pixels a module of proof: seen through its camera, every family reads at 2.2, and
// somewhere below 2 at least one reader gives up.
func TestLeastPixels(t *testing.T) {
	all := panel(t)
	families := map[float64]map[string]bool{}
	lost := false
	for _, per := range []float64{3, 2.2, 1.2} {
		families[per] = map[string]bool{}
		for _, text := range []string{"https://marrowby.example/fair",
			"https://marrowby.example/seed/broad-bean-aldous?utm_source=packet"} {
			t.Run(text, func(t *testing.T) {
				s, err := symbol.Encode(text, symbol.Options{})
				if err != nil {
					t.Fatal(err)
				}
				sc := layout.Draw(s, look.Default(), 4, 0, nil)
				in := proof.Input{Symbol: s, Look: look.Default(), QuietZone: 4, Scene: sc}
				reach := proof.Measure(in).Range
				c := proof.Usual(in)
				c.Distance = reach[1] * 2 / per
				img, err := optics.Expose(sc, 1, c)
				if err != nil {
					t.Fatal(err)
				}
				for _, r := range all {
					a := r.Read(t.Context(), []*image.Gray{img})[0]
					read := a.Err == nil && len(a.Payloads) == 1 && a.Payloads[0] == text
					families[per][r.Family()] = families[per][r.Family()] || read
					lost = lost || per < 2 && !read
				}
			})
		}
		if per > 2 && (!families[per]["zbar"] || !families[per]["zxing"]) {
			t.Errorf("at %.1f pixels a module: %v", per, families[per])
		}
	}
	if !lost {
		t.Error("every reader still reads at 1.2 pixels a module; the range is understated")
	}
}

func TestNothingThere(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 200, 200))
	for _, r := range panel(t) {
		for _, fill := range []uint8{0, 255} {
			for i := range img.Pix {
				img.Pix[i] = fill
			}
			if a := r.Read(t.Context(), []*image.Gray{img})[0]; len(a.Payloads) != 0 || a.Err != nil {
				t.Errorf("%s finds %q in a picture of one grey: %v", r.Name(), a.Payloads, a.Err)
			}
		}
	}
}

func TestLeaving(t *testing.T) {
	s, err := symbol.Encode("x", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	img := pictured(t, s, 4)
	for _, r := range panel(t) {
		ctx, cancel := context.WithCancel(t.Context())
		cancel()
		start := time.Now()
		if a := r.Read(ctx, []*image.Gray{img})[0]; r.Family() == "zbar" && a.Err == nil {
			t.Errorf("%s read %q although the caller had left", r.Name(), a.Payloads)
		}
		if d := time.Since(start); d > 3*time.Second {
			t.Errorf("%s took %v to leave", r.Name(), d)
		}
	}
}

// TestSymbols reads with our own decoder, which counts what it corrects.
func TestSymbols(t *testing.T) {
	for v := 1; v <= 40; v += 6 {
		s, err := symbol.Encode("https://m.example", symbol.Options{MinVersion: v, NoBoost: true})
		if err != nil {
			t.Fatal(err)
		}
		img := pictured(t, s, 4)
		found := Symbols(img)
		if len(found) != 1 || found[0].Payload != "https://m.example" || found[0].Version != s.Version ||
			found[0].Mask != s.Mask || found[0].Corrected != 0 {
			t.Errorf("version %d: %+v", s.Version, found)
			continue
		}
		if same, err := Same(found[0].Result); err != nil || same.Digest() != s.Digest() {
			t.Errorf("version %d: made clean, it has other modules: %v", s.Version, err)
		}
		// A blot over two codewords at the right edge.
		side := img.Bounds().Dx()
		for y := side / 2; y < side/2+12; y++ {
			for x := side - 4*4 - 8; x < side-4*4; x++ {
				img.Pix[y*img.Stride+x] ^= 0xFF
			}
		}
		if found = Symbols(img); len(found) != 1 || found[0].Corrected == 0 {
			t.Errorf("version %d with a blot: %+v", s.Version, found)
		}
	}
}

// TestFNC1: GS1 element strings with FNC1 in first position come back with their separators. gozxing and zbar give the data
// as they are; zxing-cpp likewise.
func TestFNC1(t *testing.T) {
	all := panel(t)
	for _, text := range []string{"0109521234500018" + "10A1209\x1d" + "17270331", "0109521234500018\x1d21ab/7\x1d10X"} {
		t.Run(text, func(t *testing.T) {
			s, err := symbol.Encode(text, symbol.Options{FNC1: true})
			if err != nil || s.Segments[0].Mode != symbol.ModeFNC1 {
				t.Fatal(err)
			}
			reads(t, all, pictured(t, s, 5), text, fmt.Sprintf("%q", text))
		})
	}
}
