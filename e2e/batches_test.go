package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/xuri/excelize/v2"
)

// packets are rows as a spreadsheet copies them; two are wrong.
func packets() (text string, says []string) {
	text = "SKU\tVariety\tLot\tLink\n"
	for i := range 60 {
		link := fmt.Sprintf("https://marrowby.example/p/%04d", i+1)
		says = append(says, link)
		if i == 7 {
			link = "marrowby,example/p/0008"
		}
		sku := fmt.Sprintf("MB-%04d", i+1)
		if i == 20 {
			sku = "MB-0003"
		}
		text += fmt.Sprintf(
			"%s\t%s\tL%d\t%s\n",
			sku,
			[]string{"Leek Long Barn", "Kale Old Fence", "Pea Hedge Lane"}[i%3],
			i%5,
			link,
		)
	}
	return text, says
}

// madeBatch waits until nothing of a batch is under way, nor its table that comes anew then: what is clicked in it must stay.
func madeBatch(t *testing.T, p *rod.Page) {
	t.Helper()
	until(
		t,
		p,
		"all that is under way",
		`() => { const s = document.querySelector("#batch-state"); return !!s && !s.hasAttribute("data-busy") && !document.querySelector(".htmx-request"); }`,
	)
}

// TestBatch goes from rows on the clipboard to a sheet that outside programs read: a paste and Enter, two rows mended in the
// table, the width that fills the label, the PDF.
func TestBatch(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	text, says := packets()
	paste(p, text)
	hasText(t, p, "#found", "60 rows with SKU, Variety, Lot and Link")
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	madeBatch(t, p)
	hasText(t, p, "#batch-state", "60 rows · 2 to mend")
	p.MustElementR(".batch-tabs a", "To mend").MustClick()
	hasText(t, p, "#batch-rows", "MB-0003")
	until(t, p, "the two rows alone", `() => document.querySelectorAll(".batch-rows tbody tr").length === 2`)
	hasText(t, p, `.batch-rows tr:nth-child(1)`, "host")
	const eighth = `[aria-label="Address of row 8"]`
	fill(p, eighth, "marrowby.example/p/0008")
	p.MustEval(`() => document.activeElement.classList.add("old")`)
	p.MustEval(`() => htmx.trigger(document.body, "batch-made")`) // other rows were checked while one types
	until(t, p, "the table anew, and what was typed in it", `(s) => { const cell = document.querySelector(s);
		return !!cell && !cell.classList.contains("old") && cell === document.activeElement && cell.value === "marrowby.example/p/0008"; }`,
		eighth)
	p.MustEval(`() => document.activeElement.blur()`)
	hasText(t, p, "#batch-state", "1 to mend")
	hasText(t, p, ".batch-rows", "keys tell rows apart")
	p.MustElement("#b-key").MustSelect("the number of the row") // the number on the packet may come twice
	until(t, p, "no row to mend", `() => !/to mend/.test(document.querySelector("#batch-state").innerText)`)
	hasText(t, p, "#undo", "the key")
	p.MustElement("#undo").MustClick()
	hasText(t, p, "[role=status]", "Taken back: the key.")
	hasText(t, p, "#batch-state", "1 to mend")
	hasText(t, p, "#undo", "the address of row 8")
	p.MustElement("#b-key").MustSelect("the number of the row")
	until(t, p, "no row to mend again", `() => !/to mend/.test(document.querySelector("#batch-state").innerText)`)
	madeBatch(t, p)
	hasText(t, p, "#batch-state", "Safe to print")
	hasText(t, p, "#batch-hardest", "the hardest of")
	p.MustElementR("button", "Fill the label").MustClick()
	until(
		t,
		p,
		"the width that fills the label",
		`() => !document.querySelector("#batch").innerText.includes("Fill the label")`,
	)
	p.MustElementR("button", "Make sheets").MustClick()
	until(t, p, "the sheets", `() => !!document.querySelector(".batch-runs a[download]")`)
	hasText(t, p, ".batch-runs", "All 60 labels read back from the file")
	name, file := download(t, p, func() { p.MustElement(".batch-runs a[download]").MustClick() })
	if !strings.HasSuffix(name, ".pdf") {
		t.Error(name)
	}
	path := filepath.Join(t.TempDir(), "labels.pdf")
	if err := os.WriteFile(path, file, 0o600); err != nil {
		t.Fatal(err)
	}
	if info := tool(t, "pdfinfo", path); !strings.Contains(info, "Pages:           3") {
		t.Error(info)
	}
	tool(t, "pdftoppm", "-r", "200", "-gray", "-png", path, filepath.Join(t.TempDir(), "s"))
	pictures, _ := filepath.Glob(filepath.Join(filepath.Dir(filepath.Dir(path)), "*", "s-*.png"))
	found := map[string]bool{}
	for _, reader := range [][]string{{"zbarimg", "-q", "--raw"}, {"ZXingReader", "-bytes"}} {
		for _, picture := range pictures {
			out, _ := exec.Command(reader[0], append(reader[1:], picture)...).Output()
			for _, line := range strings.Fields(string(out)) {
				found[line] = true
			}
		}
	}
	read := 0
	for _, s := range says {
		if found[s] {
			read++
		}
	}
	if len(pictures) != 3 || read < 58 { // a reader for one code in a picture leaves one out now and then
		t.Errorf("%d of %d read on %d sheets", read, len(says), len(pictures))
	}
}

// TestBatchWays makes batches of every other thing that rows come in by, and looks at each way out.
func TestBatchWays(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/batches/new")
	dir := t.TempDir()
	write := func(name string, data []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	book := excelize.NewFile()
	for i, row := range [][]any{{"SSID", "Password", "Room"}, {"Marrowby Shed", "compost-heap", "Shed"},
		{"Marrowby Office", "seed-ledger", "Office"}} {
		if err := book.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row); err != nil {
			t.Fatal(err)
		}
	}
	var xlsx bytes.Buffer
	if err := book.Write(&xlsx); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what string
		fill func()
		want []string
	}{
		{"workbook", func() { p.MustElement("#rows-file").MustSetFiles(write("rooms.xlsx", xlsx.Bytes())) },
			[]string{"Wi-Fi", "Marrowby Shed", "hidden"}},
		{"cards", func() {
			p.MustElement("#rows-file").MustSetFiles(write("reps.vcf", []byte("BEGIN:VCARD\nVERSION:3.0\nN:Pell;Ada;;;\nFN:Ada Pell\n"+
				"TEL:+44 113 496 0101\nEND:VCARD\nBEGIN:VCARD\nVERSION:3.0\nN:Marr;Tom;;;\nFN:Tom Marr\nEND:VCARD\n")))
		}, []string{"Contact", "Pell", "Marr"}},
		{"dates", func() {
			p.MustElement("#rows-file").MustSetFiles(write("fair.ics", []byte("BEGIN:VCALENDAR\nBEGIN:VEVENT\nSUMMARY:Bulb fair\n"+
				"DTSTART:20270320T100000\nEND:VEVENT\nBEGIN:VEVENT\nSUMMARY:Open day\nDTSTART:20270401T090000\nEND:VEVENT\nEND:VCALENDAR\n")))
		}, []string{"Date", "Bulb fair", "Open day"}},
		{"Latin-1 with semicolons", func() {
			p.MustElement("#rows-file").MustSetFiles(write("sorten.csv", []byte("Sorte;Link\nM\xf6hre;https://marrowby.example/1\nK\xfcrbis;https://marrowby.example/2\n")))
		}, []string{"Web address", "marrowby.example/2"}},
		{"Central European by hand", func() {
			p.MustElement("#rows-file").MustSetFiles(write("seznam.csv", []byte("\x8elu\x9dou\xe8k\xfd;Mrkev\nZelen\xe1;Kapusta\n")))
			p.MustElement(".read-by summary").MustClick()
			p.MustElement("#read-encoding").MustSelect("Central European, Windows-1250")
			p.MustElement("#read-heads").MustSelect("there are none")
		}, []string{"Žluťoučký", "Column 2"}},
		{"numbers", func() {
			fill(p, "#rows-from", "MB-0998")
			fill(p, "#rows-to", "MB-1001")
		}, []string{"4 rows", "MB-1001"}},
	} {
		p.MustNavigate(a.url + "/batches/new").MustWaitLoad()
		c.fill()
		fill(p, "#batch-name", "By "+c.what)
		wait := nextPage(t, p)
		p.MustElement(".batch-new button.main").MustClick()
		wait()
		until(t, p, "its rows", `() => document.querySelectorAll(".batch-rows tbody tr").length > 1`)
		text := p.MustEval(`() => document.querySelector("#batch").innerText + [...document.querySelectorAll(".batch-cell")].map((c) => c.value).join(" ") +
			document.querySelector("#b-kind").selectedOptions[0].text`).
			Str()
		for _, want := range c.want {
			if !strings.Contains(text, want) {
				t.Errorf("%s: no %q in %s", c.what, want, text)
			}
		}
	}
	// what is wrong stands where it was typed, and nothing is lost
	p.MustNavigate(a.url + "/batches/new").MustWaitLoad()
	fill(p, "#rows-from", "nine")
	fill(p, "#batch-name", "Kept")
	p.MustElement(".batch-new button.main").MustClick()
	hasText(t, p, ".error", "holds no number")
	if got := p.MustElement("#batch-name").MustProperty("value").Str(); got != "Kept" {
		t.Error(got)
	}
	// the numbers become packets: a text with a blank, then files, a page each, a table
	p.MustNavigate(a.url + "/batches/new").MustWaitLoad()
	p.MustElement("#rows-text").MustInput("Leek\nKale\n")
	p.MustEval(`() => document.querySelector("#read-encoding").selectedOptions[0].value = "ebcdic"`)
	again := nextPage(t, p)
	p.MustElement(".batch-new button.main").MustClick()
	again()
	hasText(t, p, ".read-by[open] .error", `The encoding is "ebcdic", which is not known`)
	p.MustNavigate(a.url + "/batches").MustWaitLoad()
	wait := nextPage(t, p)
	p.MustElementR("a.name", "By numbers").MustClick()
	wait()
	p.MustElement("#b-kind").MustSelect("Web address")
	until(t, p, "the address", `() => !!document.querySelector("#b-set-content-url")`)
	p.MustElement("#b-set-content-url").MustInput("https://marrowby.example/p/{lot}").MustBlur()
	hasText(t, p, "#batch", "{lot}, which is no column")
	enter(p, "#b-set-content-url", "https://marrowby.example/p/{Number}")
	hasText(t, p, "#x-b-set-content-url", "https://marrowby.example/p/MB-0998")
	taken, tables := 0, 0
	for button, ending := range map[string]string{"Make files": ".zip", "A page each": ".pdf", "Table": ".csv"} {
		p.MustElementR(".batch-ships button", button).MustClick()
		until(t, p, button, `(n) => document.querySelectorAll("#batch-state a[download]").length === n`, tables+1)
		name, file := download(t, p, func() { p.MustElement("#batch-state li:first-child a[download]").MustClick() })
		if ending != ".csv" { // which nobody prints
			taken++
			until(t, p, "it among what was handed over", `(n) => document.querySelectorAll("#batch-taken a[download]").length === n`, taken)
		} else {
			tables++
		}
		until(t, p, "it no more among what was made", `(n) => document.querySelectorAll("#batch-state a[download]").length === n`, tables)
		if !strings.HasSuffix(name, ending) || len(file) == 0 {
			t.Errorf("%s: %s", button, name)
		}
		if ending == ".zip" {
			z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
			if err != nil {
				t.Fatal(err)
			}
			var names []string
			for _, f := range z.File {
				names = append(names, f.Name)
			}
			if !slices.Equal(names, []string{"mb-0998.svg", "mb-0999.svg", "mb-1000.svg", "mb-1001.svg", "rows.csv"}) {
				t.Error(names)
			}
		}
	}
	p.MustElementR("nav a", "Pictures").MustClick()
	until(t, p, "four pictures", `() => document.querySelectorAll(".batch-pictures .symbol").length === 4`)
	p.MustElementR(".batch-tabs a", "Sheet").MustClick()
	until(t, p, "the sheet", `() => !!document.querySelector(".sheet-page")`)
	p.MustElementR(".batch-tabs a", "Rows").MustClick()
	until(t, p, "rows", `() => document.querySelectorAll(".batch-rows tbody tr").length === 4`)
	wait = nextPage(t, p)
	p.MustElementR(".batch-rows button", "To a desk").MustClick()
	wait()
	until(t, p, "its desk", `() => document.querySelector("#f-content-url")?.value === "https://marrowby.example/p/MB-0998"`)
	// afterwards the rest opens as before
	p.MustNavigate(a.url + "/codes").MustWaitLoad()
	until(t, p, "all batches", `() => { document.getElementById("more-batches").open = true;
		return document.querySelector("#more-batches .ledger-batches").checkVisibility(); }`)
	hasText(t, p, "#ledger", "By workbook")
	p.MustElementR(".ledger-batches li", "By cards").MustElement("summary").MustEval(`() => this.click()`)
	hasText(t, p, "#ledger", "Ada")
	p.MustNavigate(a.url + a.demoCode(t, "gate poster")).MustWaitLoad()
	hasText(t, p, ".ticket", "Says")
}

// TestBatchAgain takes the same table in again, changed.
func TestBatchAgain(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/batches/new")
	p.MustElement("#rows-text").MustInput("SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\n")
	fill(p, "#batch-name", "Taken in again")
	wait := nextPage(t, p)
	p.MustElement(".batch-new button.main").MustClick()
	wait()
	p.MustElementR("summary", "Rows again").MustClick()
	p.MustElement(".batch-again textarea").
		MustInput("SKU;Link\nMB-2;https://marrowby.example/22\nMB-3;https://marrowby.example/3\n")
	p.MustElementR("button", "Update").MustClick()
	hasText(t, p, ".acted", "1 new, 1 changed, 0 as before; 1 row no longer there, and left alone: MB-1")
	hasText(t, p, "#batch-state", "3 rows")
	p.MustElementR("button", "Lead through short links").MustClick()
	hasText(t, p, "#batch-state", "3 of 3 have short links")
	madeBatch(t, p)
	hasText(t, p, ".batch-rows", "GO.MARROWBY")
	p.MustElementR(".batch-ships button", "Make files").MustClick()
	until(t, p, "the files", `() => !!document.querySelector(".batch-runs a[download]")`)
	download(t, p, func() { p.MustElement(`.batch-runs a[download]`).MustClick() })
	hasText(t, p, "#batch-taken", "handed over")
	p.MustElementR("#batch-taken summary", "Say that it is in print").MustClick()
	fill(p, "#batch-taken input[name=printer]", "Okafor Print")
	fill(p, "#batch-taken input[name=quantity]", "some")
	p.MustElementR("#batch-taken button", "It is in print").MustClick()
	hasText(t, p, "#batch-taken", "Is no day; write it such as 2 March 2027")
	hasText(t, p, "#batch-taken", "Is no number of pieces")
	p.MustElement("#batch-taken input[type=date]").MustInputTime(time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC))
	fill(p, "#batch-taken input[name=quantity]", "2,000")
	p.MustElementR("#batch-taken button", "It is in print").MustClick()
	hasText(t, p, "#batch-taken", "in print since 2 March 2026, Okafor Print, 2,000 pieces")
	out := a.page(t, "/out")
	row := out.MustElementR("tr", "Taken in again").MustText()
	for _, w := range []string{"3 labels", "2 Mar 2026, Okafor Print, 2,000 prints", "On each label a short link of its own: {Link}"} {
		if !strings.Contains(row, w) {
			t.Errorf("what is out there lacks %q: %q", w, row)
		}
	}
	enter(p, `[aria-label="Address of row 1"]`, "https://marrowby.example/one")
	hasText(t, p, "#batch-state", "1 changed destination")
	p.MustElementR("button", "Make it live").MustClick()
	hasText(t, p, ".acted", "1 destination made live")
	var guides bytes.Buffer
	z := zip.NewWriter(&guides)
	for _, name := range []string{"MB-1.pdf", "MB-2.pdf", "MB-9.pdf"} {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprintf(w, "%%PDF-1.7\n%s", name)
	}
	z.Close()
	file := filepath.Join(t.TempDir(), "guides.zip")
	if err := os.WriteFile(file, guides.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	p.MustElementR("summary", "Files to open").MustClick()
	p.MustElement("#opens-file").MustSetFiles(file)
	p.MustElementR("button", "Add the files").MustClick()
	hasText(t, p, ".acted", "2 rows of the column SKU open a file of their own; not in the zip: MB-3; named by no row: MB-9.pdf")
}

// TestBatchOfProducts: products are rows, be they those that codes say or numbers that were found sound.
func TestBatchOfProducts(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/batches/new")
	p.MustElement("#rows-products").MustClick()
	fill(p, "#batch-name", "Every product")
	wait := nextPage(t, p)
	p.MustElement(".batch-new button.main").MustClick()
	wait()
	madeBatch(t, p)
	until(t, p, "product links by their GTIN and name", `() => document.querySelector("#b-kind").value === "gs1link" &&
		document.querySelector("#b-set-content-gtin").value === "{GTIN}" && document.querySelector("#b-set-name").value.startsWith("{Name}")`)
	holds := func(text string) {
		t.Helper()
		until(t, p, "a cell with "+text, `(s) => [...document.querySelectorAll(".batch-cell")].some((c) => c.value === s)`, text)
	}
	holds("09521234500018")
	p = a.page(t, "/identifiers")
	fill(p, "#identifiers-text", "9521234500018\n9521234500019\n952123450002 5\n(01)09521234500032(10)A1\n09521234500018")
	hasText(t, p, "#judged", "Make a batch of the 2 products")
	wait = nextPage(t, p)
	p.MustElementR("#judged button", "Make a batch of the 2 products").MustClick()
	wait()
	madeBatch(t, p)
	hasText(t, p, "#batch-state", "2 rows")
	holds("09521234500025")
}
