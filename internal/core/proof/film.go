package proof

import (
	"context"
	"image"
	"math/rand/v2"
	"runtime"
	"sync"
	"sync/atomic"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/place"
)

// Usual is how a phone sees a code at its place: from its distance, in its light, around its curve, printed as its substrate
// lets ink spread. Without a place it is ten times the code's width away.
func Usual(in Input) optics.Setup {
	c := optics.Setup{Camera: optics.Phone, Distance: in.Scene.Width * 10, Level: 1, ShiftX: 0.37, ShiftY: 0.61,
		Around: in.Around, Seed: 1}
	if p := in.Placement; p != nil {
		c.Distance = max(float64(p.Distance), reach(in)[0])
		c.Level = map[string]float64{"indoor": 1, "outdoor": 3, "dim": 0.04}[p.Light]
		c.Radius = float64(p.Radius)
		if s, ok := place.SubstrateOf(p.Substrate); ok {
			c.Gain, c.Dot, c.Bilevel = s.Gain, s.Dot, s.Bilevel
		}
		if p.Pixels > 0 {
			c.Dot = in.Scene.Width / float64(p.Pixels)
		}
	}
	return c
}

// Bounds of the pictures that readers are handed.
const (
	maxPer    = 4   // pixels a module
	maxLooked = 560 // pixels a side, but two and a half a module at least
)

// scales are the shares of maxPer that the pictures of a near code have in turn: programs look at a scaled picture, each at
// another scale, and where modules are slim a reader may read at one scale and not at the next.
var scales = [5]float64{1, 0.9, 0.82, 0.95, 0.86}

// film takes the pictures of one code. Prints that differ in nothing are shared.
type film struct {
	in Input
	mu sync.Mutex
	of map[sheet]*optics.Print
}

func newFilm(in Input) *film { return &film{in: in, of: map[sheet]*optics.Print{}} }

// sheet is what prints of one code differ in.
type sheet struct {
	optics.Setup // as far as it belongs to the print
	page
}

// printed gives the print of a setup, made once.
func (f *film) printed(c optics.Setup, on page) (*optics.Print, error) {
	key := sheet{optics.Setup{Gain: c.Gain, Dot: c.Dot, Bilevel: c.Bilevel, Around: c.Around}, on}
	f.mu.Lock()
	defer f.mu.Unlock()
	if p := f.of[key]; p != nil {
		return p, nil
	}
	p, err := optics.NewPrint(on.onPage(f.in), groundOf(f.in), 2.2*maxPer*modulesOf(f.in)/f.in.Scene.Width, key.Setup)
	if err == nil {
		f.of[key] = p
	}
	return p, err
}

// lengths of the code.
func lengths(in Input) *Pixels {
	return &Pixels{Width: in.Scene.Width, Module: in.Scene.Width / modulesOf(in), Near: reach(in)[0]}
}

// SetupOf is the setup of one draw of a condition.
func SetupOf(in Input, c Condition, draw int) optics.Setup {
	s := Usual(in)
	rng := rand.New(rand.NewPCG(hash(c.Key), uint64(draw)))
	s.ShiftX, s.ShiftY = rng.Float64(), rng.Float64()
	s.Turn = (rng.Float64()*2 - 1) * 7
	s.Seed = hash(c.Key) + uint64(draw)
	if c.camera != nil {
		s.Camera = *c.camera
	}
	setup := c.setup
	if len(c.each) > 0 {
		setup = c.each[draw%len(c.each)]
	}
	if setup != nil {
		setup(lengths(in), &s, rng)
	}
	if in.Tune != nil {
		in.Tune(&s)
	}
	return s
}

// take gives the picture of one draw.
func (f *film) take(c Condition, draw int) (*image.Gray, error) {
	if c.file != nil {
		return c.file(f.in)
	}
	img, err := f.through(SetupOf(f.in, c, draw), c.page)
	if err == nil && c.after != nil {
		img = c.after(img)
	}
	return img, err
}

// through takes the picture of a setup, scaled down where the code is so near that more pixels would tell nothing.
func (f *film) through(s optics.Setup, on page) (*image.Gray, error) {
	scale := scales[s.Seed%uint64(len(scales))]
	most := max(2.5*modulesOf(f.in), min(scale*maxPer*modulesOf(f.in), maxLooked/(1+2*max(s.Around, 0.1))))
	if per := f.in.Scene.Width * s.Camera.Focal / s.Distance; per > most {
		s.Camera.Focal *= most / per
	}
	p, err := f.printed(s, on)
	if err != nil {
		return nil, err
	}
	return p.Expose(s)
}

// shot is one picture to be shown.
type shot struct {
	condition int
	draw      int
	image     *image.Gray
}

// takeAll takes every draw of conditions, on all cores, and hands them on as they come, some at a time, so that readers can
// begin with the first while the last are not taken yet. It closes the channel; an error comes last. Leaving through ctx
// gives its error.
func (f *film) takeAll(ctx context.Context, list []Condition) <-chan taken {
	var shots []shot
	for i, c := range list {
		for d := range c.Draws {
			shots = append(shots, shot{condition: i, draw: d})
		}
	}
	out := make(chan taken, len(shots)/portion+2)
	go func() {
		defer close(out)
		for len(shots) > 0 {
			n := portion
			if len(shots) < portion*3/2 {
				n = len(shots)
			}
			some := shots[:n]
			shots = shots[n:]
			err := f.takeSome(ctx, list, some)
			out <- taken{some, err}
			if err != nil {
				return
			}
		}
	}()
	return out
}

// takeFor is takeAll for those who look: for nobody no picture has to be taken.
func (f *film) takeFor(ctx context.Context, panel Panel, list []Condition) <-chan taken {
	if len(panel.Readers) == 0 {
		list = nil
	}
	return f.takeAll(ctx, list)
}

// taken is some of the pictures, or why there are no more.
type taken struct {
	shots []shot
	err   error
}

// portion is how many pictures readers get at a time: starting the process of an engine takes as long as it needs for five to
// ten.
const portion = 20

func (f *film) takeSome(ctx context.Context, list []Condition, shots []shot) error {
	errs := make([]error, len(shots))
	var next atomic.Int64
	var wg sync.WaitGroup
	for range min(runtime.NumCPU(), len(shots)) {
		wg.Go(func() {
			for i := int(next.Add(1)) - 1; i < len(shots) && ctx.Err() == nil; i = int(next.Add(1)) - 1 {
				func() {
					defer caught.To(&errs[i])
					shots[i].image, errs[i] = f.take(list[shots[i].condition], shots[i].draw)
				}()
			}
		})
	}
	wg.Wait()
	if ctx.Err() != nil {
		return ctx.Err()
	}
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}
