// Package job is the job file: one JSON description of a code, parsed with every problem named, written in canonical form,
// and digested. It owns no rule; each part is read by the package whose rules it follows.
package job

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
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
	return symbol.Options{Level: s.Level, NoBoost: !s.Boost, MinVersion: s.MinVersion, MaxVersion: s.MaxVersion, Mask: s.Mask, Kanji: s.Kanji}
}

// Default is a job with no content.
func Default() Job {
	return Job{Symbol: Symbol{Boost: true, MinVersion: 1, MaxVersion: 40, QuietZone: 4}, Look: look.Default(), Output: Output{Colour: "rgb", DPI: 300, Quality: 92, PrinterDPI: 203}}
}

// MostBytes bounds a job file.
const MostBytes = 1 << 20

// Parse reads a job file, with every problem found in one pass.
func Parse(text []byte) (*Job, problem.List) { return ParseIn(text, nil) }

// ParseIn is Parse in a house, whose colours the job may name; nil is none.
func ParseIn(text []byte, house *style.Style) (*Job, problem.List) {
	var problems problem.List
	if len(text) > MostBytes {
		problems.Add("", "job.size", "the job file is %d bytes long; at most %d are read", len(text), MostBytes)
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
	if m, is := v.(map[string]any); is && m["style"] != nil { // inline: its colours stand in the look with their values from here on
		v = style.Read(fields.Open(m["style"], "/style", &problems)).Job(v)
	}
	o := fields.Open(v, "", &problems)
	if _, is := v.(map[string]any); !is {
		if v == nil {
			problems.Add("", "type", `the job is null; it must be an object with keys, such as {"content": {"kind": "url", "url": "marrowby.example"}}`)
		}
		return &j, problems
	}
	o.Any("style")
	o.Int("version", 1, 1, 1)
	j.Name = strings.TrimSpace(o.String("name"))
	if len(j.Name) > 120 {
		o.Problem("name", "job.name", "is longer than 120 bytes; a short name is easier to find again")
	}
	if o.Has("content") {
		j.Content = content.Read(o.Object("content"))
	} else {
		o.Problem("content", "job.content", `is missing; it says what the code holds, such as {"kind": "url", "url": "https://marrowby.example/fair"}`)
	}
	j.Symbol = readSymbol(o.Object("symbol"))
	j.Look = look.Read(o.Object("look"))
	names, ids := map[string]bool{}, map[string]bool{}
	list := o.List("placements")
	if len(list) > MostPlacements {
		o.Problem("placements", "job.placements", "holds %d places; a code has %d at most", len(list), MostPlacements)
		list = nil
	}
	for i, v := range list {
		at := o.At("placements") + "/" + itoa(i)
		p := place.Read(fields.Open(v, at, &problems))
		if names[p.Name] && p.Name != "" {
			problems.Add(at+"/name", "place.twice", "there is already a placement called %q", p.Name)
		}
		if ids[p.ID] && p.ID != "" {
			problems.Add(at+"/id", "place.twice", "is %q, as that of another place; leave it out", p.ID)
		}
		names[p.Name], ids[p.ID] = true, true
		j.Placements = append(j.Placements, p)
	}
	j.Output = readOutput(o.Object("output"))
	o.Close()
	return &j, problems
}

func itoa(i int) string { b, _ := json.Marshal(i); return string(b) }

func readSymbol(o *fields.Object) Symbol {
	s := Default().Symbol
	level := o.OneOf("level", "auto", "L", "M", "Q", "H")
	s.Level, _ = symbol.ParseLevel(level)
	s.Boost = o.Bool("boost", true)
	s.MinVersion = o.Int("min_version", 1, 1, 40)
	s.MaxVersion = o.Int("max_version", 40, 1, 40)
	if s.MinVersion > s.MaxVersion {
		o.Problem("max_version", "symbol.versions", "is %d, below min_version %d", s.MaxVersion, s.MinVersion)
		s.MaxVersion = 40
	}
	if v, ok := o.Any("mask"); ok && v != "auto" {
		s.Mask = symbol.Pattern(o.Int("mask", 0, 0, 7))
	}
	s.QuietZone = o.Int("quiet_zone", 4, 0, 40)
	s.Kanji = o.Bool("kanji", false)
	o.Close()
	return s
}

// Bounds of lengths in print, mm.
const (
	MostBleed     = 20
	MostReduction = 0.5
)

func readOutput(o *fields.Object) Output {
	out := Default().Output
	colours := []string{"rgb"}
	for _, c := range press.Conditions {
		colours = append(colours, c.Key)
	}
	out.Colour = o.OneOf("colour", colours...)
	out.DPI = o.Int("dpi", 300, 36, 4800)
	out.Quality = o.Int("quality", 92, 1, 100)
	out.PrinterDPI = o.Int("printer_dpi", 203, 100, 1200)
	out.Thinner = o.Int("thinner_dots", 0, 0, 4)
	if out.Bleed = o.Number("bleed_mm", 0); !(out.Bleed >= 0 && out.Bleed <= MostBleed) {
		if o.Sound("bleed_mm") {
			o.Problem("bleed_mm", "output.bleed", "is %.3g mm; it lies between 0 and %d, and 3 is usual", out.Bleed, MostBleed)
		}
		out.Bleed = 0
	}
	if out.Reduction = o.Number("reduction_mm", 0); !(out.Reduction >= 0 && out.Reduction <= MostReduction) {
		if o.Sound("reduction_mm") {
			o.Problem("reduction_mm", "output.reduction", "is %.3g mm; it lies between 0 and %g, and two hundredths to a tenth are usual", out.Reduction, MostReduction)
		}
		out.Reduction = 0
	}
	out.Marks, out.Overprint = o.Bool("marks", false), o.Bool("overprint", false)
	o.Close()
	return out
}

// MarshalJSON writes the canonical form: keys in the order of the job file, defaults left out, no white space.
func (j *Job) MarshalJSON() ([]byte, error) {
	d := Default()
	out := struct {
		Version    int               `json:"version"`
		Name       string            `json:"name,omitempty"`
		Content    any               `json:"content"`
		Symbol     map[string]any    `json:"symbol,omitempty"`
		Look       json.RawMessage   `json:"look,omitempty"`
		Placements []place.Placement `json:"placements,omitempty"`
		Output     map[string]any    `json:"output,omitempty"`
	}{Version: 1, Name: j.Name, Symbol: map[string]any{}, Output: map[string]any{}, Placements: j.Placements}
	if j.Content != nil {
		out.Content = j.Content.JSON()
	}
	set := func(key string, is, def any, value any) {
		if is != def {
			out.Symbol[key] = value
		}
	}
	set("level", j.Symbol.Level, d.Symbol.Level, j.Symbol.Level.String())
	set("boost", j.Symbol.Boost, true, false)
	set("min_version", j.Symbol.MinVersion, 1, j.Symbol.MinVersion)
	set("max_version", j.Symbol.MaxVersion, 40, j.Symbol.MaxVersion)
	set("mask", j.Symbol.Mask, symbol.AutoMask, int(j.Symbol.Mask)-1)
	set("quiet_zone", j.Symbol.QuietZone, 4, j.Symbol.QuietZone)
	set("kanji", j.Symbol.Kanji, false, true)
	for key, v := range map[string][2]int{"dpi": {j.Output.DPI, d.Output.DPI}, "quality": {j.Output.Quality, d.Output.Quality}, "printer_dpi": {j.Output.PrinterDPI, d.Output.PrinterDPI}, "thinner_dots": {j.Output.Thinner, d.Output.Thinner}} {
		if v[0] != v[1] {
			out.Output[key] = v[0]
		}
	}
	if j.Output.Colour != d.Output.Colour {
		out.Output["colour"] = j.Output.Colour
	}
	for key, mm := range map[string]float64{"bleed_mm": j.Output.Bleed, "reduction_mm": j.Output.Reduction} {
		if mm != 0 {
			out.Output[key] = mm
		}
	}
	for key, on := range map[string]bool{"marks": j.Output.Marks, "overprint": j.Output.Overprint} {
		if on {
			out.Output[key] = true
		}
	}
	if j.Look != d.Look {
		b, err := json.Marshal(j.Look)
		if err != nil {
			return nil, err
		}
		out.Look = b
	}
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(out)
	return bytes.TrimSpace(b.Bytes()), err
}

// Digest is the SHA-256 of the canonical form without the ids of placements, in hexadecimal. Two jobs with the same digest make the same files.
func (j *Job) Digest() string {
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
