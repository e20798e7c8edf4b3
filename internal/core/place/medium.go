package place

import (
	"embed"
	"encoding/json"
	"math"
	"regexp"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Medium is a thing that carries a code, with the habits of its kind. Each that comes along is a file under media/, in the
// form that ReadMedium reads; a workspace keeps its own.
type Medium struct {
	Key       string // "seed-packet"; one of a workspace begins with OwnKey
	Name      string
	Group     string // one of Groups
	Substrate string
	Light     string
	Width     measure.Length    // usual side of the code, quiet zone included
	Distance  measure.Length    // usual distance of the person
	Size      [2]measure.Length // of the thing, wide and high
	Radius    measure.Length    // of what is round; 0 is flat
	At        [2]measure.Length // where the code begins on the thing, from the left and the top; zeros are its middle
	Screen    [2]int            // pixels of the thing where it is shown, wide and high; 0 is none
	Glass     bool              // people look through glass
	Moving    bool
	Round     bool // what is shown of it is a disc

	order int
}

// Groups of media, in the order in which they are offered; the last is for those of a workspace.
var Groups = []string{"Handed over", "Goods", "Put up", "Shown", "Your own"}

// OwnKey begins the key of a medium that a workspace keeps.
const OwnKey = "own:"

// MaxMediumName bounds the name of a medium, in bytes.
const MaxMediumName = 60

//go:embed media/*.json
var mediaFiles embed.FS

// Media are those that come along.
var Media = shippedMedia()

func shippedMedia() (out []Medium) {
	list, err := mediaFiles.ReadDir("media")
	if err != nil {
		panic(err) // it is part of the program
	}
	for _, entry := range list {
		text, err := mediaFiles.ReadFile("media/" + entry.Name())
		if err != nil {
			panic(err)
		}
		v, err := fields.Decode(text)
		if err != nil {
			panic(entry.Name() + ": " + err.Error())
		}
		var problems problem.List
		o := fields.Open(v, "", &problems)
		order := o.Int("order", 1, 1, 1000)
		m := ReadMedium(o)
		if m.order = order; len(problems) > 0 {
			panic(entry.Name() + ": " + problems.Error())
		}
		out = append(out, m)
	}
	slices.SortFunc(out, func(a, b Medium) int { return a.order - b.order })
	return out
}

var mediumKey = regexp.MustCompile(`^(` + OwnKey + `)?[a-z0-9][a-z0-9-]{0,39}$`)

// ReadMedium reads a medium: key, name, group, substrate, light, width_mm, distance_mm, size_mm [wide, high], and where they
// matter at_mm [from the left, from the top], radius_mm, screen [wide, high] in pixels, behind_glass, moving and round. Every
// problem is noted.
func ReadMedium(o *fields.Object) Medium {
	m := Medium{Key: o.String("key"), Name: strings.TrimSpace(o.String("name")), Group: o.OneOf("group", Groups...)}
	if !mediumKey.MatchString(m.Key) && o.Sound("key") {
		o.Problem("key", "place.medium", "is %.60q; a key has small letters, digits and hyphens", m.Key)
	}
	if n := len(m.Name); (n == 0 || n > MaxMediumName) && o.Sound("name") {
		o.Problem("name", "place.medium",
			"is missing or longer than %d bytes; call it what you call the thing, such as herb label", MaxMediumName)
	}
	m.Substrate = o.OneOf("substrate", keysOf(Substrates)...)
	m.Light = o.OneOf("light", Lights...)
	m.Width = length(o, "width_mm", 0, MinWidth, MaxWidth, "the side of the symbol with its quiet zone")
	m.Distance = length(o, "distance_mm", 10*float64(m.Width), MinDistant, MaxDistant, "from the phone to the code")
	w, h := pair(o, "size_mm", MinSurface, MaxSurface, "millimetres wide and high, such as [82, 118]")
	m.Size = [2]measure.Length{measure.Length(w), measure.Length(h)}
	x, y := pair(o, "at_mm", 1, MaxSurface, "millimetres from the left and from the top, such as [223, 12]")
	m.At = [2]measure.Length{measure.Length(x), measure.Length(y)}
	if o.Has("screen") {
		w, h := pair(o, "screen", MinPixels, MaxScreenPixels, "pixels wide and high, such as [1920, 1080]")
		m.Screen = [2]int{int(w), int(h)}
	}
	m.Radius = radius(o)
	m.Glass, m.Moving, m.Round = o.Bool("behind_glass", false), o.Bool("moving", false), o.Bool("round", false)
	o.Close()
	return m
}

func keysOf(list []Substrate) (out []string) {
	for _, s := range list {
		out = append(out, s.Key)
	}
	return out
}

// pair reads two numbers, both within bounds; zeros where there are none.
func pair(o *fields.Object, key string, least, most float64, what string) (a, b float64) {
	if !o.Has(key) {
		return 0, 0
	}
	list := o.List(key)
	if len(list) == 2 {
		a, okA := fields.Float(list[0])
		b, okB := fields.Float(list[1])
		if okA && okB && a >= least && a <= most && b >= least && b <= most {
			return a, b
		}
	}
	if o.Sound(key) {
		o.Problem(key, "place.size", "is not two numbers from %s to %s: %s", measure.Number(least, 1),
			measure.Count(int(most)), what)
	}
	return 0, 0
}

// MarshalJSON writes the form that ReadMedium reads.
func (m Medium) MarshalJSON() ([]byte, error) {
	out := map[string]any{"key": m.Key, "name": m.Name, "group": m.Group, "substrate": m.Substrate, "light": m.Light,
		"width_mm": schema.Millimetres(m.Width), "distance_mm": schema.Millimetres(m.Distance)}
	if m.Size[0] > 0 {
		out["size_mm"] = []float64{schema.Millimetres(m.Size[0]), schema.Millimetres(m.Size[1])}
	}
	if m.At[0] > 0 {
		out["at_mm"] = []float64{schema.Millimetres(m.At[0]), schema.Millimetres(m.At[1])}
	}
	if m.Screen[0] > 0 {
		out["screen"] = m.Screen
	}
	if m.Radius > 0 {
		out["radius_mm"] = schema.Millimetres(m.Radius)
	}
	for key, on := range map[string]bool{"behind_glass": m.Glass, "moving": m.Moving, "round": m.Round} {
		if on {
			out[key] = true
		}
	}
	return json.Marshal(out)
}

// MediumOf finds a medium that comes along by its key.
func MediumOf(key string) (Medium, bool) {
	for _, m := range Media {
		if m.Key == key {
			return m, true
		}
	}
	return Medium{}, false
}

// Own says whether a key is that of a medium that a workspace keeps. What it is like is not known here: a placement holds all
// that follows.
func Own(key string) bool { return strings.HasPrefix(key, OwnKey) && mediumKey.MatchString(key) }

// Surface is the thing of a medium as a plain sheet, by key of the job file, with the code where it usually lies on it; nil where
// it lies in the middle.
func (m Medium) Surface() map[string]any {
	if m.At[0] == 0 || m.Size[0] == 0 {
		return nil
	}
	return map[string]any{"width_mm": float64(m.Size[0]), "height_mm": float64(m.Size[1]), "x_mm": float64(m.At[0]),
		"y_mm": float64(m.At[1])}
}

// Habits are what a placement takes from its medium, by key of the job file; a nil takes the key away.
func (m Medium) Habits() map[string]any {
	out := map[string]any{"medium": m.Key, "substrate": m.Substrate, "light": m.Light, "width_mm": float64(m.Width),
		"distance_mm": float64(m.Distance),
		"radius_mm":   nil, "behind_glass": nil, "moving": nil, "pixels": nil}
	if m.Radius > 0 {
		out["radius_mm"] = float64(m.Radius)
	}
	if m.Glass {
		out["behind_glass"] = true
	}
	if m.Moving {
		out["moving"] = true
	}
	if m.Screen[0] > 0 && m.Size[0] > 0 { // as many as the code covers of it
		out["pixels"] = math.Round(float64(m.Width/m.Size[0]) * float64(m.Screen[0]))
	}
	return out
}
