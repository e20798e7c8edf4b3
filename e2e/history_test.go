package e2e

import (
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

func value(p *rod.Page, selector string) string {
	return p.MustElement(selector).MustProperty("value").Str()
}

// TestTwoTabs: two tabs edit different fields, and both are kept; they edit the same field, and the second is shown both
// values; a tab that is looked at again shows what the other has done.
func TestTwoTabs(t *testing.T) {
	t.Parallel()
	a := open(t)
	path := a.create(t, `{"name":"Two tabs","content":{"kind":"url","url":"marrowby.example/tabs"},"look":{"ink":"#12352b"}}`)
	one, two := a.page(t, path), a.page(t, path)
	// A tab that is looked at again catches up by itself, and what it has caught up with is no clash; this one cannot.
	closesAfter(one)
	one.EnableDomain(&proto.NetworkEnable{})
	if err := (proto.NetworkSetBlockedURLs{Urls: []string{"*since=*"}}).Call(one); err != nil {
		t.Fatal(err)
	}
	fill(one, "#f-content-url", "marrowby.example/one")
	hasText(t, one, "#line-says", "marrowby.example/one")
	two.MustElement("[data-stub=wears]").MustClick()
	fill(two, "#f-look-ink", "#5b1f33")
	hasText(t, two, "#line-wears", "beetroot")
	hasText(t, two, "#line-says", "marrowby.example/one") // came along

	openView(one, "plates") // these are of what the other has made of it; the fields are not
	until(t, one, "the plates", `() => !!document.querySelector("#plates .plate-tile")`)
	one.MustElement("[data-stub=wears]").MustClick()
	fill(one, "#f-look-ink", "#1f3a5a")
	hasText(t, one, "#e-f-look-ink", "Changed in another tab since")
	hasText(t, one, "#e-f-look-ink", "Keep #5b1f33")
	if got := value(one, "#f-look-ink"); got != "#1f3a5a" {
		t.Errorf("the field reads %q", got)
	}
	one.MustElementR("#e-f-look-ink button", "Take #1f3a5a").MustClick()
	hasText(t, one, "#line-wears", "cornflower")
	until(t, one, "the question gone", `() => document.querySelector("#e-f-look-ink").innerText === ""`)

	two.MustElement("#find-text").MustFocus() // out of the field, which must not be changed under the hand
	two.MustEval(`() => window.dispatchEvent(new Event("focus"))`)
	hasText(t, two, "#line-wears", "cornflower")
	fill(two, "#f-look-ink", "#5a2d0c")
	hasText(t, two, "#line-wears", "bark")

	fill(one, "#f-look-ink", "#3d3b1f")
	hasText(t, one, "#e-f-look-ink", "Keep #5a2d0c")
	one.MustElementR("#e-f-look-ink button", "Keep #5a2d0c").MustClick()
	hasText(t, one, "#line-wears", "bark")
	until(t, one, "the field showing what was kept", `() => document.querySelector("#f-look-ink").value === "#5a2d0c"`)
}

// TestHistory: the drawer lists edits and versions in words, compares two, and goes back to one.
func TestHistory(t *testing.T) {
	t.Parallel()
	a := open(t)
	path := a.create(t,
		`{"name":"History test","content":{"kind":"url","url":"marrowby.example/history"},"look":{"ink":"#12352b"}}`)
	p := a.page(t, path)
	name, data := download(t, p, func() { takePNG(p) })
	if name != "history-test_v1.png" {
		t.Errorf("saved as %s", name)
	}
	readBack(t, name, data, "https://marrowby.example/history")
	hasText(t, p, "#issued", "v1 handed over")
	fill(p, "#f-content-url", "marrowby.example/history-2")
	hasText(t, p, ".sheet .another", "Version 1, handed over, says something else: https://marrowby.example/history")
	p.MustElement("[data-stub=wears]").MustClick()
	fill(p, "#f-look-ink", "#5b1f33")
	p.MustElement("[data-stub=ships]").MustClick()
	hasText(t, p, "#freeze",
		"Changed since v1: address marrowby.example/history → marrowby.example/history-2; ink #12352b → #5b1f33")
	hasText(t, a.page(t, "/codes"), "tr.code", "Not as v1 says")

	p.MustElementR("button", "History").MustClick()
	hasText(t, p, "#history .version", "Version 1 handed over")
	hasText(t, p, "#history", "ink to #5b1f33")
	hasText(t, p, "#compared", "ink #12352b → #5b1f33")
	until(t, p, "both symbols side by side", `() => document.querySelectorAll("#compared svg.symbol").length === 2`)
	p.MustElement(`#history input[name=second][value=r0]`).MustClick()
	hasText(t, p, "#compared", "The two are alike.")
	wait := nextPage(t, p)
	p.MustElementR("#compared button", "Return to version 1").MustClick()
	wait()
	hasText(t, p, "#issued", "v1 handed over")
	if got := value(p, "#f-content-url"); got != "marrowby.example/history" {
		t.Errorf("the address is %q", got)
	}
	p.MustElement("#undo").MustClick()
	hasText(t, p, "#line-says", "marrowby.example/history-2")
}
