package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"sodrik/internal/readers"
)

const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><circle cx="50" cy="50" r="48" fill="#5b1f33"/>` +
	`<path fill="#e9a820" d="M30 30h40v40H30z"/></svg>`

// TestFirst: a house gets its name, and of its logo a mark, inks and a look; what is wrong is said and what was typed stays.
func TestFirst(t *testing.T) {
	t.Parallel()
	s := open(t)
	s.store.Pages = readers.PDFPage
	for _, c := range []struct {
		name, file, data, want string
	}{
		{"", "logo.svg", logo, "Is missing; write what the house is called."},
		{strings.Repeat("é", 61), "logo.svg", logo, "Is longer than 60 characters; a shorter one does."},
		{"Hedgerow Jams", "logo.txt", "no drawing", "Is none of SVG, PNG, JPEG and WebP"},
		{"Hedgerow Jams", "logo.png", "", "Is empty, 0 bytes; choose an SVG, PNG, JPEG or WebP file."},
		{"Hedgerow Jams", "logo.pdf", "%PDF-1.7 broken", "Is a PDF that cannot be opened; an SVG or a picture does."},
	} {
		t.Run(c.want, func(t *testing.T) {
			w := s.upload("/style/first", c.file, []byte(c.data), url.Values{"name": {c.name}})
			if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), c.want) ||
				!strings.Contains(w.Body.String(), `value="`+c.name+`"`) {
				t.Errorf("%d %.2000s", w.Code, w.Body)
			}
		})
	}
	if w := s.send("POST", "/style/first", url.Values{"name": {strings.Repeat("é", 60)}}); w.Code != http.StatusSeeOther {
		t.Errorf("sixty letters: %d", w.Code)
	}
	if got := s.styled(t); strings.Contains(got, ">Logo<") {
		t.Error("without a logo there is a mark")
	}
	for range 2 { // a second logo does not fall over the first
		w := s.upload("/style/first", "logo.svg", []byte(logo), url.Values{"name": {"Hedgerow Jams"}})
		if w.Code != http.StatusSeeOther || w.Header().Get("Location") != "/codes" {
			t.Fatalf("%d %s", w.Code, plainText(w))
		}
	}
	got := s.styled(t)
	for _, want := range []string{"\nHedgerow Jams can be dressed in.", ">Logo<", ">Dark red<", "#5b1f33", ">Yellow<", "#e9a820",
		">Dark red 2<", "/style/looks/first-look", "/style/looks/first-look-2"} {
		if !strings.Contains(got, want) {
			t.Errorf("the house style has no %s", want)
		}
	}
	if look := s.send("GET", "/style/looks/first-look", nil).Body.String(); !strings.Contains(look, "#5b1f33") {
		t.Error("the look is not in the darkest ink")
	}
}
