package leads

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/gabriel-vasile/mimetype"

	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Served is a file of ours that a short link may lead to.
type Served struct {
	Name   string `json:"n"` // in the address: small letters, digits, hyphens, and its ending
	Type   string `json:"m"` // media type
	Size   int    `json:"s"` // bytes
	Digest string `json:"d"` // SHA-256 in hexadecimal, of the file
	Inline bool   `json:"i,omitempty"`
	ID     string `json:"-"`
}

// MaxServed is how large a file may be, in bytes.
const MaxServed = 20 << 20

// FilesBelow is the path of a host below which its files stand: an id that cannot be guessed, and a name.
const FilesBelow = "/f/"

// IsServed says that a content is the address of a file of ours, on a host of short links; base is its scheme and name.
func IsServed(c content.Content, base string) bool {
	u, web := c.(*content.URL)
	return web && base != "" && strings.HasPrefix(u.Payload(), base+FilesBelow)
}

// FileNeeds is what a fixed code needs that says such an address.
const FileNeeds = "Fixed address of a file on this server. It needs this server, or the leaving pack."

// kindsServed are the files that phones open: the endings that a name may have, the first usual, and whether browsers show them
// themselves. What could run in a browser is none of them.
var kindsServed = []struct {
	media   string
	inline  bool
	endings []string
}{
	{"application/pdf", true, []string{".pdf"}},
	{"image/png", true, []string{".png"}}, {"image/jpeg", true, []string{".jpg", ".jpeg"}}, {"image/gif", true, []string{".gif"}},
	{"image/webp", true, []string{".webp"}}, {"image/avif", true, []string{".avif"}},
	{"audio/mpeg", true, []string{".mp3"}}, {"audio/mp4", true, []string{".m4a"}}, {"audio/x-m4a", true, []string{".m4a"}},
	{"audio/ogg", true, []string{".ogg", ".oga"}}, {"audio/wav", true, []string{".wav"}},
	{
		"video/mp4",
		true,
		[]string{".mp4", ".m4v"},
	}, {"video/webm", true, []string{".webm"}}, {"video/quicktime", true, []string{".mov"}},
	{"application/vnd.openxmlformats-officedocument.wordprocessingml.document", false, []string{".docx"}},
	{"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", false, []string{".xlsx"}},
	{"application/vnd.openxmlformats-officedocument.presentationml.presentation", false, []string{".pptx"}},
	{"application/vnd.oasis.opendocument.text", false, []string{".odt"}},
	{"application/vnd.oasis.opendocument.spreadsheet", false, []string{".ods"}},
	{"application/vnd.oasis.opendocument.presentation", false, []string{".odp"}},
	{"application/epub+zip", false, []string{".epub"}}, {"application/zip", false, []string{".zip"}},
}

// TypesServed are the media types of those files with their endings, as nginx writes them.
func TypesServed() string {
	var b strings.Builder
	seen := map[string]bool{}
	for _, k := range kindsServed {
		for _, e := range k.endings {
			if !seen[e] {
				seen[e] = true
				fmt.Fprintf(&b, "%s %s; ", k.media, e[1:])
			}
		}
	}
	return b.String()
}

// MediaServed are the media types of those files.
func MediaServed() (out []string) {
	for _, k := range kindsServed {
		out = append(out, k.media)
	}
	return out
}

// ServedOf says how a file is served, by what it holds and what it is called; nil with a problem for one that is not.
func ServedOf(name string, data []byte) (*Served, *problem.Problem) {
	bad := func(code, message string, args ...any) (*Served, *problem.Problem) {
		return nil, &problem.Problem{Field: "/file", Code: code, Message: fmt.Sprintf(message, args...)}
	}
	switch {
	case len(data) == 0:
		return bad("file.empty", "is empty")
	case len(data) > MaxServed:
		return bad("file.large", "is larger than %d megabytes", MaxServed>>20)
	}
	kind := mimetype.Detect(data)
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	for _, k := range kindsServed {
		if !kind.Is(k.media) {
			continue
		}
		if bytes.HasPrefix(data, []byte("PK")) {
			if why := unsafeZip(data, k.media); why != "" {
				return bad("file.runs", "%s", why)
			}
		}
		base, ending := name, k.endings[0]
		if at := strings.LastIndexByte(name, '.'); at >= 0 {
			base = name[:at]
			for _, e := range k.endings {
				if strings.EqualFold(name[at:], e) {
					ending = e
				}
			}
		}
		if base = plainName(base); base == "" {
			base = "file"
		}
		return &Served{Name: base + ending, Type: k.media, Size: len(data), Inline: k.inline}, nil
	}
	what, _, _ := strings.Cut(kind.String(), ";")
	return bad("file.kind", "is %s; give a PDF, a picture, sound, film, or an office document", what)
}

// maxName is how long the name of a file in an address is at most, without its ending.
const maxName = 60

// plainName is a name in the letters of an address.
func plainName(name string) string {
	out := slug(strings.Map(func(r rune) rune {
		if r >= utf8.RuneSelf {
			return ' '
		}
		return r
	}, name))
	return strings.Trim(out[:min(len(out), maxName)], "-")
}

// Encode writes how a file is served for a bucket.
func (s Served) Encode() []byte {
	b, err := json.Marshal(s)
	if err != nil {
		panic("leads: " + err.Error()) // plain values alone
	}
	return b
}

// DecodeServed reads what Encode wrote.
func DecodeServed(text []byte) (*Served, error) {
	s := &Served{}
	if err := json.Unmarshal(text, s); err != nil {
		return nil, fmt.Errorf("leads: how a file is served cannot be read: %w", err)
	}
	return s, nil
}
