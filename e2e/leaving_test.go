package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	_ "image/jpeg"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/standin"
)

// offered is a button of a desk that gives a file, with what is said beside it.
type offered struct {
	Whom, Label string
	Sizes       string // "40.0 × 40.0 mm", and pixels on a second line
}

// everyOffer lists what can be downloaded from a desk whose files are in view.
const everyOffer = `() => JSON.stringify([...document.querySelectorAll("[aria-label^='Download ']:enabled, a[aria-label^='Download ']")].map((e) => ({
	whom: e.closest("[data-for-whom]")?.dataset.forWhom ?? "", label: e.getAttribute("aria-label"),
	sizes: e.closest(".ship-row")?.querySelector(".sizes")?.innerText ?? "" })))`

// TestWhatLeaves takes every file that a desk offers by any button: of a code in a frame with words, of the whole that another
// lies on, of a payment part. Each is held against what the desk says of it: what it says, its true size, its pixels.
func TestWhatLeaves(t *testing.T) {
	t.Parallel()
	a := open(t)
	for name, of := range map[string]struct {
		which string // of its files
		many  int    // files
		sizes int    // that are said and were measured
	}{
		"Fair, poster with tulips": {"(PDF|PNG) of the whole|everything|proof sheet|without the artwork", 5, 2},
		"Potting shed Wi-Fi":       {"", 13, 5},
		"Swiss invoice 2027-115":   {"German|French|Italian|English", 8, 0},
	} {
		t.Run(name, func(t *testing.T) {
			page, err := a.store.Ledger(t.Context(), standin.Loader(), code.Active, name, nil, 10)
			if err != nil {
				t.Fatal(err)
			}
			at := slices.IndexFunc(page.Lines, func(l code.Line) bool { return l.Name == name })
			if at < 0 {
				t.Fatalf("there is no %s", name)
			}
			c, err := a.store.Get(t.Context(), standin.Loader(), page.Lines[at].ID)
			if err != nil {
				t.Fatal(err)
			}
			says := c.Rendition.For(c.Rendition.Place(0)).Payload
			p := a.page(t, "/codes/"+c.ID)
			p.MustElement("[data-stub=ships]").MustClick()
			p.MustElement("[data-whom=press]").MustWaitVisible()
			if p.MustHas(`#files-press input[value="sheet-pdfx"]`) { // artwork that is none
				hasText(t, p, "#files-press", "The artwork is no PDF/X-1a")
			}
			var list []offered
			if err := json.Unmarshal([]byte(p.MustEval(everyOffer).Str()), &list); err != nil {
				t.Fatal(err)
			}
			seen, sizes := map[string]bool{}, 0
			for _, o := range list {
				if seen[o.Label] || !regexp.MustCompile(of.which).MatchString(o.Label) {
					continue
				}
				seen[o.Label] = true
				button := fmt.Sprintf(`[aria-label=%q]`, o.Label)
				if o.Whom != "" {
					p.MustElement("[data-whom=" + o.Whom + "]").MustWaitVisible().MustClick()
					button = "[data-for-whom=" + o.Whom + "] " + button
				}
				if o.Label == "Download label" && p.MustHas("#fold-label:not([open])") {
					p.MustElement("#fold-label summary").MustClick()
				}
				file, data := download(t, p, func() { p.MustElement(button).MustWaitVisible().MustClick() })
				isWhatItSays(t, file, data, says)
				if isAsLarge(t, file, data, o.Sizes) {
					sizes++
				}
			}
			if len(seen) < of.many || sizes < of.sizes {
				t.Errorf("only %d files were taken, and %d measured: %v", len(seen), sizes, seen)
			}
		})
	}
}

// isWhatItSays has outside programs read a file that left, and each in a zip.
func isWhatItSays(t *testing.T, name string, data []byte, says string) {
	t.Helper()
	switch filepath.Ext(name) {
	case ".zip":
		for inner, data := range unzipped(t, data) {
			isWhatItSays(t, inner, data, says)
		}
	case ".json":
		m, problems := compose.Parse(data, nil)
		if len(problems) > 0 && !strings.Contains(string(data), "asset:") { // its pictures stay with the house
			t.Errorf("%s is no job: %v", name, problems)
		} else if len(problems) == 0 && m.For(m.Place(0)).Payload != says {
			t.Errorf("%s says %q, want %q", name, m.For(m.Place(0)).Payload, says)
		}
	case ".txt":
		if !strings.Contains(string(data), "Size: ") {
			t.Errorf("%s says no size:\n%s", name, data)
		}
	default: // sheets may hold further codes
		zbar, zxing := reads(t, name, data, true)
		if !strings.Contains(zbar, says) {
			t.Errorf("%s: zbar reads %q, want %q", name, zbar, says)
		}
		if !strings.Contains(strings.ReplaceAll(zxing, "\x00", ""), says) {
			t.Errorf("%s: zxing-cpp reads %q, want %q", name, zxing, says)
		}
	}
}

var (
	inMillimetres = regexp.MustCompile(`([\d.]+) × ([\d.]+) mm`)
	trimBox       = regexp.MustCompile(`TrimBox: +([\d.]+) +([\d.]+) +([\d.]+) +([\d.]+)`)
	inPixels      = regexp.MustCompile(`([\d,]+) × ([\d,]+) px`)
)

// isAsLarge holds a file's size against what stands beside its button, and says whether it could.
func isAsLarge(t *testing.T, name string, data []byte, sizes string) (measured bool) {
	t.Helper()
	number := func(s string) float64 {
		f, err := strconv.ParseFloat(strings.ReplaceAll(s, ",", ""), 64)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	if want := inPixels.FindStringSubmatch(sizes); want != nil && filepath.Ext(name) != ".tif" { // whose inks Go does not know
		config, _, err := image.DecodeConfig(bytes.NewReader(data))
		if err != nil || float64(config.Width) != number(want[1]) || float64(config.Height) != number(want[2]) {
			t.Errorf("%s is %d × %d pixels (%v); the desk says %s", name, config.Width, config.Height, err, want[0])
		}
		return true
	}
	want := inMillimetres.FindStringSubmatch(sizes)
	if want == nil || filepath.Ext(name) != ".pdf" {
		return false
	}
	at := filepath.Join(t.TempDir(), "file.pdf")
	if err := os.WriteFile(at, data, 0o600); err != nil {
		t.Fatal(err)
	}
	box := trimBox.FindStringSubmatch(tool(t, "pdfinfo", "-box", at))
	if box == nil {
		t.Fatalf("%s has no TrimBox", name)
	}
	wide, high := (number(box[3])-number(box[1]))/72*25.4, (number(box[4])-number(box[2]))/72*25.4
	if math.Abs(wide-number(want[1])) > 0.1 || math.Abs(high-number(want[2])) > 0.1 {
		t.Errorf("%s is %.2f × %.2f mm; the desk says %s", name, wide, high, want[0])
	}
	return true
}
