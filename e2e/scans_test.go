package e2e

import (
	"encoding/csv"
	"strings"
	"testing"
	"time"
)

// TestScans: three phones scan, are seen, in a sentence and in a row; a span is chosen by date, a row unfolded, places set
// side by side, and the table taken away.
func TestScans(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	wait := p.MustWaitNavigation()
	p.MustElementR("nav a", "Scans").MustClick()
	wait()
	follow := func(do func()) {
		wait := p.MustWaitNavigation()
		do()
		wait()
	}
	hasText(t, p, "h1", "scans in 28 days.")
	total := func() string { return p.MustElement(".scans-rows tbody .num b").MustText() }
	was := total()
	hasText(t, p, "#now", "today")
	link := "https://" + p.MustElement(".scans-rows input[name=with]").MustProperty("value").Str()
	for range 3 {
		a.scan(t, link)
	}
	until(t, p, "three scans on the live strip, as they come", `() => document.querySelectorAll("#now li").length >= 3`)
	p.MustElement("#now-pause").MustClick()
	hasText(t, p, "#now-pause", "Go on")
	for end := time.Now().Add(time.Minute); total() == was; time.Sleep(100 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("three scans are not seen: %s", was)
		}
		p.MustReload().MustWaitLoad()
	}
	follow(func() { p.MustElement(".scans-rows tbody .name a").MustClick() })
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
	_, file := download(t, p, func() { p.MustElementR("a", "Download CSV").MustClick() })
	rows, err := csv.NewReader(strings.NewReader(string(file))).ReadAll()
	if err != nil || len(rows) < 1+5*7 || len(rows)%7 != 1 || strings.Join(rows[0], ",") != "day,place,code,link,scans" {
		t.Errorf("%d rows, %v, %v", len(rows), err, rows[0])
	}
}
