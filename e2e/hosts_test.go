package e2e

import (
	"testing"
)

// TestHosts: an owner proves a host, draws new links there, and names where links may lead; what is wrong stands at its field, and
// what was typed stays. Others do not see the page.
func TestHosts(t *testing.T) {
	t.Parallel()
	a, err := start("hosts")
	if err != nil {
		t.Fatal(err)
	}
	p := a.page(t, "/codes")
	p.MustElement(".menu summary").MustClick()
	wait := p.MustWaitNavigation()
	p.MustElementR(".menu a", "Short links").MustClick()
	wait()
	add := func(host string) {
		wait := p.MustWaitNavigation()
		p.MustElement("#host").MustSelectAllText().MustInput(host)
		p.MustElementR("button", "Add it").MustClick()
		wait()
	}
	act := func(host, button string) {
		wait := p.MustWaitNavigation()
		p.MustEval(`(host, words) => { const row = [...document.querySelectorAll("tbody tr")].find((e) => e.innerText.includes(host)); `+
			`[...row.querySelectorAll("button")].find((e) => e.innerText === words).click(); }`, host, button)
		wait()
	}
	hasText(t, p, "tbody", "This server's own.")
	add("seed")
	hasText(t, p, "#e-host", `The host is "seed"; write the whole name, such as go.marrowby.example.`)
	if got := p.MustElement("#host").MustProperty("value").Str(); got != "seed" {
		t.Errorf("what was typed is gone: %q", got)
	}
	add("old.marrowby.example")
	hasText(t, p, "tbody", "_sodrik.old.marrowby.example")
	act("old.marrowby.example", "Ask now")
	hasText(t, p, "tbody", "Not proved yet.")
	act("old.marrowby.example", "Take away")
	hasText(t, p, "main", "Taken away.")
	add("https://seed.marrowby.example/")
	hasText(t, p, "tbody", "Yours since")
	act("seed.marrowby.example", "Draw new links here")
	hasText(t, p, "main", "New links are drawn there from now on.")

	allow := func(text string) {
		wait := p.MustWaitNavigation()
		p.MustElement("#allowed").MustSelectAllText().MustInput(text)
		p.MustElementR("button", "Keep these hosts").MustClick()
		wait()
	}
	allow("marrowby.example\nno host")
	hasText(t, p, "#e-allowed", `The list holds "no"; write whole names`)
	if got := p.MustElement("#allowed").MustProperty("value").Str(); got != "marrowby.example\nno host" {
		t.Errorf("what was typed is gone: %q", got)
	}
	allow("https://marrowby.example/fair")
	hasText(t, p, "main", "Kept. It counts from the next destination on.")
	if got := p.MustElement("#allowed").MustProperty("value").Str(); got != "marrowby.example" {
		t.Errorf("allowed is %q", got)
	}

	// The desk draws there, keeps to the rule, and scans are answered under the new name.
	d := a.page(t, a.create(t, `{"name":"Seedlings","content":{"kind":"url","url":"https://marrowby.example/seedlings"}}`))
	d.MustElement("[data-stub=says]").MustClick()
	d.MustElement(".way[value=link]").MustWaitVisible().MustClick()
	hasText(t, d, "#line-leads", "marrowby.example/seedlings")
	hasText(t, d, "#lead-links", "seed.marrowby.example/")
	d.MustElement("[data-stub=leads]").MustClick()
	fill(d, "#f-lead-to", "trap.example")
	hasText(t, d, "#e-f-lead-to", "an owner allows marrowby.example only")

	if q := a.pageAs(t, "idris@marrowby.example", "/hosts"); q.MustHas("#host") {
		t.Error("an editor sees the hosts")
	}
}
