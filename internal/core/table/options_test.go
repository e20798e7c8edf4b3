package table

import (
	"fmt"
	"os/exec"
	"strings"
	"testing"
)

// TestByHand: what is said by hand counts, whatever would be found out: encodings as the C library writes them, delimiters that
// stand in cells too.
func TestByHand(t *testing.T) {
	for key, word := range map[string]string{"utf-8": "Möhre", "windows-1252": "Möhre", "windows-1250": "Žluťoučký",
		"windows-1257": "Ąžuolas",
		"windows-1254": "Çiğdem", "windows-1253": "Φασόλι", "windows-1251": "Морковь", "macintosh": "Möhre",
		"utf-16le": "Морковь",
		"utf-16be": "Морковь"} {
		t.Run(key, func(t *testing.T) {
			c := exec.Command("iconv", "-f", "utf-8", "-t", key)
			c.Stdin = strings.NewReader("Name;Lot\n" + word + ";A1\n")
			text, err := c.Output()
			if err != nil {
				t.Fatal(err)
			}
			r, rows := open(t, string(text), Options{Encoding: key})
			if got := fmt.Sprint(r.Columns, flat(rows)); got != "[Name Lot] [["+word+" A1]]" {
				t.Error(got)
			}
			if e, _ := encodingNamed(key); !strings.Contains(strings.Join(r.Said, ", "),
				"read as "+e.Words) || r.Read.Encoding != key {
				t.Errorf("%v %+v", r.Said, r.Read)
			}
		})
	}
	if len(Encodings) != 10 {
		t.Errorf("%d encodings", len(Encodings))
	}
	const text = "a,b;c\td|e\n1,2;3\t4|5\n"
	for key, want := range map[string]string{"comma": "[1 2;3\t4|5]", "semicolon": "[1,2 3\t4|5]", "tab": "[1,2;3 4|5]",
		"stroke": "[1,2;3\t4 5]"} {
		t.Run(key, func(t *testing.T) {
			if _, rows := open(t, text, Options{Delimiter: key, Heads: HeadsThere}); fmt.Sprint(rows[0].Cells) != want {
				t.Errorf("%s: %q", key, rows[0].Cells)
			}
		})
	}
	// Bytes that are none of the encoding are a problem of their row, not of all.
	if _, rows := open(t, "Name;Lot\nM\xf6hre;A1\nKale;A2\n",
		Options{Encoding: "utf-8"}); len(rows) != 2 || rows[0].Bad == "" || rows[1].Bad != "" {
		t.Errorf("%+v", rows)
	}
}

func TestReadOptions(t *testing.T) {
	get := func(values map[string]string) func(string) string {
		return func(key string) string { return values[key] }
	}
	o, problems := ReadOptions(get(map[string]string{"heads": "no", "delimiter": "tab", "encoding": "utf-16le", "tab": "Labels"}))
	if len(problems) > 0 || o != (Options{HeadsNone, "tab", "utf-16le", "Labels"}) {
		t.Errorf("%+v %v", o, problems)
	}
	if o, problems := ReadOptions(get(nil)); len(problems) > 0 || o != (Options{}) {
		t.Errorf("%+v %v", o, problems)
	}
	for key, value := range map[string]string{"heads": "maybe", "delimiter": ";", "encoding": "ebcdic"} {
		t.Run(key, func(t *testing.T) {
			_, problems := ReadOptions(get(map[string]string{key: value}))
			if len(problems) != 1 || problems[0].Field != "/"+key {
				t.Errorf("%s: %v", key, problems)
			}
		})
	}
}
