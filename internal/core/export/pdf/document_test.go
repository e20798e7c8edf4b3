package pdf

import (
	"image"
	"io"
	"runtime"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/scene"
)

// TestPicturesGo: a page's picture is not kept once it is written, so that a hundred pages of a megabyte each take no hundred
// megabytes.
func TestPicturesGo(t *testing.T) {
	d := NewDocument(io.Discard, export.Meta{})
	held := func() uint64 {
		runtime.GC()
		runtime.GC()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return m.HeapAlloc
	}
	before := held()
	for i := range 100 {
		pixels := image.NewNRGBA(image.Rect(0, 0, 512, 512))
		pixels.Pix[i], pixels.Pix[3] = byte(i+1), 255
		pic := scene.NewPicture(pixels)
		if err := d.Add(&scene.Scene{Width: 20, Height: 20,
			Items: []scene.Item{{Picture: pic, At: scene.At(20.0/512, 0, 0)}}}); err != nil {
			t.Fatal(err)
		}
	}
	after := held()
	if grown := int64(after) - int64(before); grown > 10<<20 {
		t.Errorf("a hundred pages keep %d MB", grown>>20)
	}
	if err := d.Close(); err != nil || len(d.cache.images) != 100 || len(d.cache.bodies) != 0 {
		t.Error(err, len(d.cache.images), len(d.cache.bodies))
	}
}
