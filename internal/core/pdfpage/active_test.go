package pdfpage_test

import (
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// written writes a PDF of one page by hand, with more in its catalog and further objects from number 4 on.
func written(catalog string, more ...string) []byte {
	objects := append([]string{"<</Type/Catalog/Pages 2 0 R" + catalog + ">>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 200]>>"}, more...)
	var b strings.Builder
	b.WriteString("%PDF-1.5\n")
	var at []int
	for i, o := range objects {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	table := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, n := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", n)
	}
	fmt.Fprintf(&b, "trailer\n<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, table)
	return []byte(b.String())
}

// TestQuiet: a file that does something when it is opened is refused, wherever in it that stands; others are not.
func TestQuiet(t *testing.T) {
	s := &scene.Scene{Width: 50, Height: 50,
		Items: []scene.Item{{Path: scene.Rectangle(5, 5, 20, 20), At: scene.Unit, Fill: ink.Black}}}
	for name, c := range map[string]struct {
		file []byte
		want string
	}{
		"ours":            {pdf.Encode(s, export.Meta{Title: "Plain"}), ""},
		"opens at a page": {written("/OpenAction[3 0 R/Fit]"), ""},
		"a link to the web": {written("",
			"<</Type/Annot/Subtype/Link/Rect[0 0 9 9]/A<</S/URI/URI(https://marrowby.example)>>>>"), ""},
		"a script at opening": {written("/OpenAction<</S/JavaScript/JS(app.alert(1))>>"), "holds a script"},
		"a script among names": {written("/Names<</JavaScript<</Names[(a) 4 0 R]>>>>", "<</S/JavaScript/JS(app.alert(1))>>"),
			"holds a script"},
		"a program": {written("/OpenAction 4 0 R", "<</S/Launch/F(calc.exe)>>"), "starts a program"},
		"a program in a button": {written("/AcroForm<</Fields[4 0 R]>>", "<</FT/Btn/AA<</U<</S/Launch/F(x)>>>>>>"),
			"starts a program"},
		"a form sent off": {written("", "<</A<</S/SubmitForm/F(https://elsewhere.example)>>>>"), "sent off"},
		"another file": {written("/Names<</EmbeddedFiles<</Names[(a) 4 0 R]>>>>", "<</Type/Filespec/EF<</F 5 0 R>>>>",
			"<</Type/EmbeddedFile/Length 2>>\nstream\nhi\nendstream"), "another file"},
		"a form of its own": {written("/AcroForm<</XFA 4 0 R>>", "<</Length 2>>\nstream\nhi\nendstream"),
			"program of its own"},
	} {
		t.Run(name, func(t *testing.T) {
			err := pdfpage.Quiet(c.file)
			if (c.want == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), c.want) {
				t.Errorf("%s: %v, want %q", name, err, c.want)
			}
		})
	}
}
