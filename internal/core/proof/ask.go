package proof

import (
	"context"
	"errors"
	"image"
	"math"
	"slices"
	"sync"

	"sodrik/internal/core/caught"
	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/detect"
)

// Reader is one engine that finds symbols in pictures.
type Reader interface {
	Name() string   // "zbar"
	Family() string // engines of one lineage share a family; agreement counts families
	// Read gives an answer for every picture, in their order. It returns soon after ctx has ended.
	Read(ctx context.Context, pictures []*image.Gray) []Answer
}

// Answer is what one engine makes of one picture.
type Answer struct {
	Payloads []string // none where it finds no symbol
	Err      error    // it could not work on it, which is not the same
	MS       float64  // milliseconds; of engines that work on many pictures at a time, the mean
	Spent    []int    // codewords corrected in each block, of engines that tell; else nil
}

// Panel is the readers asked, and the families that ought to be among them.
type Panel struct {
	Readers  []Reader
	Families []string
}

// errLost is what an engine gets that answers for fewer pictures than it was shown.
var errLost = errors.New("it did not answer for every picture")

// read asks a reader. One that panics could not work on any of the pictures.
func read(ctx context.Context, r Reader, pictures []*image.Gray) (answers []Answer) {
	var err error
	func() {
		defer caught.To(&err)
		answers = r.Read(ctx, pictures)
	}()
	if err != nil {
		answers = make([]Answer, len(pictures))
		for i := range answers {
			answers[i].Err = err
		}
	}
	return whole(answers, len(pictures))
}

// whole makes up for answers that are missing; those too many are dropped.
func whole(answers []Answer, n int) []Answer {
	for len(answers) < n {
		answers = append(answers, Answer{Err: errLost})
	}
	return answers[:n]
}

// Reading is one reader's result under one condition.
type Reading struct {
	Reader    string  `json:"reader"`
	Family    string  `json:"family"`
	Condition string  `json:"condition"`
	Read      bool    `json:"read"`  // every draw of it
	Draws     int     `json:"draws"` // pictures that it was shown
	Hits      int     `json:"hits"`  // and of them, those that it read
	Inverted  bool    `json:"inverted,omitempty" doc:"It reads the picture only with dark and light exchanged, which does not count."`
	Payload   string  `json:"payload,omitempty"` // only where it is not the intended one
	Error     string  `json:"error,omitempty"`   // the engine could not work
	MS        float64 `json:"ms"`                // mean of a picture
}

// Outcome sums up a condition by families: a family reads a draw where any engine of it does.
type Outcome struct {
	Condition string         `json:"condition"`
	Words     string         `json:"words"`
	Stage     Stage          `json:"set"`
	Draws     int            `json:"draws"`
	Hits      map[string]int `json:"hits"` // by family, those that were asked
	// share of correctable codewords left in the worst block of a picture that was read
	Reserve *float64 `json:"reserve,omitempty"`
}

// Everyone says whether every family read every draw.
func (o Outcome) Everyone() bool { return o.Least() == o.Draws }

// Shares of pictures, by family, that a verdict goes by. A phone looks at many pictures a second, so that one lost here and
// there costs nobody more than a blink; see the calibration in docs/proof.md.
const (
	enoughOf = 0.6 // of the pictures of a circumstance, for it to be met
	maxOften = 0.9 // of all pictures from nearer than one and a half times the distance, for nothing to stand against it
	maxLost  = 0.5 // of the same, below which a family counts as not reading a code at all
)

// Keys of circumstances that ask for something else than all others do.
const (
	farther   = "farther" // all families but one: people may step nearer
	poorPhone = "poor"    // not of all that is ordinary, but from the distance
	goodPhone = "good"    // looked at only where an ordinary phone loses a code, to see whether every phone does
)

// apart says that a circumstance does not belong to those of which a family has to read nearly all pictures.
func apart(key string) bool { return key == farther || key == poorPhone }

// Passes says whether the condition is met: every family reads three pictures of five; from one and a half times the distance
// all families but one do.
func (o Outcome) Passes() bool {
	met := 0
	for family := range o.Hits {
		if o.Meets(family) {
			met++
		}
	}
	if o.Condition == farther {
		return met >= max(1, len(o.Hits)-1)
	}
	return met == len(o.Hits) && met > 0
}

// Meets says whether a family reads enough of the condition's pictures: three of five.
func (o Outcome) Meets(family string) bool {
	return float64(o.Hits[family]) >= enoughOf*float64(o.Draws)-1e-9
}

// Least is how many draws the family read that read fewest; 0 where none was asked.
func (o Outcome) Least() int {
	least := math.MaxInt
	for _, n := range o.Hits {
		least = min(least, n)
	}
	if least == math.MaxInt {
		return 0
	}
	return least
}

// ask takes pictures under conditions and shows them to every reader, readers side by side. Leaving through ctx gives its error.
func ask(ctx context.Context, in Input, panel Panel, list []Condition, from <-chan taken) (readings []Reading, outcomes []Outcome,
	err error) {
	reversed := in.Look.Ink.Luminance() > paperOf(in).Luminance()
	answers, again := make([][]Answer, len(panel.Readers)), make([][]Answer, len(panel.Readers))
	var shots []shot
	for t := range from {
		if t.err != nil {
			return nil, nil, t.err
		}
		shots = append(shots, t.shots...)
		pictures := make([]*image.Gray, len(t.shots))
		for i, s := range t.shots {
			pictures[i] = s.image
		}
		var wg sync.WaitGroup
		for i, r := range panel.Readers {
			wg.Go(func() {
				answers[i] = append(answers[i], read(ctx, r, pictures)...)
				if reversed { // a second attempt, as some phones make it
					inverse := make([]*image.Gray, len(pictures))
					for j, p := range pictures {
						inverse[j] = detect.Inverse(p)
					}
					again[i] = append(again[i], read(ctx, r, inverse)...)
				}
			})
		}
		wg.Wait()
		if ctx.Err() != nil {
			return nil, nil, ctx.Err()
		}
	}
	may := float64(symbol.BlocksOf(in.Symbol.Version, in.Symbol.Level).Correct)
	for at, c := range list {
		o := Outcome{Condition: c.Key, Words: c.Words, Stage: c.Stage, Draws: c.Draws, Hits: map[string]int{}}
		hit := map[string]map[int]bool{}
		for i, r := range panel.Readers {
			reading := Reading{Reader: r.Name(), Family: r.Family(), Condition: c.Key}
			for j, s := range shots {
				if s.condition != at {
					continue
				}
				a := answers[i][j]
				reading.Draws++
				reading.MS += a.MS
				switch {
				case a.Err != nil:
					reading.Error = a.Err.Error()
				case slices.Equal(a.Payloads, []string{in.Payload}):
					reading.Hits++
					for _, spent := range a.Spent {
						if left := 1 - float64(spent)/may; o.Reserve == nil || left < *o.Reserve {
							o.Reserve = &left
						}
					}
					if hit[r.Family()] == nil {
						hit[r.Family()] = map[int]bool{}
					}
					hit[r.Family()][s.draw] = true
				case len(a.Payloads) > 0:
					reading.Payload = a.Payloads[0]
				case reversed && slices.Equal(again[i][j].Payloads, []string{in.Payload}):
					reading.Inverted = true
				}
			}
			reading.Read = reading.Hits == reading.Draws && reading.Draws > 0
			reading.MS = math.Round(reading.MS/float64(max(1, reading.Draws))*1000) / 1000
			readings = append(readings, reading)
			if reading.Error == "" || len(hit[r.Family()]) > 0 { // what could not work has no say
				o.Hits[r.Family()] = len(hit[r.Family()])
			}
		}
		outcomes = append(outcomes, o)
	}
	return readings, outcomes, nil
}
