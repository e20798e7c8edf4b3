// Package motif is the forms that single modules and eye cores can have: each a closed path in a unit square, the origin at the
// top left, y pointing down. All are our own drawing, from plain geometry, from seed and from print.
package motif

import (
	"fmt"
	"math"

	"sodrik/internal/core/scene"
	"sodrik/internal/core/svgpath"
)

// Motif is one form.
type Motif struct {
	Key, Name string
	Path      scene.Path
	Area      float64 // share of the unit square that it covers
}

// drawn are the paths in SVG's syntax, with the area each should cover, within 1 %.
var drawn = []struct {
	key, name, path string
	area            float64
}{
	{"square", "square", "M0 0H1V1H0Z", 1},
	{"disc", "disc", "M.5 0C.776 0 1 .224 1 .5S.776 1 .5 1 0 .776 0 .5 .224 0 .5 0Z", math.Pi / 4},
	{"diamond", "diamond", "M.5 0L1 .5 .5 1 0 .5Z", 0.5},
	{"hexagon", "hexagon", "M.25 .067H.75L1 .5 .75 .933H.25L0 .5Z", 0.6495},
	{"plus", "register", "M.3 0H.7V.3H1V.7H.7V1H.3V.7H0V.3H.3Z", 0.64},
	{"tab", "tab", "M0 0H.66L1 .34V1H0Z", 0.942},
	{"ticket", "ticket", "M0 0H1V.36A.14 .14 0 0 0 1 .64V1H0V.64A.14 .14 0 0 0 0 .36Z", 0.938},
	{"seed", "seed", "M.5 0C.62 .17 .92 .38 .92 .62C.92 .85 .74 1 .5 1S.08 .85 .08 .62C.08 .38 .38 .17 .5 0Z", 0.570},
	{"leaf", "leaf", "M0 0H.44C.75 0 1 .25 1 .56V1H.56C.25 1 0 .75 0 .44Z", 0.866},
	{"kernel", "kernel", "M0 1C0 .45 .45 0 1 0C1 .55 .55 1 0 1Z", 0.569},
	{"bean", "bean", "M.27 0C.42 0 .47 .12 .62 .12C.84 .12 1 .28 1 .52C1 .8 .8 1 .52 1C.22 1 0 .76 0 .42C0 .16 .1 0 .27 0Z",
		0.775},
	{"blossom", "blossom",
		"M.5 .14C.56 .02 .68 0 .76 0C.9 0 1 .1 1 .24C1 .32 .98 .44 .86 .5C.98 .56 1 .68 1 .76C1 .9 .9 1 .76 1C.68 1 .56 .98 " +
			".5 .86C.44 .98 .32 1 .24 1C.1 1 0 .9 0 .76C0 .68 .02 .56 .14 .5C.02 .44 0 .32 0 .24C0 .1 .1 0 .24 0C.32 0 .44 " +
			".02 .5 .14Z", 0.878},
}

// All are the motifs, the square first.
var All = func() (out []Motif) {
	for _, d := range drawn {
		p, err := Parse(d.path)
		if err != nil {
			panic(err) // they are part of the program
		}
		out = append(out, Motif{d.key, d.name, p, d.area})
	}
	return out
}()

// Of finds a motif by its key.
func Of(key string) (m Motif, ok bool) {
	for _, m := range All {
		if m.Key == key {
			return m, true
		}
	}
	return m, false
}

// minArea is the least share of the square that a custom form has to cover: readers look at the middle of a module and a little
// around it.
const minArea = 0.2

// chords is how finely curves are measured.
const chords = 32

// maxSteps bounds a custom path.
const maxSteps = 400

// Parse reads a motif's path in SVG's syntax.
func Parse(text string) (scene.Path, error) {
	p, _, err := svgpath.Parse(text, maxSteps)
	if err == nil && len(p.Points) < 3 {
		err = fmt.Errorf("draws nothing; write a path such as M0 0H1V1H0Z")
	}
	return p, err
}

// Custom reads a path of a person's own, and refuses one that no reader could make out: it has to lie in the unit square, cover a
// fifth of it, and its middle.
func Custom(path string) (scene.Path, error) {
	p, err := Parse(path)
	if err != nil {
		return p, err
	}
	for _, q := range p.Points {
		if q.X < -1e-6 || q.Y < -1e-6 || q.X > 1+1e-6 || q.Y > 1+1e-6 {
			return p, fmt.Errorf("leaves its square at %.3g, %.3g; it has to lie between 0 and 1 both ways", q.X, q.Y)
		}
	}
	polygons := p.Polygons(chords)
	if a := math.Abs(scene.Area(polygons)); a < minArea {
		return p, fmt.Errorf("covers %.0f %% of its square; readers need %.0f %% or more", a*100, minArea*100)
	}
	if scene.Turns(polygons, 0.5, 0.5) == 0 {
		return p, fmt.Errorf("leaves the middle of its square open, which is where readers look")
	}
	return p, nil
}
