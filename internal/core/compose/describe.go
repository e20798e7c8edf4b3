package compose

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
)

// Encoded is a symbol as "sodrik encode" and the API print it.
type Encoded struct {
	Payload  string    `json:"payload"`
	Version  int       `json:"version"`
	Size     int       `json:"size"`
	Level    string    `json:"level"`
	Mask     int       `json:"mask"`
	Segments []Segment `json:"segments"`
	Matrix   []string  `json:"matrix"` // one string of 0 and 1 a row, without quiet zone; what makes room for a mark is 0
	Mark     *Taken    `json:"mark,omitempty"`
}

// Taken is what a mark takes from the symbol.
type Taken struct {
	Width      float64 `json:"width"`          // share of the symbol's side, as drawn
	Kept       string  `json:"kept,omitempty"` // what was done to keep the reserve
	Reserve    float64 `json:"reserve"`        // share of error correction left in the worst block
	Blocks     []Block `json:"blocks"`
	Alignments int     `json:"alignments"` // alignment patterns touched
}

// Block is an error correction block: codewords that the mark may damage, of those that can be corrected.
type Block struct {
	Lost    int `json:"lost"`
	Correct int `json:"correct"`
}

// Segment is one segment of the bit stream.
type Segment struct {
	Mode string `json:"mode"`
	Text string `json:"text"`
	ECI  int    `json:"eci,omitempty"`
}

// Encoded describes the symbol.
func (m *Rendition) Encoded() Encoded {
	s := m.Symbol
	e := Encoded{Payload: m.Payload, Version: s.Version, Size: s.Size, Level: s.Level.String(), Mask: s.Mask,
		Segments: []Segment{}}
	for _, g := range s.Segments {
		e.Segments = append(e.Segments, Segment{g.Mode.String(), g.Text, g.ECI})
	}
	for y := range s.Size {
		var row strings.Builder
		for x := range s.Size {
			row.WriteByte('0' + byte(b2i(s.Dark(x, y) && !m.Mark.Cleared(x, y))))
		}
		e.Matrix = append(e.Matrix, row.String())
	}
	if m.Mark != nil {
		d := m.Mark.Damage
		e.Mark = &Taken{Width: m.Mark.Look.Width, Kept: m.Kept, Reserve: math.Round(d.Reserve*1e4) / 1e4,
			Alignments: d.Alignments}
		for _, b := range d.Blocks {
			e.Mark.Blocks = append(e.Mark.Blocks, Block(b))
		}
	}
	return e
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Place is placement i, nil for −1.
func (m *Rendition) Place(i int) *place.Placement {
	if i < 0 {
		return nil
	}
	return &m.Job.Placements[i]
}

// Pick is the index of the placement of a name, for "" the first, −1 where the job has none.
func (m *Rendition) Pick(name string) (int, problem.List) {
	for i, p := range m.Job.Placements {
		if name == "" || p.Name == name {
			return i, nil
		}
	}
	if name == "" {
		return -1, nil
	}
	return -1, problem.List{{Field: "/placements", Code: "place.unknown", Message: fmt.Sprintf("none is called %q", name)}}
}

// Title names the code and its place, for a file's metadata.
func (m *Rendition) Title(i int) string {
	if i < 0 || m.Job.Name == "" {
		return m.Job.Name
	}
	return m.Job.Name + ", " + m.Job.Placements[i].Name
}
