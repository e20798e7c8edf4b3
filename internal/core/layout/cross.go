package layout

import (
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// Cross is the Swiss cross of a QR-bill in the middle of a symbol with a side of side units, the origin at its corner: 7 of 46
// wide, a white border around a black square, in it the white cross whose arms are a sixth longer than wide (Swiss Implementation
// Guidelines QR-bill, clause 6.4.2; Federal Act on the Protection of the Swiss Coat of Arms, annex 1).
func Cross(side float64, at scene.Transform) []scene.Item {
	mm := side / 46
	middle := side / 2
	square := func(width, height float64) scene.Path {
		return scene.Rectangle(middle-width*mm/2, middle-height*mm/2, width*mm, height*mm)
	}
	const arm = 7.0 / 6 // width of an arm
	const long = arm * 10 / 3
	cross := square(arm, long)
	cross.Append(square(long, arm))
	item := func(name string, p scene.Path, fill ink.Colour) scene.Item {
		return scene.Item{Name: name, Path: p, At: at, Fill: fill}
	}
	return []scene.Item{item("border", square(7, 7), ink.White), item("square", square(6.2, 6.2), ink.Black),
		item("cross", cross, ink.White)}
}
