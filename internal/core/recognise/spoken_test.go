package recognise

import (
	"strings"
	"testing"
)

// TestWritten: what people write is taken for no more than it says. "" is plain text; of a date, when it begins and ends.
func TestWritten(t *testing.T) {
	for text, want := range map[string]string{
		"Lantern walk, 12 March 2027, 20:00–01:00": "event 2027-03-12T20:00 2027-03-13T01:00", // past midnight
		"Market, 12 March 2027, 1–4pm":             "event 2027-03-12T13:00 2027-03-12T16:00",
		"Market, 12 March 2027, 11am–4pm":          "event 2027-03-12T11:00 2027-03-12T16:00",
		"Market, 12 March 2027, 12am":              "event 2027-03-12T00:00",
		"Market, 12 March 2027, 10–12 kg":          "event 2027-03-12", // no hours
		"Market, 12 March 2027, 25:00":             "event 2027-03-12",
		"Market, 12 March 2027, 16.00 Uhr":         "event 2027-03-12T16:00",
		"Founded, 1 January 2000":                  "event 2000-01-01",
		"Founded, 31 December 1999":                "", // history
		"Market, 30 February 2027":                 "",
		// holds, and takes place nowhere
		"20 % off until 30 April 2027":                                                          "",
		"Code SPRING20 gilt bis 30. April 2027":                                                 "",
		"Offre valable jusqu'au 30 avril 2027":                                                  "",
		"12 March 2027":                                                                         "",
		"From the fair of 1 May 2027 to the walk of 2 May 2027":                                 "",
		"Fair, 12 March 2027, " + strings.Repeat("x", 400-len("Fair, 12 March 2027, ")):         "event 2027-03-12",
		"Fair, 12 March 2027, " + strings.Repeat("x", 401-len("Fair, 12 March 2027, ")):         "",
		"one two three four five https://marrowby.example/a":                                    "url",
		"one two three four five six https://marrowby.example/a":                                "",
		"Red: Tulip\nCode: 4471":                                                                "", // a colour
		"Rete: Serra\nPassword: acqua2027":                                                      "wifi",
		"Text SOW to 7":                                                                         "", // no number
		"Send a card to 1 Orchard Lane":                                                         "",
		"Label 0113 496 0100":                                                                   "", // bel is Dutch for call
		"EAN 9521234500019":                                                                     "gs1link",
		"SKU\tName\tLink\nMB-1\tTulip\tmarrowby.example/1\nMB-2\tIris\tmarrowby.example/2":      "",
		"MB-1;Tulip;marrowby.example/1\nMB-2;Iris;marrowby.example/2":                           "",
		"See marrowby.example/a and marrowby.example/b":                                         "",
		"Tulip: marrowby.example/a\nIris: marrowby.example/b":                                   "url",
		"Tulip: marrowby.example/a\nIris and many others that we grew here: marrowby.example/b": "",
		"Payee: Marrowby\nIBAN: DE37 9999 9999 0123 4567 89\nAmount: 1'249":                     "sepa 1249",
		"Payee: Marrowby\nIBAN: DE37 9999 9999 0123 4567 89\nAmount: 12,5 EUR":                  "sepa 12.5",
		"Payee: Marrowby\nIBAN: DE37 9999 9999 0123 4567 89\nAmount: a lot":                     "sepa",
	} {
		t.Run(text, func(t *testing.T) {
			r := Written(text, "GB")[0]
			got := r.Values["kind"].(string)
			for _, key := range []string{"start", "end", "amount"} {
				if v, ok := r.Values[key].(string); ok && !r.Weak {
					got += " " + v
				}
			}
			if r.Weak {
				got = ""
			}
			if got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
}

// TestHeld: what a code or a cell holds is taken literally, however much it reads like a message.
func TestHeld(t *testing.T) {
	for _, text := range []string{"marrowby.example/a marrowby.example/b", "call 0113 496 0100", "Wifi: Shed\nKey: sow;thin",
		"Market, 12 March 2027, 10am"} {
		if list := Text(text, "GB"); len(list) != 1 || !list[0].Weak {
			t.Errorf("%q: %+v", text, list)
		}
	}
}

// TestRows: a list of addresses is named by what stands beside each, else by the end of its path or by its host.
func TestRows(t *testing.T) {
	got := Written("Shop: marrowby.example/shop?a=1\nmarrowby.example/sowing-guide/#top\nmarrowby.example/?q\n"+
		"https://marrowby.example/übersicht/?q=1\n2. www.marrowby.example", "GB")[0].Rows
	want := "Name,Link\nShop,marrowby.example/shop?a=1\nSowing guide,marrowby.example/sowing-guide/#top\n" +
		"marrowby.example,marrowby.example/?q\nÜbersicht,https://marrowby.example/übersicht/?q=1\n" +
		"www.marrowby.example,www.marrowby.example\n"
	if got != want {
		t.Errorf("%s", got)
	}
}
