package e2e

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/standin"
)

// pasteFile gives a file to the page as a drop does.
func chooseFile(t *testing.T, p *rod.Page, name string, data []byte) {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	p.MustElement("#find-file input").MustSetFiles(file)
}

// openOnDesk takes what stands out of a paste to the desk, by key.
func openOnDesk(t *testing.T, p *rod.Page) {
	t.Helper()
	p.MustElement("#find-text").MustFocus()
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
}

// taken downloads the PNG of the open code and has outside readers read it.
func taken(t *testing.T, p *rod.Page, payload string) {
	t.Helper()
	until(t, p, "the picture settled",
		`() => !document.querySelector("#picture .stale, .htmx-request, .remarks-inner.older") && document.getElementById("age")?.innerText === ""`)
	name, data := download(t, p, func() { takePNG(p) })
	readBack(t, name, data, payload)
}

// crcOf is CRC-16/CCITT-FALSE of a merchant's code, by a table, which the code under test has not.
func crcOf(s string) string {
	crc := uint16(0xFFFF)
	for _, b := range []byte(s) {
		x := byte(crc>>8) ^ b
		x ^= x >> 4
		crc = crc<<8 ^ uint16(x)<<12 ^ uint16(x)<<5 ^ uint16(x)
	}
	return fmt.Sprintf("%04X", crc)
}

// rose is the calendar object of Rose day. Its UID is made of what the date says, so that two scans make one entry.
func rose(when, stamp string) string {
	sum := sha256.Sum256([]byte("Rose day\x00" + stamp + "\x00"))
	return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Sodrik//EN\r\nBEGIN:VEVENT\r\nUID:" + hex.EncodeToString(sum[:6]) +
		"\r\nDTSTAMP:" + stamp + "\r\n" + when + "SUMMARY:Rose day\r\nEND:VEVENT\r\nEND:VCALENDAR"
}

// TestEveryKind walks one journey a kind: from the clipboard to the file, an outside reader, and the handset.
func TestEveryKind(t *testing.T) {
	t.Parallel()
	a := open(t)
	for _, c := range []struct {
		kind, text, took, says, payload string
		handset                         []string
		then                            func(t *testing.T, p *rod.Page) (payload string) // further work on the desk
	}{
		{"url", "marrowby.example/every/kind?utm_source=gate&gclid=7", "A web address", "Opens marrowby.example/every/kind",
			"https://marrowby.example/every/kind?utm_source=gate&gclid=7", []string{"marrowby.example", "gclid=7"},
			func(t *testing.T, p *rod.Page) string {
				p.MustElement("#f-content-purpose").MustSelect("a sign-up form")
				hasText(t, p, "#line-says", "Signs people up at marrowby.example")
				hasText(t, p, ".finding", "every scan would count as that one click")
				p.MustEval(`() => document.activeElement.blur()`)
				p.Keyboard.MustType('s') // the step that saves most
				until(t, p, "the tracking left out",
					`() => document.getElementById("f-content-url").value === "marrowby.example/every/kind"`)
				p.Keyboard.MustType('u')
				until(t, p, "the step undone", `() => document.getElementById("f-content-url").value.includes("gclid")`)
				p.Keyboard.MustType('s')
				until(t, p, "the tracking left out again",
					`() => !document.getElementById("f-content-url").value.includes("gclid")`)
				return "https://marrowby.example/every/kind"
			}},
		{"text", "Thin to 20 cm,\nwater at dusk. 播種 🌱", "Plain text", "Shows Thin to 20 cm, water at dusk. 播種 🌱",
			"Thin to 20 cm,\nwater at dusk. 播種 🌱", []string{"water at dusk. 播種"}, nil},
		{"wifi", `WIFI:S:Glass\;house;T:WPA;P:crocus-12;;`, "Wi-Fi access", "Joins Glass;house",
			`WIFI:T:WPA;S:Glass\;house;P:crocus-12;;`, []string{"Joins this network", "Glass;house"},
			func(t *testing.T, p *rod.Page) string {
				if kind := p.MustElement("#f-content-password").MustProperty("type").Str(); kind != "password" {
					t.Errorf("the password is shown, type %s", kind)
				}
				fill(p, "#f-content-password", "short")
				hasText(t, p, "#e-f-content-password", "phones will not join. WPA passwords have 8 to 63 characters")
				until(t, p, "the sheet keeping its symbol",
					`() => !!document.querySelector("#picture .stale") && !!document.querySelector("#symbol path")`)
				hasText(t, p, "#picture .stale", "Put the password right")
				p.MustElement("#f-content-security").MustSelect("nothing, it is open")
				until(t, p, "the password gone",
					`() => !document.getElementById("f-content-password") && !document.querySelector("#picture .stale")`)
				p.MustElement("#f-content-hidden").MustClick()
				hasText(t, p, ".handset", "Hidden network")
				return `WIFI:T:nopass;S:Glass\;house;H:true;;`
			}},
		{"contact", "Wren Okafor\nMarrowby Seed House\nM 0113 496 0126\nwren@marrowby.example",
			"A contact, from the lines of a signature", "Saves Wren Okafor",
			"BEGIN:VCARD\r\nVERSION:3.0\r\nN:Okafor;Wren;;;\r\nFN:Wren Okafor\r\nORG:Marrowby Seed " +
				"House\r\nTEL;TYPE=CELL:+441134960126\r\nEMAIL:wren@marrowby.example\r\nEND:VCARD",
			[]string{"Saves this contact", "Wren Okafor", "+44 113 496 0126"}, func(t *testing.T, p *rod.Page) string {
				hasText(t, p, ".more summary", "+4") // modules that a field would cost
				p.MustElementR(".more summary", "Job title").MustClick()
				fill(p, "#f-content-title", "Trade")
				hasText(t, p, ".handset", "Trade")
				until(t, p, "the field in focus after the form has changed",
					`() => document.activeElement.id === "f-content-title" && document.activeElement.value === "Trade" && !document.activeElement.closest("details")`)
				p.MustEval(`() => document.querySelectorAll("#price details").forEach((d) => { d.open = true; })`)
				p.MustElementR("#price button", "MECARD instead of vCard 3, without job title").MustClick()
				until(t, p, "the job title gone", `() => document.getElementById("f-content-format").value === "mecard"`)
				return "MECARD:N:Okafor,Wren;ORG:Marrowby Seed House;TEL:+441134960126;EMAIL:wren@marrowby.example;;"
			}},
		{"phone", "+44 113 496 0127", "A phone number", "Calls +44 113 496 0127", "tel:+441134960127",
			[]string{"Calls this number", "+44 113 496 0127"}, nil},
		{"sms", "SMSTO:+441134960128:SOW", "A text message", "Texts +44 113 496 0128", "SMSTO:+441134960128:SOW",
			[]string{"not sent yet", "SOW"}, func(t *testing.T, p *rod.Page) string {
				p.MustElement("[data-stub=sits]").MustClick()
				wait := nextPage(t, p)
				p.MustElementR("button", "Put it there").MustClick()
				wait()
				fill(p, "#f-placements-0-keyword", "GATE")
				hasText(t, p, ".handset", "GATE SOW")
				_, data := download(t, p, func() {
					p.MustElement("[data-stub=ships]").MustClick()
					takeFile(p, "SVG")
				})
				readBack(t, "x.svg", data, "SMSTO:+441134960128:GATE SOW")
				return "SMSTO:+441134960128:SOW" // without the place
			}},
		{"email", "mailto:orders@marrowby.example?subject=Bulbs%20%26%20more", "An e-mail", "Writes to orders@marrowby.example",
			"mailto:orders@marrowby.example?subject=Bulbs%20%26%20more", []string{"not sent yet", "Subject: Bulbs & more"},
			func(t *testing.T, p *rod.Page) string {
				fill(p, "#f-content-to-0", "orders")
				hasText(t, p, "#e-f-content-to-0", "write an e-mail address, such as orders@marrowby.example")
				fill(p, "#f-content-to-0", "trade@marrowby.example")
				hasText(t, p, ".handset", "trade@marrowby.example")
				return "mailto:trade@marrowby.example?subject=Bulbs%20%26%20more"
			}},
		{"event",
			"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nDTSTART;TZID=Europe/London:20270717T100000\r\nSUMMARY:Rose " +
				"day\r\nEND:VEVENT\r\nEND:VCALENDAR", "A calendar entry", "Adds Rose day, 17 July 2027",
			rose("DTSTART:20270717T090000Z\r\n", "20270717T090000Z"),
			[]string{"Adds to the calendar", "Rose day", "Sat 17 July 2027, 10:00, London"},
			func(t *testing.T, p *rod.Page) string {
				fill(p, "#f-content-end", "17 July 2027 4pm")
				hasText(t, p, "#h-f-content-end", "Sat 17 July 2027, 16:00")
				hasText(t, p, ".handset", "10:00 to 16:00")
				fill(p, "#f-content-start", "28 March 2027, 01:30")
				hasText(t, p, "#e-f-content-start", "a time that the clocks in London skip that night")
				fill(p, "#f-content-start", "17 July 2027, 10:00")
				p.MustElement("#f-content-all_day").MustClick()
				hasText(t, p, ".handset", "Sat 17 July 2027, all day")
				return rose("DTSTART;VALUE=DATE:20270717\r\nDTEND;VALUE=DATE:20270718\r\n", "20270717T000000Z")
			}},
		{"emv", "00020101021126370019com.examplebank.pay0110MARROWBY275204526153037025802SG5914Marrowby Seeds6009Singapore6304",
			"", "Pays SGD, an amount to be typed, to Marrowby Seeds", "",
			[]string{"Pays in a payment app, once confirmed, to", "Marrowby Seeds", "Singapore"},
			func(t *testing.T, p *rod.Page) string {
				fill(p, "#f-content-amount", "5,50")
				hasText(t, p, ".handset", "SGD 5.50")
				p.MustElementR(".more summary", "A tip").MustClick()
				p.MustElement("#f-content-tip-kind").MustSelect("asked for")
				hasText(t, p, ".handset", "Asks for a tip")
				fill(p, "#f-content-merchant", strings.Repeat("m", 26))
				hasText(t, p, "#e-f-content-merchant", "has room for 25")
				fill(p, "#f-content-merchant", "Marrowby Seeds")
				return "00020101021126370019com.examplebank.pay0110MARROWBY2752045261530370254045.505502015802SG5914Marrowby " +
					"Seeds6009Singapore6304" +
					crcOf(
						"00020101021126370019com.examplebank.pay0110MARROWBY2752045261530370254045.505502015802SG5914Marrowby "+
							"Seeds6009Singapore6304")
			}},
		{"upi", "upi://pay?pa=marrowby@examplebank&pn=Marrowby&cu=INR", "A payment in rupees",
			"Pays an amount to be typed to Marrowby", "upi://pay?pa=marrowby@examplebank&pn=Marrowby&cu=INR",
			[]string{"not confirmed yet", "marrowby@examplebank"}, nil},
		{"payto", "payto://iban/DE37999999990123456789?amount=EUR:12.50&receiver-name=Marrowby", "A payment",
			"Pays EUR 12.50 to Marrowby", "payto://iban/DE37999999990123456789?amount=EUR:12.50&receiver-name=Marrowby",
			[]string{"Marrowby", "EUR 12.50"}, nil},
		{"bitcoin", "bitcoin:1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2?amount=0.5&label=Marrowby", "A payment in bitcoin",
			"Pays 0.5 BTC to Marrowby", "bitcoin:1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2?amount=0.5&label=Marrowby",
			[]string{"not signed yet", "0.5 BTC"}, nil},
		{"gs1data", "(02)09521234500018(37)48(00)095212345000000018", "Product data, GS1 element string",
			"Carries CONTENT 09521234500018, COUNT 48", "0209521234500018000952123450000000183748",
			[]string{"0209521234500018"}, nil},
		{"place", "52° 5′ 13.6″ N, 1° 56′ 35.5″ W", "Coordinates", "Points to 52.087111, -1.943194", "geo:52.087111,-1.943194",
			[]string{"Opens a map at", "52.087111, -1.943194"}, func(t *testing.T, p *rod.Page) string {
				fill(p, "#f-content-position", "Evesham")
				p.MustElementR("#towns button", "Evesham").MustClick()
				hasText(t, p, "#line-says", "Points to 52.09")
				p.MustElement(".map canvas").MustFocus()
				before := p.MustElement("#f-content-position").MustProperty("value").Str()
				p.Keyboard.MustType(input.ArrowUp)
				until(t, p, "the point moved north",
					`(before) => { const [a] = before.split(","), [b] = document.getElementById("f-content-position").value.split(","); return +b > +a; }`, before)
				fill(p, "#f-content-position", "52.0871, -1.9432")
				hasText(t, p, ".handset", "52.0871, -1.9432")
				return "geo:52.0871,-1.9432"
			}},
	} {
		t.Run(c.kind, func(t *testing.T) {
			t.Parallel()
			p := a.page(t, "/account") // it is found on every page
			if c.kind == "emv" {
				c.text += crcOf(c.text)
				c.payload = c.text
				c.took = "A merchant's payment code"
			}
			paste(p, c.text)
			hasText(t, p, "#found .says", c.took)
			hasText(t, p, "#found .says", c.says)
			openOnDesk(t, p)
			hasText(t, p, "#line-says", c.says)
			for _, s := range c.handset {
				hasText(t, p, ".handset", s)
			}
			taken(t, p, c.payload)
			if c.then != nil {
				taken(t, p, c.then(t, p))
			}
		})
	}
}

// TestFilesAndPictures: a file with several contacts offers a choice; a picture of a code is opened, and found to be there
// already.
func TestFilesAndPictures(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	chooseFile(t, p, "reps.vcf",
		[]byte(
			"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Tamsin "+
				"Ashdown\r\nTEL:+441134960124\r\nEND:VCARD\r\nBEGIN:VCARD\r\nVERSION:3.0\r\nFN:Idris "+
				"Penn\r\nTEL:+441134960125\r\nEND:VCARD\r\n"))
	hasText(t, p, "#found .says", "Number 1 of 2 cards. Saves Tamsin Ashdown")
	p.MustElementR("#found .entries button", "Idris Penn").MustClick()
	hasText(t, p, "#found .says", "Number 2 of 2 cards. Saves Idris Penn")
	_, data := download(t, p, func() { p.MustElementR("#found button", "Download PNG").MustClick() })
	payload := "BEGIN:VCARD\r\nVERSION:3.0\r\nN:Penn;Idris;;;\r\nFN:Idris Penn\r\nTEL:+441134960125\r\nEND:VCARD"
	readBack(t, "idris.png", data, payload)
	p.MustElementR("#found button", "Open on the desk").MustClick()
	hasText(t, p, "#line-says", "Saves Idris Penn")

	// The picture, pasted on another page, opens the code that says it.
	if _, err := png.Decode(bytes.NewReader(data)); err != nil {
		t.Fatal(err)
	}
	chooseFile(t, p, "photo.png", data)
	hasText(t, p, "#found .says", "Read from the picture: a vCard. Saves Idris Penn")
	hasText(t, p, "#found", "You have this already: Idris Penn")

	chooseFile(t, p, "words.png", []byte("no picture"))
	hasText(t, p, "#found", "Shows no picture") // a text file, whatever it is called
	chooseFile(t, p, "broken.png", data[:300])
	hasText(t, p, "#found [role=alert]", "The picture is damaged")
}

// TestEmptyHanded: from a sentence to a code, by keys alone, with what was typed kept through errors.
func TestEmptyHanded(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	fill(p, "#find-text", "wi-fi")
	until(t, p, "one outcome", `() => document.querySelectorAll(".outcomes a").length === 1`)
	wait := nextPage(t, p)
	p.MustElement(".outcomes a").MustFocus()
	p.Keyboard.MustType(input.Enter)
	wait()
	p.MustElement("#f-content-ssid").MustFocus()
	p.MustInsertText("Seed library")
	p.Keyboard.MustType(input.Tab, input.Tab)
	p.MustInsertText("short")
	hasText(t, p, "#e-f-content-password", "phones will not join")
	wait = nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	if got := p.MustElement("#f-content-password").MustProperty("value").Str(); got != "short" {
		t.Errorf("the password typed is %q now", got)
	}
	fill(p, "#f-content-password", "snowdrop 7")
	hasText(t, p, "#new-symbol", "Joins Seed library")
	name, data := download(t, p, func() { p.MustElementR("button", "Download PNG").MustClick() })
	if name != "seed-library.png" {
		t.Errorf("saved as %q", name)
	}
	readBack(t, name, data, "WIFI:T:WPA;S:Seed library;P:snowdrop 7;;")
	p.MustElementR("button", "Open on the desk").MustClick()
	hasText(t, p, "#line-says", "Joins Seed library")
	if strings.Contains(p.MustElement("body").MustText(), "snowdrop") {
		t.Error("the password stands on the desk")
	}
}

// TestTagsOfTheCampaign: a second code of a campaign takes the tags of the first by one click.
func TestTagsOfTheCampaign(t *testing.T) {
	t.Parallel()
	a := open(t)
	for _, job := range []string{`{"name":"First","content":{"kind":"url","url":"marrowby.example/1","tags":{"source":"gate","campaign":"tulip-week"}}}`, `{"name":"Second","content":{"kind":"url","url":"marrowby.example/2"}}`} {
		if _, err := a.store.Create(t.Context(), standin.Loader(), made(t, job), "Tulip week"); err != nil {
			t.Fatal(err)
		}
	}
	p := a.page(t, a.demoCode(t, "Second"))
	hasText(t, p, "#tags-of", "Tulip week is tagged gate · tulip-week")
	p.MustElementR("#tags-of button", "Use these tags").MustClick()
	hasText(t, p, "#tags-set", "gate · tulip-week")
	hasText(t, p, ".handset", "utm_campaign=tulip-week")
	until(t, p, "the offer gone", `() => document.getElementById("tags-of").innerText.trim() === ""`)
}

// TestStepsOfTheForm: the ladder stands on the form too; a step and the way back, by keys.
func TestStepsOfTheForm(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/new/contact")
	fill(p, "#f-content-given", "Wren")
	fill(p, "#f-content-family", "Okafor")
	hasText(t, p, "#new-symbol", "Saves Wren Okafor")
	p.MustElementR(".more summary", "Organis").MustClick()
	fill(p, "#f-content-organisation", "Marrowby Seed House")
	until(t, p, "the organisation among the fields",
		`() => document.getElementById("f-content-organisation").value !== "" && !document.getElementById("f-content-organisation").closest("details")`)
	hasText(t, p, "#new-steps [data-step]", "MECARD instead of vCard 3")
	key := func(k input.Key) {
		wait := nextPage(t, p)
		p.MustEval(`() => document.activeElement.blur()`)
		p.Keyboard.MustType(k)
		wait()
	}
	key('s')
	if got := p.MustElement("#f-content-format").MustProperty("value").Str(); got != "mecard" {
		t.Errorf("written as %q after the step", got)
	}
	key('u')
	for path, want := range map[string]string{"format": "vcard3", "given": "Wren", "family": "Okafor"} {
		if got := p.MustElement("#f-content-" + path).MustProperty("value").Str(); got != want {
			t.Errorf("%s is %q after the way back, want %q", path, got, want)
		}
	}
	key('s')
	p.MustElement("#f-content-given").MustFocus() // Enter is for the desk, not for a step
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	taken(t, p, "MECARD:N:Okafor,Wren;ORG:Marrowby Seed House;;")
}
