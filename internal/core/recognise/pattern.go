package recognise

import (
	"regexp"
	"sync"
)

// later makes a regular expression when it is needed first: made at once, they would take a tenth of a program's start.
func later(text string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(text) })
}
