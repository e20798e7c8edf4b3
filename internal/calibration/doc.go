// Package calibration holds the verdicts of the proof against readings of degraded pictures of the very files that are
// shipped. It has tests only:
//
//	go test ./internal/calibration -v -timeout 6h -codes 2000 -placed 500 -optimised 300
//
// prints the tables of docs/proof.md; without flags a small sample runs. The pictures come from poppler's raster of the PDF
// and from degradations that share no code, no seed and, where there is a choice, no method with core/optics.
package calibration
