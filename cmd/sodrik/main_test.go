package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// TestMain lets the test program stand in for the command.
func TestMain(m *testing.M) {
	if os.Getenv("SODRIK_AS_COMMAND") != "" {
		os.Exit(run(os.Args[1:]))
	}
	os.Exit(m.Run())
}

// sodrik runs the command and gives its exit code, standard output and standard error.
func sodrik(t *testing.T, stdin string, args ...string) (code int, out, errs string) {
	t.Helper()
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(self, args...)
	cmd.Env = append(os.Environ(), "SODRIK_AS_COMMAND=1", "SODRIK_DATABASE=")
	cmd.Dir = t.TempDir()
	cmd.Stdin = strings.NewReader(stdin)
	var o, e bytes.Buffer
	cmd.Stdout, cmd.Stderr = &o, &e
	err = cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return cmd.ProcessState.ExitCode(), o.String(), e.String()
}

func write(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

const gate = `{"name":"Gate poster","content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":"#12352b"},
	"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"card","medium":"business-card"}]}`

// TestMarkFile: on the command line a mark may be a file beside the job; it is drawn, and what is wrong with it is a problem
// of the field.
func TestMarkFile(t *testing.T) {
	job := write(t, "job.json",
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"mark":{"source":"logo.svg"}}}`)
	logo := filepath.Join(filepath.Dir(job), "logo.svg")
	if code, _, errs := sodrik(t, "", "encode", job); code != 2 || !strings.HasPrefix(errs, "look.mark.source: cannot be read") {
		t.Errorf("without its file: %d %s", code, errs)
	}
	if err := os.WriteFile(logo,
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><circle cx="4" cy="4" r="4" fill="#a8321f"/></svg>`),
		0o600); err != nil {
		t.Fatal(err)
	}
	code, out, errs := sodrik(t, "", "draw", job, "-o", "-", "-format", "svg")
	if code != 0 || !strings.Contains(out, "#a8321f") {
		t.Errorf("%d %s %.200s", code, errs, out)
	}
	if code, out, _ = sodrik(t, "", "encode", job); code != 0 || !strings.Contains(out, `"reserve"`) {
		t.Errorf("%d %.200s", code, out)
	}
	noise := image.NewNRGBA(image.Rect(0, 0, 700, 700))
	rng := rand.New(rand.NewPCG(1, 2))
	for i := range noise.Pix {
		noise.Pix[i] = byte(rng.Uint32()) | 128*byte(i%4/3)
	}
	var large bytes.Buffer
	if err := png.Encode(&large, noise); err != nil || large.Len() < 1<<20 {
		t.Fatal(large.Len(), err)
	}
	if err := os.WriteFile(logo, large.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	if code, _, errs := sodrik(t, "", "encode", job); code != 0 {
		t.Errorf("a mark larger than a job file may be: %d %s", code, errs)
	}
	if err := os.WriteFile(logo, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if code, _, errs := sodrik(t, "", "draw", job, "-o", "-", "-format", "svg"); code != 2 ||
		!strings.HasPrefix(errs, "look.mark.source: is empty") {
		t.Errorf("an empty file: %d %s", code, errs)
	}
}

// TestEncodeKinds: the payload of every kind.
func TestEncodeKinds(t *testing.T) {
	for content, want := range map[string]string{
		`{"kind":"text","text":"Thin to 20 cm"}`:                                     "Thin to 20 cm",
		`{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow;thin;water"}`: `WIFI:T:WPA;S:Barn;P:sow\;thin\;water;;`,
		`{"kind":"contact","format":"mecard","given":"Wren","family":"Okafor"}`:      "MECARD:N:Okafor,Wren;;",
		`{"kind":"phone","number":"0113 496 0123","region":"GB"}`:                    "tel:+441134960123",
		`{"kind":"sms","number":"+441134960123","body":"SOW"}`:                       "SMSTO:+441134960123:SOW",
		`{"kind":"email","to":["orders@marrowby.example"],"subject":"Bulbs & more"}`: "mailto:orders@marrowby.example?subject=Bulbs%20%26%20more",
		`{"kind":"place","lat":52.0871,"lon":-1.9432}`:                               "geo:52.0871,-1.9432",
		`{"kind":"url","url":"marrowby.example","tags":{"source":"gate"}}`:           "https://marrowby.example?utm_source=gate",
		`{"kind":"event","title":"Fair","start":"2027-03-20","all_day":true}`:        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Sodrik//EN\r\nBEGIN:VEVENT\r\nUID:117032334ad2\r\nDTSTAMP:20270320T000000Z\r\nDTSTART;VALUE=DATE:20270320\r\nSUMMARY:Fair\r\nEND:VEVENT\r\nEND:VCALENDAR",
	} {
		code, out, errs := sodrik(t, `{"content":`+content+`}`, "encode", "-")
		var e struct{ Payload string }
		if err := json.Unmarshal([]byte(out), &e); code != 0 || err != nil || e.Payload != want {
			t.Errorf("%s: %d %q %s, want %q", content, code, e.Payload, errs, want)
		}
	}
}

func TestEncode(t *testing.T) {
	code, out, errs := sodrik(t, gate, "encode", "-")
	var e struct {
		Payload             string
		Version, Size, Mask int
		Level               string
		Segments            []struct{ Mode, Text string }
		Matrix              []string
	}
	if err := json.Unmarshal([]byte(out), &e); code != 0 || err != nil || errs != "" {
		t.Fatalf("%d %v %s", code, err, errs)
	}
	if e.Payload != "https://marrowby.example/fair" || e.Size != 17+4*e.Version || len(e.Matrix) != e.Size ||
		len(e.Matrix[0]) != e.Size || !strings.HasPrefix(e.Matrix[0], "11111110") || e.Segments[0].Mode != "byte" {
		t.Errorf("%+v", e)
	}
}

// TestWhole: the whole that a code lies on is drawn with artwork that is a file beside the job; what cannot be taken is a
// problem of its field.
func TestWhole(t *testing.T) {
	job := write(t, "job.json",
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a","width_mm":40,"distance_mm":400,"artwork":{"source":"board.svg","x_mm":10,"y_mm":80},"words":{"headline":"See it grow"}}]}`)
	beside := func(name, text string) {
		if err := os.WriteFile(filepath.Join(filepath.Dir(job), name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for text, says := range map[string]string{"%PDF-1.4": "placements.0.artwork.source: is a PDF",
		"words": "placements.0.artwork.source: is none of"} {
		beside("board.svg", text)
		if code, _, errs := sodrik(t, "", "draw", job, "--whole", "-o", "-", "-format", "svg"); code != 2 ||
			!strings.HasPrefix(errs, says) {
			t.Errorf("%d %s", code, errs)
		}
	}
	beside("board.svg",
		`<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="150mm" viewBox="0 0 100 150"><path d="M0 0h100v60h-100z"/></svg>`)
	out := filepath.Join(t.TempDir(), "whole.png")
	if code, _, errs := sodrik(t, "", "draw", job, "--whole", "-o", out); code != 0 {
		t.Fatalf("%d %s", code, errs)
	}
	if code, said, _ := sodrik(t, "", "read", out); code != 0 || !strings.Contains(said, "https://marrowby.example/fair") {
		t.Errorf("%d %s", code, said)
	}
	bare := write(t, "bare.json", `{"content":{"kind":"url","url":"https://marrowby.example/fair"}}`)
	if code, _, errs := sodrik(t, "", "draw", bare, "--whole", "-o", "-", "-format", "pdf"); code != 2 ||
		!strings.Contains(errs, "nothing that the code lies on") {
		t.Errorf("%d %s", code, errs)
	}
}

// TestInspect: a file taken for a scan of itself has grown by nothing; what is no scan of the job says why.
func TestInspect(t *testing.T) {
	job := write(t, "job.json",
		`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"output":{"dpi":600},"placements":[{"name":"till","width_mm":30,"distance_mm":300}]}`)
	other := write(t, "other.json",
		`{"content":{"kind":"url","url":"https://marrowby.example/other"},"placements":[{"name":"till","width_mm":30}]}`)
	scan := filepath.Join(t.TempDir(), "scan.png")
	if code, _, errs := sodrik(t, "", "draw", job, "-o", scan, "-placement", "till"); code != 0 {
		t.Fatalf("%d %s", code, errs)
	}
	code, out, errs := sodrik(t, "", "inspect", scan, "-job", job, "-dpi", "600")
	var r struct {
		Says, Line, Verdict string
		Words               []string
		Print               struct {
			Growth struct{ Value, Off float64 } `json:"growth_mm"`
			Width  struct{ Value float64 }      `json:"width_mm"`
		}
	}
	if err := json.Unmarshal([]byte(out), &r); err != nil || code != 0 {
		t.Fatalf("%d %s %v", code, errs, err)
	}
	if r.Says != "https://marrowby.example/fair" || r.Verdict != "safe" || math.Abs(r.Print.Growth.Value) > 0.005 ||
		math.Abs(r.Print.Width.Value-31.3) > 0.1 || len(r.Words) < 4 || !strings.HasPrefix(r.Line, "Ink gained nothing") {
		t.Errorf("%s", out)
	}
	for says, args := range map[string][]string{
		"picture: shows another code": {"inspect", scan, "-job", other},
		"dpi: is the resolution":      {"inspect", scan, "-job", job, "-dpi", "3"},
		"sodrik inspect needs -job":   {"inspect", scan},
		"picture: is no picture":      {"inspect", job, "-job", job},
		"takes one picture":           {"inspect", "-job", job},
	} {
		if code, _, errs := sodrik(t, "", args...); code != 2 || !strings.Contains(errs, says) {
			t.Errorf("%v: %d %s", args, code, errs)
		}
	}
}

func TestDrawAndRead(t *testing.T) {
	job := write(t, "job.json", gate)
	dir := t.TempDir()
	for _, format := range []string{"svg", "pdf", "png", "jpg", "jpeg", "webp"} {
		file := filepath.Join(dir, "out."+format)
		if code, _, errs := sodrik(t, "", "draw", job, "-o", file); code != 0 {
			t.Fatalf("%s: %d %s", format, code, errs)
		}
		b, err := os.ReadFile(file)
		if err != nil || len(b) < 500 {
			t.Errorf("%s: %d bytes, %v", format, len(b), err)
		}
	}
	code, out, _ := sodrik(t, "", "read", filepath.Join(dir, "out.png"))
	var r struct {
		Symbols []struct {
			Payload         string
			Version         int
			Level           string
			Mask, Corrected *int
			Content         map[string]any
		}
	}
	if err := json.Unmarshal([]byte(out), &r); code != 0 || err != nil || len(r.Symbols) != 1 ||
		r.Symbols[0].Payload != "https://marrowby.example/fair" || *r.Symbols[0].Corrected != 0 ||
		r.Symbols[0].Content["kind"] != "url" {
		t.Errorf("%d %s %v", code, out, err)
	}
	_, first, _ := sodrik(t, gate, "draw", "-", "-format", "svg", "-o", "-")
	_, card, _ := sodrik(t, gate, "draw", "-", "--placement", "card", "-format", "svg", "-o", "-")
	if !strings.Contains(first, `width="160mm"`) || !strings.Contains(card, `width="22mm"`) {
		t.Errorf("placements: %.120s and %.120s", first, card)
	}
}

func TestProve(t *testing.T) {
	code, out, errs := sodrik(t, gate, "prove", "-")
	var p struct {
		Verdict  string
		Reserve  float64
		Range    [2]float64 `json:"range_mm"`
		Readings []struct {
			Reader, Condition string
			Read              bool
			MS                float64
		}
		Findings []any
	}
	if err := json.Unmarshal([]byte(out), &p); code != 0 || err != nil {
		t.Fatalf("%d %v %s", code, err, errs)
	}
	if p.Verdict == "" || p.Reserve != 1 || p.Range[1] <= p.Range[0] || len(p.Readings) < 3 || !p.Readings[0].Read {
		t.Errorf("%+v", p)
	}
	pale := strings.Replace(gate, "#12352b", "#e8e8e8", 1)
	if code, out, _ := sodrik(t, pale, "prove", "-"); code != 0 || !strings.Contains(out, `"verdict": "stop"`) {
		t.Errorf("a pale code: exit %d", code)
	}
}

// TestRefusals: every mistake has its exit code, and its line on standard error with the field dotted.
func TestRefusals(t *testing.T) {
	blank := filepath.Join(t.TempDir(), "blank.png")
	f, err := os.Create(blank)
	if err != nil {
		t.Fatal(err)
	}
	png.Encode(f, image.NewGray(image.Rect(0, 0, 90, 90)))
	f.Close()
	for _, c := range []struct {
		stdin string
		args  []string
		code  int
		says  string
	}{
		{"", []string{"fly"}, 2, "is not a command"},
		{"", []string{"encode"}, 2, "takes one job file"},
		{"", []string{"encode", "/nowhere.json"}, 2, "cannot be read"},
		{"{", []string{"encode", "-"}, 2, "is not JSON"},
		{`{"content":{"kind":"url","url":"javascript:x"},"loook":{}}`, []string{"encode", "-"}, 2, "content.url: javascript:"},
		{`{"content":{"kind":"url","url":"m.example"},"look":{"inc":"#000"}}`, []string{"draw", "-", "-o", "x.svg"}, 2,
			"look.inc: is not a key here"},
		{`{"content":{"kind":"url","url":"m.example"},"placements":[{"name":"a","width_mm":"abc"}]}`, []string{"prove", "-"}, 2,
			"placements.0.width_mm: must be a number"},
		{`{"content":{"kind":"fax"}}`, []string{"encode", "-"}, 2, `content.kind: "fax" is not a kind`},
		{`{"content":{"kind":"dynamic"}}`, []string{"encode", "-"}, 2, "is no short link"},
		{`{"content":{"kind":"wifi","ssid":"Barn","security":"wpa","password":"short"}}`, []string{"encode", "-"}, 2,
			"content.password: has 5 characters: phones will not join. WPA passwords have 8 to 63 characters"},
		{`{"content":{"kind":"wifi","ssid":"Barn","security":"open","password":"12345678"}}`, []string{"encode", "-"}, 2,
			"content.password: is set, and the network is open"},
		{`{"content":{"kind":"contact","given":"a","phones":[{"number":"12"}]}}`, []string{"encode", "-"}, 2,
			"content.phones.0.number: "},
		{`{"content":{"kind":"phone","number":"0113 496 0123"}}`, []string{"encode", "-"}, 2,
			"content.number: has no country code"},
		{`{"content":{"kind":"sms","number":"+441134960123","subject":"x"}}`, []string{"encode", "-"}, 2,
			"content.subject: is not a key here"},
		{`{"content":{"kind":"email","to":["x"]}}`, []string{"encode", "-"}, 2, "content.to.0: "},
		{`{"content":{"kind":"event","title":"a","start":"2027-03-28T01:30","timezone":"Europe/London"}}`,
			[]string{"encode", "-"}, 2,
			"content.start: is 01:30, a time that the clocks in London skip that night: they go from 01:00 to 02:00"},
		{`{"content":{"kind":"place","lat":91,"lon":0}}`, []string{"encode", "-"}, 2,
			"content.lat: is 91; it lies between −90 and 90 degrees"},
		{gate, []string{"draw", "-", "-o", "x.gif"}, 2, `format: "gif" cannot be written`},
		{gate, []string{"draw", "-"}, 2, "needs -o FILE"},
		{gate, []string{"draw", "-", "-o", "x.svg", "-placement", "moon"}, 2, `none is called "moon"`},
		{gate, []string{"draw", "-", "-wrong"}, 2, "-wrong"},
		{gate, []string{"draw", "-", "-o", "no/such/folder/x.svg"}, 1, "no such file"},
		{"", []string{"read", blank}, 1, ""},
		{"plain text", []string{"read", "-"}, 2, "not a picture that can be read"},
		{"", []string{"serve"}, 2, "SODRIK_DATABASE is not set"},
		{"", []string{"migrate", "now"}, 2, "takes no arguments"},
	} {
		code, _, errs := sodrik(t, c.stdin, c.args...)
		if code != c.code || !strings.Contains(errs, c.says) {
			t.Errorf("sodrik %s: exit %d, %q; want %d with %q", strings.Join(c.args, " "), code, errs, c.code, c.says)
		}
	}
	if code, out, _ := sodrik(t, "", "help"); code != 0 || !strings.Contains(out, "sodrik draw") {
		t.Errorf("help: %d %s", code, out)
	}
}

func TestAddressTaken(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	code, _, errs := sodrik(t, "", "demo", "-addr", l.Addr().String(), "-home", t.TempDir())
	if code != 1 || !strings.Contains(errs, "is taken by another program") ||
		!strings.Contains(errs, fmt.Sprint("127.0.0.1:", l.Addr().(*net.TCPAddr).Port+1)) {
		t.Errorf("exit %d: %s", code, errs)
	}
}
