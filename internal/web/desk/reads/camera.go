package reads

import (
	"html/template"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
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

// Phone is one through which the camera looks.
type Phone struct {
	Key, Words string
	Usual      bool
	Camera     optics.Camera
}

// Phones that a verdict knows.
var Phones = []Phone{{"good", "a good one", false, optics.Good}, {"ordinary", "an ordinary one", true, optics.Phone},
	{"poor", "a poor one", false, optics.Poor}}

// CameraOf is that of a phone by its key; an ordinary one's where there is no such phone.
func CameraOf(key string) optics.Camera {
	for _, p := range Phones {
		if p.Key == key {
			return p.Camera
		}
	}
	return optics.Phone
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
