package reads

import (
	"html/template"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
)

// Slider is one circumstance under which the camera looks.
type Slider struct {
	Name, Label       string
	Least, Most, Step string
	Value, Unit       string
}

// Sliders in the order of what usually matters.
var Sliders = []Slider{
	{"distance", "Distance", "10", "400", "5", "100", " %"},
	{"tilt", "Leaning back", "0", "75", "1", "0", "°"},
	{"side", "From the side", "0", "75", "1", "0", "°"},
	{"curve", "Around a bottle", "0", "150", "2", "0", "°"},
	{"blur", "Out of focus", "0", "200", "2", "0", " %"},
	{"light", "Light", "1", "100", "1", "100", " %"},
	{"shade", "Shadow", "0", "95", "1", "0", " %"},
	{"glare", "Glare", "0", "100", "1", "0", " %"},
	{"wear", "Worn", "0", "30", "1", "0", " %"},
}

// Seen is the picture with the readers' answers.
type Seen struct {
	Picture template.URL
	Words   string
	Answers []Answer
}

// Answer is what one reader makes of it.
type Answer struct {
	Reader, Says string
	Read         bool
}

// AnswerOf says what a reader made of a picture.
func AnswerOf(x proof.Reading) Answer {
	a := Answer{Reader: proof.ReaderName(x.Reader), Says: "does not read it", Read: x.Read}
	switch {
	case x.Read:
		a.Says = "reads it in " + measure.Number(x.MS, 0) + " ms"
	case x.Payload != "":
		a.Says = "reads something else"
	case x.Inverted:
		a.Says = "reads it with dark and light exchanged"
	case x.Error != "":
		a.Says = "did not answer"
	}
	return a
}
