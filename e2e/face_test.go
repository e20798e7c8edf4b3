package e2e

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/proof"
	"sodrik/internal/standin"
)

const axeFile = "../assets/node_modules/axe-core/axe.min.js"

// TestAccessibility has axe look at every view, in light and dark, against WCAG 2.2 AA, and none sticks out sideways.
func TestAccessibility(t *testing.T) {
	t.Parallel()
	axe, err := os.ReadFile(axeFile)
	if err != nil {
		t.Fatal("axe-core is not installed; run assets/build: ", err)
	}
	a := open(t)
	desk := a.demoCode(t, "Fair, gate poster")
	stop := a.demoCode(t, "Foxglove Lanterne")
	opened := []string{".stub.open", ".middle"} // of a desk: the rest is as on the others
	look := func(path, what string, prepare func(t *testing.T, p *rod.Page), within ...string) {
		t.Run(what, func(t *testing.T) {
			t.Parallel()
			p := a.page(t, path)
			if prepare != nil {
				prepare(t, p)
			}
			checkAxe(t, p, axe, what, within...)
			fits(t, p, what)
			heeded(t, p, what)
		})
	}
	t.Run("bench", func(t *testing.T) {
		t.Parallel()
		p := a.pageAs(t, "", "/")
		p.MustElement("#bench-text").MustInput("marrowby.example/fair?utm_source=gate")
		until(t, p, "the code", `() => !!document.querySelector("#bench-files button")`)
		p.MustElement("#f-placements-0-medium").MustSelect("business card")
		until(t, p, "its width", `() => !!document.querySelector("#f-placements-0-width_mm")`)
		fill(p, "#f-placements-0-width_mm", "9")
		until(t, p, "what is found", `() => !!document.querySelector("#bench-proof .finding button")`)
		checkAxe(t, p, axe, "bench")
	})
	look("/codes", "ledger", func(t *testing.T, p *rod.Page) {
		p.MustElement(".menu summary").MustClick()
		checkAxe(t, p, axe, "menu", "header.band")
		p.Keyboard.MustType(input.Escape)
		p.MustElement("tr.code").
			MustEval(`() => { this.focus(); this.dispatchEvent(new KeyboardEvent("keydown", {key: " ", bubbles: true})); }`)
		hasText(t, p, "#peek[open]", "Duplicate")
		checkAxe(t, p, axe, "peek", "#peek")
		p.Keyboard.MustType(input.Escape)
		until(t, p, "the peek gone", `() => !document.querySelector("#peek[open]")`)
		paste(p, "0113 496 0123")
		hasText(t, p, "#found", "It could be")
		checkAxe(t, p, axe, "two readings", "#found")
		paste(p, "marrowby.example/visit?utm_source=tote")
		hasText(t, p, "#found", "Leave out utm_source")
	})
	look("/new/of/chat", "a link pattern", func(t *testing.T, p *rod.Page) {
		p.MustElementR("button", "Open on the desk").MustClick()
		hasText(t, p, "#e-f-number", ".")
	})
	for _, kind := range []string{"contact", "place"} {
		look("/new/"+kind, "a new "+kind, func(t *testing.T, p *rod.Page) {
			p.MustElementR("button", "Open on the desk").MustClick()
			hasText(t, p, ".error", ".")
		})
	}
	look(a.demoCode(t, "Tamsin Ashdown"), "desk of a contact", func(t *testing.T, p *rod.Page) {
		address := p.MustElementR(".more summary", "Postal address")
		address.MustEval(`() => this.focus()`)
		// WCAG 2.2, 2.4.11: what is reached by keys is not hidden below the price
		if _, err := address.Interactable(); err != nil {
			t.Error("the postal address, when reached by keys: ", err)
		}
		p.Keyboard.MustType(input.Enter)
		until(t, p, "its fields", `() => document.activeElement.closest("details").open`)
		p.MustElement("#price details summary").MustClick()
	})
	look(a.demoCode(t, "Way to the show"), "desk of a place", nil, opened...)
	look(a.demoCode(t, "Swiss invoice"), "desk of a bill", func(t *testing.T, p *rod.Page) {
		p.MustElement("[data-stub=ships]").MustClick()
	}, opened...)
	look("/new/pay", "ways to be paid", nil)
	look("/identifiers", "identifiers", func(t *testing.T, p *rod.Page) {
		fill(p, "#identifiers-text", "9521234500018\n9521234500019")
		hasText(t, p, "#judged", "1 wrong")
	})
	look(desk, "history", func(t *testing.T, p *rod.Page) {
		hasText(t, p, ".verdict", "Safe to print")
		checkAxe(t, p, axe, "desk")
		for _, stub := range []string{"wears", "sits", "reads", "ships"} {
			p.MustElement("[data-stub=" + stub + "]").MustClick()
			checkAxe(t, p, axe, "desk with "+stub, opened...)
		}
		openPart(p, "behind")
		openView(p, "looks")
		until(t, p, "looks", `() => document.querySelectorAll("#looks .tile").length > 12`)
		checkAxe(t, p, axe, "the looks", opened...)
		openView(p, "variations")
		until(t, p, "room for nine", `() => document.querySelectorAll("#variations .tile").length === 9`)
		checkAxe(t, p, axe, "variations", opened...)
		openView(p, "evidence")
		hasText(t, p, "#evidence", "Wear and damage")
		p.MustElementR("#evidence button", "Photocopied").MustClick()
		hasText(t, p, "#evidence", "Picture 1 of 2")
		checkAxe(t, p, axe, "the evidence", "#evidence")
		p.MustElementR("button", "History").MustClick()
		until(t, p, "two states side by side", `() => document.querySelectorAll("#compared figure").length === 2`)
	}, "dialog[open]")
	look(a.demoCode(t, "Sowing guide"), "mark and damage", func(t *testing.T, p *rod.Page) {
		x, y := at(p, "mark")
		p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
		checkAxe(t, p, axe, "the mark held", opened...)
		openPart(p, "eyes")
		openView(p, "damage")
		hasText(t, p, "#damage", "Hatched is what the mark takes")
	}, opened...)
	look(stop, "desk with findings", func(t *testing.T, p *rod.Page) { verdictIs(t, p, proof.Stop) })
	look("/nowhere", "failure", nil)
	look("/style", "house style", func(t *testing.T, p *rod.Page) {
		p.MustElement("#colours .add input[name=screen]").MustInput("greenish")
		wait := nextPage(t, p)
		p.MustElementR("#colours button", "Add colour").MustClick()
		wait()
		hasText(t, p, "#colours .error", "greenish")
		p.MustElementR("#colour-pine summary", "Change").MustClick()
	})
	look("/style/looks/garden-sign", "a look", nil)
	look("/style/looks/shipped/pebble", "a shipped look", nil)
	look(a.demoCode(t, "Fair programme"), "plates", func(t *testing.T, p *rod.Page) {
		openView(p, "plates")
		until(t, p, "the plates", `() => document.querySelectorAll("#plates .plate-tile").length >= 5`)
	}, opened...)
	look(a.demoCode(t, "Fair, poster with tulips"), "in place", func(t *testing.T, p *rod.Page) {
		p.MustElement("[data-stub=sits]").MustClick()
		until(t, p, "the poster", `() => !!document.querySelector("#in-place image")`)
		p.MustEval(`() => document.querySelectorAll(".stub.open details").forEach((d) => { d.open = true; })`)
		checkAxe(t, p, axe, "the poster in place", opened...)
		p.MustElement("[data-stub=ships]").MustClick()
		checkAxe(t, p, axe, "the files for a press", ".files-view")
		p.MustElement("[data-whom=page]").MustClick()
		p.MustElementR("button", "Address of this version").MustClick()
		hasText(t, p, "#address-slot", "/shown/")
		hasText(t, p, "#issued", "v1 handed over") // an address hands over
		checkAxe(t, p, axe, "every way out", ".files-view")
		p.MustNavigate(p.MustElement(".address a.mono").MustProperty("href").Str()).MustWaitLoad()
		checkAxe(t, p, axe, "a picture with an address")
	})
	look(desk+"/phone", "on a phone", func(t *testing.T, p *rod.Page) {
		p.MustElementR("button", "^Save$").MustClick()
		hasText(t, p, ".error", "name the phone")
	})
	look(desk+"/print", "a print checked", func(t *testing.T, p *rod.Page) {
		p.MustElementR("button", "Check the print").MustClick()
		hasText(t, p, ".error", "is missing")
	})
	look(a.demoCode(t, "at the fair today"), "where a code leads", func(t *testing.T, p *rod.Page) {
		p.MustElement("[data-stub=says]").MustClick()
		checkAxe(t, p, axe, "both ways", ".stub.open")
		p.MustElement("[data-stub=leads]").MustClick()
		for _, fold := range []string{"timed", "quiet", "more"} {
			p.MustElement("#fold-lead-" + fold + " summary").MustClick()
		}
	}, opened...)
	look("/hosts", "short links", nil)
	look("/webhooks", "webhooks", func(t *testing.T,
		p *rod.Page) {
		p.MustElement(".hook-key summary").MustEval(`() => this.click()`)
	})
	look("/out", "what is out there", nil)
	look("/batches", "batches", nil)
	look("/batches/new?heads=no", "how a table is read", nil)
	look("/batches/new", "a new batch", func(t *testing.T, p *rod.Page) {
		p.MustElement(".batch-new button.main").MustClick()
		hasText(t, p, ".error", "are missing")
	})
	look("/batches", "a batch", func(t *testing.T, p *rod.Page) {
		wait := nextPage(t, p)
		p.MustElementR("a.name", "Plant labels, show garden").MustClick()
		wait()
		p.MustElement("#batch-settings > summary").MustClick()
		p.MustElement(".batch-stub details summary").MustClick()
		until(t, p, "its rows", `() => document.querySelectorAll(".batch-rows tbody tr").length > 30`)
	})
	look("/moving", "moving in", nil)
	look("/scans", "scans", func(t *testing.T, p *rod.Page) {
		wait := nextPage(t, p)
		p.MustElement(".scans-rows tbody .name a").MustClick()
		wait()
	})
	look("/scans?days=365&by=code&open=all", "scans of a year by code", nil)
	look("/scans/overview", "overview", nil)
	look("/scans/settings", "settings of scans", nil)
	look("/leaving", "leaving", func(t *testing.T, p *rod.Page) {
		p.MustElementR("button", "Rehearse").MustClick()
		hasText(t, p, "#rehearsal", "end where they do today")
	})
	look("/account", "account", nil)
	look("/people", "people", nil)
	look("/api", "API", nil)
	look("/mailbox", "mailbox", nil)
	look(desk+"/versions/1", "version", nil)
	checkAxe(t, a.pageAs(t, "", "/sign-in"), axe, "sign-in")
}

// checkAxe has axe look at a page as it stands, or at what of it lies within the selectors: at everything in light, at the
// contrast again in dark.
func checkAxe(t *testing.T, p *rod.Page, axe []byte, what string, within ...string) {
	t.Helper()
	if !p.MustEval("() => !!window.axe").Bool() { // half a megabyte, sent once to each page
		p.MustEval("() => { " + string(axe) + " }")
	}
	styles := fmt.Sprint(what == "ledger") // read as text for one rule, and the same on every page
	for scheme, rules := range map[string]string{"light": `"wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"`, "dark": ""} {
		only := `["color-contrast"]`
		if rules == "" && !strings.Contains(" bench ledger desk desk of a contact account identifiers ", " "+what+" ") {
			continue // the others are made of the same parts
		}
		if rules != "" {
			only = "[" + rules + "]"
		}
		emulate(t, p, scheme)
		r := p.MustEval(
			`async (within) => { const r = await axe.run(within ? {include: within.map((s) => [s])} : document, {resultTypes: ["violations"], selectors: false, preload: `+styles+`, runOnly: `+only+`}); return r.violations.map((v) => v.id + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160) + " " + (n.any[0] || n.all[0] || n.none[0] || {}).message).join(" | ")).join("\n"); }`,
			within,
		).Str()
		if r != "" {
			t.Errorf("%s, %s:\n%s", what, scheme, r)
		}
	}
	emulate(t, p, "light")
}

func emulate(t *testing.T, p *rod.Page, scheme string) {
	t.Helper()
	if err := colourScheme(scheme).Call(p); err != nil {
		t.Fatal(err)
	}
}

func (a *app) demoCode(t *testing.T, name string) string {
	t.Helper()
	page, err := a.store.Ledger(t.Context(), standin.Loader(), "active", name, nil, 10)
	if err != nil || len(page.Lines) == 0 {
		t.Fatalf("%s: %v", name, err)
	}
	return "/codes/" + page.Lines[0].ID
}

// fits fails where a page sticks out sideways, or where the desk scrolls at a width at which it does not have to.
func fits(t *testing.T, p *rod.Page, what string) {
	t.Helper()
	for _, w := range []int{1280, 1024, 390} {
		p.MustSetViewport(w, 800, 1, false)
		until(t, p, fmt.Sprint(what, " at ", w), `(w) => innerWidth === w`, w)
		size := p.MustEval(`() => [document.documentElement.scrollWidth, document.documentElement.scrollHeight,
			document.querySelector("tr.code .name")?.closest("td").getBoundingClientRect().width ?? -1, document.querySelector("main.desk") ? 1 : 0]`)
		if got := size.Get("0").Int(); got > w {
			t.Errorf("%s is %d wide at %d", what, got, w)
		}
		if got := size.Get("1").Int(); size.Get("3").Int() == 1 && w >= 1024 && got > 800 {
			t.Errorf("%s is %d high at %d × 800", what, got, w)
		}
		if got := size.Get("2").Num(); got >= 0 && got < 90 {
			t.Errorf("in the %s a name has %g px at %d", what, got, w)
		}
	}
}

// heeded fails where what opens and closes a part of a page is not heeded: in what is left out of that, or without the script.
func heeded(t *testing.T, p *rod.Page, what string) {
	t.Helper()
	if lost := p.MustEval(`() => [...document.querySelectorAll(window.Alpine ? "[x-ignore], [x-ignore] *" : "*")].filter((e) =>
		[...e.attributes].some((a) => /^(x-(?!ignore)|@|:)/.test(a.name))).map((e) => e.outerHTML.slice(0, 120)).join("\n")`).Str(); lost != "" {
		t.Errorf("%s: nobody heeds\n%s", what, lost)
	}
}

// TestSpeed measures; it asserts only that a picture comes at all. Figures go to the log, p50 and p95.
func TestSpeed(t *testing.T) {
	a := open(t)
	path := a.create(
		t,
		`{"name":"Speed","content":{"kind":"url","url":"marrowby.example/speed"},"look":{"ink":"#12352b"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`,
	)
	p := a.page(t, path)
	hasText(t, p, ".verdict", "Safe")
	var keys []time.Duration
	for i := range 40 {
		ms := p.MustEval(`(text) => new Promise((done) => {
			const field = document.querySelector("#f-content-url"), picture = document.querySelector("#picture").parentElement;
			field.focus();
			const start = performance.now();
			const o = new MutationObserver(() => { o.disconnect(); requestAnimationFrame(() => done(performance.now() - start)); });
			o.observe(picture, {childList: true, subtree: true});
			field.value = text;
			field.dispatchEvent(new Event("input", {bubbles: true}));
		})`, fmt.Sprintf("marrowby.example/speed-%d", i)).Num()
		keys = append(keys, time.Duration(ms*float64(time.Millisecond)))
	}
	report(t, "keystroke to new picture", keys)
	if len(keys) != 40 {
		t.Error("a picture did not come")
	}
}

func report(t *testing.T, what string, d []time.Duration) {
	slices.Sort(d)
	t.Logf("%s: p50 %v, p95 %v, n %d", what, d[len(d)/2].Round(100*time.Microsecond),
		d[len(d)*95/100].Round(100*time.Microsecond), len(d))
}

// TestRestFollows: who types on before all of an answer is on the page ends with the page that a reload shows.
func TestRestFollows(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(
		t,
		`{"name":"Typed on","content":{"kind":"url","url":"marrowby.example/typed"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`,
	))
	hasText(t, p, ".verdict", "Safe")
	const one, other = "marrowby.example/typed-1", "marrowby.example/typed-22-and-much-longer-than-before?utm_source=gate"
	texts := []string{"MARROWBY.EXAMPLE/T", one, other, one} // and back, before the page has all of what lies between
	p.MustEval(`(texts) => new Promise((done) => {
		const field = document.querySelector("#f-content-url"), next = () => {
			if (texts.length === 0) { done(); return; }
			const o = new MutationObserver(() => { o.disconnect(); next(); });
			o.observe(document.querySelector("#picture"), {childList: true});
			field.value = texts.shift();
			field.dispatchEvent(new Event("input", {bubbles: true}));
		};
		next();
	})`, texts)
	const slots = `() => ["price", "turns", "takes", "inline-svg", "look-slot", "files-office", "mail-files", "line-says", "gauge-0", "gauge-text-0", "issued"].map((id) => id + " " + document.getElementById(id).innerHTML.replace(/ (class|data-digest)="[^"]*"/g, "")).join("\n")`
	until(t, p, "nothing on its way",
		`() => document.querySelectorAll(".htmx-request").length === 0 && document.getElementById("age").innerText === ""`)
	shown := p.MustEval(slots).Str()
	p.MustReload().MustWaitLoad()
	until(t, p, "the desk again", `() => !!document.querySelector(".verdict")`)
	fresh := p.MustEval(slots).Str()
	for i, line := range strings.Split(fresh, "\n") {
		if got := strings.Split(shown, "\n"); i >= len(got) || got[i] != line {
			t.Errorf("the page shows\n%.400s\na reload\n%.400s", got[min(i, len(got)-1)], line)
			break
		}
	}
	// A click that comes from neither key nor pointer, while the rest is still to come, is one on what takes the place of its
	// target.
	p.MustEval(`(text) => new Promise((done) => {
		const o = new MutationObserver(() => { o.disconnect(); document.getElementById("undo").click(); done(); });
		o.observe(document.querySelector("#picture"), {childList: true});
		const field = document.querySelector("#f-content-url");
		field.value = text;
		field.dispatchEvent(new Event("input", {bubbles: true}));
		field.blur();
	})`, other)
	until(t, p, "it undone", `() => !document.getElementById("line-says").innerText.includes("typed-22")`)
}
