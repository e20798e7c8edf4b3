package compose

import (
	"fmt"

	"sodrik/internal/core/place"
)

// ProofKey tells what the proof of placement i reads, −1 for none: proofs under one key are the same. A name, another
// placement, a resolution beyond what readers are handed, the quality of a JPEG say nothing to a camera, so that changing
// them proves nothing anew. It holds a digest of the contents, and is to be kept as one.
func (m *Rendition) ProofKey(i int) string {
	at := m.Place(i)
	bare := *m.Job
	bare.Name, bare.Placements = "", nil
	bare.Output.DPI, bare.Output.Pixels, bare.Output.Quality, bare.Output.PrinterDPI, bare.Output.Thinner = 0, 0, 0, 0, 0
	if at == nil {
		i = -1
	} else {
		of := *at
		of.ID, of.Name = "", ""
		bare.Placements = []place.Placement{of}
	}
	return fmt.Sprintf("%d %d %s", i, m.For(at).proofPixels(at), bare.Digest())
}

// ProofKeys are the keys of the proofs of all placements, of the code alone where it has none.
func (m *Rendition) ProofKeys() []string {
	if len(m.Job.Placements) == 0 {
		return []string{m.ProofKey(-1)}
	}
	out := make([]string, len(m.Job.Placements))
	for i := range out {
		out[i] = m.ProofKey(i)
	}
	return out
}
