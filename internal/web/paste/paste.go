// Package paste takes what people paste, drop or open for what it most likely is, so that it can become a code.
package paste

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"strconv"
	"strings"
	"unicode/utf8"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/recognise"
	"sodrik/internal/core/symbol"
	"sodrik/internal/readers"
	"sodrik/internal/web/ui"
)

// MaxFile bounds a pasted file.
const MaxFile = 20 << 20

// Pasted is what came in by paste, drop or file, and how it can be read.
type Pasted struct {
	Text     string // of a picture, what its first symbol holds
	Picture  bool
	Readings []recognise.Reading
	Asked    int          // which reading is wanted, −1 for the likeliest
	Bad      problem.List // why nothing was read
	Opens    string       // name of a file that a code could open, "" for none
	Same     bool         // it is to be made as it was
	Cleans   []*Clean     // of a picture with several, in the order of the readings
	Clean    *Clean       // of a picture's symbol: what it was made with
	Outlined template.HTML

	none bool // it is a picture without a code
}

// Clean is how a symbol that was read was made, so that it can be made again without its damage.
type Clean struct {
	Version   int    `json:"version"`
	Level     string `json:"level"`
	Mask      int    `json:"mask"`
	Modules   string `json:"modules"` // digest
	Corrected int    `json:"corrected"`
	Grade     string `json:"grade"`
	Worst     string `json:"worst"`
	Inverted  bool   `json:"inverted,omitempty"`
	Mirrored  bool   `json:"mirrored,omitempty"`
}

func cleanOf(s readers.FoundSymbol) *Clean {
	return &Clean{s.Version, s.Level, s.Mask, s.Modules, s.Corrected, s.Grade, s.Worst, s.Inverted, s.Mirrored}
}

// Text is the form in which it travels through a page.
func (c *Clean) Text() string {
	b, _ := json.Marshal(c)
	return string(b)
}

// Words say what was read of the symbol itself.
func (c *Clean) Words() string {
	out := fmt.Sprintf("Version %d, level %s, mask %d", c.Version, c.Level, c.Mask)
	switch c.Corrected {
	case 0:
		out += "; nothing had to be corrected"
	case 1:
		out += "; one codeword had to be corrected"
	default:
		out += fmt.Sprintf("; %d codewords had to be corrected", c.Corrected)
	}
	if c.Grade != "" {
		out += ". This picture of it deserves grade " + c.Grade
		if c.Worst != "" {
			out += ", for its " + proof.GradeWords(c.Worst)
		}
	}
	if c.Inverted {
		out += ". It is light on dark"
	}
	if c.Mirrored {
		out += ". It is seen from behind"
	}
	return out + "."
}

// job gives the job that makes the same symbol; it may hold the same content in other modules, where another program divided
// it otherwise.
func (c *Clean) job(with content.Content) *job.Job {
	j := jobFor(with)
	j.Symbol.MinVersion, j.Symbol.MaxVersion, j.Symbol.Boost = c.Version, c.Version, false
	for l := symbol.L; l <= symbol.H; l++ {
		if l.String() == c.Level {
			j.Symbol.Level = l
		}
	}
	j.Symbol.Mask = symbol.Pattern(c.Mask)
	return j
}

// Of reads the request: a text, or a file that holds text or a picture of codes.
func Of(r *http.Request) Pasted {
	p := Pasted{Asked: -1}
	region := ui.RegionOf(r.Header.Get("Accept-Language"))
	f, head, err := r.FormFile("file")
	if n, err := strconv.Atoi(r.FormValue("reading")); err == nil {
		p.Asked = n
	}
	if c := new(Clean); json.Unmarshal([]byte(r.FormValue("clean")), c) == nil && c.Version >= symbol.MinVersion &&
		c.Version <= symbol.MaxVersion && c.Mask >= 0 && c.Mask < 8 {
		p.Clean, p.Same = c, r.FormValue("same") != ""
	}
	if large := new(http.MaxBytesError); errors.As(err, &large) {
		p.Bad.Add("", "file", "The file is larger than %d megabytes", MaxFile>>20)
		return p
	}
	if err == nil {
		defer f.Close()
		b, err := io.ReadAll(io.LimitReader(f, MaxFile+1))
		switch {
		case err != nil:
			p.Bad.Add("", "file", "The file was cut off on its way; try again")
		case len(b) > MaxFile:
			p.Bad.Add("", "file", "The file is larger than %d megabytes", MaxFile>>20)
		case isText(b):
			p.Text = strings.ReplaceAll(string(b), "\r\n", "\n")
			p.Readings = recognise.Written(p.Text, region)
		default:
			p.open(r, b, region)
			f, bad := leads.ServedOf(head.Filename, b)
			picture := f != nil && (strings.HasPrefix(f.Type, "image/") || f.Type == "application/pdf")
			if bad == nil && len(p.Bad) > 0 && (p.none || !picture) { // one that is damaged opens nowhere
				p.Opens = head.Filename
			}
		}
		return p
	}
	p.Text = strings.ReplaceAll(r.PostFormValue("text"), "\r\n", "\n")
	p.Readings = recognise.Written(p.Text, region)
	return p
}

// Text takes a text, whose reading asked is wanted, −1 for the likeliest. Numbers without a country's code are those of region.
func Text(text string, asked int, region string) Pasted {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	return Pasted{Text: text, Asked: asked, Readings: recognise.Written(text, region)}
}

// isText tells cards, calendars and plain text from pictures and drawings.
func isText(b []byte) bool {
	head := strings.TrimSpace(string(b[:min(len(b), 1024)]))
	return utf8.Valid(b) && len(b) <= 1<<20 && !strings.HasPrefix(head, "<") && !strings.HasPrefix(head, "%PDF-") &&
		!strings.ContainsRune(head, 0)
}

// open reads the codes of a picture. Of several, each is a reading of its own.
func (p *Pasted) open(r *http.Request, file []byte, region string) {
	p.Picture = true
	found, err := readers.File(r.Context(), file)
	if err != nil {
		message := strings.TrimSuffix(err.Error(), ".")
		p.Bad.Add("", "picture", "%s", strings.ToUpper(message[:1])+message[1:])
		return
	}
	n := len(found.Symbols)
	if n == 0 {
		p.none = true
		p.Bad.Add("", "picture", "No code was found in the picture. Cut away what lies around the code, or give a larger picture")
		return
	}
	p.Outlined = outlined(found)
	p.Text = found.Symbols[0].Payload
	p.Clean = cleanOf(found.Symbols[0])
	for i, s := range found.Symbols {
		list := recognise.Text(s.Payload, region)
		if n == 1 {
			p.Readings = list
		} else if len(list) > 0 {
			list[0].Took, list[0].Entry, list[0].Weak, list[0].Text = fmt.Sprintf("Code %d of %d in the picture", i+1, n), true,
				false, s.Payload
			p.Cleans = append(p.Cleans, cleanOf(s))
			p.Readings = append(p.Readings, list[0])
		}
	}
}

// Chosen is the reading asked for, else the likeliest.
func (p Pasted) Chosen() (recognise.Reading, bool) {
	if i := max(0, p.Asked); i < len(p.Readings) {
		return p.Readings[i], true
	}
	return recognise.Reading{}, false
}

// Make makes what was pasted.
func (p Pasted) Make() (*compose.Rendition, problem.List) {
	reading, ok := p.Chosen()
	switch {
	case len(p.Bad) > 0:
		return nil, p.Bad
	case !ok:
		return nil, problem.List{{Field: "/text", Code: "text.empty",
			Message: "is empty; paste a link, or what else the code should say"}}
	case reading.Content == nil:
		return nil, reading.Problems
	}
	if p.Clean != nil && p.Same {
		return compose.Make(p.Clean.job(reading.Content), nil)
	}
	return compose.Make(jobFor(reading.Content), nil)
}

func jobFor(c content.Content) *job.Job {
	j := job.Default()
	j.Content = c
	return &j
}
