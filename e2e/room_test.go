package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/standin"
)

// overflow is how many pixels of the open stub's form lie out of sight.
func overflow(p *rod.Page) int {
	return p.MustEval(
		`() => { const b = document.querySelector(".stub.open .stub-body"); return b.scrollHeight - b.clientHeight; }`).Int()
}

// unfolded opens each fold of the open stub, and names those that do not come whole into sight by it, with how many pixels are
// missing.
const unfolded = `async () => {
	const body = document.querySelector(".stub.open .stub-body"), hidden = [];
	for (const d of body.querySelectorAll("details:not([open])")) {
		if (!d.checkVisibility()) continue;
		const summary = d.querySelector("summary");
		summary.scrollIntoView({ block: "nearest" });
		summary.click();
		await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
		const b = body.getBoundingClientRect(), at = d.getBoundingClientRect();
		const over = Math.round(Math.max(b.top - at.top, Math.min(at.bottom, ...[...d.querySelectorAll(".menu-open")].map((m) => m.getBoundingClientRect().bottom)) - b.bottom));
		if (over > 6) hidden.push((d.id || summary.innerText.trim().slice(0, 20)) + " " + over);
		if (d.open) summary.click();
		await new Promise((done) => requestAnimationFrame(done));
	}
	body.scrollTop = 0;
	return hidden.join(", ");
}`

// TestRoom opens the stubs of a code of every kind, and every part of the look: at 1280 × 800 nothing of a form is out of
// sight, and whatever is open stands within the ticket.
func TestRoom(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	seen := map[string]bool{}
	paths := []string{a.create(t, `{"name":"Dressed","content":{"kind":"url","url":"marrowby.example/dressed"},
		"look":{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#7a2e1f"}]},
			"mark":{"source":"icon:sprout","ink":"#12352b"},"frame":{"shape":"arch","text":"See what to sow"}},
		"placements":[{"name":"gate","medium":"poster-a2","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":40,"distance_mm":400}]}`)}
	for after, more := (code.Cursor{}), true; more; { // one of the demonstration's codes of each kind, filled in as people do
		list, next, err := a.store.Listed(t.Context(), standin.Loader(), code.Active, "", after, 50)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range list {
			if k := c.Rendition.Job.Content.Kind(); !seen[k] &&
				c.Campaign != "" { // those of other tests may become of another kind
				seen[k] = true
				paths = append(paths, "/codes/"+c.ID)
			}
		}
		if more = next != nil; more {
			after = *next
		}
	}
	for _, k := range content.Kinds() {
		if !seen[k] {
			paths = append(paths, a.create(t, `{"name":"Room for `+k+`","content":`+content.KindOf(k).Example+`}`))
		}
	}
	clear(seen)
	led := a.ledCode(t, `{"name":"Room for a link","content":{"kind":"url","url":"https://marrowby.example/room"},"placements":[
		{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":30,"distance_mm":300}]}`)
	paths = append(paths, led)
	for i, path := range paths {
		p.MustNavigate(a.url + path).MustWaitLoad()
		kind := p.MustEval(`() => document.getElementById("desk-state").dataset.kind`).Str()
		if seen[kind] || kind == "dynamic" && path != led { // others are in the middle of something
			continue
		}
		seen[kind] = i > 0                            // the first is no usual one
		all, stubs := i < 3, []string{"says", "sits"} // what is not of the content is alike in every kind
		if all {
			until(t, p, "the proof in words", `() => !!document.querySelector("#readings table")`)
			stubs = append(stubs, "reads", "ships", "wears")
		}
		if kind == "dynamic" {
			stubs = append([]string{"leads"}, stubs...)
		}
		for _, stub := range stubs {
			p.MustEval(`(s) => document.querySelector("[data-stub=" + s + "]").click()`, stub)
			until(t, p, stub+" open",
				`(s) => document.querySelector(".stub.open [data-stub]").dataset.stub === s && document.querySelector(".stub.open .stub-body").offsetHeight > 0`, stub)
			if n := overflow(p); n > 0 {
				t.Errorf("%s: %s hides %d px", kind, stub, n)
			}
			if hidden := p.MustEval(unfolded).Str(); hidden != "" {
				t.Errorf("%s: of %s is out of sight when unfolded: %s", kind, stub, hidden)
			}
			if n := p.MustEval(
				`() => Math.max(0, ...[...document.querySelectorAll(".stub:not(.open)")].map((s) => s.offsetHeight))`).
				Int(); n > 36 {
				t.Errorf("%s: beside %s a closed stub is %d px high", kind, stub, n)
			}
		}
		for _, part := range []string{"ink", "modules", "eyes", "mark", "frame", "behind", "outline"} {
			if !all {
				break
			}
			p.MustEval(`(s) => document.querySelector("[data-part-of=" + s + "]").click()`, part)
			until(t, p, part+" open", `(s) => document.getElementById("part-of-" + s).offsetHeight > 0`, part)
			if n := overflow(p); n > 0 {
				t.Errorf("%s: %s hides %d px", kind, part, n)
			}
		}
		if fits := p.MustEval(
			`() => document.documentElement.scrollHeight <= innerHeight && document.querySelector(".ticket").getBoundingClientRect().bottom <= innerHeight`).Bool(); !fits {
			t.Errorf("%s: the desk scrolls", kind)
		}
	}
	for _, k := range content.Kinds() {
		if !seen[k] {
			t.Errorf("no code of the kind %s was opened", k)
		}
	}
}

// ledCode is a code of its own that leads through short links, and was handed over.
func (a *app) ledCode(t *testing.T, job string) string {
	t.Helper()
	path := a.create(t, job)
	id := strings.TrimPrefix(path, "/codes/")
	if _, err := a.links.Turn(t.Context(), standin.Loader(), id, code.Anyhow); err != nil {
		t.Fatal(err)
	}
	if _, err := a.store.Issue(t.Context(), standin.Loader(), id); err != nil {
		t.Fatal(err)
	}
	return path
}
