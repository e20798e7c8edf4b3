package e2e

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// unzipped reads a zip that was downloaded.
func unzipped(t *testing.T, data []byte) map[string][]byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if out[f.Name], err = io.ReadAll(r); err != nil {
			t.Fatal(err)
		}
	}
	return out
}

// TestShips walks every way out: pictures of each format, a set that is remembered, everything for the printer, mail, an
// address for a page and a phone, a label, print and projector; and what does not read is not handed over silently.
func TestShips(t *testing.T) {
	t.Parallel()
	a := open(t)
	const url = "https://marrowby.example/ships"
	p := a.page(t, a.create(t,
		`{"name":"Seed rack","content":{"kind":"url","url":"`+url+`"},"look":{"ink":"#12352b"},"placements":[{"name":"rack","medium":"catalogue-page","width_mm":40,"words":{"headline":"Scan for more"}}]}`))
	p.MustElement("[data-stub=ships]").MustClick()

	for _, title := range []string{"JPEG", "WebP"} {
		name, data := download(t, p, func() { takeFile(p, title) })
		readBack(t, name, data, url)
	}

	// What is ticked goes together, and is offered again.
	p.MustElement("[data-whom=office]").MustClick()
	p.MustElement(`#files-office input[value=svg]`).MustClick()
	p.MustElement("[data-whom=screen]").MustClick()
	p.MustElement(`#files-screen input[value=jpg]`).MustClick()
	name, data := download(t, p, func() { p.MustElement(`button[aria-label="Download chosen"]`).MustClick() })
	files := unzipped(t, data)
	if len(files) != 4 || name != "seed-rack_v1.zip" || files["seed-rack_40mm_v1.jpg"] == nil ||
		files["seed-rack-whole_v1.pdf"] == nil || files["seed-rack_40mm_v1.svg"] != nil {
		t.Errorf("%s holds %d files: %v", name, len(files), keysOf(files))
	}
	p.MustReload().MustWaitLoad()
	p.MustElement("[data-stub=ships]").MustClick()
	hasText(t, p, "#line-ships", "PDF · PNG · JPEG · PDF of the whole")
	until(t, p, "the chosen remembered", `() => document.getElementById("hand-over").title.split(" · ").length === 4`)
	hasText(t, p, "#handed", "Handed over")

	_, data = download(t, p, func() { p.MustElement(`button[aria-label="Download everything"]`).MustClick() })
	files = unzipped(t, data)
	note := string(files["seed-rack-note-to-the-printer_v1.txt"])
	for _, want := range []string{"Size: 40 mm wide", "Do not scale it below 34 mm", "cyan", "seed-rack_40mm_v1.jpg",
		"It says: " + url} {
		if !strings.Contains(note, want) {
			t.Errorf("the note does not say %q:\n%s", want, note)
		}
	}
	if len(files) != 7 || !bytes.HasPrefix(files["seed-rack-proof-sheet_v1.pdf"], []byte("%PDF")) ||
		!bytes.Contains(files["seed-rack-job_v1.json"], []byte(url)) {
		t.Errorf("everything is %v", keysOf(files))
	}

	// By mail: one that bounces says so, one that arrives lies in the mailbox with its files.
	p.MustElement("[data-whom=person]").MustClick()
	for _, c := range [][2]string{{"gone@printer.example", "no such mailbox"}, {"nobody at all", "is no e-mail address"},
		{"wren@printer.example", "Sent to wren@printer.example: 4 files"}} {
		p.MustElement("input[name=to]").MustSelectAllText().MustInput(c[0])
		p.MustEval(`() => document.querySelector("form[hx-post$='/mail']").noValidate = true`)
		p.MustElementR("button", "Send the ticked files").MustClick()
		hasText(t, p, "#mailed", c[1])
	}
	box := a.page(t, "/mailbox")
	hasText(t, box, "article", "Seed rack, version 1")
	_, data = download(t, box, func() { box.MustElementR(".mail-files a", "seed-rack_40mm_v1.png").MustClick() })
	readBack(t, "mailed.png", data, url)

	// An address of its own, for a page and a phone; taken away, nothing is behind it.
	p.MustElement("[data-whom=page]").MustClick()
	p.MustElementR("button", "Address of this version").MustClick()
	tag := p.MustElement("#tag-text").MustProperty("value").Str()
	if !strings.Contains(tag, `alt="QR code: `+url) || !strings.Contains(tag, "/shown/") {
		t.Errorf("for a page: %s", tag)
	}
	link := p.MustElement(".address a.mono").MustText()
	stranger := a.pageAs(t, "", strings.TrimPrefix(link, a.url))
	hasText(t, stranger, "main", "Version 1")
	_, data = download(t, stranger, func() { stranger.MustElementR("a", "Download PNG").MustClick() })
	readBack(t, "shown.png", data, url)
	p.MustElementR("button", "Take the addresses").MustClick()
	hasText(t, p, "#address-slot", "lead nowhere now")
	stranger.MustReload()
	hasText(t, stranger, "body", "There is no such code")
	if text := p.MustElement("#inline-text").MustProperty("value").Str(); !strings.HasPrefix(text, "<svg") ||
		!strings.Contains(text, `width="40mm"`) {
		t.Errorf("SVG to be put into a page: %.80s", text)
	}

	p.MustElement("[data-whom=office]").MustClick()
	p.MustElementR("summary", "For a label printer").MustClick()
	hasText(t, p, "#label-line", "dots a module, black or nothing")
	name, data = download(t, p, func() { p.MustElement(`button[aria-label="Download label"]`).MustClick() })
	readBack(t, name, data, url)

	// That it is in print is said by a person, and can be taken back.
	hasText(t, p, "#issued", "v1 handed over")
	p.MustElement("#fold-printed summary").MustWaitVisible().MustClick()
	p.MustElementR("#in-print button", "It is in print").MustClick()
	hasText(t, p, "#in-print .error", "Is no day; write it such as 2 March 2027")
	p.MustEval(`() => { document.getElementById("printed-on").value = "2026-11-02"; }`)
	p.MustElement("#printed-by").MustInput("Okafor Print")
	p.MustElement("#printed-many").MustInput("two")
	p.MustElementR("#in-print button", "It is in print").MustClick()
	hasText(t, p, "#in-print .error", "Is no number of pieces")
	until(t, p, "the day kept",
		`() => document.getElementById("printed-on").value === "2026-11-02" && document.getElementById("printed-by").value === "Okafor Print"`)
	p.MustElement("#printed-many").MustSelectAllText().MustInput("2,000")
	p.MustElementR("#in-print button", "It is in print").MustClick()
	hasText(t, p, "#in-print", "v1 is in print since 2 November 2026, Okafor Print, 2,000 pieces.")
	hasText(t, p, "#issued", "v1 in print since 2 Nov 2026")
	p.MustElementR("#in-print button", "Take that back").MustClick()
	hasText(t, p, "#issued", "v1 handed over")

	// What went out is on record, and what bounced is not.
	p.MustReload().MustWaitLoad()
	p.MustElement("[data-stub=ships]").MustClick()
	p.MustElementR("#handed summary", "Handed over").MustClick()
	hasText(t, p, "#handed", "to wren@printer.example")
	if text := p.MustElement("#handed").MustText(); strings.Contains(text, "gone@") {
		t.Errorf("on record: %s", text)
	}

	// At its true size for the browser's own printing, and as large as a screen.
	wait := nextPage(t, p)
	p.MustElementR("button", "Print at true size").MustClick()
	wait()
	if mm := p.MustElement(".true-size").MustShape().Box().Width / 96 * 25.4; mm < 39.9 || mm > 40.1 {
		t.Errorf("on the page for print it is %.2f mm wide", mm)
	}
	width, height := 8.27, 11.69
	stream, err := p.PDF(&proto.PagePrintToPDF{PaperWidth: &width, PaperHeight: &height, PrintBackground: true})
	if err != nil {
		t.Fatal(err)
	}
	printed, err := io.ReadAll(stream)
	if err != nil {
		t.Fatal(err)
	}
	readBack(t, "printed.pdf", printed, url)
	p.MustNavigate(strings.TrimSuffix(p.MustInfo().URL, "print") + "screen").MustWaitLoad()
	if box := p.MustElement(".screen-code svg").MustShape().Box(); box.Height < 600 {
		t.Errorf("on a projector it is %.0f pixels high", box.Height)
	}
}

func keysOf(m map[string][]byte) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	return out
}

// TestUnread: a file that does not read back is not handed over without being asked for once more.
func TestUnread(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Alike","content":{"kind":"url","url":"https://marrowby.example/alike"},"look":{"ink":"#00ff00","paper":"#b6b6b6"},"placements":[{"name":"card","width_mm":30}]}`))
	p.MustElement("[data-stub=ships]").MustClick()
	wait := nextPage(t, p)
	takeFile(p, "PNG")
	wait()
	hasText(t, p, "main", "Phones would not find in alike_30mm_v1.png what it should say")
	name, data := download(t, p, func() { p.MustElementR("button", "Download it anyway").MustClick() })
	if name != "alike_30mm_v1.png" || !bytes.HasPrefix(data, []byte("\x89PNG")) {
		t.Errorf("%s of %d bytes", name, len(data))
	}
}
