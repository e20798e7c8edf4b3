package proof

import (
	"slices"

	"sodrik/internal/core/content"
)

// Context is what is known of a code outside its job.
type Context struct {
	Printed  string // payload of the version in print, "" where none is
	Version  int    // its number
	Campaign string // its name, "" for none
	Tags     *Fix   // takes the tags of the campaign; nil where it has none
}

// Around adds what follows from the context to a proof; the verdict is about the print and stays.
func Around(p *Proof, in Input, c Context) *Proof {
	out := *p
	out.Findings = slices.Clone(p.Findings)
	if c.Printed != "" && c.Printed != in.Payload {
		out.Findings = append(out.Findings, Finding{Code: "payload.other", Severity: SeverityNote,
			Message: "It says something else than the version in print. What is out there keeps saying the old."})
	}
	if u, ok := in.Content.(*content.URL); ok && c.Campaign != "" && u.Tags == [5]string{} && len(u.CampaignTags()) == 0 {
		out.Findings = append(out.Findings, Finding{Code: "tags.missing", Severity: SeverityNote, Fix: c.Tags,
			Message: "It belongs to " + c.Campaign + " and carries no campaign tags, so that its visits are not told from others."})
	}
	slices.SortStableFunc(out.Findings, func(a, b Finding) int { return weight(a) - weight(b) })
	return &out
}
