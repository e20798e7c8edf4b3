package readers

import (
	"bytes"
	"image/jpeg"
	"image/png"
	"os"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/symbol"
)

func shown(t *testing.T, values map[string]any) content.Content {
	t.Helper()
	c, problems := content.New(values)
	if len(problems) > 0 {
		t.Fatalf("%v: %v", values, problems)
	}
	s, err := symbol.Encode(c.Payload(), symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	reads(t, panel(t), pictured(t, s, 4), c.Payload(), c.Kind())
	return c
}

// TestHostileNetworks: names with the signs that the format itself uses, blanks at their ends, and 32 bytes, survive each
// reader and come back as the same fields.
func TestHostileNetworks(t *testing.T) {
	for _, ssid := range []string{`a;b,c:d"e\f`, " Barn ", "Glasshouse 🌱🌿", strings.Repeat("x", 32), strings.Repeat("ä", 16),
		`"quoted"`, `\`, ";", "C0FFEE", "T:nopass;"} {
		t.Run(ssid, func(t *testing.T) {
			for _, password := range []string{`s;o,w:"in\g2027`, "0123456789"} {
				c := shown(t, map[string]any{"kind": "wifi", "ssid": ssid, "security": "wpa", "password": password})
				again, ok := content.Of(c.Payload()).(*content.Wifi)
				if !ok || again.SSID != ssid || again.Password != password || again.Security != "wpa" {
					t.Errorf("%q with %q comes back as %+v", ssid, password, again)
				}
			}
		})
	}
}

// TestScripts: a hundred characters of each script in a text, a contact and a date are the same after all three readers.
func TestScripts(t *testing.T) {
	for name, some := range map[string]string{"Greek": "Σπόροι και βολβοί ", "Japanese": "種まきは三月から、球根は秋に植える。",
		"Arabic": "بذور وأبصال للحديقة ", "emoji": "🌱🌷🥕👩‍🌾🇬🇧"} {
		t.Run(name, func(t *testing.T) {
			runes := []rune(strings.Repeat(some, 100))[:100]
			if runes[99] == ' ' { // a title loses a space at its end
				runes[99] = runes[0]
			}
			text := string(runes)
			if got := shown(t, map[string]any{"kind": "text", "text": text}); content.Of(got.Payload()).Phone().Rest != text {
				t.Errorf("%s as text: %q", name, got.Payload())
			}
			card := shown(t, map[string]any{"kind": "contact", "given": "Wren", "note": text})
			if again, ok := content.Of(card.Payload()).(*content.Contact); !ok || again.Note != text {
				t.Errorf("%s in a contact: %+v", name, again)
			}
			date := shown(t, map[string]any{"kind": "event", "title": text, "start": "2027-03-20T10:00",
				"timezone": "Europe/London"})
			if again, ok := content.Of(date.Payload()).(*content.Event); !ok || again.Title != text {
				t.Errorf("%s in a date: %+v", name, again)
			}
		})
	}
}

// TestFile opens what people have: our own files in every format, and the same pixels as JPEG and WebP made by others.
func TestFile(t *testing.T) {
	m,
		problems := compose.Parse(
		[]byte(
			`{"content":{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow;thin;water"},"placements":[{"name":"a","width_mm":60}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	files := map[string][]byte{}
	for _, format := range compose.Formats {
		b, problems := m.File(compose.MustFormat(format), m.Place(0), export.Meta{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		files[format] = b
	}
	img, err := png.Decode(bytes.NewReader(files["png"]))
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	files["jpeg"] = b.Bytes()
	if files["webp"], err = os.ReadFile("testdata/guide.webp"); err != nil { // of the sowing guide, written by a browser
		t.Fatal(err)
	}
	for format, file := range files {
		found, err := File(t.Context(), file)
		want := m.Payload
		if format == "webp" {
			want = "https://marrowby.example/guide"
		}
		if err != nil || len(found.Symbols) != 1 || found.Symbols[0].Payload != want {
			t.Errorf("%s: %+v %v", format, found, err)
		}
	}
	for what, file := range map[string][]byte{"an empty PDF": []byte("%PDF-1.4\n"), "a broken drawing": []byte("<svg"),
		"words": []byte("hello"), "nothing": nil,
		"a drawing of nothing": []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>`)} {
		t.Run(what, func(t *testing.T) {
			if found, err := File(t.Context(), file); (err == nil) != (what == "a drawing of nothing") || len(found.Symbols) > 0 {
				t.Errorf("%s: %+v %v", what, found, err)
			}
		})
	}
	t.Setenv("PATH", t.TempDir())
	if _, err := File(t.Context(), files["svg"]); err == nil || !strings.Contains(err.Error(), "not installed here") {
		t.Errorf("without the program: %v", err)
	}
}
