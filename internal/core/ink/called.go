package ink

// plain are colours that people name without looking them up, by a name of CSS (CSS Color 4, 6.1) or as they are, and what we
// call them. A word may stand for several.
var plain = []struct{ css, word string }{{"black", "Black"}, {"dimgray", "Dark grey"}, {"darkgray", "Grey"}, {"gainsboro",
	"Pale grey"},
	{"maroon", "Dark red"}, {"crimson", "Red"}, {"lightcoral", "Pale red"}, {"saddlebrown", "Brown"}, {"tan", "Sand"},
	{"darkorange", "Orange"}, {"gold", "Yellow"}, {"khaki", "Pale yellow"}, {"olive", "Olive"}, {"darkgreen", "Dark green"},
	{"darkslategray", "Dark teal"}, {"seagreen", "Green"}, {"lightgreen", "Pale green"}, {"teal", "Teal"}, {"navy", "Navy"},
	{"royalblue", "Blue"}, {"skyblue", "Pale blue"}, {"indigo", "Violet"}, {"plum", "Lilac"}, {"hotpink", "Pink"},
	{"#5a2d0c", "Brown"}, {"#5b1f33", "Dark red"}, {"#a8321f", "Red"}, {"#e9a820", "Yellow"}}

// Called is what a colour might be called until somebody gives it a name: the plain word that looks most like it, by distance in
// sRGB.
func (c Colour) Called() string {
	least, word := 1<<30, ""
	for _, p := range plain {
		k, _, _ := CSS(p.css)
		r, g, b := int(c.R)-int(k.R), int(c.G)-int(k.G), int(c.B)-int(k.B)
		if d := r*r + g*g + b*b; d < least {
			least, word = d, p.word
		}
	}
	return word
}
