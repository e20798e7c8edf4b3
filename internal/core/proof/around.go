package proof

import (
	"fmt"
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/style"
)

// Context is what is known of a code outside its job.
type Context struct {
	Printed  string // payload of the version in print, "" where none is
	Version  int    // its number
	Campaign string // its name, "" for none
	Tags     *Fix   // takes the tags of the campaign; nil where it has none
	House    *style.Style
}

// Around adds what follows from the context to a proof; the verdict is about the print and stays.
func Around(p *Proof, in Input, c Context) *Proof {
	out := *p
	out.Findings = slices.Clone(p.Findings)
	if c.Printed != "" && c.Printed != in.Payload {
		out.Findings = append(out.Findings, Finding{Code: "payload.other", Severity: SeverityNote,
			Message: "It says something else than the version handed over. What is out there keeps saying the old."})
	}
	if u, ok := in.Content.(*content.URL); ok && c.Campaign != "" && u.Tags == [5]string{} && len(u.CampaignTags()) == 0 {
		fix := c.Tags
		if fix == nil {
			fix = tagged(c.Campaign)
		}
		out.Findings = append(out.Findings, Finding{Code: "tags.missing", Severity: SeverityNote, Fix: fix,
			Message: "It is in " + c.Campaign + " but has no campaign tags, so its visits cannot be told apart."})
	}
	for _, b := range c.House.Check(in.Look) { // a matter of the house, not of whether it scans
		f := Finding{Code: b.Code, Severity: SeverityNote, Message: b.Message}
		if b.Label != "" {
			f.Fix = &Fix{b.Label, b.Patch}
		}
		out.Findings = append(out.Findings, f)
	}
	// the letters are in the order of the grades
	if asked, g := c.House.LeastGrade(), p.Grades; asked != "" && g != nil && g.Overall[0] > asked {
		out.Findings = append(out.Findings, Finding{Code: "style.grade", Severity: SeverityNote,
			Message: fmt.Sprintf("The house asks for a forecast grade of %s; this is %s.", asked, g.Overall[0])})
	}
	slices.SortStableFunc(out.Findings, func(a, b Finding) int { return weight(a) - weight(b) })
	return &out
}

// tagged gives an address tags by which what is read of its visits tells this campaign, in print, from others.
func tagged(campaign string) *Fix {
	tags := map[string]any{"source": "print", "medium": "qr", "campaign": style.KeyOf(campaign)}
	return &Fix{"Tag it print, qr, " + style.KeyOf(campaign), patch.Set("/content/tags", tags)}
}
