package compose

import (
	"sodrik/internal/core/content"
	"strings"
	"testing"

	"sodrik/internal/core/patch"
)

// TestPrice: each rung of the ladder gives the size that it promises, once it is taken.
func TestPrice(t *testing.T) {
	for _, c := range []struct{ text, first string }{
		{`{"content":{"kind":"url","url":"https://marrowby.example/visit?utm_source=tote"}}`, "Leave out utm_source"},
		{`{"content":{"kind":"url","url":"HTTPS://marrowby.example/VISIT/2027"}}`, "Capitals for https and host"},
		{
			`{"content":{"kind":"contact","given":"Tamsin","family":"Ashdown","organisation":"Marrowby Seed House","phones":[{"number":"+441134960124"}],"note":"Ask for the growers' price list and the bulb list"}}`, "MECARD instead of vCard 3"},
		{
			`{"content":{"kind":"event","title":"Bulb fair","start":"2027-03-20T10:00","timezone":"Europe/London","description":"Two hundred varieties, tea in the barn, and the potting shed open to all","alarm_minutes":60}}`, "Leave out the description"},
		{
			`{"content":{"kind":"email","to":["orders@marrowby.example"],"subject":"Bulb order","body":"Account number: , variety and quantity: "}}`, "Leave out the text"},
		{`{"content":{"kind":"text","text":"` + strings.Repeat("Thin to 20 cm. ", 9) + `"},"symbol":{"level":"H"}}`,
			"Level L: survives 7 % damage, not 30 %"},
	} {
		t.Run(c.text, func(t *testing.T) {
			m := parse(t, c.text)
			p := m.Price()
			if p.Bytes != len(m.Payload) || p.Size != m.Symbol.Size || len(p.Steps) == 0 || p.Steps[0].Label != c.first {
				t.Errorf("%s: %+v, want %q first", c.text, p, c.first)
				return
			}
			for _, s := range p.Steps {
				doc, err := patchJob(m, s.Patch)
				if err != nil {
					t.Errorf("%s: %v", s.Label, err)
					continue
				}
				then, _, problems := Read(doc, nil)
				if len(problems) > 0 || then.Symbol.Size != s.Size || s.Saves != m.Symbol.Size-s.Size || s.Saves <= 0 ||
					len(then.Payload) != s.Bytes {
					t.Errorf("%s promises %+v and gives %v %v", s.Label, s, then, problems)
				}
			}
		})
	}
	if p := parse(t, `{"content":{"kind":"url","url":"HTTPS://M.EXAMPLE","capitals":true}}`).Price(); len(p.Steps) > 0 ||
		p.Less != 0 {
		t.Errorf("nothing can be smaller than version 1: %+v", p)
	}
}

func patchJob(m *Rendition, p patch.Patch) (any, error) {
	var doc any = map[string]any{"content": content.JSON(m.Job.Content),
		"symbol": map[string]any{"level": m.Job.Symbol.Level.String()}}
	out, _, err := p.Apply(doc)
	return out, err
}

func TestAdding(t *testing.T) {
	m := parse(t, `{"content":{"kind":"contact","given":"Tamsin","phones":[{"number":"+441134960124"}]}}`)
	a := m.Adding()
	if s := a["/content/note"]; s.Size < m.Symbol.Size || s.Bytes != len(m.Payload)+len("NOTE:nnnnnnnnnnnn\r\n") {
		t.Errorf("a note: %+v", s)
	}
	for _, field := range []string{"/content/phones/1/number", "/content/emails/0/address", "/content/urls/0",
		"/content/socials/0/service", "/content/address/street"} {
		t.Run(field, func(t *testing.T) {
			if s := a[field]; s.Bytes <= len(m.Payload) {
				t.Errorf("%s has no price: %+v", field, s)
			}
		})
	}
}

// TestKeyword: each placement's message says where it was sent from; the files of the others are untouched.
func TestKeyword(t *testing.T) {
	m := parse(t,
		`{"content":{"kind":"sms","number":"+441134960123","body":"When?"},"placements":[{"name":"a","width_mm":40,"keyword":"GATE"},{"name":"b","width_mm":40}]}`)
	a, b := m.For(m.Place(0)), m.For(m.Place(1))
	if a.Payload != "SMSTO:+441134960123:GATE When?" || b.Payload != "SMSTO:+441134960123:When?" || m.For(nil) != m {
		t.Errorf("%q %q", a.Payload, b.Payload)
	}
	in, err := m.Proof(0)
	if err != nil || in.Payload != a.Payload {
		t.Errorf("the proof of the place looks for %q, %v", in.Payload, err)
	}
	for text, field := range map[string]string{
		`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":40,"keyword":"GATE"}]}`: "/placements/0/keyword",
		`{"content":{"kind":"sms","number":"+441134960123"},"placements":[{"name":"a","width_mm":40,"keyword":"` +
			strings.Repeat("G", 30) + `"}]}`: "/placements/0/keyword",
	} {
		t.Run(text, func(t *testing.T) {
			if _, problems := Parse([]byte(text), nil); len(problems) != 1 || problems[0].Field != field {
				t.Errorf("%s: %v", text, problems)
			}
		})
	}
}
