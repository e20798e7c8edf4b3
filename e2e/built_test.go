package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod"

	"sodrik/internal/code"
	"sodrik/internal/db"
	"sodrik/internal/ground"
	"sodrik/internal/link"
	"sodrik/internal/readers"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
)

// program is the built program with the demonstration, started as ./start does, in a folder of its own.
type program struct {
	app
	links    string // address at which it answers short links
	said     *spoken
	home     string
	binary   string
	database string // address of its database, once it is opened
	key      string
}

// spoken is what a program says; what is wrong in it is told as a fault. That something was put off, or that nobody waited for an
// answer, is none.
type spoken struct {
	mu     sync.Mutex
	b      bytes.Buffer
	faults *faults
}

func (s *spoken) Write(b []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for line := range strings.Lines(string(b)) {
		if wrong.MatchString(line) && !strings.Contains(line, "status=503") {
			s.faults.mu.Lock()
			s.faults.list = append(s.faults.list, strings.TrimSpace(line))
			s.faults.mu.Unlock()
		}
	}
	return s.b.Write(b)
}

func (s *spoken) String() string { s.mu.Lock(); defer s.mu.Unlock(); return s.b.String() }

var wrong = regexp.MustCompile(`\bERROR\b|\bpanic\b`)

// freePort is one that nobody listens on.
func freePort(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

// built builds the program and starts it. It is ended with the test, and has then said no error.
func built(t *testing.T) *program {
	t.Helper()
	dir, err := os.MkdirTemp("", "sodrik-built-") // which the database's account may enter
	if err == nil {
		err = os.Chmod(dir, 0o755)
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	binary := filepath.Join(dir, "sodrik")
	if out, err := exec.Command("go", "build", "-o", binary, "../cmd/sodrik").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	p := &program{app: app{url: "http://" + freePort(t)}, links: freePort(t), home: filepath.Join(dir, "home"), binary: binary}
	p.faults = &faults{}
	p.said = &spoken{faults: p.faults}
	cmd := exec.Command(binary, "demo")
	cmd.Env = append(os.Environ(), "SODRIK_HOME="+p.home, "SODRIK_ADDR="+strings.TrimPrefix(p.url, "http://"),
		"SODRIK_LINKS_ADDR="+p.links)
	cmd.Stdout, cmd.Stderr = p.said, p.said
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	t.Cleanup(func() {
		cmd.Process.Signal(syscall.SIGTERM)
		select {
		case <-ended:
		case <-time.After(30 * time.Second):
			cmd.Process.Kill()
			t.Error("the program does not end within 30 s")
		}
		if list := p.faults.take(); len(list) > 0 {
			t.Errorf("it said\n%.3000s", strings.Join(list, "\n"))
		}
	})
	for end := time.Now().Add(patience); ; time.Sleep(100 * time.Millisecond) {
		if r, err := http.Get(p.url + "/readyz"); err == nil {
			r.Body.Close()
			if r.StatusCode == http.StatusOK {
				return p
			}
		}
		if time.Now().After(end) {
			t.Fatalf("it does not start:\n%s", p.said)
		}
	}
}

// opened has the test look into the program's own database, by its key.
func (p *program) opened(t *testing.T) {
	t.Helper()
	read := func(name string) string {
		b, err := os.ReadFile(filepath.Join(p.home, name))
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	lines := strings.Split(read("pg/postmaster.pid"), "\n") // the fourth is the port (PostgreSQL, miscadmin.h)
	p.database = fmt.Sprintf("postgres://sodrik:%s@127.0.0.1:%s/sodrik?sslmode=disable", read("pg.password"),
		strings.TrimSpace(lines[3]))
	p.key = strings.TrimSpace(read("key"))
	d, err := db.Open(t.Context(), p.database, 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(d.Close)
	key, err := seal.Parse(p.key)
	if err != nil {
		t.Fatal(err)
	}
	panel := readers.Panel()
	p.store = code.New(ground.Ground{DB: d, Pages: readers.PDFPage, Now: time.Now, Seal: key}, panel, readers.Version(panel))
	link.New(p.store, standin.LinkHost)
}

// enters opens a screen as one of the demonstration's people, by the click that everybody has there.
func (p *program) enters(t *testing.T) *rod.Page {
	t.Helper()
	w := p.pageAs(t, "", "/sign-in")
	wait := nextPage(t, w)
	w.MustElement(`form[action="/enter"] button`).MustClick()
	wait()
	hasText(t, w, "h1", "Codes")
	return w
}

// scanned is where a phone is sent that scans a short link.
func (p *program) scanned(t *testing.T, link string) string {
	t.Helper()
	host, path, _ := strings.Cut(strings.ToLower(link), "/")
	r, err := http.NewRequest(http.MethodGet, "http://"+p.links+"/"+path, nil)
	if err != nil {
		t.Fatal(err)
	}
	r.Host = host
	answer, err := http.DefaultTransport.RoundTrip(r)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	io.Copy(io.Discard, answer.Body)
	return answer.Header.Get("Location")
}

// TestBuilt uses the program as it ships, with its log, worker and links put together as serve puts them together: a batch that
// leads through short links is made, handed over and scanned; a file that was made to stop everything is refused, and
// everything goes on.
func TestBuilt(t *testing.T) {
	t.Parallel()
	a := built(t)
	p := a.enters(t)
	p.MustNavigate(a.url + "/batches/new").MustWaitLoad()
	p.MustElement("#rows-text").MustInput("SKU;Link\nMB-1;https://marrowby.example/built/1\nMB-2;https://marrowby.example/built/2\n")
	wait := nextPage(t, p)
	p.MustElement(".batch-new button.main").MustClick()
	wait()
	madeBatch(t, p)
	p.MustElementR("button", "Lead through short links").MustClick()
	hasText(t, p, "#batch-state", "2 of 2 have short links")
	madeBatch(t, p)
	p.MustElementR(".batch-ships button", "Make files").MustClick()
	until(t, p, "the files", `() => !!document.querySelector(".batch-runs a[download]")`)
	download(t, p, func() { p.MustElement(`.batch-runs a[download]`).MustClick() })
	hasText(t, p, "#batch-taken", "handed over")
	links := regexp.MustCompile(`(?i)go\.marrowby\.example/[A-Z0-9-]+`).FindAllString(p.MustElement(".batch-rows").MustText(), -1)
	if len(links) != 2 {
		t.Fatalf("the table shows %q", links)
	}
	for i, link := range links {
		want := fmt.Sprintf("https://marrowby.example/built/%d", i+1)
		to := ""
		for end := time.Now().Add(30 * time.Second); to != want && time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
			to = a.scanned(t, link)
		}
		if to != want {
			t.Errorf("%s leads to %q, want %s", link, to, want)
		}
	}

	// A workbook with a cell in the last column of each row.
	p.MustNavigate(a.url + "/batches/new").MustWaitLoad()
	file := filepath.Join(t.TempDir(), "stock.xlsx")
	if err := os.WriteFile(file, wideBook(t), 0o600); err != nil {
		t.Fatal(err)
	}
	p.MustElement(`.batch-new input[type=file]`).MustSetFiles(file)
	begun := time.Now()
	p.MustElement(".batch-new button.main").MustClick()
	hasText(t, p, "main", "have a cell in XFD")
	t.Logf("a workbook that reaches to XFD is refused after %v", time.Since(begun).Round(time.Millisecond))

	// Everything else goes on, and the scans arrive.
	for _, at := range []string{"/codes", "/batches", "/scans", "/hosts", "/style", "/out", "/people"} {
		p.MustNavigate(a.url + at).MustWaitLoad()
		if text := p.MustElement("main").MustText(); strings.Contains(text, "Not done") {
			t.Errorf("%s: %s", at, text)
		}
	}
	until(t, p, "the scans arrive",
		`async () => (await (await fetch("/scans/events.csv?days=7")).text()).includes("go.marrowby.example")`)
}

// wideBook is a workbook whose every row has a cell in column XFD.
func wideBook(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	var sheet strings.Builder
	for i, cell := range []string{"SKU", "MB-1", "MB-2"} {
		fmt.Fprintf(&sheet,
			`<row r="%[1]d"><c r="A%[1]d" t="inlineStr"><is><t>%s</t></is></c><c r="XFD%[1]d"><v>1</v></c></row>`, i+1, cell)
	}
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"_rels/.rels":     `<Relationships><Relationship Id="r1" Type="x/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml": `<workbook><sheets><sheet name="Stock" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="r1" Type="x/worksheet" Target="worksheets/sheet1.xml"/>` +
			`</Relationships>`,
		"xl/worksheets/sheet1.xml": `<worksheet><sheetData>` + sheet.String() + `</sheetData></worksheet>`} {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, text)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}
