package style

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/typeface"
)

// A kit is a house style as one file: a zip with house-style.json, which Read reads, the drawings it names, under marks/, and
// the typefaces that came in, under typefaces/. In the kit the source of each is the name of its file.
const (
	kitJSON = "house-style.json"
	kitArt  = "marks/"
	kitFace = "typefaces/"
)

// Bounds of a kit.
const (
	MaxKit   = 20 << 20 // packed, and all that is in it unpacked
	maxFiles = 120
	maxEntry = 10 << 20
)

// Pack makes a kit. art gives an upload by its source.
func Pack(s *Style, art func(source string) ([]byte, bool)) ([]byte, error) {
	text, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	v, err := fields.Decode(text)
	if err != nil {
		return nil, err
	}
	files := map[string][]byte{}
	v = sources(v, func(source string) string {
		data, ok := art(source)
		digest, isAsset := strings.CutPrefix(source, "asset:sha256-")
		if !ok || !isAsset {
			return source
		}
		folder, ending := kitArt, ".png"
		switch {
		case bytes.HasPrefix(data, []byte("<")):
			ending = ".svg"
		case bytes.HasPrefix(data, []byte("OTTO")):
			folder, ending = kitFace, ".otf"
		case typeface.Is(data):
			folder, ending = kitFace, ".ttf"
		}
		name := folder + digest[:min(len(digest), 16)] + ending
		files[name] = data
		return name
	})
	if text, err = json.MarshalIndent(v, "", "  "); err != nil {
		return nil, err
	}
	files[kitJSON] = append(text, '\n')
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	names := []string{kitJSON}
	for name := range files {
		if name != kitJSON {
			names = append(names, name)
		}
	}
	slices.Sort(names[1:])
	for _, name := range names {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		if err == nil {
			_, err = w.Write(files[name])
		}
		if err != nil {
			return nil, err
		}
	}
	err = z.Close()
	return out.Bytes(), err
}

// sources gives decoded JSON with the source of every drawing and typeface changed.
func sources(v any, to func(string) string) any {
	switch v := v.(type) {
	case map[string]any:
		out := make(map[string]any, len(v))
		for k, x := range v {
			if s, is := x.(string); is && (k == "source" || k == "font") {
				out[k] = to(s)
			} else {
				out[k] = sources(x, to)
			}
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i, x := range v {
			out[i] = sources(x, to)
		}
		return out
	}
	return v
}

// Unpack opens a kit. take keeps a drawing or a typeface and gives the source under which it is found; what it refuses is a
// problem of the kit.
func Unpack(data []byte, take func(name string, data []byte) (source string, err error)) (*Style, problem.List) {
	var problems problem.List
	files, err := unzip(data)
	if err != nil {
		problems.Add("/file", "style.kit", "%v", err)
		return nil, problems
	}
	text, ok := files[kitJSON]
	if !ok {
		problems.Add("/file", "style.kit", "holds no %s; take a zip that was downloaded from a house style", kitJSON)
		return nil, problems
	}
	v, err := fields.Decode(text)
	if err != nil {
		problems.Add("/file", "style.kit", "holds a %s that is not JSON: %v", kitJSON, err)
		return nil, problems
	}
	if _, is := v.(map[string]any); !is {
		problems.Add("/file", "style.kit", "holds a %s that is no house style; nothing was taken of it", kitJSON)
		return nil, problems
	}
	kept := map[string]string{}
	v = sources(v, func(source string) string {
		if !strings.HasPrefix(source, kitArt) && !strings.HasPrefix(source, kitFace) {
			return source
		}
		if to, ok := kept[source]; ok {
			return to
		}
		data, ok := files[source]
		if !ok {
			problems.Add("/file", "style.kit", "names the file %.60q, which it does not hold", source)
			return source
		}
		to, err := take(path.Base(source), data)
		if err != nil {
			problems.Add("/file", "style.kit", "holds the file %.60q, which cannot be taken: it %v", source, err)
			return source
		}
		kept[source] = to
		return to
	})
	if len(problems) > 0 {
		return nil, problems
	}
	s := Read(fields.Open(v, "/file", &problems))
	return s, problems
}

var errKit = errors.New("is no zip that can be read")

// unzip reads the files of a zip, within bounds whatever its headers say.
func unzip(data []byte) (map[string][]byte, error) {
	if len(data) > MaxKit {
		return nil, fmt.Errorf("is larger than %d MB", MaxKit>>20)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, errKit
	}
	if len(z.File) > maxFiles {
		return nil, fmt.Errorf("holds %d files; a house style has %d at most", len(z.File), maxFiles)
	}
	out, left := map[string][]byte{}, int64(MaxKit)
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		if path.Clean("/"+f.Name) != "/"+f.Name || strings.Contains(f.Name, `\`) {
			return nil, fmt.Errorf("holds a file called %.60q, which points out of it", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return nil, errKit
		}
		b, err := io.ReadAll(io.LimitReader(r, min(left, maxEntry)+1))
		r.Close()
		switch {
		case int64(len(b)) > min(left, maxEntry):
			return nil, fmt.Errorf("unpacks to more than is taken: %d MB a file, %d MB in all", maxEntry>>20, MaxKit>>20)
		case err != nil:
			return nil, errKit
		}
		left -= int64(len(b))
		out[f.Name] = b
	}
	return out, nil
}
