package compose

import (
	"os"
	"reflect"
	"strings"
	"testing"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/core/typeface"
)

// TestOwnFaces: words are set in a typeface that came in; one that is not there, is no typeface, or lacks a character is named.
func TestOwnFaces(t *testing.T) {
	data, err := os.ReadFile("../typeface/fonts/caveat.ttf")
	if err != nil {
		t.Fatal(err)
	}
	art, err := artwork.ReadFace(data)
	if err != nil {
		t.Fatal(err)
	}
	key := typeface.KeyOf(data)
	missing, drawing := "asset:sha256-"+strings.Repeat("0", 64), "asset:sha256-"+strings.Repeat("1", 64)
	find := Assets(func(source string) (artwork.Upload, bool) {
		if source == drawing {
			return artwork.Icon("sprout")
		}
		return art, source == key
	})
	of := func(look string) (*Rendition, string) {
		m, problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/"},"look":`+look+`}`), find)
		if len(problems) > 0 {
			return nil, problems[0].Field + " " + problems[0].Message
		}
		return m, ""
	}
	wears := func(text, font string) string {
		return `{"frame":{"shape":"rule","text":"` + text + `","font":"` + font + `"},"caption":{"text":"` + text + `","font":"` +
			font + `"}}`
	}
	own, said := of(wears("Sow thinly", key))
	if said != "" {
		t.Fatal(said)
	}
	same, _ := of(wears("Sow thinly", "caveat"))
	file, _ := own.File(MustFormat("svg"), nil, export.Meta{})
	other, _ := same.File(MustFormat("svg"), nil, export.Meta{})
	if string(file) != string(other) {
		t.Error("the same typeface, come in as a file, sets other words")
	}
	text, err := own.Job.MarshalJSON()
	if err != nil {
		t.Fatal(err)
	}
	again, problems := Parse(text, find)
	if len(problems) > 0 || again.Job.Look.Frame.Font != key || again.Job.Look.Caption.Own == nil {
		t.Errorf("the canonical form loses the typeface: %v", problems)
	}
	for name, c := range map[string]struct{ look, says string }{
		"not there":    {wears("Sow", missing), "/look/frame/font is not among the typefaces here"},
		"a drawing":    {wears("Sow", drawing), "/look/frame/font is not among the typefaces here"},
		"no such cut":  {wears("Sow", "asset:sha256-12"), "/look/frame/font "},
		"no character": {wears("種", key), "/look/frame/text has 種, which Caveat Bold has not"},
		"as a mark":    {`{"mark":{"source":"` + key + `"}}`, "is a typeface, no drawing"},
	} {
		t.Run(name, func(t *testing.T) {
			if _, said := of(c.look); !strings.Contains(said, c.says) {
				t.Errorf("%s: %q, want %q", name, said, c.says)
			}
		})
	}
}

// TestMakeLeavesTheJob: making a job changes nothing of it, whichever typefaces are at hand.
func TestMakeLeavesTheJob(t *testing.T) {
	data, err := os.ReadFile("../typeface/fonts/bitter.ttf")
	if err != nil {
		t.Fatal(err)
	}
	face, err := artwork.ReadFace(data)
	if err != nil {
		t.Fatal(err)
	}
	key := typeface.KeyOf(face.Data())
	text := `{"content":{"kind":"url","url":"https://marrowby.example/"},"look":{"frame":{"shape":"rule","text":"Fair","font":"` +
		key + `"},"caption":{"text":"Fair","font":"` + key + `"}}}`
	read := func() *job.Job {
		j, problems := job.Parse([]byte(text))
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		return j
	}
	j, untouched := read(), read()
	m, problems := Make(j, func(source string) (artwork.Upload, bool) { return face, source == key })
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if !reflect.DeepEqual(j, untouched) {
		t.Errorf("the job became %+v", j.Look)
	}
	if m.Job.Look.Frame.Own == nil || m.Job.Look.Caption.Own == nil {
		t.Error("what was made does not know its typefaces")
	}
}
