package table

import (
	"io"
	"strings"

	"sodrik/internal/core/content"
)

// cards gives the cards or dates of a text one after the other, as what each holds under its pointers.
type cards struct {
	text, kind string
	line       int // how many lines were read
}

// next is the next card or date; the error is io.EOF at the end, and a problem where one is beyond the bounds.
func (c *cards) next() (map[string]string, error) {
	for {
		one, err := c.cut()
		if err != nil {
			return nil, err
		}
		list := content.Events(one)
		if c.kind == "contact" {
			list = content.VCards(one)
		}
		if len(list) > 0 {
			out := map[string]string{}
			flatten("/content", list[0], out)
			return out, nil
		}
	}
}

// cut gives the lines of one card or date. Pictures, sounds and keys are left out: no code holds them, and they may be long.
func (c *cards) cut() (string, error) {
	begin, end := "begin:vevent", "end:vevent"
	if c.kind == "contact" {
		begin, end = "begin:vcard", "end:vcard"
	}
	var out strings.Builder
	lines, chars, within, skips := 0, 0, false, false
	for c.text != "" {
		c.line++
		i := strings.IndexAny(c.text, "\r\n")
		line := c.text
		if i < 0 {
			c.text = ""
		} else {
			line = c.text[:i]
			ended := 1
			if strings.HasPrefix(c.text[i:], "\r\n") {
				ended = 2
			}
			c.text = c.text[i+ended:]
		}
		at := strings.ToLower(strings.TrimSpace(line[:min(len(line), 100)]))
		if at == begin {
			within, lines, chars = true, 0, 0
			out.Reset()
		}
		folded := strings.HasPrefix(line, " ") || strings.HasPrefix(line, "\t")
		if skips = folded && skips || !folded && isPicture(at); skips || !within {
			continue
		}
		if !folded {
			lines, chars = lines+1, 0
		}
		switch chars += len(line); {
		case lines > maxLines:
			return "", bad("rows.lines", "hold a card or date of more than %d lines, up to line %d; leave some out", maxLines,
				c.line)
		case chars > 4*MaxCell:
			return "", bad("rows.long", "hold a text of more than %d characters in line %d; shorten it", MaxCell, c.line)
		}
		out.WriteString(line + "\n")
		if at == end {
			return out.String(), nil
		}
	}
	return "", io.EOF
}

// isPicture says that a line, in small letters, holds a picture, a sound or a key (RFC 2426, 3.1.4, 3.5.3, 3.6.6, 3.7.2; RFC
// 5545, 3.8.1.1).
func isPicture(line string) bool {
	name := line
	if i := strings.IndexAny(line, ";:"); i >= 0 {
		name = line[:i]
	}
	switch name[strings.LastIndexByte(name, '.')+1:] {
	case "photo", "logo", "sound", "key", "attach":
		return true
	}
	return false
}
