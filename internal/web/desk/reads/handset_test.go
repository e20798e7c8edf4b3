package reads

import (
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

// shownBy proves a job, with the pixels between symbol and handset changed, and gives what the handset shows.
func shownBy(t *testing.T, job string, change func(in *proof.Input)) Handset {
	t.Helper()
	m, problems := compose.Parse([]byte(job), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	in, err := m.Proof(min(0, len(m.Job.Placements)-1))
	if err != nil {
		t.Fatal(err)
	}
	change(&in)
	p, err := proof.Prove(t.Context(), in, readers.Panel(), proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	return handsetOf(m.For(in.Placement), p)
}

// TestHandset: what a phone would offer, from the pixels.
func TestHandset(t *testing.T) {
	for job, want := range map[string][]string{
		`{"kind":"url","url":"marrowby.example/fair?a=b"}`: {
			"Opens in the browser", "marrowby.example", "/fair", "a=b"},
		`{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow;thin;water"}`: {
			"Joins this network", "Barn", "", "WPA"},
		`{"kind":"contact","given":"Tamsin","family":"Ashdown","phones":[{"type":"mobile","number":"+441134960124"}]}`: {
			"Saves this contact", "Tamsin Ashdown", "", "mobile +44 113 496 0124"},
		`{"kind":"phone","number":"+441134960100"}`: {
			"Calls this number", "+44 113 496 0100", "", ""},
		`{"kind":"sms","number":"+441134960123","body":"When?"}`: {
			"Writes a message, not sent yet, to", "+44 113 496 0123", "", "When?"},
		`{"kind":"email","to":["orders@marrowby.example"],"subject":"Bulbs"}`: {
			"Writes an e-mail, not sent yet, to", "orders@marrowby.example", "", "Subject: Bulbs"},
		`{"kind":"event","title":"Fair","start":"2027-07-20T10:00","timezone":"Europe/London"}`: {
			"Adds to the calendar", "Fair", "", "Tue 20 July 2027, 10:00, London"},
		`{"kind":"place","lat":52.0871,"lon":-1.9432}`: {
			"Opens a map at", "52.0871, -1.9432", "", "N"},
		`{"kind":"sepa","name":"Marrowby Seed House","iban":"DE37999999990123456789","amount":"1249.50"}`: {
			"Fills in a transfer, not signed yet, to", "Marrowby Seed House", "",
			"EUR 1\u2009249.50\nDE37 9999 9999 0123 4567 89"},
		`{"kind":"swiss","iban":"CH8599999000012345678","creditor":{"name":"Marrowby Samen AG","postcode":"8000","city":"Zürich","country":"CH"},"amount":"19.75","currency":"CHF"}`: {"Fills in a payment, not signed yet, to", "Marrowby Samen AG", "", "CHF 19.75\nCH85 9999 9000 0123 4567 8"},
		`{"kind":"emv","accounts":[{"id":"26","guid":"com.examplebank.pay"}],"mcc":"5261","currency":"SGD","country":"SG","merchant":"Marrowby","city":"Singapore","amount":"5"}`:    {"Pays in a payment app, once confirmed, to", "Marrowby", "", "SGD 5.00"},
		`{"kind":"bitcoin","address":"1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2","amount":"0.5"}`:                                                                                           {"Fills in a payment, not signed yet, to", "1BvBMSEYstWetqTFn…", "", "0.5 BTC\n1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2"},
		`{"kind":"gs1link","domain":"id.marrowby.example","gtin":"9521234500018","lot":"A1209"}`:                                                                                     {"Opens in the browser", "id.marrowby.example", "/01/09521234500018/10/A1209", "(10) BATCH/LOT A1209"},
		`{"kind":"text","text":"javascript:alert(1)"}`: {"Shows this text", "", "javascript:alert(1)", ""},
	} {
		t.Run(job, func(t *testing.T) {
			h := shownBy(t, `{"content":`+job+`}`, func(*proof.Input) {})
			if !h.Decoded || h.Wrong || h.Offer.Action != want[0] || h.Offer.Strong != want[1] || h.Offer.Rest != want[2] ||
				!strings.Contains(strings.Join(h.Offer.Lines, "\n"), want[3]) {
				t.Errorf("%s: %+v", job, h)
			}
		})
	}
	h := shownBy(
		t,
		`{"content":{"kind":"sms","number":"+441134960123","body":"When?"},"placements":[{"name":"gate","width_mm":60,"keyword":"GATE"}]}`,
		func(*proof.Input) {},
	)
	if strings.Join(h.Offer.Lines, "") != "GATE When?" {
		t.Errorf("the keyword of the place is not in %+v", h)
	}
}

// TestHandsetKnowsNothingElse: with the pixels damaged the phone shows nothing, however sound the job is; with the pixels of
// another code it shows that one.
func TestHandsetKnowsNothingElse(t *testing.T) {
	const job = `{"content":{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow;thin;water"}}`
	h := shownBy(t, job, func(in *proof.Input) {
		b := in.File.Bounds()
		for y := b.Dy() / 4; y < b.Dy()*3/4; y++ {
			for x := b.Dx() / 5; x < b.Dx()*4/5; x++ {
				in.File.Pix[y*in.File.Stride+x] = 255
			}
		}
	})
	if h.Decoded || h.Offer.Strong != "" || h.Silent == "" {
		t.Errorf("from damaged pixels it shows %+v", h)
	}
	other, problems := compose.Parse([]byte(`{"content":{"kind":"url","url":"https://evil.example"}}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	h = shownBy(t, job, func(in *proof.Input) {
		o, err := other.Proof(-1)
		if err != nil {
			t.Fatal(err)
		}
		in.File = o.File
	})
	if !h.Decoded || !h.Wrong || h.Offer.Strong != "evil.example" {
		t.Errorf("from the pixels of another code it shows %+v", h)
	}
}
