package e2e

import (
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/standin"
)

var (
	wanderFor  = flag.Duration("wander", 60*time.Second, "how long the wanderer walks; before a release ten minutes")
	wanderSeed = flag.Uint64("seed", 0, "where the wanderer's choices come from; 0 is the clock")
)

// wanderer walks the real interface of the built program as people do who try everything: it opens screens, fills fields with
// what is right and what is not, uploads files, presses keys, goes back, reloads, and has several tabs open, as owner, editor
// and viewer.
type wanderer struct {
	t     *testing.T
	a     *app
	r     *rand.Rand
	tabs  []*wanderTab
	files []string
	log   []string
	steps int
	fails int
	pages map[string]int // pages of error that were met, by their words
	mu    sync.Mutex
	wrong []string // script errors

	p        *program
	house    pack // an archive of the demonstration
	links    []string
	archives int // that were brought in
	taken    int // and of them, those that were not refused
}

type wanderTab struct {
	who  string
	page *rod.Page
}

// TestWanderer walks for a while and then opens, takes back and draws every code of the workspace.
func TestWanderer(t *testing.T) {
	t.Parallel()
	seed := *wanderSeed
	if seed == 0 {
		seed = uint64(time.Now().UnixNano()) % 1_000_000
	}
	t.Logf("the wanderer's seed is %d, for %v", seed, *wanderFor)
	a := built(t)
	a.opened(t)
	w := &wanderer{t: t, a: &a.app, r: rand.New(rand.NewPCG(seed, 0)), files: wanderFiles(t), pages: map[string]int{}}
	w.p, w.house, w.links = a, a.exported(t), a.linksOf(t)
	a.tell = w.failed
	for _, who := range []string{"tamsin", "tamsin", "idris", "wren"} {
		p := a.pageAs(t, who+"@marrowby.example", "/codes")
		closesAfter(p)
		(proto.BrowserSetDownloadBehavior{Behavior: proto.BrowserSetDownloadBehaviorBehaviorDeny}).Call(p.Browser())
		go p.EachEvent(func(e *proto.PageJavascriptDialogOpening) {
			(proto.PageHandleJavaScriptDialog{Accept: true}).Call(p)
		})()
		w.tabs = append(w.tabs, &wanderTab{who, p})
	}
	end := time.Now().Add(*wanderFor)
	for time.Now().Before(end) && w.fails < 20 {
		w.step()
	}
	w.everything()
	t.Logf("%d steps, %d spoilt archives, %d of them taken; pages that said no: %v", w.steps, w.archives, w.taken, w.pages)
}

func (w *wanderer) failed(text string) {
	for _, ours := range []string{"user activation", "does not conform to the required format"} { // scripts do what people cannot
		if strings.Contains(text, ours) {
			return
		}
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.wrong = append(w.wrong, text)
}

func (w *wanderer) note(format string, args ...any) {
	w.log = append(w.log, fmt.Sprintf(format, args...))
	if len(w.log) > 40 {
		w.log = w.log[1:]
	}
}

func (w *wanderer) fail(tab *wanderTab, format string, args ...any) {
	w.fails++
	shot := filepath.Join(os.TempDir(), fmt.Sprintf("sodrik-wanderer-%d.png", w.fails))
	if b, err := tab.page.Screenshot(false, nil); err == nil {
		os.WriteFile(shot, b, 0o600)
	}
	w.t.Errorf("step %d as %s: %s; the page is in %s. What came before:\n%s", w.steps, tab.who, fmt.Sprintf(format, args...),
		shot, strings.Join(w.log, "\n"))
}

// step does one thing in one of the tabs, and looks whether all is well.
func (w *wanderer) step() {
	w.steps++
	tab := w.tabs[w.r.IntN(len(w.tabs))]
	p := tab.page.Timeout(30 * time.Second)
	defer p.CancelTimeout()
	switch k := w.r.IntN(20); {
	case w.r.IntN(60) == 0:
		w.archive(tab, w.links)
	case w.r.IntN(30) == 0:
		w.scan(tab, w.links)
	case k < 2:
		w.visit(tab, p)
	case k < 3:
		w.note("%s goes back", tab.who)
		p.Eval(`() => { history.back(); }`)
	case k < 4:
		w.note("%s reloads", tab.who)
		p.Eval(`() => { location.reload(); }`)
	case k < 5:
		text := w.pick(wanderTexts)
		w.note("%s pastes %.60q", tab.who, text)
		p.Eval(
			`(text) => { document.activeElement?.blur(); const d = new DataTransfer(); d.setData("text", text); document.body.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d, bubbles: true})); }`,
			text,
		)
	case k < 7:
		keys := []input.Key{input.BracketLeft, input.BracketRight, 'f', 's', 'u', '?', input.Escape, input.ArrowDown,
			input.ArrowUp, input.Enter, input.Space, input.Slash, input.Tab, '1', '0'}
		key := keys[w.r.IntN(len(keys))]
		w.note("%s presses %q", tab.who, rune(key))
		p.Keyboard.Type(key)
	default:
		w.control(tab, p)
	}
	w.settle(p)
	w.look(tab, p)
}

func (w *wanderer) pick(list []string) string { return list[w.r.IntN(len(list))] }

// visit opens a screen by its address.
func (w *wanderer) visit(tab *wanderTab, p *rod.Page) {
	places := []string{"/codes", "/codes?state=retired", "/style", "/style/looks/come/plain", "/account", "/people", "/api",
		"/mailbox", "/identifiers", "/batches", "/batches/new", "/scans", "/scans?by=code", "/scans/overview",
		"/scans/settings", "/hosts",
		"/moving", "/out", "/leaving", "/webhooks", "/bench"}
	for _, kind := range []string{"url", "wifi", "contact", "event", "place", "phone", "sms", "email", "text", "pay", "gs1link",
		"gs1data", "sepa", "swiss", "emv", "upi", "bitcoin", "payto"} {
		places = append(places, "/new/"+kind)
	}
	to := w.pick(places)
	if w.r.IntN(2) == 0 {
		if id := w.anyCode(); id != "" {
			to = "/codes/" + id + w.pick([]string{"", "", "", "?place=1", "/phone", "/print", "/versions/1"})
		}
	}
	w.note("%s opens %s", tab.who, to)
	p.Navigate(w.a.url + to)
}

func (w *wanderer) anyCode() string {
	page, err := w.a.store.Ledger(w.t.Context(), standin.Loader(), code.Active, "", nil, 100)
	if err != nil || len(page.Lines) == 0 {
		return ""
	}
	return page.Lines[w.r.IntN(len(page.Lines))].ID
}

// reachable lists what can be acted on, and marks it; forms that would end the walk are left alone.
const reachable = `() => {
	const leave = /sign-out|account\/(end|password|workspace|passkey)|people\/role|style\/kit$|\/enter/;
	const out = [];
	document.querySelectorAll("[data-wander]").forEach((e) => e.removeAttribute("data-wander"));
	const within = document.querySelector("dialog[open]") || document;
	for (const e of within.querySelectorAll("a[href], button, input, textarea, select, summary, [data-part], #placed, tr.code")) {
		const box = e.getBoundingClientRect(), style = getComputedStyle(e);
		const file = e.matches("input[type=file]");
		if (!file && (box.width === 0 || box.height === 0 || style.visibility === "hidden")) continue;
		if (e.matches(":disabled") || e.closest("fieldset:disabled")) continue;
		const form = e.form || e.closest("form");
		if (form && leave.test(form.getAttribute("action") || "")) continue;
		if (e.matches("a") && (leave.test(e.getAttribute("href")) || e.origin !== location.origin || e.target === "_blank")) continue;
		if (e.matches("[data-passkey], [data-prints], [data-fill], [data-drops], [type=hidden]")) continue;
		e.setAttribute("data-wander", out.length);
		out.push({ tag: e.tagName.toLowerCase(), type: e.getAttribute("type") || "", id: e.id, name: e.getAttribute("name") || "", text: (e.innerText || e.getAttribute("aria-label") || "").slice(0, 40), href: e.getAttribute("href") || "", download: e.hasAttribute("download") });
	}
	return JSON.stringify(out);
}`

type wanderControl struct {
	Tag, Type, ID, Name, Text, Href string
	Download                        bool
}

// control does something with one of the controls of a page.
func (w *wanderer) control(tab *wanderTab, p *rod.Page) {
	r, err := p.Eval(reachable)
	if err != nil {
		return
	}
	var list []wanderControl
	if json.Unmarshal([]byte(r.Value.Str()), &list) != nil || len(list) == 0 {
		w.visit(tab, p)
		return
	}
	i := w.r.IntN(len(list))
	c := list[i]
	w.note("%s: %s %s %s %q %s", tab.who, c.Tag, c.Type, c.ID+c.Name, c.Text, c.Href)
	e, err := p.Element(fmt.Sprintf(`[data-wander="%d"]`, i))
	if err != nil {
		return
	}
	switch {
	case c.Tag == "a" && c.Download:
		p.Eval(`async (to) => { await fetch(to); }`, c.Href)
	case c.Type == "file":
		file := w.pick(w.files)
		w.note("%s: with %s", tab.who, filepath.Base(file))
		e.SetFiles([]string{file})
	case c.Tag == "select":
		e.Eval(
			`(n) => { this.selectedIndex = n % this.options.length; this.dispatchEvent(new Event("input", { bubbles: true })); this.dispatchEvent(new Event("change", { bubbles: true })); }`,
			w.r.IntN(60),
		)
	case c.Type == "range":
		e.Eval(
			`(f) => { this.value = Number(this.min) + f * (this.max - this.min); this.dispatchEvent(new Event("input", { bubbles: true })); }`,
			w.r.Float64(),
		)
	case c.Type == "color":
		e.Eval(`(v) => { this.value = v; this.dispatchEvent(new Event("input", { bubbles: true })); }`,
			fmt.Sprintf("#%06x", w.r.IntN(1<<24)))
	case c.Tag == "textarea", c.Tag == "input" && c.Type != "checkbox" && c.Type != "radio":
		text := w.textFor(c)
		w.note("%s: types %.60q", tab.who, text)
		e.Eval(
			`(v) => { this.focus(); this.value = v; this.dispatchEvent(new Event("input", { bubbles: true })); this.dispatchEvent(new Event("change", { bubbles: true })); }`,
			text,
		)
		if w.r.IntN(3) == 0 {
			p.Keyboard.Type(input.Enter)
		}
	default:
		e.Eval(
			`() => { this.scrollIntoView({ block: "center" }); if (this.click) this.click(); else this.dispatchEvent(new MouseEvent("click", { bubbles: true })); }`,
		)
	}
}

// textFor is what is typed into a field: half of the time something of the sort that belongs there.
func (w *wanderer) textFor(c wanderControl) string {
	if w.r.IntN(2) == 0 {
		for _, s := range wanderFields {
			if strings.Contains(c.ID+c.Name, s.field) {
				return w.pick(s.texts)
			}
		}
	}
	return w.pick(wanderTexts)
}

var wanderFields = []struct {
	field string
	texts []string
}{
	{"_mm", []string{"60 mm", "16,5 cm", "2 in", "abc", "0", "-5", "1e9", "600 px at 96 dpi"}},
	{"ink", []string{"#12594a", "pine", "cmyk(80, 20, 60, 30)", "#fff", "none", "style:pine", "#zzz"}},
	{"paper", []string{"#f6f0e2", "none", "#000000", "white"}},
	{"colour", []string{"#12594a", "#e9a820"}},
	{"url", []string{"marrowby.example/fair", "https://marrowby.example/?a=1#b", "http://192.168.0.1", "javascript:alert(1)",
		"m\u0430rrowby.example", "bücher.example/ä?q=ü"}},
	{"iban", []string{"DE89 3704 0044 0532 0130 00", "CH9300762011623852957", "DE00"}},
	{"amount", []string{"12.50", "12,5", "0", "-1", "1e6"}},
	{"start", []string{"2027-03-20T10:00", "2027-03-20", "20 March 2027, 10:00", "nonsense"}},
	{"end", []string{"2027-03-20T16:00", "2027-03-19", "12:00"}},
	{"number", []string{"+44 1632 960001", "01632 960001", "12", "abc"}},
	{"email", []string{"wren@marrowby.example", "nobody", "a@b@c"}},
	{"campaign", []string{"Bulb Fair 2027", "", strings.Repeat("long ", 30)}},
	{"source", []string{"gate", "icon:sprout", "icon:nothing", "asset:sha256-00"}},
	{"gtin", []string{"9521234500018", "9521234500019", "952"}},
}

var wanderTexts = []string{"", "Sow in March", "marrowby.example/spring", "WIFI:T:WPA;S:Shed;P:sow\\;thin;;",
	"BEGIN:VCARD\nVERSION:3.0\nFN:Wren Okafor\nN:Okafor;Wren;;;\nEND:VCARD", "52.0871, -1.9432", "+44 1632 960002",
	"(01)09521234500018(10)A1209", "DE89370400440532013000", "<script>alert(1)</script>", "'; DROP TABLE codes; --", "ä€𝄞🌱",
	"\u202eright to left", strings.Repeat("x", 3000), "0", "-1", "1e309", "NaN", "null", "{}", "[]", "../../etc/passwd",
	"{\"op\":\"remove\"}", "%00%ff", "\ufeff", "a\tb", "2027-02-30T25:61", "https://marrowby.example/" +
		strings.Repeat("seed-", 400), "tab\u00a0nbsp", "style:pine", "icon:leaf"}

// settle waits until the page has done what was asked, but not for readers.
func (w *wanderer) settle(p *rod.Page) {
	time.Sleep(time.Duration(20+w.r.IntN(120)) * time.Millisecond)
	for range 100 {
		r, err := p.Eval(`() => document.readyState === "complete" && typeof window.htmx === "object"`)
		if err == nil && r.Value.Bool() {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// asksToSendAgain says whether the browser has gone back to what answered a form: it shows nothing of ours before it is told
// to send that again.
func asksToSendAgain(p *rod.Page) bool {
	h, err := proto.PageGetNavigationHistory{}.Call(p)
	return err == nil && h.Entries[h.CurrentIndex].TransitionType == proto.PageTransitionTypeFormSubmit
}

// look fails on any answer with an error of the server, any script error, and any page of error that does not say what is wrong.
func (w *wanderer) look(tab *wanderTab, p *rod.Page) {
	for _, f := range w.a.faults.take() {
		w.fail(tab, "the server answered %s", f)
	}
	w.mu.Lock()
	wrong := w.wrong
	w.wrong = nil
	w.mu.Unlock()
	for _, text := range wrong {
		w.fail(tab, "%s", text)
	}
	said := func() (string, error) {
		r,
			err := p.Eval(
			`() => { const h = document.querySelector("main > h1"); return h && h.innerText === "Not done" ? document.querySelector("main p").innerText : document.contentType !== "text/html" || location.protocol === "about:" ? "not ours" : document.title === "" && document.body ? "no page: " + location.href + " " + document.body.innerText.slice(0, 200) : ""; }`,
		)
		if err != nil {
			return "", err
		}
		return r.Value.Str(), nil
	}
	words, err := said()
	for deadline := time.Now().Add(5 * time.Second); err == nil && strings.HasPrefix(words, "no page") &&
		time.Now().Before(deadline); words, err = said() {
		time.Sleep(100 * time.Millisecond) // it may be on its way
	}
	if err != nil || words == "" {
		return
	}
	if strings.HasPrefix(words, "no page") && asksToSendAgain(p) {
		words = "shall the form be sent again"
	}
	w.pages[words]++
	if strings.HasPrefix(words, "Something went wrong") || strings.Contains(words, "could not be drawn") ||
		strings.HasPrefix(words, "no page") {
		w.fail(tab, "a page of error: %s", words)
	}
	p.Navigate(w.a.url + "/codes")
	w.settle(p)
}

// everything opens every code of the workspace, takes everything back, and draws it.
func (w *wanderer) everything() {
	ctx := w.t.Context()
	cookie := w.a.cookie(w.t, "tamsin@marrowby.example")
	get := func(path string) {
		r, err := http.NewRequest("GET", w.a.url+path, nil)
		if err != nil {
			w.t.Fatal(err)
		}
		r.AddCookie(cookie)
		res, err := http.DefaultClient.Do(r)
		if err != nil {
			w.t.Fatal(err)
		}
		defer res.Body.Close()
		body, _ := io.ReadAll(res.Body)
		if res.StatusCode != http.StatusOK {
			w.t.Errorf("in the end %s answers %d %.300s", path, res.StatusCode, body)
		}
	}
	n := 0
	for _, state := range []string{code.Active, code.Retired} {
		page, err := w.a.store.Ledger(ctx, standin.Loader(), state, "", nil, 10_000)
		if err != nil {
			w.t.Fatal(err)
		}
		for _, row := range page.Lines {
			n++
			get("/codes/" + row.ID)
			first, err := w.a.store.At(ctx, standin.Loader(), row.ID, "r0")
			if err != nil || first.Rendition == nil {
				w.t.Errorf("the first state of %s: %v", row.ID, err)
				continue
			}
			c := w.takeBack(row.ID)
			if c == nil {
				continue
			}
			if got, want := c.Rendition.Job.Digest(), first.Rendition.Job.Digest(); got != want {
				a, _ := json.Marshal(c.Rendition.Job)
				b, _ := json.Marshal(first.Rendition.Job)
				w.t.Errorf("%s, all taken back, is\n%s, it was\n%s", row.ID, a, b)
			}
			get("/codes/" + row.ID)
			get("/codes/" + row.ID + "/picture/x.png")
		}
	}
	get("/style")
	get("/codes")
	w.t.Logf("%d codes opened, taken back and drawn", n)
}

// takeBack undoes all that everybody did to a code.
func (w *wanderer) takeBack(id string) *code.Code {
	ctx := w.t.Context()
	for range 5000 {
		moved := false
		for _, name := range []string{"Tamsin Ashdown", "Idris Penn", "Wren Okafor"} {
			as := access.OfProgram(standin.Workspace, name)
			c, err := w.a.store.Get(ctx, as, id)
			if err != nil {
				w.t.Errorf("%s: %v", id, err)
				return nil
			}
			if c.UndoRev == 0 {
				continue
			}
			if _, err := w.a.store.Undo(ctx, as, id, code.Turn{Rev: c.UndoRev}); err != nil {
				w.t.Errorf("%s: undo of %q (%d): %v", id, c.Undo, c.UndoRev, err)
				return nil
			}
			moved = true
		}
		if !moved {
			break
		}
	}
	c, err := w.a.store.Get(ctx, standin.Loader(), id)
	if err != nil {
		w.t.Error(err)
		return nil
	}
	return c
}

// wanderFiles are files of every kind that uploads accept, and some that they do not.
func wanderFiles(t *testing.T) (out []string) {
	t.Helper()
	dir := t.TempDir()
	put := func(name string, data []byte) {
		file := filepath.Join(dir, name)
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		out = append(out, file)
	}
	m := made(
		t,
		`{"content":{"kind":"url","url":"marrowby.example/uploaded"},"placements":[{"name":"x","width_mm":60,"distance_mm":600}]}`,
	)
	for _, format := range []string{"svg", "pdf", "png", "jpg", "webp"} {
		data, problems := m.File(compose.MustFormat(format), m.Place(0), meta)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		put("good."+format, data)
		put("cut-off."+format, data[:len(data)/2])
	}
	if font, err := os.ReadFile("../internal/core/typeface/fonts/bitter.ttf"); err == nil {
		put("good.ttf", font)
		put("cut-off.ttf", font[:len(font)/3])
	}
	put("wide.xlsx", wideBook(t))
	put("table.csv", []byte("SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;marrowby,example/2\n"))
	put("many.vcf", []byte("BEGIN:VCARD\r\nFN:Ines\r\n"+strings.Repeat("TEL:+441632960001\r\n", 2000)+"END:VCARD\r\n"))
	put("empty.png", nil)
	put("text.png", []byte("no picture"))
	put("card.vcf", []byte("BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Wren Okafor\r\nN:Okafor;Wren;;;\r\nEND:VCARD\r\n"))
	put("broken.zip", []byte("PK\x03\x04nothing"))
	put("deep.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">`+strings.Repeat("<g>",
		60)+strings.Repeat("</g>", 60)+`</svg>`))
	put("script.svg",
		[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>alert(1)</script><rect width="9" height="9"/></svg>`,
		))
	return out
}
