package ink

// Red light is what scanners of the trade shine, 660 nm. What a colour throws back of it does not follow from what it looks
// like: sRGB says nothing about one wavelength. What can be said is within which bounds it lies if the colour is printed from
// process inks.

// passes is how much of light of 660 nm a solid of cyan, magenta, yellow and black lets through twice, at least and at most
// over the inks of several makers: our working figures, after published spectra of offset inks. Magenta and yellow are as
// good as paper to a scanner.
var passes = [2]CMYK{{0.08, 0.72, 0.82, 0.03}, {0.18, 0.92, 0.96, 0.07}}

// At660 gives the bounds of the reflectance of a colour at 660 nm, printed from process inks on a stock of a reflectance;
// black may have taken over what the others have in common, or not.
func (c Colour) At660(stock float64) (least, most float64) {
	separations := []CMYK{c.Plates()}
	if !c.Separated && c != Black {
		share := func(v uint8) float64 { return (1 - float64(v)/255) * 100 }
		separations = append(separations, CMYK{share(c.R), share(c.G), share(c.B), 0})
	}
	least = 1
	for _, s := range separations {
		for k, solid := range passes {
			r := stock
			for i, a := range s { // each ink by the share of area that it covers (Murray and Davies)
				r *= 1 - a/100*(1-solid[i])
			}
			if k == 0 {
				least = min(least, r)
			} else {
				most = max(most, r)
			}
		}
	}
	return least, most
}
