package reads

import (
	"fmt"
	"strconv"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/job"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/forms"
)

// Remarks is the proof in words.
type Remarks struct {
	Again   int // how often it will have been asked for again, 0 where it is not
	AgainIn int // seconds from now

	Verdict  proof.Verdict
	Words    string
	Where    string
	Shown    []Remark
	More     []Remark
	None     string
	Line     string // for the ticket
	Families []FamilyLine
	Facts    []string // of range and reserve
	Grades   *Grading
	Trials   []TrialLine
	Checked  *CheckLine // the newest print of it that was measured
	Beyond   []string   // how far it reads beyond the ordinary
	Next     proof.Stage
	Asked    bool   // the next set waits until somebody asks for it
	Looking  string // what is being looked at
	Turned   bool   // what was looked at beyond the ordinary changes the verdict
	Range    string // for the gauge; "" until it is measured
	RangeHow string
	// Margin is the same of how much worse it may get.
	Margin, MarginHow string
	Reserve           string // for the gauge
	Handset           Handset
	CodeID            string
	PlaceIdx          int
	Rev               int64
}

// Remark is one finding.
type Remark struct {
	proof.Finding
	Patch  string
	CodeID string
}

// FamilyLine is one family of readers: how much it read of each set.
type FamilyLine struct {
	Family, Engines string
	Cells           []string
}

// maxShown is how many findings stand open at once.
const maxShown = 3

// maxAgain bounds how often a verdict that readers could not give is asked for by itself while the desk stays open.
const maxAgain = 5

// Reask has a proof asked for again that a reader did not answer for, after 5 s, 10, 20 and so on. What is not installed is
// not waited for.
func (r *Remarks) Reask(p *proof.Proof, again string) {
	n, _ := strconv.Atoi(again)
	if len(p.Broken) == 0 || n < 0 || n >= maxAgain {
		return
	}
	r.Again, r.AgainIn = n+1, 5<<n
}

// RemarksOf formats a proof for placement i.
func RemarksOf(c *code.Code, p *proof.Proof, i int) *Remarks {
	r := &Remarks{
		Verdict:  p.Verdict,
		Words:    p.Headline(),
		Where:    p.Where,
		Handset:  handsetOf(c.Rendition.For(c.Rendition.Place(i)), p),
		CodeID:   c.ID,
		PlaceIdx: i,
	}
	if r.Where == "" {
		r.Where = "As a picture only. Say where it will hang, and it is proved for print."
	}
	for k, f := range p.Findings {
		m := Remark{Finding: f, CodeID: c.ID}
		if f.Fix != nil {
			m.Patch = forms.PatchText(job.Guarded(c.Draft, "", f.Fix.Patch))
		}
		if k < maxShown {
			r.Shown = append(r.Shown, m)
		} else {
			r.More = append(r.More, m)
		}
	}
	r.None = c.Rendition.Unfound(p, i)
	r.Line = strings.ToLower(r.Words)
	if i >= 0 {
		r.Line += " at " + c.Rendition.Job.Placements[i].Name
	}
	if n := len(p.Findings); n == 1 {
		r.Line += " · 1 remark"
	} else if n > 1 {
		r.Line += fmt.Sprintf(" · %d remarks", n)
	}
	r.Rev = c.Rev
	r.tally(p)
	r.measured(c, p, i)
	return r
}
