package e2e

import "testing"

// TestEarly: what is typed as a desk opens, before its scripts run, arrives.
func TestEarly(t *testing.T) {
	t.Parallel()
	a := open(t)
	at := a.create(t, `{"content":{"kind":"url","url":"marrowby.example/late"}}`)
	p := a.page(t, "/account")
	closesAfter(p)
	p.MustEvalOnNewDocument(`document.addEventListener("readystatechange", () => {
		const field = document.getElementById("f-content-url");
		if (document.readyState !== "interactive" || !field) return;
		field.focus();
		field.value = "marrowby.example/early";
	})`)
	p.MustNavigate(a.url + at).MustWaitLoad()
	hasText(t, p, "#line-says", "marrowby.example/early")
}
