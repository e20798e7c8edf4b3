module sodrik

go 1.26.0

require (
	github.com/makiuchi-d/gozxing v0.1.1
	golang.org/x/image v0.47.0
	golang.org/x/net v0.62.0
	golang.org/x/text v0.44.0
)

require (
	golang.org/x/sys v0.49.0 // indirect
	golang.org/x/xerrors v0.0.0-20200804184101-5ec99f83aff1 // indirect
)
