package proof

import (
	"image"
	"math"
	"math/rand/v2"

	"sodrik/internal/core/optics"
	"sodrik/internal/core/place"
	"sodrik/internal/core/raster"
)

// Model names this set of conditions and the optics behind it; proofs made with another are not mixed with it.
const Model = "12"

// Stage is a part of a proof that is made at a time.
type Stage string

// Stages, in the order in which they are made. The verdict follows from Ordinary; the others tell how far it goes beyond, and
// change it only where a reader reads something else than was meant.
const (
	Ordinary Stage = "ordinary" // the files themselves, and all that is usual at the place
	Hard     Stage = "hard"
	Abuse    Stage = "abuse"
	Range    Stage = "range"  // a ladder of distances
	Margins  Stage = "margin" // how much worse it may get

	// Better belongs to Ordinary: what an ordinary phone loses is looked at with a good one.
	Better Stage = "better"
)

// Stages lists them.
var Stages = []Stage{Ordinary, Hard, Abuse, Range, Margins}

// Condition is a circumstance under which readers are shown a code.
type Condition struct {
	Key   string
	Words string // completes "it is read": "from its distance"
	Stage Stage  // at this place
	Draws int

	camera *optics.Camera // nil: an ordinary phone's
	page   page           // around a round tile; 0 where there is none
	setup  circumstance
	each   []circumstance // in place of setup: draws take them in turn
	after  func(*image.Gray) *image.Gray
	file   func(Input) (*image.Gray, error) // in place of a camera
}

// circumstance changes how a phone sees a code at its place.
type circumstance func(p *Pixels, c *optics.Setup, rng *rand.Rand)

// Pixels are lengths that a condition is made of.
type Pixels struct {
	Width, Module float64 // millimetres
	Near          float64 // nearest distance at which the code fits the frame and the lens is sharp
}

// draws is how often each condition is drawn. Offsets, turns, directions and noise of a draw follow from the condition and
// its number alone, not from the code, so that nobody can draw again until it fits.
const draws = 5

// Conditions are those of the place, ordinary ones first. Some that are hard elsewhere are ordinary where light, medium or
// substrate bring them about.
func Conditions(in Input) []Condition {
	to := conditions{list: ofFiles(in), draws: draws}
	if in.Placement == nil {
		return to.list
	}
	if in.Brief {
		to.draws = 2
	}
	to.ordinary()
	to.hard(in)
	to.ofSurface(in)
	to.abuse(in)
	to.phones(in)
	return to.list
}

// ofFiles are the files themselves as readers are given them, without a camera.
func ofFiles(in Input) []Condition {
	out := []Condition{
		{Key: "picture", Words: "in the PNG", Stage: Ordinary, Draws: 1, file: func(in Input) (*image.Gray, error) {
			return in.File, nil
		}},
		{Key: "outlines", Words: "in the outlines of the vector files", Stage: Ordinary, Draws: 1,
			file: func(in Input) (*image.Gray, error) {
				modules := in.Symbol.Size + 2*in.QuietZone
				return expose(in, modules*max(2, min(8, maxFrame/modules)), groundOf(in))
			}},
	}
	if in.Framed != nil {
		out = append(out, Condition{Key: "framed", Words: "in its frame", Stage: Ordinary, Draws: 1,
			file: func(in Input) (*image.Gray, error) {
				per := max(2, min(6, maxFrame*modulesOf(in)/max(in.Framed.Width,
					in.Framed.Height)*in.Scene.Width/modulesOf(in)/modulesOf(in)))
				scale := per * modulesOf(in) / in.Scene.Width // pixels a millimetre
				v := raster.View{Width: int(math.Ceil(in.Framed.Width*scale)) + 16,
					Height: int(math.Ceil(in.Framed.Height*scale)) +
						16, Scale: scale, X: 8, Y: 8}
				y, err := raster.Luminance(in.Framed, v, groundOf(in))
				if err != nil {
					return nil, err
				}
				return raster.Gray(y, v.Width), nil
			}})
	}
	return out
}

// conditions are gathered, of so many draws each.
type conditions struct {
	list  []Condition
	draws int
}

func (to *conditions) add(set Stage, key, words string, setup circumstance) {
	to.list = append(to.list, Condition{Key: key, Words: words, Stage: set, Draws: to.draws, setup: setup})
}

// ordinary is what everybody meets with.
func (to *conditions) ordinary() {
	to.add(Ordinary, "distance", "from its distance", func(*Pixels, *optics.Setup, *rand.Rand) {})
	to.add(Ordinary, "nearer", "from half the distance", func(p *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Distance = max(p.Near, c.Distance/2)
	})
	to.list[len(to.list)-1].Draws = min(to.draws, 3) // large pictures, of which few are lost
	to.add(Ordinary, farther, "half as far again", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Distance *= 1.5 })
	to.add(Ordinary, "smaller", "at 85 % of its width", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { smaller(c, 0.85) })
	to.add(Ordinary, "slant", "held a little askew", func(_ *Pixels, c *optics.Setup, rng *rand.Rand) { lean(c, 18, rng) })
	to.add(Ordinary, "uneven", "in weaker, uneven light", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Level, c.Uneven = 0.6*c.Level, 0.4
	})
	to.add(Ordinary, "hand", "in a hand that shakes a little", func(p *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Motion, c.Blur = 0.2*p.Module, 0.1*p.Module
	})
}

// heavily is how many times as far ink spreads in the print that a poor phone looks at. Presses spread it half as far again now
// and then; where modules are small against the spread, that and a soft lens together are where a family of readers loses codes
// that all else lets pass, and its model has to lie beyond the worst that is met with.
const heavily = 2.0

// phones adds what is seen with other phones than an ordinary one: a poor one has to do from the distance, with a heavy print,
// and only where a good one fails in all that is ordinary is a code lost; its draws take the circumstances in turn.
func (to *conditions) phones(in Input) {
	words := "with a poor phone, printed heavily"
	if s, _ := place.SubstrateOf(in.Placement.Substrate); s.Gain == 0 {
		words = "with a poor phone"
	}
	to.add(Ordinary, poorPhone, words, func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Gain *= heavily })
	to.list[len(to.list)-1].camera = &optics.Poor
	to.list[len(to.list)-1].Draws = max(to.draws, 3) // so that one lost picture alone decides nothing, in brief proofs either
	good := Condition{Key: goodPhone, Words: "with a good phone, in all of these circumstances", Stage: Better,
		camera: &optics.Good}
	for _, c := range to.list {
		if c.Stage == Ordinary && c.setup != nil && c.page == 0 && c.camera == nil {
			good.each = append(good.each, c.setup)
		}
	}
	good.Draws = len(good.each)
	if to.draws == draws {
		good.Draws *= 2
	}
	to.list = append(to.list, good)
}

// hard is what happens, and is ordinary where the place is like that.
func (to *conditions) hard(in Input) {
	at := *in.Placement
	s, _ := place.SubstrateOf(at.Substrate)
	usual := func(ordinary bool) Stage {
		if ordinary {
			return Ordinary
		}
		return Hard
	}
	to.add(Hard, "leaning", "leaning back 45°", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.TiltX = 45 })
	to.add(Hard, "side", "from the side, 45°", func(_ *Pixels, c *optics.Setup, rng *rand.Rand) { c.TiltY = 45 * sign(rng) })
	to.add(Hard, "dusk", "at dusk", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Level = 0.02 })
	to.add(usual(at.Glass), "glare", "with a lamp mirrored in it", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Glare = 0.4
	})
	to.add(usual(at.Light == "outdoor" && !s.Screen), "shadow", "half in shadow", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Shade = 0.65
	})
	to.add(Hard, "focus", "out of focus", func(p *Pixels, c *optics.Setup, _ *rand.Rand) { c.Blur = 0.3 * p.Module })
	to.add(usual(at.Moving), "moving", "moving past", func(p *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Motion = 0.8 * p.Module
	})
	to.add(Hard, "bottle", "around a bottle", func(p *Pixels, c *optics.Setup, rng *rand.Rand) {
		if c.Radius == 0 { // where it is curved anyway, turned away instead
			c.Radius = p.Width / 1.1
		} else {
			c.TiltY = 20 * sign(rng)
		}
	})
}

// ofSurface is what happens on some surfaces alone: plates of a press, tiles and mirrors of screens.
func (to *conditions) ofSurface(in Input) {
	s, _ := place.SubstrateOf(in.Placement.Substrate)
	if n := platesOf(in); n > 1 && !s.Screen && !s.Bilevel {
		to.add(Hard, "plates", "with plates 0.2 mm off one another", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
			c.Misplaced = 2 * misplaced
		})
	}
	if _, _, _, ok := roundTile(in); ok {
		for _, t := range []struct {
			key, words string
			page
		}{{"tile", "in its round tile on a light page", pageLight}, {"tile-dark", "in its round tile on a dark page", pageDark}} {
			to.add(Ordinary, t.key, t.words, func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
				c.Around, c.Dot = tileAround(in), max(c.Dot, in.Surface.Dot)
			})
			to.list[len(to.list)-1].page = t.page
		}
	}
	if s.Screen {
		to.list = append(to.list, Condition{Key: "mirrored", Words: "mirrored, as a camera shows its own picture", Stage: Abuse,
			Draws: to.draws,
			setup: func(*Pixels, *optics.Setup, *rand.Rand) {}, after: mirrored})
	}
}

// abuse is what few codes survive; a little wear is merely hard outdoors and on soft stuff.
func (to *conditions) abuse(in Input) {
	at := *in.Placement
	worn := func(share float64) func(*Pixels, *optics.Setup, *rand.Rand) {
		return func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Wear = share }
	}
	handled := Abuse
	if at.Light == "outdoor" || at.Substrate == "textile" || at.Substrate == "kraft" {
		handled = Hard
	}
	to.add(handled, "worn", "with 1 % of it scratched and soiled", worn(0.01))
	to.add(Abuse, "worn-more", "with 5 % of it scratched and soiled", worn(0.05))
	to.add(Abuse, "worn-most", "with 12 % of it scratched and soiled", worn(0.12))
	to.add(Abuse, "far", "from twice the distance", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Distance *= 2 })
	to.add(Abuse, "folded", "folded across", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Fold = 1 })
	to.add(Abuse, "torn", "with the corner torn off that has no eye", func(_ *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Torn = 0.16
	})
	to.add(Abuse, "copied", "photocopied", func(p *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Gain, c.Dot, c.Bilevel, c.Wear = c.Gain+0.12*p.Module, 25.4/400, true, 0.01
	})
	to.add(Abuse, "heavy", "printed far too heavily", func(p *Pixels, c *optics.Setup, _ *rand.Rand) {
		c.Gain += 0.18 * p.Module
	})
	to.list = append(to.list, Condition{Key: "sent", Words: "photographed and sent on as a small JPEG", Stage: Abuse,
		Draws: to.draws,
		setup: func(p *Pixels, c *optics.Setup, _ *rand.Rand) {}, after: squeezed})
	to.add(Abuse, "all", "askew, half in shadow, scratched and in a restless hand, all at once",
		func(p *Pixels, c *optics.Setup, rng *rand.Rand) {
			lean(c, 24, rng)
			c.Shade, c.Wear, c.Motion = 0.3, 0.02, 0.3*p.Module
		})
}

// ConditionOf finds one of a place's conditions by its key.
func ConditionOf(in Input, key string) (Condition, bool) {
	for _, c := range Conditions(in) {
		if c.Key == key {
			return c, true
		}
	}
	return Condition{}, false
}

// smaller prints everything at a share of its width: seen from as much farther, and spread and dots are as much larger.
func smaller(c *optics.Setup, share float64) {
	c.Distance /= share
	c.Gain /= share
	c.Dot /= share
}

// lean tilts by an angle in some direction.
func lean(c *optics.Setup, angle float64, rng *rand.Rand) {
	sin, cos := math.Sincos(rng.Float64() * 2 * math.Pi)
	c.TiltX, c.TiltY = angle*sin, angle*cos
}

func sign(rng *rand.Rand) float64 { return float64(2*rng.IntN(2) - 1) }

// squeezed stores a picture as a chat would.
func squeezed(img *image.Gray) *image.Gray { return optics.Compressed(img, 22) }

func mirrored(img *image.Gray) *image.Gray {
	out := image.NewGray(img.Rect)
	w := img.Rect.Dx()
	for y := range img.Rect.Dy() {
		for x := range w {
			out.Pix[y*out.Stride+x] = img.Pix[y*img.Stride+w-1-x]
		}
	}
	return out
}

// hash is a seed from a name (FNV-1a).
func hash(s string) uint64 {
	h := uint64(14695981039346656037)
	for _, b := range []byte(s) {
		h = (h ^ uint64(b)) * 1099511628211
	}
	return h
}
