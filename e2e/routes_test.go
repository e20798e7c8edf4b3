package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/link"
	"sodrik/internal/standin"
)

const androidPhone = "Mozilla/5.0 (Linux; Android 15; Pixel 8) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/131.0.0.0 Mobile Safari/537.36"

// hasRows waits until the routes stand in an order.
func hasRows(t *testing.T, p *rod.Page, want string) {
	t.Helper()
	until(t, p, "routes "+want, `(want) => [...document.querySelectorAll(".route-row[data-route] .route-says")]
		.map((e) => e.innerText.trim()).join(" | ") === want`, want)
}

// leadOf is where a code of the demonstration leads.
func (a *app) leadOf(t *testing.T, name string) *link.Led {
	t.Helper()
	c, err := a.store.Get(t.Context(), standin.Loader(), strings.TrimPrefix(a.demoCode(t, name), "/codes/"))
	if err != nil {
		t.Fatal(err)
	}
	l, err := a.links.Of(t.Context(), standin.Loader(), c)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// ledAs waits until a phone with some headers is sent somewhere.
func (a *app) ledAs(t *testing.T, payload, want string, headers ...string) {
	t.Helper()
	got := ""
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if got, _ = a.askedAs(t, payload, headers...); got == want {
			return
		}
	}
	t.Fatalf("%v is sent to %q, not to %q", headers, got, want)
}

// TestRoutes goes from a fixed destination to three routes by mouse and by keys, asks what if, makes them live, and has handsets
// in two countries and two languages led through the real service.
func TestRoutes(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Fair, all comers","content":{"kind":"url","url":"https://marrowby.example/fair"},
		"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`))
	p.MustElement("[data-stub=says]").MustClick()
	p.MustElement(`.way[value=link]`).MustWaitVisible().MustClick()
	hasText(t, p, "#fixed", "Leads through go.marrowby.example/")
	openView(p, "routes")
	hasText(t, p, "#desk-routes", "Everybody who scans gets marrowby.example/fair")
	download(t, p, func() { p.MustElement("#hand-over").MustClick() })
	hasText(t, p, "#lead-status", "Live since")
	gate := "https://" + p.MustEval(`() => document.querySelector(".lead-link summary .mono").innerText`).Str()

	// a starting sentence, with what is wrong at its field; what was typed stays
	press := func(within, words string) {
		until(t, p, words, `(s, w) => { const b = [...document.querySelectorAll(s + " button")].find((b) => b.innerText.trim() === w);
			b?.click(); return Boolean(b); }`, within, words)
	}
	press(".route-starts", "In the phone's own language")
	p.MustElement("#f-route-languages").MustInput("Welch")
	p.MustElement("#f-route-to").MustInput("marrowby.example/cy/ffair")
	press(".route-form", "Keep this route")
	hasText(t, p, "#e-f-route-languages", `Names "Welch", which is no language`)
	p.MustElement("#f-route-languages").MustSelectAllText().MustInput("Welsh")
	p.Keyboard.MustType(input.Enter)
	hasRows(t, p, "Whose phone speaks Welsh")

	// by keys alone: the next route, and its place among the others
	p.MustElementR(".routes-head button", "route").MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("#f-route-where").MustWaitVisible().MustFocus()
	p.MustInsertText("Netherlands")
	press(".route-row[data-n='1']", "Whose phone speaks Welsh") // what is typed is not lost by opening another
	hasText(t, p, "#e-route-whole", "Keep this route first, or leave it.")
	p.MustElement("#f-route-to").MustFocus()
	p.MustInsertText("marrowby.example/nl")
	p.Keyboard.MustType(input.Enter)
	hasRows(t, p, "Whose phone speaks Welsh | In Netherlands")
	p.MustElement(".route-row[data-n='2'] .route-n").MustFocus()
	p.Keyboard.MustType(input.ArrowUp)
	hasRows(t, p, "In Netherlands | Whose phone speaks Welsh")
	until(t, p, "the number that was moved in focus", `() => document.activeElement.matches(".route-row[data-n='1'] .route-n")`)
	p.Keyboard.MustType(input.ArrowDown)
	hasRows(t, p, "Whose phone speaks Welsh | In Netherlands")

	press(".routes-head", "+ route")
	until(t, p, "ticked", `() => { const b = document.querySelector("[name=systems][value=android]"); b?.click(); return Boolean(b?.checked); }`)
	p.MustElement("#f-route-to").MustInput("marrowby.example/android")
	press(".route-form", "Keep this route")
	hasRows(t, p, "Whose phone speaks Welsh | In Netherlands | On Android")

	// by dragging
	p.MustEval(`() => { const [a, b] = ["3", "1"].map((n) => document.querySelector(".route-row[data-n='" + n + "']"));
		const dataTransfer = new DataTransfer();
		for (const [el, type] of [[a, "dragstart"], [b, "dragover"], [b, "drop"], [a, "dragend"]])
			el.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer })); }`)
	hasRows(t, p, "On Android | Whose phone speaks Welsh | In Netherlands")

	// what is found is mended in one act
	hasText(t, p, ".route-findings", "It is not said which language everybody else gets")
	press(".route-findings", "Everybody else gets English")
	until(t, p, "nothing found", `() => !document.querySelector(".route-findings")`)

	// a draft is not live
	if to, _ := a.askedAs(t, gate, "User-Agent", androidPhone); to != "https://marrowby.example/fair" {
		t.Errorf("before it is live a phone is sent to %s", to)
	}
	fill(p, "[name=if-where]", "Haarlem, Netherlands")
	fill(p, "[name=if-languages]", "English, then Welsh")
	hasText(t, p, "#what-if", "Route 3, marrowby.example/nl.")
	hasText(t, p, "#what-if", "Route 2: the phone prefers English.")
	fill(p, "[name=if-where]", "Walles")
	hasText(t, p, "#what-if", "Names Walles, which is no country")
	fill(p, "[name=if-where]", "Newtown, Wales")
	fill(p, "[name=if-languages]", "Welsh")
	hasText(t, p, "#what-if", "Route 2, marrowby.example/cy/ffair.")
	if rows := p.MustEval(`() => document.querySelectorAll(".who-gets tbody tr").length`).Int(); rows < 4 {
		t.Errorf("the strip tells %d apart", rows)
	}
	hasText(t, p, "#lead-change", "Route 1 is new. On Android: marrowby.example/android.")
	p.MustElement("#make-live").MustClick()
	until(t, p, "the draft is live", `() => !document.querySelector("#make-live")`)
	iphone := []string{"User-Agent", "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 Version/18.0 Mobile/15E148 Safari/604.1"}
	a.ledAs(t, gate, "https://marrowby.example/android", "User-Agent", androidPhone, "X-Forwarded-For", "203.0.113.5",
		"Accept-Language", "cy")
	a.ledAs(t, gate, "https://marrowby.example/cy/ffair", append(iphone, "X-Forwarded-For", "203.0.113.5", "Accept-Language",
		"cy, en;q=0.5")...)
	a.ledAs(t, gate, "https://marrowby.example/nl", append(iphone, "X-Forwarded-For", "203.0.113.5", "Accept-Language",
		"en-GB, cy;q=0.5")...)
	a.ledAs(t, gate, "https://marrowby.example/fair", append(iphone, "X-Forwarded-For", "198.51.100.3", "Accept-Language",
		"en-GB, cy;q=0.5")...)

	// what fired is seen in the counts of the week
	until(t, p, "counts of the routes", `() => { if (document.querySelector("#desk-routes.htmx-request")) return false;
		const n = [...document.querySelectorAll(".route-count")].map((e) => Number(e.innerText));
		if (n.length === 4 && n.every((k) => k > 0) &&
			document.querySelector(".route-week").innerText === "Last week's " + n.reduce((a, b) => a + b) + " scans, by route.") return true;
		document.body.dispatchEvent(new Event("routes"));
		return false; }`)

	// another code takes them over, in its draft
	until(t, p, "the other codes", `() => { const d = document.querySelector(".route-copy");
		if (!d.open) d.querySelector("summary").click(); return Boolean(document.querySelector(".route-others input")); }`)
	until(t, p, "one of them", `() => { const l = [...document.querySelectorAll(".route-others label")]
		.find((l) => l.innerText.includes("Broad bean recipes")); l.querySelector("input").checked = true; return true; }`)
	press(".route-copy", "Copy to these")
	hasText(t, p, "#notice", "Copied to the drafts of 1 code.")
	l := a.leadOf(t, "broad bean recipes")
	if len(l.Draft.Routes) != 3 || len(l.Live.Lead.Routes) != 0 {
		t.Errorf("another code has %d routes, and %d live", len(l.Draft.Routes), len(l.Live.Lead.Routes))
	}
	if _, err := a.links.Discard(t.Context(), standin.Loader(), strings.TrimPrefix(a.demoCode(t, "broad bean recipes"),
		"/codes/"),
		0); err != nil { // others look at it too
		t.Fatal(err)
	}

	// switched off, taken out, and on a phone as somebody else
	p.MustEval(`() => { // while the list is asked for anew, as when something changed elsewhere
		document.body.dispatchEvent(new Event("routes"));
		document.querySelector(".route-row[data-n='1'] .route-says").click();
	}`)
	press(".route-form", "Switch off")
	until(t, p, "off", `() => Boolean(document.querySelector(".route-row[data-n='1'].off"))`)
	hasText(t, p, "#lead-change", "Route 1 is off.")
	press(".route-form", "Take out")
	hasRows(t, p, "Whose phone speaks Welsh | In Netherlands")
	hasText(t, p, "#lead-change", "A route is gone. On Android: marrowby.example/android.")
	fill(p, "[name=if-languages]", "Welsh")
	wait := nextPage(t, p)
	press(".what-if-form", "On a phone")
	wait()
	hasText(t, p, "main", "It leads where your draft says, as it would: Newtown, Wales; Welsh.")
	trial := readSymbol(t, p)
	a.ledAs(t, trial, "https://marrowby.example/cy/ffair", iphone...)
	if !strings.Contains(trial, "MARROWBY") {
		t.Errorf("the symbol says %s", trial)
	}
}

// TestNearby: a phone that is near is shown what is for those who are, after it has looked where it is; another, and one that
// does
// not say, goes on without.
func TestNearby(t *testing.T) {
	t.Parallel()
	a := open(t)
	ctx, actor := t.Context(), standin.Loader()
	id, err := a.links.Create(ctx, actor, made(t, `{"name":"For those at the gate","content":{"kind":"dynamic","link":"go.elsewhere.example/SOME"},
		"lead":{"to":{"kind":"phone","number":"+44 113 496 0100"},"routes":[{"near":"Ludlow, GB","within_km":5,
		"to":{"kind":"phone","number":"+44 113 496 0123"}}]}}`), "", nil)
	if err != nil {
		t.Fatal(err)
	}
	c, err := a.links.Codes.Issue(ctx, actor, id)
	if err != nil {
		t.Fatal(err)
	}
	address := link.Links(c.Rendition.Job)[0].Address.String()
	a.leadsTo(t, "https://"+address, "Where are you?")
	here := strings.Replace("https://"+strings.ToLower(address), standin.LinkHost, a.linksAt, 1)
	for where, c := range map[string]struct {
		lat, lon float64
		allowed  bool
		want     string
	}{
		"in Ludlow": {52.36, -2.72, true, "+44 113 496 0123"}, "in Newtown": {52.51, -3.31, true, "+44 113 496 0100"},
		"nowhere": {0, 0, false, ""},
	} {
		p := a.pageAs(t, "", "/enter")
		closesAfter(p)
		permissions := []proto.BrowserPermissionType{}
		if c.allowed {
			permissions = append(permissions, proto.BrowserPermissionTypeGeolocation)
		}
		if err := (proto.BrowserGrantPermissions{Permissions: permissions, BrowserContextID: p.Browser().BrowserContextID}).
			Call(p.Browser()); err != nil {
			t.Fatal(err)
		}
		accuracy := 20.0
		if err := (proto.EmulationSetGeolocationOverride{Latitude: &c.lat, Longitude: &c.lon,
			Accuracy: &accuracy}).Call(p); err != nil {
			t.Fatal(err)
		}
		p.MustNavigate(here).MustWaitLoad()
		hasText(t, p, "main", "those who are within 5 km of Ludlow, United Kingdom")
		p.MustElement("#look").MustClick()
		if c.want == "" {
			hasText(t, p, "#looks", "does not say where it is")
			p.MustElementR("a", "Go on without").MustClick()
			c.want = "+44 113 496 0100"
		}
		hasText(t, p, "main", c.want)
		t.Log(where, "is led to", c.want)
	}
}
