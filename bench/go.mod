module sodrik/bench

go 1.26.0

require (
	github.com/boombuler/barcode v1.1.0
	github.com/skip2/go-qrcode v0.0.0-20200617195104-da1b6568686e
	rsc.io/qr v0.2.0
	sodrik v0.0.0
)

require golang.org/x/text v0.44.0 // indirect

replace sodrik => ../
