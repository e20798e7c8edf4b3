package proof

import (
	"fmt"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
)

// minReserve is how much error correction has to be left for dirt, scratches and bad light; below it a finding says so.
const minReserve = 0.3

// markRule says what a mark takes that it had better not.
func markRule(in Input, p *Proof, _ Panel) (out []Finding) {
	if in.Mark == nil {
		return nil
	}
	d := in.Mark.Damage
	if d.Reserve < minReserve {
		f := Finding{Code: "mark.reserve", Severity: SeverityCare,
			Message: fmt.Sprintf("The mark leaves only %s of the error correction. Dirt, scratches and bad light need %s.",
				measure.Number(d.Reserve*100, 0)+" %", measure.Number(minReserve*100, 0)+" %")}
		if d.Reserve <= 0 {
			f.Severity = SeverityStop
		}
		f.Fix = &Fix{fmt.Sprintf("Keep %s of the error correction", measure.Number(minReserve*100, 0)+" %"),
			patch.Patch{{Op: "add", Path: "/look/mark/reserve", Value: minReserve}}}
		out = append(out, f)
	}
	if d.Timing > 0 {
		f := Finding{Code: "mark.timing", Severity: SeverityCare,
			Message: fmt.Sprintf("The mark covers %s of the line by which phones count rows and columns.",
				measure.Plural(d.Timing, "module"))}
		f.Fix = middleFix(in.Mark)
		out = append(out, f)
	}
	return out
}

// middleFix moves a mark to the middle; nil where it lies there.
func middleFix(m *layout.Marked) *Fix {
	if m.Look.X == 0.5 && m.Look.Y == 0.5 {
		return nil
	}
	return &Fix{"Move the mark to the middle", patch.Patch{{Op: "add", Path: "/look/mark/x", Value: 0.5},
		{Op: "add", Path: "/look/mark/y", Value: 0.5}}}
}
