package e2e

import (
	"archive/zip"
	"bytes"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"sodrik/internal/standin"

	"github.com/go-rod/rod"
)

// TestHosts: an owner proves a host, draws new links there, and names where links may lead; what is wrong stands at its
// field, and what was typed stays. Others do not see the page.
func TestHosts(t *testing.T) {
	t.Parallel()
	a, err := start("hosts")
	if err != nil {
		t.Fatal(err)
	}
	p := a.page(t, "/codes")
	p.MustElement(".menu summary").MustClick()
	wait := nextPage(t, p)
	p.MustElementR(".menu a", "Short links").MustClick()
	wait()
	add := func(host string) {
		wait := nextPage(t, p)
		p.MustElement("#host").MustSelectAllText().MustInput(host)
		p.MustElementR("button", "Add it").MustClick()
		wait()
	}
	act := func(host, button string) {
		wait := nextPage(t, p)
		p.MustEval(
			`(host, words) => { const row = [...document.querySelectorAll("tbody tr")].find((e) => e.innerText.includes(host)); `+
				`[...row.querySelectorAll("button")].find((e) => e.innerText === words).click(); }`,
			host,
			button,
		)
		wait()
	}
	hasText(t, p, "tbody", "This server's own.")
	add("seed")
	hasText(t, p, "#e-host", `The host is "seed"; write the whole name, such as go.marrowby.example.`)
	if got := p.MustElement("#host").MustProperty("value").Str(); got != "seed" {
		t.Errorf("what was typed is gone: %q", got)
	}
	add("old.marrowby.example")
	hasText(t, p, "tbody", "_sodrik.old.marrowby.example")
	act("old.marrowby.example", "Ask now")
	hasText(t, p, "tbody", "Not proved yet.")
	act("old.marrowby.example", "Take away")
	hasText(t, p, "main", "Taken away.")
	add("https://seed.marrowby.example/")
	hasText(t, p, "tbody", "Yours since")
	act("seed.marrowby.example", "Draw new links here")
	hasText(t, p, "main", "New links are drawn there from now on.")

	allow := func(text string) {
		wait := nextPage(t, p)
		p.MustElement("#allowed").MustSelectAllText().MustInput(text)
		p.MustElementR("button", "Keep these hosts").MustClick()
		wait()
	}
	allow("marrowby.example\nno host")
	hasText(t, p, "#e-allowed", `The list holds "no"; write whole names`)
	if got := p.MustElement("#allowed").MustProperty("value").Str(); got != "marrowby.example\nno host" {
		t.Errorf("what was typed is gone: %q", got)
	}
	allow("https://marrowby.example/fair")
	hasText(t, p, "main", "Kept. It counts from the next destination on.")
	if got := p.MustElement("#allowed").MustProperty("value").Str(); got != "marrowby.example" {
		t.Errorf("allowed is %q", got)
	}

	// The desk draws there, keeps to the rule, and scans are answered under the new name.
	d := a.page(t, a.create(t, `{"name":"Seedlings","content":{"kind":"url","url":"https://marrowby.example/seedlings"}}`))
	d.MustElement("[data-stub=says]").MustClick()
	d.MustElement(".way[value=link]").MustWaitVisible().MustClick()
	hasText(t, d, "#line-leads", "marrowby.example/seedlings")
	hasText(t, d, "#lead-links", "seed.marrowby.example/")
	d.MustElement("[data-stub=leads]").MustClick()
	fill(d, "#f-lead-to", "trap.example")
	hasText(t, d, "#e-f-lead-to", "an owner allows marrowby.example only")

	if q := a.pageAs(t, "idris@marrowby.example", "/hosts"); q.MustHas("#host") {
		t.Error("an editor sees the hosts")
	}
}

// TestFiles: a file that is dropped where anything is pasted becomes a code that opens it; another takes its place from the desk.
func TestFiles(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	dir := t.TempDir()
	put := func(name, text string) string {
		file := filepath.Join(dir, name)
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return file
	}
	const guide = "%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n" +
		"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 200]>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"
	p.MustElement("#find-file input").MustSetFiles(put("Planting plan.pdf", guide))
	hasText(t, p, "#found", "There is no code in Planting plan.pdf. A code can open it.")
	wait := nextPage(t, p)
	p.MustElement("[data-opens-file]").MustClick()
	wait()
	hasText(t, p, "#line-leads", "planting-plan.pdf")
	download(t, p, func() { p.MustElement("#hand-over").MustClick() })
	p.MustElement("[data-stub=leads]").MustClick()
	hasText(t, p, "#lead-status", "Live since")
	link := "https://" + p.MustElement(".lead-link summary .mono").MustText()
	p.MustElement("#lead-file").MustSetFiles(put("page.pdf", "<html>"))
	hasText(t, p, "#e-f-lead-to", "give a PDF, a picture, sound, film, or an office document")
	p.MustElement("#lead-file").MustSetFiles(put("Planting plan, second.pdf", guide))
	until(t, p, "the other file as a draft", `() => Boolean(document.getElementById("make-live"))`)
	hasText(t, p, "#lead-change", "planting-plan-second.pdf")
	until(t, p, "live", `() => { document.getElementById("make-live")?.click(); return !document.getElementById("make-live"); }`)
	var to string
	const ends = "/planting-plan-second.pdf"
	for end := time.Now().Add(time.Minute); !strings.HasSuffix(to, ends); time.Sleep(50 * time.Millisecond) {
		if to = a.scan(t, link); time.Now().After(end) {
			t.Fatalf("%s leads to %s", link, to)
		}
	}
	if _, got := a.asked(t, to); got != guide {
		t.Errorf("the file is another: %d bytes", len(got))
	}
	// Every other kind that is taken, from the box to the phone.
	var sheet, photo bytes.Buffer
	z := zip.NewWriter(&sheet)
	for _, name := range []string{"[Content_Types].xml", "_rels/.rels", "word/document.xml"} {
		if w, err := z.Create(name); err == nil {
			w.Write([]byte("<x/>"))
		}
	}
	z.Close()
	if err := png.Encode(&photo, image.NewGray(image.Rect(0, 0, 200, 200))); err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string]string{
		"Price list, planting.docx": sheet.String(),
		"Black beds.png":            photo.String(),
		"Talk about tulips.mp3":     "\xff\xfb\x90\x64" + strings.Repeat("\x00", 413) + "\xff\xfb\x90\x64"} {
		q := a.page(t, "/codes")
		q.MustElement("#find-file input").MustSetFiles(put(name, data))
		hasText(t, q, "#found", "There is no code in "+name)
		wait := nextPage(t, q)
		q.MustElement("[data-opens-file]").MustClick()
		wait()
		hasText(t, q, "#line-leads", "go.marrowby.example/f/")
		q.MustElement("[data-stub=leads]").MustClick()
		address := q.MustElement("#f-lead-to").MustProperty("value").Str()
		_, got := a.asked(t, address)
		for end := time.Now().Add(time.Minute); got != data && time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
			_, got = a.asked(t, address)
		}
		if got != data {
			t.Errorf("%s is another at %s: %d bytes, want %d", name, address, len(got), len(data))
		}
	}
	// From the desk a file that is dropped is taken as well: it is chosen once more, and opened.
	p.MustElement("#find-file input").MustSetFiles(put("Third.pdf", guide))
	hasText(t, p, "#found", "There is no code in Third.pdf")
}

// TestMovingIn: a domain in print moves in: its rules are read, held against what it answers today, and answered here.
func TestMovingIn(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/hosts")
	go_ := func(words string) {
		wait := nextPage(t, p)
		p.MustElementR("button, a", words).MustClick()
		wait()
	}
	p.MustElement("#host").MustInput("leaf.marrowby.example")
	go_("Add it")
	go_("Move in a domain")
	go_("Show what moves")
	hasText(t, p, "#e-rules", "The rules hold no path")
	p.MustElement("#rules").MustInput(standin.OldTable + "/x,javascript:alert(1)\n")
	go_("Show what moves")
	hasText(t, p, "#compared", "1 of 5 lead elsewhere today.")
	hasText(t, p, ".listing", "Today it leads to https://marrowby.example/contact.")
	hasText(t, p, ".listing", "which is no web address")
	go_("Move 4 in")
	hasText(t, p, "main", "4 paths lead from here now. Point the name leaf.marrowby.example at this server.")
	at := strings.Replace(a.linksAt, "go.marrowby", "leaf.marrowby", 1)
	for path, want := range map[string]string{"/spring": "https://marrowby.example/spring",
		"/Shop_1.html": "https://marrowby.example/shop",
		"/bulbs/2025":  "https://marrowby.example/bulbs"} {
		to := ""
		for end := time.Now().Add(time.Minute); to != want; time.Sleep(50 * time.Millisecond) {
			if to, _ = a.asked(t, at+path); time.Now().After(end) {
				t.Fatalf("%s leads to %q", path, to)
			}
		}
	}
	p.MustNavigate(a.url + "/moving").MustWaitLoad()
	for rules, want := range map[string]string{"rewrite ^/oaks/?$ https://marrowby.example/oaks permanent;": "oaks",
		"redir /elms https://marrowby.example/elms": "elms", "Redirect 301 /ashes https://marrowby.example/ashes": "ashes",
		"path;to\n/yews;https://marrowby.example/yews": "yews"} {
		p.MustElement("#moving-host").MustSelect("leaf.marrowby.example")
		p.MustElement("#rules").MustSelectAllText().MustInput(rules)
		go_("Show what moves")
		hasText(t, p, ".listing", "https://marrowby.example/"+want)
		go_("Move 1 in")
		hasText(t, p, "main", "1 path leads from here now.")
	}
	p.MustNavigate(a.url + "/codes").MustWaitLoad()
	p.MustElement("#find-text").MustInput("Spring list")
	hasText(t, p, "#ledger", "Spring list")
}

// TestNoted: what is noted of a printed place is kept where it stands, wrong figures are said at their field, and another keeper
// is named.
func TestNoted(t *testing.T) {
	t.Parallel()
	a := open(t)
	const job = `{"name":"Noted","content":{"kind":"url","url":"https://marrowby.example/noted"}}`
	p := a.page(t, a.create(t, job))
	p.MustElement("[data-stub=says]").MustClick()
	p.MustElement(".way[value=link]").MustWaitVisible().MustClick()
	hasText(t, p, "#line-leads", "marrowby.example/noted")
	download(t, p, func() { p.MustElement("#hand-over").MustClick() })
	p.MustElement("[data-stub=leads]").MustClick()
	hasText(t, p, "#fold-lead-keeper", "Kept by Tamsin")
	p.MustElement(".lead-link summary").MustClick()
	p.MustElement("#word-0-noted summary").MustClick()
	keep := func(prints string) {
		t.Helper()
		p.MustElement("#word-0-prints").MustSelectAllText().MustInput(prints)
		p.MustElementR("#word-0-noted button", "Keep this").MustClick()
	}
	keep("many")
	hasText(t, p, "#e-word-0-prints", "many")
	if got := p.MustElement("#word-0-prints").MustProperty("value").Str(); got != "many" {
		t.Errorf("what was typed is gone: %q", got)
	}
	p.MustElement("#word-0-spot").MustInput("left of the desk")
	keep("4000")
	hasText(t, p, "#word-0-noted summary", "left of the desk")
	p.MustElement("#fold-lead-keeper summary").MustClick()
	p.MustElement("#keeper").MustSelect("Idris Penn")
	p.MustElementR("#fold-lead-keeper button", "Keep").MustClick()
	hasText(t, p, "#fold-lead-keeper", "Kept by Idris Penn")
	p.MustReload().MustWaitLoad()
	if got := p.MustElement("#word-0-prints").MustProperty("value").Str(); got != "4000" {
		t.Errorf("the print run is %q", got)
	}
}

// readSymbol is what an outside reader makes of the code on the page for a phone.
func readSymbol(t *testing.T, p *rod.Page) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "screen.png")
	if err := os.WriteFile(file, p.MustElement(".trial-code").MustScreenshot(), 0o600); err != nil {
		t.Fatal(err)
	}
	return strings.TrimSpace(string(tool(t, "zbarimg", "-q", "--raw", file)))
}

// TestTriedThroughALink: on the page for a phone a dynamic code stands with a link for trying, which an outside reader reads from
// the screen, at each of its places; it leads where the draft says and counts nothing. A fixed code stands there as it is.
func TestTriedThroughALink(t *testing.T) {
	t.Parallel()
	a := open(t)
	const job = `{"name":"Tried","content":{"kind":"url","url":"https://marrowby.example/tried"},"placements":[
		{"name":"gate","width_mm":60,"distance_mm":600},{"name":"till","width_mm":40,"distance_mm":400}]}`
	path := a.create(t, job)
	said := func(place string) string {
		t.Helper()
		return readSymbol(t, a.page(t, path+"/phone?place="+place))
	}
	if got := said("0"); got != "https://marrowby.example/tried" {
		t.Errorf("a fixed code says %q", got)
	}
	p := a.page(t, path)
	p.MustElement("[data-stub=says]").MustClick()
	p.MustElement(".way[value=link]").MustWaitVisible().MustClick()
	hasText(t, p, "#line-leads", "marrowby.example/tried")
	printed := map[string]bool{}
	for _, e := range p.MustElements(".lead-link summary .mono") {
		printed["HTTPS://"+strings.ToUpper(e.MustProperty("innerText").Str())] = true
	}
	seen := map[string]bool{}
	for _, place := range []string{"0", "1"} {
		link := said(place)
		if !strings.HasPrefix(link, "HTTPS://GO.MARROWBY.EXAMPLE/") || printed[link] || seen[link] {
			t.Errorf("at place %s the code says %q, printed are %v", place, link, printed)
		}
		seen[link] = true
		a.leadsTo(t, link, "https://marrowby.example/tried")
	}
	hasText(t, a.page(t, path+"/phone"), "main", "Scans of it are not counted, and it ends on")
}
