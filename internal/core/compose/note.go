package compose

import (
	"fmt"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// Note is what a printer is told in plain text beside the files: what it is, how large, how small at least, in which inks,
// and what has to stay free. verdicts are those of the placements by index; one that is not there is not known.
func Note(m *Rendition, name string, version int, date string, verdicts map[int]proof.Verdict, files []string) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\r\n", args...) }
	line("%s, version %d, %s", name, version, date)
	line("It says: %s", content.Shown(m.Job.Content))
	line("")
	for i := range m.Job.Placements {
		p := m.Job.Placements[i]
		line("%s", strings.ToUpper(p.Name[:1])+p.Name[1:])
		n := m.For(&p).Modules()
		zone := float64(m.Job.Symbol.QuietZone) * float64(p.Width) / float64(n)
		line("  Size: %s wide, %s a module. It is square.", p.Width, measure.Length(float64(p.Width)/float64(n)))
		if f := m.Framed(&p); f.Scene.Width > float64(p.Width)+1e-6 || f.Scene.Height > float64(p.Width)+1e-6 {
			line("  With what stands around it: %s × %s mm.", measure.Number(f.Scene.Width, 1), measure.Number(f.Scene.Height, 1))
		}
		switch verdicts[i] {
		case proof.Safe: // which was proved for 0.85 of the width too
			line("  Do not scale it below %s.", measure.Length(float64(p.Width)*0.85))
		default:
			line("  Do not scale it down.")
		}
		line("  Quiet zone: the %s mm around the symbol are part of the file. Keep them free of print.", measure.Number(zone, 1))
		sub, ok := place.SubstrateOf(p.Substrate)
		if r := m.Job.Output.Reduction; r > 0 && !sub.Screen {
			line("  Bar width reduction: %s mm are taken off already. Take no more.", measure.Number(r, 3))
		}
		if ok {
			line("  Made for %s.", sub.Name)
		}
		if v := verdicts[i]; v != "" {
			line("  Proof: %s.", v.Words())
		}
		line("")
	}
	if len(m.Job.Placements) == 0 {
		line("No place is given, so no size is promised. Keep modules at 0.4 mm or more.")
		line("")
	}
	line("Inks")
	seen := map[string]bool{}
	for _, part := range m.Job.Look.Parts() {
		c := part.Colour
		p := c.Plates()
		words := fmt.Sprintf("%s on screens; cyan %.0f, magenta %.0f, yellow %.0f, black %.0f %%", c, p[0], p[1], p[2], p[3])
		if c.Spot != "" {
			words = "spot " + c.Spot + "; " + words
		}
		if !seen[words] {
			seen[words] = true
			line("  %s: %s", part.Words, words)
		}
	}
	if !m.Job.Look.Paper.None && !m.Job.Look.Paper.Colour.Same(ink.White) {
		line("  Paper colour: %s, printed under it", m.Job.Look.Paper.Colour)
	}
	if m.Job.Output.Overprint {
		line("  Black and spot inks are set to overprint. Keep that; do not trap, do not turn it into halftones coarser than the modules.")
	} else {
		line("  Do not trap, do not overprint, do not turn it into halftones coarser than the modules.")
	}
	line("")
	line("Files")
	for _, f := range files {
		line("  %s", f)
	}
	return b.String()
}
