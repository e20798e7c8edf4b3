package reads

import (
	"net/http"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
)

// Handset is the simulated phone: what a reader got out of the pixels of the PNG, and what a phone would offer to do with
// it. It knows nothing else.
type Handset struct {
	Decoded bool
	ReadMS  string
	Offer   content.Offer
	Wrong   bool   // something else was read than the code says
	Silent  string // why it shows nothing
	Leads   string // what comes of the short link that was read, "" where none was
	Then    *content.Offer
}

// Follow shows what comes of a short link.
func (h *Handset) Follow(hop leads.Hop) {
	switch {
	case hop.To != "":
		h.Leads = "The link leads on at once:"
		if c := content.Of(hop.To); c != nil {
			o := c.Phone()
			h.Then = &o
		}
	case hop.Status == http.StatusOK:
		h.Leads = "The link shows a page: " + hop.Page
	default:
		h.Leads = "The link leads nowhere yet. It goes live when the code is handed over."
	}
}

// handsetOf shows the first reading of the pixels of the picture.
func handsetOf(m *compose.Rendition, p *proof.Proof) Handset {
	for _, x := range p.Readings {
		if x.Condition != "picture" || !x.Read && x.Payload == "" {
			continue
		}
		payload := x.Payload // what was read instead
		if x.Read {
			payload = m.Payload // a reading is Read where the reader's text is this, byte for byte
		}
		c := content.Of(strings.ReplaceAll(payload, "\x1d", "␝")) // a separator of GS1 data, as it can be shown
		if c == nil {
			return Handset{Silent: "What was read is not text. The phone shows nothing."}
		}
		if e, ok := c.(*content.Event); ok { // on the clocks of the place, where the phone would be
			if own, ok := m.Job.Content.(*content.Event); ok {
				c = e.On(own.Timezone)
			}
		}
		return Handset{Decoded: true, ReadMS: measure.Number(x.MS, 0), Offer: c.Phone(), Wrong: !x.Read}
	}
	return Handset{Silent: "Nothing was read. The phone goes on looking."}
}
