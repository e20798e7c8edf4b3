package e2e

import (
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
)

func submit(t *testing.T, p *rod.Page, button string) {
	t.Helper()
	wait := nextPage(t, p)
	p.MustElementR("main button", button).MustClick()
	wait()
}

// TestComingAndGoing: an owner invites by mail, the new person joins with a password, is signed out and in, forgets the
// password, and ends another sign-in.
func TestComingAndGoing(t *testing.T) {
	t.Parallel()
	a, err := start("people")
	if err != nil {
		t.Fatal(err)
	}
	owner := a.page(t, "/people")
	hasText(t, owner, "main", "Idris Penn")
	fill(owner, "#email", "nobody")
	owner.MustElement("#email").MustEval(`() => { this.form.noValidate = true; }`)
	submit(t, owner, "Send an invitation")
	hasText(t, owner, "#email-error", "no e-mail address")
	fill(owner, "#email", "ash@marrowby.example")
	owner.MustElement("#role").MustSelect("editor: makes and changes codes")
	submit(t, owner, "Send an invitation")
	hasText(t, owner, "main", "The invitation to ash@marrowby.example is on its way.")

	p := a.pageAs(t, "", "/codes")
	hasText(t, p, "h1", "Look around") // a stranger is led to the door
	p.MustNavigate(mailed(a, owner)).MustWaitLoad()
	hasText(t, p, "h1", "Join Marrowby Seed House")
	link := p.MustInfo().URL
	fill(p, "#name", "Ash Reed")
	for typed, says := range map[string]string{"short": "needs 10 or more", "1234567890": "many people use",
		"ash@marrowby.example": "your own name or address"} {
		fill(p, "#password", typed)
		submit(t, p, "Join")
		hasText(t, p, "#password-error", says)
		if got := value(p, "#name"); got != "Ash Reed" {
			t.Errorf("the name reads %q", got)
		}
	}
	fill(p, "#password", "leeks in october")
	submit(t, p, "Join")
	hasText(t, p, "h1", "Codes")
	p.MustNavigate(link).MustWaitLoad()
	hasText(t, p, "main", "used or is too old")

	p.MustNavigate(a.url + "/codes").MustWaitLoad()
	p.MustElement(".menu summary").MustClick()
	wait := nextPage(t, p)
	p.MustElementR("button", "Sign out").MustClick()
	wait()
	fill(p, "#email", "ash@marrowby.example")
	fill(p, "#password", "leeks in november")
	submit(t, p, "Sign in$")
	hasText(t, p, "[role=alert]", "password is wrong")
	if got := value(p, "#email"); got != "ash@marrowby.example" {
		t.Errorf("the address reads %q", got)
	}
	fill(p, "#password", "leeks in october")
	submit(t, p, "Sign in$")
	hasText(t, p, "h1", "Codes")

	q := a.pageAs(t, "", "/forgot")
	fill(q, "#email", "ash@marrowby.example")
	submit(t, q, "Send a link")
	hasText(t, q, "[role=status]", "a mail with a link is on its way")
	q.MustNavigate(mailed(a, owner)).MustWaitLoad()
	fill(q, "#password", "onions in april")
	submit(t, q, "Set the password")
	hasText(t, q, "h1", "Codes")
	p.MustReload().MustWaitLoad()
	hasText(t, p, "h1", "Sign in") // the new password ended the old sign-in
	q.MustNavigate(a.url + "/account").MustWaitLoad()
	hasText(t, q, "main", "this one")
}

// TestRoles: what each role sees and cannot do, and a person in two workspaces.
func TestRoles(t *testing.T) {
	t.Parallel()
	a := open(t)
	desk := a.demoCode(t, "Fair programme")
	viewer := a.pageAs(t, "wren@marrowby.example", desk)
	hasText(t, viewer, ".verdict", "Safe")
	until(t, viewer, "every control locked",
		`() => [...document.querySelectorAll(".stub-body input, .stub-body textarea, .stub-body select, #takes button, #f-name")].every((e) => e.matches(":disabled"))`)
	hasText(t, viewer, ".ticket-head", "You may look, and change nothing. An owner of Marrowby Seed House can let you.")
	viewer.MustElement("[data-stub=wears]").MustClick()
	until(t, viewer, "values that do not look like fields",
		`() => [...document.querySelectorAll(".stub.open :is(.in, .btn, .link, .step)")].filter((e) => e.checkVisibility()).every((e) =>
			e.matches(".in") && getComputedStyle(e).borderTopColor === "rgba(0, 0, 0, 0)")`)
	viewer.MustElement("[data-stub=reads]").MustClick()
	hasText(t, viewer, "#readings", "19/19")
	viewer.MustNavigate(a.url + "/codes").MustWaitLoad()
	paste(viewer, "marrowby.example/looking-only")
	hasText(t, viewer, "#found", "You may look, and keep no code here. Its picture is yours.")
	viewer.MustElement("#find-text").MustFocus()
	_, mine := download(t, viewer, func() { viewer.Keyboard.MustType(input.Enter) })
	readBack(t, "mine.png", mine, "https://marrowby.example/looking-only")

	printer := a.pageAs(t, "juno@fenwick-print.example", "/codes")
	hasText(t, printer, "h1", "Handed over")
	until(t, printer, "no drafts", `() => !document.body.innerText.includes("How to prune a rose")`)
	wait := nextPage(t, printer)
	printer.MustElementR("a.name", "Fair programme").MustClick()
	wait()
	name, data := download(t, printer, func() { printer.MustElementR("a", "Download PDF").MustClick() })
	if name != "fair-programme-till_48mm_v1.pdf" {
		t.Errorf("saved as %s", name)
	}
	readBack(t, name, data, "https://marrowby.example/fair/programme")
	printer.MustNavigate(a.url + desk).MustWaitLoad()
	hasText(t, printer, "main", "Your role in this workspace does not allow that")

	both := a.page(t, "/account")
	submit(t, both, "Go there")
	hasText(t, both, "tr.code", "Garden map")
	until(t, both, "nothing of the other workspace", `() => !document.body.innerText.includes("Fair programme")`)
	both.MustNavigate(a.url + desk).MustWaitLoad()
	hasText(t, both, "main", "There is no such code")
}

// mailed is the link of the newest mail that has one, as somebody reads it who may look into the mailbox.
func mailed(a *app, reader *rod.Page) string {
	reader.MustNavigate(a.url + "/mailbox").MustWaitLoad()
	return reader.MustElementR("a", "Open the link").MustProperty("href").Str()
}
