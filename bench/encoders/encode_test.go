package encoders

import "testing"

var sink int

func BenchmarkEncode(b *testing.B) {
	for _, p := range Payloads {
		for _, e := range Encoders {
			b.Run(p.Name+"/"+e.Name, func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					sink += e.Encode(p.Text)
				}
			})
		}
	}
}
