package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/draw"
	"image/gif"
	"image/jpeg"
	"image/png"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/HugoSmits86/nativewebp"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/people"
	"sodrik/internal/readers"
)

// upload posts a form with a file.
func (s *site) upload(path, name string, file []byte, fields url.Values) *httptest.ResponseRecorder {
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	for k, v := range fields {
		m.WriteField(k, v[0])
	}
	part, err := m.CreateFormFile("file", name)
	if err == nil {
		_, err = part.Write(file)
	}
	if err != nil {
		panic(err) // into memory
	}
	m.Close()
	r := httptest.NewRequest("POST", path, &b)
	r.Header.Set("Content-Type", m.FormDataContentType())
	r.AddCookie(s.cookie)
	w := httptest.NewRecorder()
	s.handler.ServeHTTP(w, r)
	s.answered(r, w)
	return w
}

// samples are a file of every format that some upload accepts, each of which shows a code.
func samples(t *testing.T) map[string][]byte {
	t.Helper()
	m,
		problems := compose.Parse(
		[]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/sample"},"placements":[{"name":"x","width_mm":60,"distance_mm":600}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	out := map[string][]byte{"txt": []byte("Sow in March."),
		"vcf": []byte("BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Wren Okafor\r\nN:Okafor;Wren;;;\r\nTEL:+441632960001\r\nEND:VCARD\r\n"),
		"ics": []byte(
			"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Marrowby//EN\r\nBEGIN:VEVENT\r\nUID:1@marrowby.example\r\nDTSTAMP:20270101T000000Z\r\nDTSTART:20270320T100000Z\r\nDTEND:20270320T160000Z\r\nSUMMARY:Bulb fair\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")}
	for _, format := range []string{"svg", "pdf", "png"} {
		data, problems := m.File(compose.MustFormat(format), m.Place(0), export.Meta{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		out[format] = data
	}
	decoded, err := png.Decode(bytes.NewReader(out["png"]))
	if err != nil {
		t.Fatal(err)
	}
	img := image.NewNRGBA(decoded.Bounds())
	draw.Draw(img, img.Rect, decoded, decoded.Bounds().Min, draw.Src)
	for format, encode := range map[string]func(*bytes.Buffer, image.Image) error{
		"jpg":  func(b *bytes.Buffer, i image.Image) error { return jpeg.Encode(b, i, nil) },
		"webp": func(b *bytes.Buffer, i image.Image) error { return nativewebp.Encode(b, i, nil) },
		"gif":  func(b *bytes.Buffer, i image.Image) error { return gif.Encode(b, i, nil) },
	} {
		var b bytes.Buffer
		if err := encode(&b, img); err != nil {
			t.Fatal(err)
		}
		out[format] = b.Bytes()
	}
	if out["ttf"], err = os.ReadFile("../core/typeface/fonts/bitter.ttf"); err != nil {
		t.Fatal(err)
	}
	return out
}

// TestEveryUpload takes in every format that each upload accepts, on the pages and by the API, and opens the rest of the
// workspace after each.
func TestEveryUpload(t *testing.T) {
	s := open(t)
	s.store.Pages = readers.PDFPage
	files := samples(t)
	first := s.id
	s.id = duplicated(t, s) // what is uploaded goes here; the first never changes
	kit := s.send("GET", "/style/kit", nil).Body.Bytes()
	owner, err := s.people.ByEmail(t.Context(), "owner@marrowby.example")
	if err != nil {
		t.Fatal(err)
	}
	token, err := s.people.NewToken(t.Context(), &people.Present{Person: *owner, Workspace: ws, Role: people.Owner}, "uploads",
		people.Scopes, 1)
	if err != nil {
		t.Fatal(err)
	}
	drawings := []string{"svg", "png", "jpg", "webp"}
	n := 0
	rest := func(what string, whole bool) {
		t.Helper()
		n++
		form := url.Values{"text": {fmt.Sprintf("marrowby.example/after-%d", n)}}
		if w := s.send("POST", "/codes", form); w.Code != http.StatusSeeOther {
			t.Fatalf("after %s no code can be made: %d %.300s", what, w.Code, w.Body)
		} else if w := s.send("GET", w.Header().Get("Location"), nil); w.Code != http.StatusOK {
			t.Fatalf("after %s a new desk does not open: %d %.300s", what, w.Code, w.Body)
		}
		paths := []string{"/codes/" + first, "/codes/" + s.id, "/codes"}
		if whole {
			paths = append(paths, "/codes/"+s.id+"/in-place", "/codes/"+s.id+"/looks", "/style", "/codes/"+s.id+"/picture/x.png",
				"/codes/"+s.id+"/artwork/0")
		}
		for _, path := range paths {
			if w := s.send("GET", path, nil); w.Code != http.StatusOK &&
				!(w.Code == http.StatusNotFound && strings.Contains(path, "/artwork/")) {
				t.Fatalf("after %s %s answers %d %.300s", what, path, w.Code, w.Body)
			}
		}
	}
	for _, c := range []struct {
		path    string
		formats []string
		fields  func(format string) url.Values
		status  int
	}{
		{"/codes/" + s.id + "/mark", drawings, func(string) url.Values { return url.Values{"part": {"mark"}} }, 303},
		{"/codes/" + s.id + "/mark", drawings, func(string) url.Values { return url.Values{"part": {"backdrop"}} }, 303},
		{"/codes/" + s.id + "/artwork", append([]string{"pdf"}, drawings...), func(string) url.Values {
			return url.Values{"place": {"0"}}
		}, 303},
		{"/style/marks", drawings, func(format string) url.Values { return url.Values{"name": {"Mark of " + format}} }, 303},
		{"/style/typefaces/add", []string{"ttf"}, func(string) url.Values { return nil }, 303},
		{"/find", []string{"svg", "pdf", "png", "jpg", "webp", "gif", "vcf", "ics", "txt"}, func(string) url.Values {
			return nil
		}, 200},
	} {
		t.Run(c.path, func(t *testing.T) {
			for i, format := range c.formats {
				what := format + " to " + c.path
				if w := s.upload(c.path, "sample."+format, files[format], c.fields(format)); w.Code != c.status ||
					strings.Contains(w.Body.String(), `data-bad`) {
					t.Errorf("%s: %d %.300s", what, w.Code, w.Body)
				}
				rest(what, i == len(c.formats)-1)
			}
		})
	}
	if w := s.upload("/style/kit", "kit.zip", kit, nil); w.Code != http.StatusSeeOther {
		t.Errorf("a kit: %d %.300s", w.Code, w.Body)
	}
	rest("a kit", true)
	for as, formats := range map[string][]string{"mark": drawings, "artwork": append([]string{"pdf"}, drawings...),
		"typeface": {"ttf"}} {
		t.Run(as, func(t *testing.T) {
			for _, format := range formats {
				what := format + " as " + as + " by the API"
				r := httptest.NewRequest("POST", "/api/v1/assets?as="+as+"&name=x."+format, bytes.NewReader(files[format]))
				r.Header.Set("Authorization", "Bearer "+token)
				w := httptest.NewRecorder()
				s.handler.ServeHTTP(w, r)
				var a struct{ Source string }
				if err := json.Unmarshal(w.Body.Bytes(), &a); w.Code != http.StatusCreated || err != nil || a.Source == "" {
					t.Errorf("%s: %d %.300s", what, w.Code, w.Body)
				}
				rest(what, false)
			}
		})
	}
}

func duplicated(t *testing.T, s *site) string {
	t.Helper()
	id, err := s.store.Duplicate(t.Context(), access.OfProgram(ws, ""), s.id)
	if err != nil {
		t.Fatal(err)
	}
	return id
}
