package e2e

import (
	"strings"
	"testing"
)

// TestLeadsByForm leads a code to a text and to a message, and changes both field by field.
func TestLeadsByForm(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Notice","content":{"kind":"text","text":"Closed today.\nThe beans want us."}}`))
	p.MustElement("[data-stub=says]").MustClick()
	p.MustElement("#ways summary").MustWaitVisible().MustClick()
	p.MustElement(".way[value=link]").MustWaitVisible().MustClick()
	hasText(t, p, "#fixed", "Leads through go.marrowby.example/")
	p.MustElement("[data-stub=leads]").MustClick()
	fill(p, "#f-lead-to-text", "Sold out\nBack in May.")
	hasText(t, p, "#line-leads", "Sold out")
	download(t, p, func() { p.MustElement("#hand-over").MustClick() })
	hasText(t, p, "#lead-status", "Live since")
	link := "https://" + p.MustElement(".lead-link summary .mono").MustText()
	a.leadsTo(t, link, "Sold out")
	if _, body := a.asked(t, link); !strings.Contains(body, "<p>Back in May.</p>") {
		t.Errorf("the page of a text holds %s", body)
	}

	fill(p, "#f-lead-to", "Text GUIDE to +44 113 496 0123")
	until(t, p, "the form of a message", `() => document.querySelector("#f-lead-to-number")?.value === "+441134960123"`)
	until(t, p, "a free field once it is left", `() => { const f = document.getElementById("f-lead-to"); f.blur(); return f.value === ""; }`)
	fill(p, "#f-lead-to-number", "a shed")
	until(t, p, "what is wrong with the number", `() => document.querySelector("#e-f-lead-to-number").textContent !== ""`)
	fill(p, "#f-lead-to-body", "SOW please")
	hasText(t, p, "#lead-change", "SOW please")
	p.MustElement("#make-live").MustClick()
	hasText(t, p, "#e-f-lead-to-number", "a shed")
	p.MustReload()
	if got := p.MustElement("#f-lead-to-number").MustProperty("value").Str(); got != "a shed" {
		t.Errorf("the number that was typed is %q after a reload", got)
	}
	fill(p, "#f-lead-to-number", "+44 113 496 0199")
	until(t, p, "the number taken", `() => document.querySelector("#e-f-lead-to-number").textContent === ""`)
	until(t, p, "its button", `() => { document.getElementById("make-live")?.click(); return !document.getElementById("make-live"); }`)
	a.leadsTo(t, link, "Write this message?")
	if _, body := a.asked(t, link); !strings.Contains(body, "0199") || !strings.Contains(body, "SOW") {
		t.Errorf("the page of a message holds %s", body)
	}

	fill(p, "#f-name", "")
	until(t, p, "the edit kept", `() => document.getElementById("undo").title.includes("name")`)
	p.MustReload()
	until(t, p, "a name asked for in its place", `() => document.getElementById("f-name").placeholder === "Name this code"`)
}
