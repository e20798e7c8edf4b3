// Package export holds what all writers of files share: what a file says of itself, and its name. The writers are in its
// folders: svg, pdf, bitmap.
package export

import (
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sodrik/internal/core/measure"
)

// Meta is what a file says of itself. Time is a parameter: the same job, version and time give the same bytes.
type Meta struct {
	Title   string    // name of the code and its place
	Payload string    // what it encodes
	Created time.Time // zero: leave dates out
}

// Producer names this program in files.
const Producer = "Sodrik"

// FileName makes a name that means something: "fair-gate-poster_160mm_v1.svg". Width 0 leaves the size out, version 0 is a
// draft and leaves the version out.
func FileName(name string, width measure.Length, version int, ending string) string {
	return UsualNames.File(Named{Name: name, Width: width, Version: version}, ending)
}

// Slug is text as lower-case ASCII letters, digits and single hyphens, accents taken off; "code" where nothing is left.
func Slug(s string) string {
	s = strings.NewReplacer("ß", "ss", "æ", "ae", "ø", "o", "œ", "oe", "ł", "l", "đ", "d").Replace(strings.ToLower(s))
	var b strings.Builder
	gap := false
	for _, r := range norm.NFD.String(s) {
		switch {
		case r < 0x80 && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			if gap && b.Len() > 0 {
				b.WriteByte('-')
			}
			gap = false
			b.WriteRune(r)
		case !unicode.Is(unicode.Mn, r):
			gap = true
		}
	}
	if b.Len() == 0 {
		return "code"
	}
	if b.Len() > 80 {
		return strings.TrimRight(b.String()[:80], "-")
	}
	return b.String()
}
