package bench

import (
	"strings"
	"testing"

	"github.com/boombuler/barcode/qr"
	goqrcode "github.com/skip2/go-qrcode"
	rsc "rsc.io/qr"

	"sodrik/internal/core/symbol"
)

// payloads are the same for every encoder; all at level M, since none of the others raises the level by itself.
var payloads = []struct{ name, text string }{
	{"url24", "https://marrowby.example"},
	{"url62", "https://marrowby.example/fair?utm_source=gate&utm_medium=print"},
	{"contact300", contact},
	{"digits1200", strings.Repeat("952123450001", 100)},
	{"bytes2000", strings.Repeat("Sow thinly in rows, water gently; ", 59)[:2000]},
}

const contact = "BEGIN:VCARD\r\nVERSION:3.0\r\nN:Ashdown;Tamsin;;;\r\nFN:Tamsin Ashdown\r\nORG:Marrowby Seed House\r\n" +
	"TITLE:Trade representative\r\nTEL;TYPE=WORK,VOICE:+441632960101\r\nEMAIL:tamsin@marrowby.example\r\n" +
	"URL:https://marrowby.example/trade\r\nADR;TYPE=WORK:;;Seed Lane 1;Marrowby;;ZZ1 1ZZ;GB\r\nNOTE:Bulbs, seed\r\nEND:VCARD\r\n"

var sink int

var encoders = []struct {
	name   string
	encode func(text string) int
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

func BenchmarkEncode(b *testing.B) {
	for _, p := range payloads {
		for _, e := range encoders {
			b.Run(p.name+"/"+e.name, func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					sink += e.encode(p.text)
				}
			})
		}
	}
}
