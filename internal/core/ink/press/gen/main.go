// Command gen writes the tables of package press: the inks of 17 × 17 × 17 colours of screens for each printing condition, a
// byte an ink.
package main

import (
	"log"
	"os"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
)

func main() {
	for _, c := range press.Conditions {
		out := make([]byte, 0, press.TableSize)
		for r := range press.TableSteps {
			for g := range press.TableSteps {
				for b := range press.TableSteps {
					at := func(i int) uint8 { return uint8(i * 255 / (press.TableSteps - 1)) }
					for _, share := range c.Separate(ink.Colour{R: at(r), G: at(g), B: at(b)}).CMYK {
						out = append(out, uint8(share*255/100+0.5))
					}
				}
			}
		}
		if err := os.WriteFile("data/"+c.Key+".table", out, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}
