// Package assets holds what pages are made of: styles, scripts, fonts. dist is built from src by ./build and committed.
package assets

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"mime"
	"path"
	"strings"
	"sync"
)

//go:embed dist
var dist embed.FS

// File is one file as it is served.
type File struct {
	Name, Kind string
	Digest     string // of its bytes, the first 16 hexadecimal digits of SHA-256
	Data       []byte
	Packed     func() []byte // with gzip, nil where that saves nothing; done when it is first asked for
}

// Files are all files, by name.
var Files = sync.OnceValue(func() map[string]*File {
	out := map[string]*File{}
	err := fs.WalkDir(dist, "dist", func(at string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := dist.ReadFile(at)
		sum := sha256.Sum256(data)
		if err != nil {
			return err
		}
		f := &File{Name: strings.TrimPrefix(at, "dist/"), Kind: mime.TypeByExtension(path.Ext(at)),
			Digest: hex.EncodeToString(sum[:8]), Data: data}
		if path.Ext(at) == ".woff2" { // compressed in itself
			f.Kind, f.Packed = "font/woff2", func() []byte { return nil }
		} else {
			f.Packed = sync.OnceValue(func() []byte { return packed(data) })
		}
		out[f.Name] = f
		return nil
	})
	if err != nil {
		panic(err) // they are part of the program
	}
	return out
})

func packed(data []byte) []byte {
	var b bytes.Buffer
	w, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
	w.Write(data)
	w.Close()
	if b.Len() >= len(data) {
		return nil
	}
	return b.Bytes()
}

// URL is where a file is served for ever: under it no other file will ever stand. It panics where there is no such file.
func URL(name string) string { return "/static/" + name + "?v=" + Files()[name].Digest }
