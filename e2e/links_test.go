package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// TestLinkPatterns: a pattern is kept by the house, begins a code, is checked where it is filled in, makes another address on
// the desk, and is taken away; the code stays.
func TestLinkPatterns(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/style")
	keep := func(name, address string) {
		p.MustElement("#links input[name=name]").MustSelectAllText().MustInput(name)
		p.MustElement("#links input[name=address]").MustSelectAllText().MustInput(address)
		wait := nextPage(t, p)
		p.MustElementR("#links button", "Add pattern").MustClick()
		wait()
	}
	keep("Parcel on its way", "https://{item}.marrowby.example/")
	hasText(t, p, "#e-link", "has a blank in the name of its host")
	if got := p.MustElement("#links input[name=name]").MustProperty("value").Str(); got != "Parcel on its way" {
		t.Errorf("what was typed is gone: %q", got)
	}
	keep("Parcel on its way", "https://parcel.marrowby.example/{item}")
	hasText(t, p, "#links table", "https://parcel.marrowby.example/{item}")
	keep("Parcel on its way", "https://parcel.marrowby.example/2/{item}")
	hasText(t, p, "#e-link", "there is already a link pattern called")
	hasText(t, p, "#history", "Link pattern Parcel on its way new")

	p.MustNavigate(a.url + "/codes").MustWaitLoad()
	p.MustElement("#find-text").MustInput("parcel on")
	until(t, p, "the words as a text, and the pattern among beginnings", `() => document.querySelector("#found .says")?.innerText.includes("parcel on") &&
		[...document.querySelectorAll(".outcomes a")].some((e) => e.innerText === "Parcel on its way")`)
	wait := nextPage(t, p)
	p.MustElementR(".outcomes a", "Parcel on its way").MustClick()
	wait()
	fill(p, "#f-item", "MB/7")
	hasText(t, p, "#e-f-item", "Holds something else than letters")
	wait = nextPage(t, p)
	p.MustElementR("button", "Open on the desk").MustClick()
	wait()
	hasText(t, p, "#e-f-item", "Holds something else than letters")
	fill(p, "#f-item", "MB-7")
	hasText(t, p, "#new-symbol", "parcel.marrowby.example/MB-7")
	wait = nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	hasText(t, p, "#line-says", "parcel.marrowby.example/MB-7")

	p.MustElement("#fold-links summary").MustClick()
	if got := p.MustElement("#link-parcel-on-its-way-item").MustProperty("value").Str(); got != "MB-7" {
		t.Errorf("the desk takes the address apart as %q", got)
	}
	fill(p, "#link-chat-number", "0113 496 0123")
	fill(p, "#link-chat-text", "Where are my bulbs?")
	p.MustElementR(`#fold-links form[aria-label="Chat with the shop"] button`, "Make the address").MustClick()
	hasText(t, p, "#e-link-chat-number", "Has no country code")
	fill(p, "#link-chat-number", "+44 113 496 0123")
	p.MustElementR(`#fold-links form[aria-label="Chat with the shop"] button`, "Make the address").MustClick()
	until(
		t,
		p,
		"the address of the chat",
		`() => document.querySelector("#f-content-url").value === "https://chat.marrowby.example/441134960123?text=Where%20are%20my%20bulbs%3F"`,
	)
	until(t, p, "no error any more", `() => document.querySelector("#e-link-chat-number").innerText === ""`)
	p.MustElement("#undo").MustClick()
	hasText(t, p, "#line-says", "parcel.marrowby.example/MB-7")

	desk := p.MustInfo().URL
	p.MustNavigate(a.url + "/style").MustWaitLoad()
	wait = nextPage(t, p)
	p.MustElement("#links input[value=parcel-on-its-way] + button").MustClick()
	wait()
	until(t, p, "it is gone", `() => !document.querySelector("#links").innerText.includes("parcel.marrowby")`)
	p.MustNavigate(desk).MustWaitLoad()
	hasText(t, p, "#line-says", "parcel.marrowby.example/MB-7")
}
