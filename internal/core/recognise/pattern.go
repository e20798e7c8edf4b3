package recognise

import (
	"regexp"
	"sync"
)

// pattern is a regular expression that is made when it is needed first: together they would take a tenth of a program's start.
type pattern struct {
	text string
	once sync.Once
	made *regexp.Regexp
}

func later(text string) *pattern { return &pattern{text: text} }

func (p *pattern) re() *regexp.Regexp {
	p.once.Do(func() { p.made = regexp.MustCompile(p.text) })
	return p.made
}

func (p *pattern) MatchString(s string) bool              { return p.re().MatchString(s) }
func (p *pattern) FindString(s string) string             { return p.re().FindString(s) }
func (p *pattern) FindStringIndex(s string) []int         { return p.re().FindStringIndex(s) }
func (p *pattern) FindStringSubmatch(s string) []string   { return p.re().FindStringSubmatch(s) }
func (p *pattern) FindStringSubmatchIndex(s string) []int { return p.re().FindStringSubmatchIndex(s) }
func (p *pattern) FindAllString(s string, n int) []string { return p.re().FindAllString(s, n) }
func (p *pattern) ReplaceAllString(s, with string) string { return p.re().ReplaceAllString(s, with) }
