// Package e2e drives the real interface in headless Chromium and reads what it hands over with outside programs.
package e2e

import (
	"bytes"
	"context"
	"errors"
	"flag"
	"fmt"
	"image"
	"image/png"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	_ "golang.org/x/image/tiff"
	_ "golang.org/x/image/webp"

	"sodrik/internal/assembly"
	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/proof"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/db/private"
	"sodrik/internal/eventlog"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/readers"
	"sodrik/internal/redirect"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
	"sodrik/internal/web"
)

// chromium is what the tests drive: Chromium without what only a window needs takes half of the processor's time.
var chromium = func() string {
	const shell, whole = "/usr/bin/chromium-headless-shell", "/usr/bin/chromium"
	if _, err := os.Stat(shell); err != nil {
		return whole
	}
	return shell
}()

var (
	server  *private.Server
	browser *rod.Browser
)

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	flag.Parse()
	if atOnce := flag.Lookup("test.parallel"); atOnce.Value.String() == atOnce.DefValue {
		flag.Set("test.parallel", "5") // most of the time a test waits for its browser
	}
	slog.SetLogLoggerLevel(slog.LevelWarn)
	if _, err := os.Stat(chromium); err != nil {
		fmt.Fprintln(os.Stderr, "The browser tests need Chromium: apt-get install chromium-headless-shell")
		return 1
	}
	var err error
	if server, err = private.Start(context.Background(), private.Options{Brief: true, Model: dbtest.Model}); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	readers.AtOnce(runtime.NumCPU()) // nobody waits here for pages meanwhile
	profile, err := os.MkdirTemp("", "sodrik-browser-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(profile)
	l := launcher.New().Bin(chromium).Leakless(false).Headless(true).NoSandbox(true).UserDataDir(profile).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("force-prefers-reduced-motion").
		// A process a tab would take a fifth of the time to start, and tiles smaller than a window a tenth to put together.
		Set("process-per-site").Set("renderer-process-limit", "3").
		Set("default-tile-width", "1280").Set("default-tile-height", "832")
	if *shots != "" {
		l.Set("hide-scrollbars")
	}
	control, err := l.Launch()
	if err != nil {
		fmt.Fprintln(os.Stderr, "Chromium does not start:", err)
		return 1
	}
	defer l.Kill()
	browser = rod.New().ControlURL(control)
	if err := browser.Connect(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer browser.Close()
	status := m.Run()
	defer func() {
		for _, do := range slices.Backward(atEnd) {
			do()
		}
	}()
	for _, a := range started {
		for _, f := range a.faults.take() { // whatever the test was about
			fmt.Fprintln(os.Stderr, "The server answered", f)
			status = 1
		}
	}
	return status
}

// app is one running application with a database of its own, filled with the demonstration. Under its url, proofs are brief,
// and what goes beyond a verdict waits until somebody asks for it; under eager all is as people have it.
type app struct {
	url     string
	eager   string
	store   *code.Store
	people  *people.Store
	faults  *faults
	serves  http.Handler // what answers under url
	links   *link.Store
	linksAt string // where short links are answered on this machine
	counts  *scans.Store
	notices *notices.Store
	batches *batches.Store
	lossy   bool         // answers get lost, or the database stands still, on purpose
	tell    func(string) // hears of errors of script and browser, where that is not the test
}

var (
	starting sync.Mutex
	started  []*app
)

var demo = sync.OnceValues(func() (*app, error) { return start("demo") })

// filled is a database with the demonstration, of which every application's is a copy.
const filled = "filled"

// fillIn makes it, and gives what its secrets are sealed with.
var fillIn = sync.OnceValues(func() (*seal.Box, error) {
	key, err := seal.Parse(seal.NewKey())
	if err != nil {
		return nil, err
	}
	ctx := context.Background()
	if err := server.CopyDatabase(ctx, dbtest.Migrated, filled); err != nil {
		return nil, err
	}
	set, _, err := settings(ctx, filled, key)
	if err != nil {
		return nil, err
	}
	defer set.DB.Close() // nobody may be in what is copied
	all, err := assembly.New(set)
	if err != nil {
		return nil, err
	}
	return key, errors.Join(set.DB.Migrate(ctx), standin.Load(ctx, all.Links), standin.LoadPeople(ctx, all.Codes, all.People))
})

// settings are those of the demonstration on a database, but that mails arrive at once.
func settings(ctx context.Context, name string, key *seal.Box) (assembly.Settings, *standin.Mailbox, error) {
	d, err := db.Open(ctx, server.URL(name), 10*time.Second)
	if err != nil {
		return assembly.Settings{}, nil, err
	}
	set, box := assembly.Demonstration(d, key, "")
	set.Mail = box
	return set, box, nil
}

func start(name string) (*app, error) {
	ctx := context.Background()
	key, err := fillIn()
	if err != nil {
		return nil, err
	}
	if err := server.CopyDatabase(ctx, filled, name); err != nil {
		return nil, err
	}
	set, box, err := settings(ctx, name, key)
	if err != nil {
		return nil, err
	}
	o := assembly.Guests(box)
	work, calls := &soon{}, &calling{}
	set.Queue, set.Calls = work, calls
	a := &app{faults: &faults{}}
	starting.Lock()
	started = append(started, a)
	starting.Unlock()
	for _, brief := range []bool{false, true} { // the first as people have it, the other under the app's own url
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return nil, err
		}
		set.Brief, set.Base, o.BeyondAsked = brief, "http://"+l.Addr().String(), brief
		all, err := assembly.New(set)
		if err != nil {
			return nil, err
		}
		if !brief {
			if name == "pictures" { // only there the ledger has to know all verdicts
				if err := errors.Join(standin.Prove(ctx, all.Codes), standin.CheckPrints(ctx, all.Codes)); err != nil {
					return nil, err
				}
			}
			var port string
			if o.Follow, port, err = answerLinks(set.DB, key, all.Links); err != nil {
				return nil, err
			}
			_, o.LinksAt = standin.Near(port)
			o.Phones, a.linksAt = standin.Phones{Address: "127.0.0.1:" + port}, "http://"+standin.LinkAlias+":"+port
			a.store, a.links, a.counts, a.notices, a.eager = all.Codes, all.Links, all.Scans, all.Notices, set.Base
			calls.store = all.Webhooks
			if err := standin.Webhooks(ctx, all.Webhooks); err != nil {
				return nil, err
			}
			go calls.relay(ctx)
		}
		a.url, a.people, a.batches, work.store = set.Base, all.People, all.Batches, all.Batches
		a.serves = a.faults.watch(web.New(all.Pages(o)))
		go http.Serve(l, a.serves)
	}
	return a, nil
}

// answerLinks answers short links as the demonstration does, on a port of its own, until the tests end.
func answerLinks(d *db.DB, key *seal.Box, links *link.Store) (s *redirect.Service, port string, err error) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "sodrik-log-")
	if err != nil {
		return nil, "", err
	}
	atEnd = append(atEnd, func() { os.RemoveAll(dir) })
	log, err := eventlog.Open(ctx, eventlog.Options{Dir: dir})
	if err != nil {
		return nil, "", err
	}
	atEnd = append(atEnd, log.Close)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, "", err
	}
	_, port, _ = net.SplitHostPort(l.Addr().String())
	alias, _ := standin.Near(port)
	towns := filepath.Join(dir, "places.mmdb")
	if err := standin.Places(towns); err != nil {
		return nil, "", err
	}
	places, err := redirect.OpenPlaces(towns)
	if err != nil {
		return nil, "", err
	}
	s = redirect.New(redirect.Options{Log: log, Seal: key, Now: time.Now, Alias: alias, Places: places,
		Proxies: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")},
		Hosts:   []string{strings.TrimPrefix(standin.LinkHost, "https://")}})
	go s.Run(ctx)
	go link.NewRelay(d, log).Run(ctx)
	go (&scans.Ingest{DB: d, Log: log, Now: time.Now}).Run(ctx)
	go http.Serve(l, s)
	return s, port, standin.Scans(ctx, links, log)
}

// atEnd is done once all tests are, the last first.
var atEnd []func()

// eagerly is the application as people have it.
func (a *app) eagerly() *app {
	people := *a
	people.url = a.eager
	return &people
}

// cookie enters as one of the demonstration's people.
func (a *app) cookie(t *testing.T, email string) *http.Cookie {
	t.Helper()
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := client.PostForm(a.url+"/enter", url.Values{"as": {email}})
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	if len(r.Cookies()) != 1 {
		t.Fatalf("entering as %s: %s", email, r.Status)
	}
	return r.Cookies()[0]
}

func open(t *testing.T) *app {
	t.Helper()
	a, err := demo()
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// page opens an address as the owner of the demonstration.
func (a *app) page(t *testing.T, path string) *rod.Page {
	t.Helper()
	return a.pageAs(t, "tamsin@marrowby.example", path)
}

// where is the line of these tests that is at work.
func where() string {
	callers := make([]uintptr, 40)
	frames := runtime.CallersFrames(callers[:runtime.Callers(3, callers)])
	for f, more := frames.Next(); more; f, more = frames.Next() {
		if file := filepath.Base(f.File); strings.HasSuffix(file, "_test.go") && file != "e2e_test.go" {
			return fmt.Sprintf("%s:%d", file, f.Line)
		}
	}
	return "somewhere"
}

// pageAs opens an address as somebody, or as a stranger, in a window for this test, and fails the test on whatever the browser
// has to say, but for answers that say what is wrong with a form, and the driver of its graphics.
func (a *app) pageAs(t *testing.T, email, path string) *rod.Page {
	t.Helper()
	p := openWindow(t, a.url).WithPanic(func(v any) { t.Fatalf("%s: %v", where(), v) }) // one test fails, and the others go on
	(proto.LogEnable{}).Call(p)
	tell := a.tell
	if tell == nil {
		tell = func(text string) { t.Error(text) }
	}
	go p.EachEvent(func(e *proto.RuntimeExceptionThrown) {
		tell(fmt.Sprintf("script error: %s %v", e.ExceptionDetails.Text, e.ExceptionDetails.Exception))
	}, func(e *proto.RuntimeConsoleAPICalled) {
		words := []string{string(e.Type)}
		for _, arg := range e.Args {
			words = append(words, arg.Value.String()+arg.Description)
		}
		if text := strings.Join(words, " "); !a.lossy || !strings.Contains(text, "503") {
			tell("console: " + text)
		}
	}, func(e *proto.LogEntryAdded) {
		if !strings.Contains(e.Entry.Text, "GL Driver") && !strings.Contains(e.Entry.Text, "status of 4") &&
			!standsBack(e.Entry) && !(a.lossy && (strings.Contains(e.Entry.Text, "net::") ||
			strings.Contains(e.Entry.Text, "status of 503"))) {
			tell(fmt.Sprintf("browser: %s %s", e.Entry.Text, e.Entry.URL))
		}
	})()
	if email != "" {
		c := a.cookie(t, email)
		if err := p.SetCookies([]*proto.NetworkCookieParam{{Name: c.Name, Value: c.Value, URL: a.url,
			HTTPOnly: true}}); err != nil {
			t.Fatal(err)
		}
	}
	p.MustSetViewport(1280, 800, 1, false)
	p.MustNavigate(a.url + path).MustWaitLoad()
	return p
}

// standsBack says that a message is of a verdict in the list of looks that was not to be had in time: such verdicts wait
// behind whatever somebody is waiting for, and where a machine is busy enough the page says nothing of that look.
func standsBack(e *proto.LogLogEntry) bool {
	return strings.Contains(e.Text, "status of 503") && strings.Contains(e.URL, "/looks/verdict?")
}

// create makes a code and gives its path.
func (a *app) create(t *testing.T, job string) string {
	t.Helper()
	id, err := a.store.Create(t.Context(), standin.Loader(), made(t, job), "")
	if err != nil {
		t.Fatal(err)
	}
	return "/codes/" + id
}

// paste pastes text on the page, outside any field, as Ctrl-V does.
func paste(p *rod.Page, text string) {
	p.MustEval(
		`(text) => { document.activeElement.blur(); const d = new DataTransfer(); d.setData("text", text); document.body.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d, bubbles: true})); }`,
		text,
	)
}

// patience is how long is waited for anything: proofs queue where many tests run side by side.
const patience = 4 * time.Minute

// fill replaces what stands in a field by typing.
func fill(p *rod.Page, selector, text string) {
	p.Timeout(patience).MustWait(`(s) => {
		const field = document.querySelector(s);
		if (!field?.checkVisibility()) return false;
		field.focus();
		field.select();
		return document.activeElement === field;
	}`, selector) // in one step: where the page comes anew, an element taken before would not be in it any more
	if text == "" {
		p.Keyboard.MustType(input.Backspace)
		return
	}
	p.MustInsertText(text)
}

// enter fills a field and leaves it.
func enter(p *rod.Page, selector, text string) {
	fill(p, selector, text)
	p.MustEval(`() => document.activeElement.blur()`)
}

// until waits for a condition in the page and fails naming what was waited for.
func until(t *testing.T, p *rod.Page, what, js string, args ...any) {
	t.Helper()
	deadline := time.Now().Add(patience)
	// who waits long asks seldom: asking takes the browser's time
	for pause := 40 * time.Millisecond; ; pause = min(pause*3/2, 400*time.Millisecond) {
		r, err := p.Eval(js, args...)
		if err == nil && r.Value.Bool() {
			return
		}
		if time.Now().After(deadline) {
			shot := filepath.Join(os.TempDir(), "sodrik-failed.png")
			if b, err := p.Screenshot(false, nil); err == nil {
				os.WriteFile(shot, b, 0o600)
			}
			t.Fatalf("waited in vain for %s (%v); the page is in %s", what, err, shot)
		}
		time.Sleep(pause)
	}
}

// nextPage gives what waits until the window shows another document than now, whole. The browser's own word for it tells also
// of the document that is left, where that has only just come.
func nextPage(t *testing.T, p *rod.Page) (wait func()) {
	t.Helper()
	const document = `() => document.readyState === "complete" ? performance.timeOrigin : 0`
	left := p.MustEval(`() => performance.timeOrigin`).Num()
	return func() {
		t.Helper()
		for deadline := time.Now().Add(patience); time.Now().Before(deadline); time.Sleep(40 * time.Millisecond) {
			if now, err := p.Eval(document); err == nil && now.Value.Num() != 0 && now.Value.Num() != left {
				return
			}
		}
		t.Fatal("waited in vain for another page than ", p.MustInfo().URL)
	}
}

// stubs are where a view stands.
var stubs = map[string]string{"looks": "wears", "variations": "wears", "damage": "wears", "in place": "sits",
	"through a camera": "reads", "evidence": "reads", "files": "ships", "plates": "ships", "scans": "leads", "routes": "leads"}

// openView opens a view of the desk, in the stub that it serves.
func openView(p *rod.Page, name string) {
	p.MustElement("[data-stub=" + stubs[name] + "]").MustClick()
	p.MustElementR(".views button", name).MustWaitVisible().MustClick()
}

// openPart opens a part of the look.
func openPart(p *rod.Page, name string) {
	p.MustElement("[data-stub=wears]").MustClick()
	p.MustElement("[data-part-of=" + name + "]").MustWaitVisible().MustClick()
}

// pick clicks one of the pictures of a choice.
func pick(p *rod.Page, field, value string) {
	p.MustElement(`.pickable[data-for="` + field + `"][data-set="` + value + `"]`).MustWaitVisible().MustClick()
}

// takeFile clicks the button that downloads a file, among those for somebody who can use it.
func takeFile(p *rod.Page, title string) {
	p.MustElement("[data-stub=ships]").MustClick()
	button := `[data-for-whom] button[aria-label="Download ` + title + `"]`
	key := p.MustElement(button).MustEval(`() => this.closest("[data-for-whom]").dataset.forWhom`).Str()
	p.MustElement("[data-whom=" + key + "]").MustWaitVisible().MustClick()
	p.MustElement("[data-for-whom=" + key + `] button[aria-label="Download ` + title + `"]`).MustWaitVisible().MustClick()
}

// takePNG clicks the button that downloads the bare picture.
func takePNG(p *rod.Page) { p.MustElement(`#takes button[aria-label^="Download PNG"]`).MustClick() }

func hasText(t *testing.T, p *rod.Page, selector, text string) {
	t.Helper()
	until(t, p, fmt.Sprintf("%q in %s", text, selector),
		`(s, t) => [...document.querySelectorAll(s)].some((e) => e.innerText.includes(t))`, selector, text)
}

func verdictIs(t *testing.T, p *rod.Page, v proof.Verdict) {
	t.Helper()
	until(
		t,
		p,
		"verdict "+string(v),
		`(v) => { const e = document.querySelector(".verdict"); return !!e && e.dataset.verdict === v && document.getElementById("age").innerText === ""; }`,
		string(v),
	)
}

var downloading sync.Mutex

// download clicks and gives the file and the name under which the browser would save it.
func download(t *testing.T, p *rod.Page, click func()) (name string, data []byte) {
	t.Helper()
	dir := t.TempDir()
	downloading.Lock() // the browser tells of all downloads alike
	defer downloading.Unlock()
	wait := p.Browser().WaitDownload(dir)
	click()
	info := wait()
	if info == nil {
		t.Fatal("nothing was downloaded")
	}
	data, err := os.ReadFile(filepath.Join(dir, info.GUID))
	if err != nil {
		t.Fatal(err)
	}
	return info.SuggestedFilename, data
}

func tool(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).Output()
	if err != nil {
		t.Fatalf("%s %s: %v", name, strings.Join(args, " "), err)
	}
	return string(out)
}

// node is a script of this folder, to be run. Go counts what a test looks at itself among that which its result hangs on.
func node(t *testing.T, script string, args ...string) *exec.Cmd {
	t.Helper()
	if _, err := os.Stat(script); err != nil {
		t.Fatal(err)
	}
	return exec.Command("node", append([]string{script}, args...)...)
}

// rasters are how outside programs make a picture of a file: 800 pixels a side, or for small codes on large sheets 200 an inch.
var rasters = map[string]func(t *testing.T, file, picture string, sheet bool){
	".svg": func(t *testing.T, file, picture string, sheet bool) {
		size := []string{"--width", "800"}
		if sheet {
			size = []string{"--dpi-x", "200", "--dpi-y", "200"}
		}
		tool(t, "rsvg-convert", append(size, "-b", "white", "-o", picture, file)...)
	},
	".pdf": func(t *testing.T, file, picture string, sheet bool) {
		size := []string{"-scale-to", "800"}
		if sheet {
			size = []string{"-r", "200"}
		}
		tool(t, "pdftoppm", append(size, "-singlefile", "-png", file, strings.TrimSuffix(picture, ".png"))...)
	},
	".eps": func(t *testing.T, file, picture string, _ bool) {
		tool(t, "gs", "-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-dEPSCrop", "-sDEVICE=png16m", "-r600", "-o", picture, file)
	},
	".tif": func(t *testing.T, file, picture string, _ bool) {
		tool(t, "tiff2rgba", file, picture+".tif")
		again(t, picture+".tif", picture)
	},
	".webp": func(t *testing.T, file, picture string, _ bool) { again(t, file, picture) },
}

// again stores a picture as a PNG.
func again(t *testing.T, from, to string) {
	t.Helper()
	f, err := os.Open(from)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	img, _, err := image.Decode(f)
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := errors.Join(png.Encode(&b, img), os.WriteFile(to, b.Bytes(), 0o600)); err != nil {
		t.Fatal(err)
	}
}

// reads is what two outside readers make of a file, which outside programs make a picture of first.
func reads(t *testing.T, name string, data []byte, sheet bool) (zbar, zxing string) {
	t.Helper()
	dir := t.TempDir()
	file, picture := filepath.Join(dir, "code"+filepath.Ext(name)), filepath.Join(dir, "picture.png")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if raster := rasters[filepath.Ext(name)]; raster != nil {
		raster(t, file, picture, sheet)
	} else {
		picture = file
	}
	return strings.TrimSuffix(tool(t, "zbarimg", "--quiet", "--raw", "--nodbus", "-Sdisable", "-Sqrcode.enable", "-Sbinary",
		picture), "\n"), tool(t, "ZXingReader", "-format", "QRCode", "-bytes", picture)
}

// readBack has outside readers read a file that holds one code.
func readBack(t *testing.T, name string, data []byte, want string) {
	t.Helper()
	zbar, zxing := reads(t, name, data, false)
	if zbar != want {
		t.Errorf("%s: zbar reads %q, want %q", name, zbar, want)
	}
	if zxing != want {
		t.Errorf("%s: zxing-cpp reads %q, want %q", name, zxing, want)
	}
}

func colourScheme(scheme string) proto.EmulationSetEmulatedMedia {
	return proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-color-scheme",
		Value: scheme}}}
}
