package e2e

import (
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
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

// TestUnsent: while what is typed has not reached the server, the verdict steps back, and what is pressed is done once it has.
func TestUnsent(t *testing.T) {
	t.Parallel()
	a := *open(t)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	server := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPatch {
			time.Sleep(3 * time.Second)
		}
		a.serves.ServeHTTP(w, r)
	})}
	go server.Serve(l)
	t.Cleanup(func() { server.Close() })
	a.url = "http://" + l.Addr().String()
	p := a.page(t, a.create(t, `{"name":"Unsent","content":{"kind":"url","url":"marrowby.example/first"}}`))
	fill(p, "#f-content-url", "marrowby.example/second")
	until(t, p, "the verdict is not about what is typed", `() => document.documentElement.classList.contains("unsent")`)
	name, data := download(t, p, func() { takePNG(p) })
	readBack(t, name, data, "https://marrowby.example/second")
	until(t, p, "the verdict is about what is typed again", `() => !document.documentElement.classList.contains("unsent")`)
}
