package pdf_test

import (
	"bytes"
	"fmt"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// A hundred labels, each turned a little more than the last. Their outline stands in the file once.
func ExampleDocument() {
	var star scene.Path
	star.MoveTo(10, 0)
	for i := 1; i < 12; i++ {
		p := scene.Turn(30*float64(i), 0, 0).Point(scene.Point{X: 10 - 6*float64(i%2)})
		star.LineTo(p.X, p.Y)
	}
	star.Close()
	var file bytes.Buffer
	d := pdf.NewDocument(&file, export.Meta{Title: "Labels"})
	for i := range 100 {
		label := &scene.Scene{Width: 30, Height: 30,
			Items: []scene.Item{{Path: star, At: scene.At(1, 15, 15).Then(scene.Turn(float64(i), 15, 15)), Fill: ink.Black}}}
		if err := d.Add(label); err != nil {
			fmt.Println(err)
			return
		}
	}
	fmt.Println(d.Close(), bytes.Count(file.Bytes(), []byte("/Type /Page ")), bytes.Count(file.Bytes(), []byte("/Subtype /Form")))
	// Output: <nil> 100 1
}
