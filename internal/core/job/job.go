// Package job is the job file: one JSON description of a code, parsed with every problem named, written in canonical form,
// and digested. It owns no rule; each part is read by the package whose rules it follows.
package job

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/style"
	"sodrik/internal/core/symbol"
)

// Job is a code in full.
type Job struct {
	Name       string
	Content    content.Content
	Symbol     Symbol
	Look       look.Look
	Placements []place.Placement
	Output     Output
	// Lead is where a dynamic code is to lead that is made of a job file; nil where it does not say. It is not part of the code:
	// it is never written, and kept apart from then on
	Lead *leads.Lead
}

// Symbol is the part called "symbol".
type Symbol struct {
	Level                  symbol.Level // LevelAuto starts from M
	Boost                  bool         // raise the level while the symbol does not grow
	MinVersion, MaxVersion int
	Mask                   symbol.MaskChoice
	QuietZone              int  // modules on every side
	Kanji                  bool // allow kanji mode in place of ECI 26
}

// Output is the part called "output".
type Output struct {
	Colour string // "rgb", or the key of a printing condition
	DPI    int    // least resolution of pixel files
	Pixels int    // how wide a PNG of the code without a place is at most, frame included; 0: as compose.BarePixels says

	Quality    int // of a JPEG, 1 to 100
	PrinterDPI int // dots an inch of a label printer
	Thinner    int // dots that its dark parts lose for the heat to fill

	Reduction float64 // mm that dark parts lose in print, half at each edge, for ink to gain: bar width reduction
	Bleed     float64 // mm, of files for a press
	Marks     bool    // crop and registration marks there
	Overprint bool    // black and spot inks print over what lies beneath
}

// Options gives the encoder's options.
func (s Symbol) Options() symbol.Options {
	return symbol.Options{Level: s.Level, NoBoost: !s.Boost, MinVersion: s.MinVersion, MaxVersion: s.MaxVersion, Mask: s.Mask,
		Kanji: s.Kanji}
}

// Default is a job with no content.
func Default() Job {
	return Job{Symbol: Symbol{Boost: true, MinVersion: 1, MaxVersion: 40, QuietZone: 4}, Look: look.Default(),
		Output: Output{Colour: "rgb", DPI: 300, Quality: 92, PrinterDPI: 203}}
}

// MaxBytes bounds a job file.
const MaxBytes = 1 << 20

// Parse reads a job file, with every problem found in one pass.
func Parse(text []byte) (*Job, problem.List) { return ParseIn(text, nil) }

// ParseIn is Parse in a house, whose colours the job may name; nil is none.
func ParseIn(text []byte, house *style.Style) (*Job, problem.List) {
	var problems problem.List
	if len(text) > MaxBytes {
		problems.Add("", "job.size", "the job file is %d bytes long; at most %d are read", len(text), MaxBytes)
		return nil, problems
	}
	v, err := fields.Decode(text)
	if err != nil {
		problems.Add("", "job.json", "the job file is not JSON: %v", err)
		return nil, problems
	}
	return Read(house.Job(v))
}

// Read reads a decoded job. The job is returned even with problems, with defaults in place of what could not be read;
// its Content may then be nil.
func Read(v any) (*Job, problem.List) {
	var problems problem.List
	j := Default()
	// inline: its colours stand in the look with their values from here on
	if m, is := v.(map[string]any); is && m["style"] != nil {
		v = style.Read(fields.Open(m["style"], "/style", &problems)).Job(v)
	}
	o := fields.Open(v, "", &problems)
	if _, is := v.(map[string]any); !is {
		if v == nil {
			problems.Add("", "type",
				`the job is null; it must be an object with keys, such as {"content": {"kind": "url", "url": "marrowby.example"}}`)
		}
		return &j, problems
	}
	Fields.Read(o, &j)
	j.check(o)
	o.Close()
	return &j, problems.Unique()
}

// MarshalJSON writes the canonical form: keys in the order of the job file, defaults left out, no white space.
func (j *Job) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(append(schema.Members{{Key: "version", Value: 1}}, Fields.Write(j, nil)...))
	return bytes.TrimSpace(b.Bytes()), err
}

// Digest is the SHA-256 of the canonical form without the ids of placements and the width of a PNG without one, in hexadecimal.
// Two jobs with the same digest make the same files, but for that width.
func (j *Job) Digest() string {
	bare := *j
	bare.Output.Pixels = 0
	return bare.DigestWide()
}

// DigestWide is Digest with that width.
func (j *Job) DigestWide() string {
	bare := *j
	bare.Placements = slices.Clone(j.Placements)
	for i := range bare.Placements {
		bare.Placements[i].ID = ""
	}
	b, err := bare.MarshalJSON()
	if err != nil {
		panic(err) // every part marshals
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// Placement finds a placement by name; "" is the first. ok is false where there is none.
func (j *Job) Placement(name string) (p place.Placement, ok bool) {
	for _, q := range j.Placements {
		if name == "" || q.Name == name {
			return q, true
		}
	}
	return p, false
}
