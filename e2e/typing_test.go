package e2e

import (
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// everythingSaved waits until the server has all that was typed.
func everythingSaved(t *testing.T, p *rod.Page) {
	t.Helper()
	until(t, p, "what was typed is saved", `() => document.documentElement.dataset.unsaved === "0"`)
}

// TestHalfTyped: all that is typed in one stay in a field is one step of undo, however slowly: half a colour is none.
func TestHalfTyped(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Half typed","content":{"kind":"url","url":"marrowby.example/half"},"look":{"ink":"#12352b","paper":"#ffffff"}}`))
	p.MustElement("[data-stub=wears]").MustClick()
	openPart(p, "Paper")
	fill(p, "#f-look-paper", "#")
	everythingSaved(t, p)
	time.Sleep(2200 * time.Millisecond) // longer than what follows at once counts as one
	p.MustInsertText("f2f2f2")
	everythingSaved(t, p)
	p.Keyboard.MustType(input.Tab)
	p.MustElement("#undo").MustClick()
	until(t, p, "undo gives what stood before the field was entered",
		`() => document.getElementById("f-look-paper").value.toLowerCase().match(/^(#ffffff|white)$/) && document.getElementById("e-f-look-paper").textContent === ""`)
	p.MustElement("#redo").MustClick()
	until(t, p, "redo gives the whole of it", `() => document.getElementById("f-look-paper").value === "#f2f2f2"`)
}

// TestUnsent: while what is typed does not reach the server, the verdict steps back, and what is pressed is done once it has.
func TestUnsent(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Unsent","content":{"kind":"url","url":"marrowby.example/unsent"}}`))
	fill(p, "#f-content-url", "marrowby.example/first")
	everythingSaved(t, p)
	offline := func(is bool) {
		if err := (proto.NetworkEmulateNetworkConditions{Offline: is, DownloadThroughput: -1, UploadThroughput: -1}).Call(p); err != nil {
			t.Fatal(err)
		}
	}
	offline(true)
	fill(p, "#f-content-url", "marrowby.example/second")
	until(t, p, "the verdict is not about what is typed", `() => document.documentElement.classList.contains("unsent")`)
	// Whoever presses now loses nothing: it is done once what was typed is there.
	_, data := download(t, p, func() {
		p.MustElement("#hand-over").MustClick()
		offline(false)
	})
	readBack(t, "unsent.svg", data, "https://marrowby.example/second")
}
