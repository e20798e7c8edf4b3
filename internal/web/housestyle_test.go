package web

import (
	"archive/zip"
	"bytes"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
)

// shade gives what the page of the house style says of a colour's value.
func (s *site) styled(t *testing.T) string {
	t.Helper()
	w := s.send("GET", "/style", nil)
	if w.Code != http.StatusOK {
		t.Fatalf("the house style answers %d %.300s", w.Code, w.Body)
	}
	return w.Body.String()
}

var wayBack = regexp.MustCompile(
	`name="rev" value="(\d+)">\s*<input type="hidden" name="before" value="(\d+)">\s*` +
		`<button class="link[^>]*>Go back to before\s*<span class="sr-only">\s+([^<]*)<`)

// TestStyleTakenBack changes a colour, goes back to before, and goes back from there; codes that wear the colour follow.
func TestStyleTakenBack(t *testing.T) {
	t.Parallel()
	s := open(t)
	colour := func(key, screen string) {
		t.Helper()
		rev := regexp.MustCompile(`action="/style/colours[^"]*"[^>]*>(?:\s*<input type="hidden" name="rev" value="(\d+)">)?`).
			FindStringSubmatch(s.styled(t))
		form := url.Values{"key": {key}, "name": {"Pine"}, "screen": {screen}}
		if len(rev) > 1 {
			form.Set("rev", rev[1])
		}
		if w := s.send("POST", "/style/colours", form); w.Code != http.StatusSeeOther {
			t.Fatalf("the colour is answered by %d %.500s", w.Code, w.Body)
		}
	}
	colour("", "#12352b")
	w := s.send("PATCH", "/codes/"+s.id, url.Values{"path": {"/look/ink"}, "text": {"style:pine"}}, "HX-Request", "true")
	if w.Code != http.StatusOK {
		t.Fatalf("the ink: %d %.300s", w.Code, w.Body)
	}
	ink := func() string {
		t.Helper()
		c, err := s.store.Get(t.Context(), access.OfProgram(ws, ""), s.id)
		if err != nil {
			t.Fatal(err)
		}
		b, problems := c.Rendition.File(compose.MustFormat("svg"), nil, export.Meta{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		return string(b)
	}
	colour("pine", "#7a1420")
	if !strings.Contains(ink(), "#7a1420") {
		t.Fatal("the code does not have the changed colour")
	}
	back := func(want, of string) {
		t.Helper()
		for _, m := range wayBack.FindAllStringSubmatch(s.styled(t), -1) {
			if !strings.Contains(m[3], of) {
				continue
			}
			if w := s.send("POST", "/style/back", url.Values{"rev": {m[1]}, "before": {m[2]}}); w.Code != http.StatusSeeOther {
				t.Fatalf("going back is answered by %d %.500s", w.Code, w.Body)
			}
			if !strings.Contains(ink(), want) {
				t.Fatalf("after going back from %q the code is not %s", m[3], want)
			}
			return
		}
		t.Fatalf("no way back from %q in %v", of, wayBack.FindAllStringSubmatch(s.styled(t), -1))
	}
	back("#12352b", "Pine changed")
	back("#7a1420", "Pine changed") // and that was a change as well
	first := wayBack.FindAllStringSubmatch(s.styled(t), -1)
	if m := first[len(first)-1]; s.send("POST", "/style/back", url.Values{"rev": {m[1]}, "before": {m[2]}}).
		Code == http.StatusSeeOther {
		t.Error("going back takes away a colour that a code wears")
	}
	if w := s.send("POST", "/style/back", url.Values{"rev": {"1"}, "before": {"9999"}}); w.Code == http.StatusSeeOther ||
		!strings.Contains(w.Body.String(), "is no change of the house style") {
		t.Errorf("a change that never was is taken back: %d", w.Code)
	}
	if w := s.send("POST", "/style/back", url.Values{"rev": {"1"}, "before": {"1"}}); w.Code == http.StatusSeeOther {
		t.Error("who looked at an older list takes back what others did since")
	}
}

// TestKitOfNothing gives kits whose file says null, or nothing: they are refused, and the house keeps what it has.
func TestKitOfNothing(t *testing.T) {
	t.Parallel()
	s := open(t)
	if w := s.send("POST", "/style/colours", url.Values{"name": {"Pine"}, "screen": {"#12352b"}}); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %.500s", w.Code, w.Body)
	}
	before := s.styled(t)
	rev := regexp.MustCompile(`name="rev" value="(\d+)"`).FindStringSubmatch(before)[1]
	for _, text := range []string{"null", "[]", "0", `"x"`, "", "{", `{"version":1,"colours":null,"colour":1}`} {
		t.Run(text, func(t *testing.T) {
			var b bytes.Buffer
			z := zip.NewWriter(&b)
			f, err := z.Create("house-style.json")
			if err == nil {
				_, err = f.Write([]byte(text))
			}
			if err != nil {
				t.Fatal(err)
			}
			z.Close()
			w := s.upload("/style/kit", "kit.zip", b.Bytes(), url.Values{"rev": {rev}})
			if w.Code == http.StatusSeeOther || w.Code >= 500 {
				t.Errorf("a kit that says %q is answered by %d %.200s", text, w.Code, w.Body)
			}
			if !strings.Contains(s.styled(t), "#12352b") {
				t.Fatalf("a kit that says %q emptied the house style", text)
			}
		})
	}
}
