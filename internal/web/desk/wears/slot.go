package wears

import (
	"sodrik/internal/code"
)

// LookSlot is what the desk says of the look that a code came from, and how it is kept.
type LookSlot struct {
	CodeID  string
	Line    string // "Pebble, altered"
	Change  string // key of the look of the house that can be changed to what the code wears, "" for none
	Name    string // of it
	Drafts  int    // further codes that wear it unaltered
	Typed   string // a name that could not be taken
	Problem string
	Done    string
}

// LookSlotOf says what a code came from.
func LookSlotOf(c *code.Code) LookSlot {
	s := LookSlot{CodeID: c.ID, Line: "of its own"}
	if l, ok := c.House.Find(code.From(c.Draft)); ok {
		if s.Line = l.Name; code.Altered(c.Draft, l) {
			s.Line += ", altered"
			if _, own := c.House.Look(l.Key); own {
				s.Change, s.Name = l.Key, l.Name
			}
		}
	}
	return s
}
