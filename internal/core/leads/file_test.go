package leads

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"sodrik/internal/core/content"
)

// TestIsServed: a fixed code that says the address of a file of ours does need us, and is not told otherwise.
func TestIsServed(t *testing.T) {
	for url, want := range map[string]bool{"https://go.marrowby.example/f/k7/guide.pdf": true,
		"https://go.marrowby.example/fair": false,
		"https://marrowby.example/f/k7":    false} {
		t.Run(url, func(t *testing.T) {
			c, problems := content.New(map[string]any{"kind": "url", "url": url})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			if got := IsServed(c, "https://go.marrowby.example"); got != want || IsServed(c, "") {
				t.Errorf("%s is a file of ours: %v", url, got)
			}
		})
	}
}

func TestServedOf(t *testing.T) {
	var docx bytes.Buffer
	z := zip.NewWriter(&docx)
	for _, name := range []string{"[Content_Types].xml", "_rels/.rels", "word/document.xml"} {
		w, _ := z.Create(name)
		w.Write([]byte("<x/>"))
	}
	z.Close()
	const pdf = "%PDF-1.7\n"
	for _, c := range []struct {
		name, data, want, media string
		inline                  bool
	}{
		{"Sowing Guide 2027.PDF", pdf, "sowing-guide-2027.pdf", "application/pdf", true},
		{"guide.html", pdf, "guide.pdf", "application/pdf", true},
		{"../../etc/passwd", pdf, "passwd.pdf", "application/pdf", true},
		{"Ähren & Körner.jpeg", "\xff\xd8\xff\xe0\x00\x10JFIF\x00", "hren-k-rner.jpeg", "image/jpeg", true},
		{"", pdf, "file.pdf", "application/pdf", true}, {".pdf", pdf, "file.pdf", "application/pdf", true},
		{strings.Repeat("a", 61), pdf, strings.Repeat("a", 60) + ".pdf", "application/pdf", true},
		{"list.docx", docx.String(), "list.docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
			false},
		{"photo.png", "\x89PNG\r\n\x1a\n", "photo.png", "image/png", true},
		{"call.mp3", "\xff\xfb\x90\x64" + strings.Repeat("\x00", 413) + "\xff\xfb\x90\x64", "call.mp3", "audio/mpeg", true},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, bad := ServedOf(c.name, []byte(c.data))
			if bad != nil || got.Name != c.want || got.Type != c.media || got.Inline != c.inline || got.Size != len(c.data) {
				t.Errorf("%q: %+v %v", c.name, got, bad)
				return
			}
			if again, err := DecodeServed(got.Encode()); err != nil || *again != *got {
				t.Errorf("%q is read again as %+v, %v", c.name, again, err)
			}
		})
	}
	for data, code := range map[string]string{"": "file.empty", "<html><script>alert(1)</script></html>": "file.kind",
		"<svg xmlns=\"http://www.w3.org/2000/svg\"/>": "file.kind", "MZ\x90\x00": "file.kind", "just words": "file.kind",
		pdf + strings.Repeat(" ", MaxServed-len(pdf)+1): "file.large"} {
		t.Run(data, func(t *testing.T) {
			if _, bad := ServedOf("guide.pdf", []byte(data)); bad == nil || bad.Code != code || bad.Field != "/file" {
				t.Errorf("%.20q: %v, want %s", data, bad, code)
			}
		})
	}
	if _, bad := ServedOf("guide.pdf", []byte(pdf+strings.Repeat(" ", MaxServed-len(pdf)))); bad != nil {
		t.Errorf("a file of the largest size: %v", bad)
	}
}

// TestUnsafeZip: what a machine would run is not served, whatever it is wrapped in and called.
func TestUnsafeZip(t *testing.T) {
	zipped := func(names ...string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, name := range names {
			w, _ := z.Create(name)
			w.Write([]byte("<x/>"))
		}
		z.Close()
		return b.Bytes()
	}
	word := []string{"[Content_Types].xml", "_rels/.rels", "word/document.xml"}
	for _, c := range []struct {
		name string
		data []byte
		want string
	}{
		{"plans.zip", zipped("beds/plan.pdf", "beds/list.csv", "basic/plan.pdf", "scripts/notes.txt"), ""},
		{"chart.docx", zipped(append(word, "word/embeddings/oleObject1.bin")...), ""},
		{"tool.docx", zipped(append(word, "word/setup.exe")...), "setup.exe"},
		{"list.docx", zipped(word...), ""},
		{"macros.docx", zipped(append(word, "word/vbaProject.bin")...), "macros"},
		{"macros.zip", zipped(append(word, `word\vbaProject.bin`)...), "macros"},
		{"inside.zip", zipped("a/Order.DOCM"), "order.docm"},
		{"tool.zip", zipped("setup.exe"), "setup.exe"},
		{"page.zip", zipped("index.html"), "index.html"},
		{"tool.jar", zipped("META-INF/MANIFEST.MF", "A.class"), "program"},
		{"cut.zip", []byte("PK\x03\x04 and nothing of it"), "opened"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, bad := ServedOf(c.name, c.data)
			if (bad == nil) != (c.want == "") || bad != nil && !strings.Contains(bad.Message, c.want) &&
				!strings.HasPrefix(bad.Code, "file.kind") {
				t.Errorf("%+v, %+v", got, bad)
			}
		})
	}
}
