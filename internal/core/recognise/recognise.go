// Package recognise tells what a pasted text is: ranked guesses of content. So far it knows web addresses.
package recognise

import (
	"regexp"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Guess is one reading of the text.
type Guess struct {
	Took    string // "A web address"
	Content content.Content
}

// bareAddress is a host name of at least two labels, then a port, path, query, fragment or nothing; no space, no @.
var bareAddress = regexp.MustCompile(`(?i)^[\p{L}\p{N}][\p{L}\p{N}\p{So}.-]*\.[\p{L}]{2,}(:\d+)?([/?#].*)?$`)

// Text guesses what text is. Where it plainly means to be something and is wrong, the problems say so; where it is nothing
// known, both are nil and the text is words to search for.
func Text(text string) ([]Guess, problem.List) {
	s := strings.TrimSpace(text)
	if s == "" {
		return nil, nil
	}
	scheme, _, has := strings.Cut(strings.ToLower(s), ":")
	meant := has && (scheme == "http" || scheme == "https" || scheme == "javascript" || scheme == "data" || scheme == "file")
	if !meant && !bareAddress.MatchString(s) {
		return nil, nil
	}
	u, problems := content.NewURL(s)
	if len(problems) > 0 {
		return nil, problems
	}
	return []Guess{{Took: "A web address", Content: u}}, nil
}
