package export

import (
	"fmt"
	"regexp"
	"strings"

	"sodrik/internal/core/measure"
)

// Names is how files are called: literal text with {name}, {place}, {width} and {version} in it. Where one of them is empty,
// it goes with the text before it.
type Names string

// UsualNames makes "fair-gate-poster_160mm_v1", with the place where there are several.
const UsualNames Names = "{name}-{place}_{width}_v{version}"

// MaxNames bounds a pattern, in bytes.
const MaxNames = 80

var (
	namePart = regexp.MustCompile(`\{[^{}]*\}`)
	nameText = regexp.MustCompile(`^[A-Za-z0-9 _.-]*$`)
)

// Check says what is wrong with a pattern, as a sentence without its subject; "" is nothing.
func (n Names) Check() string {
	for _, p := range namePart.FindAllString(string(n), -1) {
		if p != "{name}" && p != "{place}" && p != "{width}" && p != "{version}" {
			return fmt.Sprintf("has %s, which is none of {name}, {place}, {width} and {version}", p)
		}
	}
	text := namePart.ReplaceAllString(string(n), "")
	switch {
	case len(n) > MaxNames:
		return fmt.Sprintf("is longer than %d characters", MaxNames)
	case !nameText.MatchString(text):
		return "has a character that some systems do not take in a file name; letters, digits, blanks, hyphens, underscores " +
			"and points do"
	case !strings.Contains(string(n), "{name}"):
		return "lacks {name}, so all files would be called alike"
	case strings.HasPrefix(string(n), "."):
		return "begins with a point, which hides files"
	}
	return ""
}

// Named is what a file is called by.
type Named struct {
	Name, Place string         // Place "" where there is only one
	Width       measure.Length // 0 leaves it out
	Version     int            // 0 is a draft and leaves it out
}

// File makes a name. "" is UsualNames.
func (n Names) File(of Named, ending string) string {
	if n == "" {
		n = UsualNames
	}
	values := map[string]string{"{name}": Slug(of.Name)}
	if of.Place != "" {
		values["{place}"] = Slug(of.Place)
	}
	if of.Width > 0 {
		values["{width}"] = measure.Number(float64(of.Width), 1) + "mm"
	}
	if of.Version > 0 {
		values["{version}"] = measure.Number(float64(of.Version), 0)
	}
	var b strings.Builder
	rest := string(n)
	for _, at := range namePart.FindAllStringIndex(string(n), -1) {
		from := len(n) - len(rest)
		if v := values[string(n)[at[0]:at[1]]]; v != "" {
			b.WriteString(string(n)[from:at[0]] + v)
		}
		rest = string(n)[at[1]:]
	}
	name := strings.Trim(b.String()+rest, " ._-")
	if name == "" {
		name = "code"
	}
	return name + "." + ending
}
