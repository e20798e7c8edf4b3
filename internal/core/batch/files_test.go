package batch

import (
	"archive/zip"
	"bytes"
	"crypto/rand"
	"io"
	"testing"
	"time"
)

// TestEntry: text is packed where that makes it smaller; pictures, and what does not become smaller, go in as they are. Another
// reader of ZIP files gets the same bytes.
func TestEntry(t *testing.T) {
	long := bytes.Repeat([]byte("<path d=\"M0 0h9v9\"/>"), 50)
	noise := make([]byte, 500)
	rand.Read(noise)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, c := range []struct {
		name string
		data []byte
		how  uint16
	}{{"a.svg", long, zip.Deflate}, {"b.pdf", long, zip.Deflate}, {"c.png", long, zip.Store}, {"d.jpg", long, zip.Store},
		{"e.webp", long, zip.Store}, {"f.svg", noise, zip.Store}, {"g.svg", nil, zip.Store}, {"h", long, zip.Deflate}} {
		t.Run(c.name, func(t *testing.T) {
			e := EntryOf(c.name, c.data)
			if e.How != c.how || e.Size != uint64(len(c.data)) || (len(e.Zip) < len(c.data)) != (c.how == zip.Deflate) {
				t.Errorf("%s: %d, %d of %d bytes", c.name, e.How, len(e.Zip), e.Size)
			}
			if err := e.Put(z, time.Now()); err != nil {
				t.Fatal(err)
			}
		})
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	r, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range r.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		got, err := io.ReadAll(in)
		want := long
		if f.Name == "f.svg" {
			want = noise
		} else if f.Name == "g.svg" {
			want = nil
		}
		if err != nil || !bytes.Equal(got, want) {
			t.Errorf("%s: %d bytes, %v", f.Name, len(got), err)
		}
	}
}
