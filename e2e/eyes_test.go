package e2e

import "testing"

// TestEyesCome: the forms of the eyes come when they are first opened, and no answer carries anything of them before. Where an
// edit was answered while they were on their way they come once more, and where they were lost on it; what was unfolded in them
// is so after a reload.
func TestEyesCome(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Eyes","content":{"kind":"url","url":"marrowby.example/eyes"}}`))
	p.MustEval(`() => {
		window.asked = 0;
		const { open, send } = XMLHttpRequest.prototype;
		XMLHttpRequest.prototype.open = function (verb, address, ...more) { this.address = address; return open.call(this, verb, address, ...more); };
		XMLHttpRequest.prototype.send = function (body) {
			if (this.address.includes("/eyes") && ++window.asked === 1) { setTimeout(() => this.onerror()); return; }
			if (this.address.includes("/eyes") && window.asked === 2) {
				const come = this.onload;
				this.onload = () => { window.release = () => come.call(this); };
			} else this.addEventListener("load", () => { window.answer = this.responseText; });
			return send.call(this, body);
		};
	}`)
	for _, name := range []string{"one", "two"} { // the first answer tells all that the page does not show
		enter(p, "#f-content-url", "marrowby.example/"+name)
		hasText(t, p, "#line-says", name)
		until(t, p, "its answer", `(name) => window.answer?.includes("marrowby.example/" + name)`, name)
	}
	if p.MustEval(`() => window.answer.includes("look-eyes") || !!document.querySelector("[id^=f-look-eyes]")`).Bool() {
		t.Error("the eyes are on the page, or in an answer, before anybody has opened them")
	}
	openPart(p, "eyes")
	until(t, p, "the eyes on their way", `() => !!window.release`)
	p.MustEval(`() => document.getElementById("undo").click()`)
	hasText(t, p, "#line-says", "example/eyes") // both edits of the field were one step
	p.MustEval(`() => window.release()`)
	until(t, p, "the eyes", `() => !!document.getElementById("fold-corners")`)
	p.MustElement("#fold-corners summary").MustClick()
	if n := p.MustEval(`() => window.asked`).Int(); n != 3 {
		t.Errorf("asked for %d times", n)
	}
	p.MustReload().MustWaitLoad()
	until(t, p, "what was unfolded", `() => document.querySelector("#fold-corners[open] input")?.checkVisibility()`)
}
