package style_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"sodrik/internal/core/style"
)

// TestKitTypefaces: a typeface that came in leaves in the kit, once, and every look that names it finds it again.
func TestKitTypefaces(t *testing.T) {
	source := "asset:sha256-" + strings.Repeat("cd", 32)
	s := read(t,
		`{"typefaces":["bitter",{"source":"`+source+`","name":"Marrowby Hand"}],"looks":[{"key":"sign","name":"Sign","look":{"frame":{"shape":"rule","text":"Sow","font":"`+source+`"}}}]}`)
	font := []byte("OTTO and the rest")
	data, err := style.Pack(s, func(asked string) ([]byte, bool) { return font, asked == source })
	if err != nil {
		t.Fatal(err)
	}
	other := "asset:sha256-" + strings.Repeat("ef", 32)
	back, problems := style.Unpack(data, func(name string, data []byte) (string, error) {
		if name != "cdcdcdcdcdcdcdcd.otf" || !bytes.Equal(data, font) {
			t.Errorf("a typeface %s of %q", name, data)
		}
		return other, nil
	})
	if len(problems) > 0 || len(back.Faces) != 2 || back.Faces[1] != (style.Face{Key: other, Name: "Marrowby Hand"}) {
		t.Fatalf("comes back as %+v, %v", back, problems)
	}
	frame := back.Looks[0].Wear.(map[string]any)["frame"].(map[string]any)
	if frame["font"] != other {
		t.Errorf("the look wears %v", frame["font"])
	}
}

const svgMark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 2 2"><path d="M0 0h2v2z"/></svg>`

// TestKit: a house style leaves as a zip that another program opens, and comes back with its drawings under new sources.
func TestKit(t *testing.T) {
	source := "asset:sha256-" + strings.Repeat("ab", 32)
	s := read(t, strings.Replace(house, `"icon:sprout"`, `"`+source+`"`, 1))
	s.Looks[0].Wear.(map[string]any)["mark"] = map[string]any{"source": source}
	data, err := style.Pack(s, func(asked string) ([]byte, bool) { return []byte(svgMark), asked == source })
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "kit.zip")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if python, err := exec.LookPath("python3"); err == nil { // a reader that we did not write
		out, err := exec.Command(python, "-m", "zipfile", "-l", file).CombinedOutput()
		if err != nil || !bytes.Contains(out, []byte("house-style.json")) ||
			!bytes.Contains(out, []byte("marks/abababababababab.svg")) {
			t.Errorf("another reader finds %s, %v", out, err)
		}
	}
	taken := 0
	back, problems := style.Unpack(data, func(name string, data []byte) (string, error) {
		taken++
		if name != "abababababababab.svg" || string(data) != svgMark {
			t.Errorf("a drawing %s of %s", name, data)
		}
		return source, nil
	})
	if len(problems) > 0 || !reflect.DeepEqual(s, back) || taken != 1 {
		t.Errorf("%+v\ncomes back, after %d drawings, as\n%+v: %v", s, taken, back, problems)
	}
}

func packed(t testing.TB, files ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		if err == nil {
			_, err = w.Write([]byte(files[i+1]))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestBadKits(t *testing.T) {
	const style1 = `{"marks":[{"name":"M","source":"marks/m.svg"}]}`
	bomb := strings.Repeat("0", 11<<20)
	var many []string
	for range 130 {
		many = append(many, strings.Repeat("a", len(many)+1), "")
	}
	for name, c := range map[string]struct {
		data []byte
		word string
	}{
		"no zip":                   {[]byte("hello"), "no zip"},
		"cut short":                {packed(t, "house-style.json", "{}")[:40], "no zip"},
		"too large":                {make([]byte, style.MaxKit+1), "larger than 20 MB"},
		"without its description":  {packed(t, "readme.txt", "hello"), "holds no house-style.json"},
		"a description of no JSON": {packed(t, "house-style.json", "{"), "not JSON"},
		"a file above it":          {packed(t, "house-style.json", "{}", "../../etc/passwd", "x"), "points out of it"},
		"a file of the root":       {packed(t, "house-style.json", "{}", "/etc/passwd", "x"), "points out of it"},
		"a path of another system": {packed(t, "house-style.json", "{}", `marks\..\x`, "x"), "points out of it"},
		"a bomb":                   {packed(t, "house-style.json", bomb), "unpacks to more"},
		"many files that swell":    {packed(t, "a", bomb[:9<<20], "b", bomb[:9<<20], "c", bomb[:9<<20]), "unpacks to more"},
		"too many files":           {packed(t, many...), "holds 130 files"},
		"a drawing not there":      {packed(t, "house-style.json", style1), "does not hold"},
		"a drawing that is none": {packed(t, "house-style.json", style1, "marks/m.svg", "broken"),
			"cannot be taken: it is no drawing"},
		"a style that is none": {packed(t, "house-style.json", `{"colours":[{"name":"a"}]}`), "six hexadecimal digits"},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := style.Unpack(c.data, func(string, []byte) (string, error) { return "", errors.New("is no drawing") })
			if len(problems) == 0 || !strings.Contains(problems.Error(), c.word) ||
				!strings.HasPrefix(problems[0].Field, "/file") {
				t.Errorf("%s: %v, want %q", name, problems, c.word)
			}
		})
	}
}

func FuzzUnpack(f *testing.F) {
	f.Add(packed(f, "house-style.json", house))
	f.Add(packed(f, "house-style.json", `{"marks":[{"name":"M","source":"marks/m.svg"}]}`, "marks/m.svg", svgMark))
	f.Add([]byte("PK\x05\x06"))
	f.Fuzz(func(t *testing.T, data []byte) {
		s, problems := style.Unpack(data, func(name string, _ []byte) (string, error) { return "icon:leaf", nil })
		if len(problems) == 0 && s == nil {
			t.Error("neither a style nor a problem")
		}
	})
}

func FuzzParse(f *testing.F) {
	f.Add(house)
	f.Add(`{"looks":[{"name":"a","look":{"ink":{"style":"a"}}}],"colours":[{"name":"a","value":{"cmyk":[0,0,0,100]}}]}`)
	f.Fuzz(func(t *testing.T, text string) {
		s, problems := style.Parse([]byte(text))
		if len(problems) > 0 {
			return
		}
		out, err := s.MarshalJSON()
		if err != nil {
			t.Fatal(err)
		}
		if again, problems := style.Parse(out); len(problems) > 0 {
			t.Errorf("%s comes back with %v, %+v", out, problems, again)
		}
	})
}
