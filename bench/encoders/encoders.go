// Package encoders puts several QR Code encoders behind one function, to be compared on the same payloads at the same level.
package encoders

import (
	"strings"

	"github.com/boombuler/barcode/qr"
	goqrcode "github.com/skip2/go-qrcode"
	rsc "rsc.io/qr"

	"sodrik/internal/core/symbol"
)

// Payloads are the same for every encoder; all at level M, since none of the others raises the level by itself.
var Payloads = []struct{ Name, Text string }{
	{"url24", "https://marrowby.example"},
	{"url62", "https://marrowby.example/fair?utm_source=gate&utm_medium=print"},
	{"contact300", contact},
	{"digits1200", strings.Repeat("952123450001", 100)},
	{"bytes2000", strings.Repeat("Sow thinly in rows, water gently; ", 59)[:2000]},
}

const contact = "BEGIN:VCARD\r\nVERSION:3.0\r\nN:Ashdown;Tamsin;;;\r\nFN:Tamsin Ashdown\r\nORG:Marrowby Seed House\r\n" +
	"TITLE:Trade representative\r\nTEL;TYPE=WORK,VOICE:+441632960101\r\nEMAIL:tamsin@marrowby.example\r\n" +
	"URL:https://marrowby.example/trade\r\nADR;TYPE=WORK:;;Seed Lane 1;Marrowby;;ZZ1 1ZZ;GB\r\nNOTE:Bulbs, seed\r\nEND:VCARD\r\n"

// Encoders make a symbol and give its size in modules, with or without a border; ours comes first.
var Encoders = []struct {
	Name   string
	Encode func(text string) int
}{
	{"sodrik", func(t string) int {
		s, err := symbol.Encode(t, symbol.Options{NoBoost: true})
		if err != nil {
			panic(err)
		}
		return s.Size
	}},
	{"rsc.io/qr", func(t string) int {
		s, err := rsc.Encode(t, rsc.M)
		if err != nil {
			panic(err)
		}
		return s.Size
	}},
	{"skip2", func(t string) int {
		s, err := goqrcode.New(t, goqrcode.Medium)
		if err != nil {
			panic(err)
		}
		return len(s.Bitmap()) // the symbol is only built here
	}},
	{"boombuler", func(t string) int {
		s, err := qr.Encode(t, qr.M, qr.Auto)
		if err != nil {
			s, err = qr.Encode(t, qr.M, qr.Unicode)
		}
		if err != nil {
			panic(err)
		}
		return s.Bounds().Dx()
	}},
}
