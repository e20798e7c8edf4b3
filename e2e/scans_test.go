package e2e

import (
	"context"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/scan"
	"sodrik/internal/standin"
)

// TestScans: three phones scan, are seen, in a sentence and in a row; a span is chosen by date, a row unfolded, places set
// side by side, and the table taken away.
func TestScans(t *testing.T) {
	t.Parallel()
	a := open(t)
	a.counted(t)
	p := a.page(t, "/codes")
	wait := nextPage(t, p)
	p.MustElementR("nav a", "Scans").MustClick()
	wait()
	follow := func(do func()) {
		wait := nextPage(t, p)
		do()
		wait()
	}
	total := func() string { return p.MustElement(".scans-rows tbody .num b").MustText() }
	was := total()
	hasText(t, p, "#now", "today")
	for _, town := range []string{"Ludlow", "Newtown", "Haarlem"} {
		p.MustElement("#phone-town").MustSelect(town)
		p.MustElement("#phone-language").MustSelect("Welsh")
		p.MustElement("#phone-system").MustFocus() // by keys: what comes on the strip moves the button away from under a pointer
		p.Keyboard.MustType(input.Tab, input.Enter)
		hasText(t, p, "#phone-says", "A phone in "+town+" scanned it.")
	}
	hasText(t, p, "#now", "Haarlem, in Welsh")
	until(t, p, "code and place of a scan", `() => [...document.querySelectorAll("#now li span")].some((e) => /^[0-9:]+, On at the fair today, lane sign$/.test(e.innerText))`)
	until(t, p, "three scans on the live strip, as they come", `() => document.querySelectorAll("#now li").length >= 3`)
	p.MustElement("#now-pause").MustClick()
	hasText(t, p, "#now-pause", "Go on")
	a.shows(t, "/scans", func(page string) bool { return !strings.Contains(page, ">"+was+"</b>") })
	p.MustReload().MustWaitLoad()
	if total() == was {
		t.Fatalf("three scans are not seen: %s", was)
	}
	follow(func() { p.MustElement(".scans-rows tbody.all .name a").MustClick() })
	for _, fold := range []string{"Hours by weekday", "The days as a table"} {
		p.MustElementR(".all .unfolded summary", fold).MustClick()
	}
	p.MustElement(".all .week")
	hasText(t, p, ".all .unfolded", "Different phones that day")
	follow(func() { p.MustElement(".scans-rows tbody:not(.all) .name a").MustClick() })
	hasText(t, p, ".unfolded", "Where they were sent")
	hasText(t, p, ".unfolded", "Not known: no site reports it.")
	hasText(t, p, ".unfolded", "Towns, as far as addresses tell")
	hasText(t, p, ".unfolded", "Ludlow")
	hasText(t, p, ".unfolded", "Welsh")
	for i := range 2 {
		p.MustElements(".scans-rows input[name=with]")[i].MustClick()
	}
	follow(func() { p.MustElementR("button", "Compare the chosen").MustClick() })
	hasText(t, p, ".scans-side", "against")
	follow(func() {
		p.MustEval(
			`() => { document.querySelector(".scans-span details").open = true; document.getElementById("span-from").value = "2020-02-01";
			document.getElementById("span-to").value = "2020-02-29"; document.querySelector(".scans-span button").click(); }`,
		)
	})
	hasText(t, p, "h1", "No scan in 29 days.")
	follow(func() {
		p.MustEval(
			`() => { document.getElementById("span-to").value = "2020-01-01"; document.querySelector(".scans-span button").click(); }`,
		)
	})
	hasText(t, p, "[role=alert]", "The last day comes before the first.")
	follow(func() { p.MustNavigate(a.url + "/scans?days=7") })
	shut := func() { p.MustEval(`() => { document.querySelector(".scans-top details[open]").open = false; }`) }
	for _, c := range []struct {
		of   int
		want string
	}{{0, "day,place,code,link,scans"}, {2, strings.Join(scan.Columns, ",")}} {
		_, file := download(t, p, func() {
			p.MustElementR("summary", "Download").MustClick()
			p.MustElements(".scans-top .menu-open a")[c.of].MustClick()
		})
		rows, err := csv.NewReader(strings.NewReader(string(file))).ReadAll()
		if err != nil || len(rows) < 1+5*7 || strings.Join(rows[0], ",") != c.want || c.of == 0 && len(rows)%7 != 1 {
			t.Errorf("%d rows, %v, %v", len(rows), err, rows[0])
		}
		shut()
		_, file = download(t, p, func() {
			p.MustElementR("summary", "Download").MustClick()
			p.MustElements(".scans-top .menu-open a")[c.of+1].MustClick()
		})
		var list []map[string]any
		if err := json.Unmarshal(file, &list); err != nil || len(list) < len(rows)-1 || len(list[0]) != len(rows[0]) {
			t.Errorf("%d objects, %v", len(list), err)
		}
		shut()
	}
}

// TestSteps: arrow keys step from bar to bar, Shift takes days that Enter shows, and a pointer drawn across takes them too; by
// code, by campaign and on the desk the same is seen.
func TestSteps(t *testing.T) {
	t.Parallel()
	a := open(t)
	a.counted(t)
	p := a.page(t, "/scans")
	follow := func(do func()) {
		wait := nextPage(t, p)
		do()
		wait()
	}
	bar := p.MustElement(".scans-rows tbody:not(.all) .steps")
	bar.MustFocus()
	says := func() string { return *bar.MustAttribute("aria-valuetext") }
	p.Keyboard.MustType(input.ArrowLeft)
	until(
		t,
		p,
		"the day before the last",
		`() => /^\w+ \d+ \w+: \d+ scans?; 28 days before: \d+$/.test(document.activeElement.getAttribute("aria-valuetext"))`,
	)
	p.Keyboard.MustType(input.Home)
	first := says()
	p.Keyboard.MustType(input.ArrowRight)
	if says() == first || *bar.MustAttribute("aria-valuenow") != "1" {
		t.Errorf("Home and a step lead to %q", says())
	}
	p.Keyboard.MustType(input.End)
	taken := p.KeyActions().Press(input.ShiftLeft).Type(input.ArrowLeft, input.ArrowLeft).Release(input.ShiftLeft)
	if err := taken.Do(); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(says(), " to ") || !strings.HasSuffix(says(), "Enter shows these days.") {
		t.Errorf("three days are %q", says())
	}
	follow(func() { p.Keyboard.MustType(input.Enter) })
	hasText(t, p, "h1", "in 3 days.")
	follow(func() { p.MustNavigate(a.url + "/scans?days=90&against=none") })
	box := p.MustElement(".over-rule").MustShape().Box()
	p.Mouse.MustMoveTo(box.X+2, box.Y+box.Height/2).MustDown("left")
	p.Mouse.MustMoveTo(box.X+box.Width/2, box.Y+box.Height/2)
	p.Mouse.MustMoveTo(box.X+box.Width/2-1, box.Y+box.Height/2)
	follow(func() { p.Mouse.MustUp("left") })
	until(t, p, "half of the days", `() => /in 4[456] days/.test(document.querySelector("h1").innerText)`)
	follow(func() { p.MustNavigate(a.url + "/scans?days=365") })
	until(t, p, "a bar a week", `() => document.querySelector(".steps").dataset.n.split(",").length === 53`)
	p.MustElement("#span-by").MustSelect("code")
	follow(func() { p.MustElementR("button", "^Show$").MustClick() })
	if rows := p.MustElements(".scans-rows tbody:not(.all)"); len(rows) < 3 {
		t.Errorf("%d codes", len(rows))
	}
	p.MustElement("#span-campaign").MustSelect("Seed packets, spring")
	follow(func() { p.MustElementR("button", "^Show$").MustClick() })
	hasText(t, p, ".scans-rows", "Broad bean recipes")
	if strings.Contains(p.MustElement(".scans-rows").MustText(), "On at the fair today") {
		t.Error("a code of another campaign is shown")
	}
	follow(func() { p.MustNavigate(a.url + a.demoCode(t, "broad bean recipes")) })
	p.MustElement("[data-stub=leads]").MustClick()
	openView(p, "scans")
	hasText(t, p, "#desk-scans", "packet back")
	hasText(t, p, "#desk-scans", "scans in 28 days.")
}

// TestNotices: what fell silent is told beside the figures and by mail, errors of destinations once an owner has them asked, and
// what was seen does not come again.
func TestNotices(t *testing.T) {
	t.Parallel()
	a := start1(t, "notices")
	look := func() {
		t.Helper()
		for _, do := range []func(context.Context) (int64, error){a.notices.Look, a.notices.Ask} {
			if _, err := do(t.Context()); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := a.notices.Told(t.Context(), a.url, a.people.TellOwners); err != nil {
			t.Fatal(err)
		}
	}
	for end := time.Now().Add(time.Minute); ; time.Sleep(200 * time.Millisecond) { // until half a year of scans has come
		look()
		if list, err := a.notices.List(t.Context(), standin.Loader()); err != nil || len(list) > 0 {
			break
		}
		if time.Now().After(end) {
			t.Fatal("nothing is told")
		}
	}
	p := a.page(t, "/scans?days=7")
	hasText(t, p, ".notice-card", "Spring seed list, leaflet fell silent")
	mails := a.page(t, "/mailbox")
	hasText(t, mails, "main", "Spring seed list, leaflet fell silent")
	hasText(t, mails, "main", "Photograph it:")
	follow := func(do func()) {
		wait := nextPage(t, p)
		do()
		wait()
	}
	follow(func() { p.MustElementR("a", "What you are told").MustClick() })
	p.MustElementR("label", "Ask destinations").MustClick()
	follow(func() { p.MustElement("button[value=told]").MustClick() })
	a.notices.Now = func() time.Time { return time.Now().Add(24 * time.Hour) } // they are asked once a day
	hasText(t, p, "[role=status]", "Kept.")
	if !p.MustElementR("label", "Ask destinations").MustElement("input").MustProperty("checked").Bool() {
		t.Error("it is not kept")
	}
	look()
	follow(func() { p.MustNavigate(a.url + "/scans?days=7") })
	hasText(t, p, ".scans-side", "which answers error 404.")
	seen := ""
	for n := len(p.MustElements(".notice-card")); n > 0; n-- {
		seen += p.MustElement(".notice-card").MustText()
		p.MustElement(".notice-card button").MustClick()
		until(t, p, "one less", fmt.Sprintf(`() => document.querySelectorAll(".notice-card").length === %d`, n-1))
	}
	look()
	list, err := a.notices.List(t.Context(), standin.Loader())
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range list { // early in the day the day before may bring another, which the page does not show yet
		if strings.Contains(seen, n.Words) {
			t.Errorf("what was seen comes again: %+v", n)
		}
	}
	// How long scans are kept: what is typed wrong stays, with what would be right.
	follow(func() { p.MustNavigate(a.url + "/scans/settings") })
	fill(p, "#months", "forever")
	follow(func() { p.MustElement("button[value=months]").MustClick() })
	hasText(t, p, "#e-months", "write 1 to 120")
	if got := p.MustElement("#months").MustProperty("value").Str(); got != "forever" {
		t.Errorf("what was typed is %q", got)
	}
	fill(p, "#months", "2")
	follow(func() { p.MustElement("button[value=months]").MustClick() })
	for {
		if n, err := a.counts.Fold(t.Context()); err != nil || n == 0 {
			break
		}
	}
	if n, err := a.counts.Forget(t.Context()); n == 0 || err != nil {
		t.Errorf("%d scans are deleted, %v", n, err)
	}
	p.MustReload().MustWaitLoad()
	hasText(t, p, "main", "Scans before")
	follow(func() { p.MustNavigate(a.url + "/scans?days=365&open=all") })
	hasText(t, p, ".all .unfolded", "Ludlow")
}

// TestOverview: one page of what hangs, as a PDF that an outside reader opens, and for a stranger by an address until it is
// withdrawn.
func TestOverview(t *testing.T) {
	t.Parallel()
	a := open(t)
	a.counted(t)
	p := a.page(t, "/scans?campaign=Seed+packets%2C+spring")
	follow := func(p *rod.Page, do func()) {
		wait := nextPage(t, p)
		do()
		wait()
	}
	follow(p, func() { p.MustElementR("a", "^Overview$").MustClick() })
	hasText(t, p, "h1", "Seed packets, spring")
	hasText(t, p, ".overview-rows", "24,000 printed")
	hasText(t, p, ".overview-rows", "Opens marrowby.example/recipes/broad-bean")
	name, file := download(t, p, func() { p.MustElementR("a", "Download PDF").MustClick() })
	at := filepath.Join(t.TempDir(), "o.pdf")
	if err := os.WriteFile(at, file, 0o600); err != nil || !strings.HasSuffix(name, ".pdf") {
		t.Fatal(name, err)
	}
	if out := tool(t, "pdfinfo", at); !strings.Contains(out, "Pages:           1") {
		t.Errorf("the PDF is %s", out)
	}
	p = a.page(t, "/scans/overview?campaign=Seed+packets%2C+spring")
	follow(p, func() { p.MustElementR("button", "Make an address").MustClick() })
	address := p.MustElement("#shown-at").MustText()
	path := address[strings.Index(address, "/overview/"):]
	stranger := a.pageAs(t, "", path)
	hasText(t, stranger, "h1", "Seed packets, spring")
	hasText(t, stranger, "main", "scans in 28 days.")
	if text := stranger.MustElement("body").MustText(); strings.Contains(text, "Show it to others") ||
		strings.Contains(text, "On at the fair") {
		t.Errorf("a stranger sees %s", text)
	}
	follow(p, func() { p.MustNavigate(a.url + "/scans/settings") })
	row := p.MustElementR("tr", "Seed packets, spring")
	follow(p, func() { row.MustElement("button").MustClick() })
	hasText(t, p, "[role=status]", "Withdrawn.")
	r, err := http.Get(a.url + path)
	if err != nil || r.StatusCode != http.StatusNotFound {
		t.Errorf("afterwards the address answers %v, %v", r.Status, err)
	}
}

// TestReached: a page and a server report what was reached, and the figures tell them apart.
func TestReached(t *testing.T) {
	t.Parallel()
	a := start1(t, "reached")
	p := a.page(t, "/scans/settings")
	follow := func(do func()) {
		wait := nextPage(t, p)
		do()
		wait()
	}
	follow(func() { p.MustElement("button[value=key]").MustClick() })
	key, err := hex.DecodeString(p.MustElement("#goal-key").MustText())
	if err != nil {
		t.Fatal(err)
	}
	get := func(query url.Values) int {
		t.Helper()
		r, err := (&http.Client{Transport: alias{}}).Get(a.linksAt + "/reached?" + query.Encode())
		if err != nil {
			t.Fatal(err)
		}
		r.Body.Close()
		return r.StatusCode
	}
	get(url.Values{"scan": {"bean-back"}, "goal": {"order"}})
	for order := range 2 {
		v := url.Values{
			"scan":  {"bean-back"},
			"goal":  {"order"},
			"order": {fmt.Sprint(order)},
			"at":    {fmt.Sprint(time.Now().Unix())},
		}
		v.Set("sign", scan.Sign(key, v))
		// The key is on its way.
		for end := time.Now().Add(time.Minute); get(v) != http.StatusNoContent; time.Sleep(100 * time.Millisecond) {
			if time.Now().After(end) {
				t.Fatal("what is signed is not taken")
			}
		}
		get(v) // again, as after an answer that was lost
	}
	link := "go.marrowby.example/BEAN-BACK"
	path := "/scans?open=" + url.QueryEscape(link)
	a.shows(t, path, func(page string) bool {
		return strings.Contains(page, ">2</span> signed") && strings.Contains(page, "1 not signed")
	})
	p.MustNavigate(a.url + path).MustWaitLoad()
	hasText(t, p, ".unfolded", "2 signed")
	hasText(t, p, ".unfolded", "1 not signed")
	hasText(t, p, ".unfolded", "% of the scans")
}

// counted waits until the demonstration's half a year of scans has come.
func (a *app) counted(t *testing.T) {
	t.Helper()
	a.shows(t, "/scans", func(page string) bool { return strings.Contains(page, "scans in 28 days.") })
}

// shows waits until a page, as the owner gets it, is as it ought to be. It is asked for without the browser, to which each
// time would be a third of a second's work.
func (a *app) shows(t *testing.T, path string, so func(page string) bool) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), "GET", a.url+path, nil)
	if err != nil {
		t.Fatal(err)
	}
	r.AddCookie(a.cookie(t, "tamsin@marrowby.example"))
	for end := time.Now().Add(time.Minute); ; time.Sleep(100 * time.Millisecond) {
		res, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		page, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err == nil && so(string(page)) {
			return
		}
		if time.Now().After(end) {
			t.Fatalf("in vain waited for, in %s: %s", path, page)
		}
	}
}

// start1 is an application of a test's own.
func start1(t *testing.T, name string) *app {
	t.Helper()
	a, err := start(name)
	if err != nil {
		t.Fatal(err)
	}
	return a
}
