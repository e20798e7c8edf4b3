package press

import (
	"embed"
	"sync"
)

//go:generate go run ./gen

//go:embed data
var tables embed.FS

// A table gives the inks of pixels, which are too many to be solved for one by one: TableSteps steps of red, green and blue
// each, a byte an ink.
const (
	TableSteps = 17
	TableSize  = TableSteps * TableSteps * TableSteps * 4
)

var tableOnce [4]sync.Once
var tableOf [4][]byte

func (c *Condition) table() []byte {
	for i, one := range Conditions {
		if one != c {
			continue
		}
		tableOnce[i].Do(func() {
			b, err := tables.ReadFile("data/" + c.Key + ".table")
			if err != nil || len(b) != TableSize {
				panic("the table of " + c.Key + " is not there; run go generate") // it is part of the program
			}
			tableOf[i] = b
		})
		return tableOf[i]
	}
	panic("no such condition")
}

// Pixel is the inks of a pixel, 0 to 255 each, between those of the table's eight colours around it.
func (c *Condition) Pixel(r, g, b uint8) (inks [4]uint8) {
	t := c.table()
	at := func(v uint8) (int, int) {
		p := int(v) * (TableSteps - 1)
		return min(p/255, TableSteps-2), p - min(p/255, TableSteps-2)*255
	}
	ri, rf := at(r)
	gi, gf := at(g)
	bi, bf := at(b)
	for k := range 4 {
		sum := 0
		for i := range 8 {
			w := 1
			pick := func(bit, share int) int {
				if i>>bit&1 == 1 {
					w *= share
					return 1
				}
				w *= 255 - share
				return 0
			}
			x, y, z := ri+pick(0, rf), gi+pick(1, gf), bi+pick(2, bf)
			sum += w * int(t[((x*TableSteps+y)*TableSteps+z)*4+k])
		}
		inks[k] = uint8((sum + 255*255*255/2) / (255 * 255 * 255))
	}
	return inks
}
