package main

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"time"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

// parse sets up flags that may stand before or after the one argument, which is returned.
func parse(name, argument string, args []string, define func(*flag.FlagSet)) (string, error) {
	f := flag.NewFlagSet("sodrik "+name, flag.ContinueOnError)
	f.SetOutput(os.Stderr)
	if define != nil {
		define(f)
	}
	var rest []string
	for len(args) > 0 {
		if err := f.Parse(args); err != nil {
			if errors.Is(err, flag.ErrHelp) {
				return "", status{exitOK, ""}
			}
			return "", status{exitProblems, ""}
		}
		if args = f.Args(); len(args) > 0 {
			rest, args = append(rest, args[0]), args[1:]
		}
	}
	if len(rest) != 1 {
		return "", status{exitProblems, fmt.Sprintf("sodrik %s takes one %s, not %d", name, argument, len(rest))}
	}
	return rest[0], nil
}

func load(path string, most int64) ([]byte, error) {
	in := io.Reader(os.Stdin)
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			var p *fs.PathError
			if errors.As(err, &p) {
				return nil, status{exitProblems, fmt.Sprintf("%s: cannot be read: %v", path, p.Err)}
			}
			return nil, err
		}
		defer f.Close()
		in = f
	}
	b, err := io.ReadAll(io.LimitReader(in, most+1))
	if err == nil && int64(len(b)) > most {
		err = status{exitProblems, fmt.Sprintf("%s: is larger than %d bytes", path, most)}
	}
	return b, err
}

func loadJob(path string) (*compose.Rendition, error) {
	b, err := load(path, 1<<20)
	if err != nil {
		return nil, err
	}
	if whole, err := inlineArt(path, b); err != nil {
		return nil, err
	} else if whole != nil {
		m, _, problems := compose.Read(whole, nil)
		return m, problems.Err()
	}
	m, problems := compose.Parse(b, nil)
	return m, problems.Err()
}

// inlineArt puts the files that a job names as its mark and its backdrop into the job. It is nil for a job that names none,
// which the job's own rules judge.
func inlineArt(at string, text []byte) (any, error) {
	v, err := fields.Decode(text)
	if err != nil {
		return nil, nil
	}
	changed := false
	paths := []string{"/look/mark/source", "/look/backdrop/source"}
	if list, ok := patch.Get(v, "/placements"); ok {
		places, _ := list.([]any)
		for i := range places {
			paths = append(paths, fmt.Sprintf("/placements/%d/artwork/source", i))
		}
	}
	for _, path := range paths {
		source, ok := patch.Get(v, path)
		file, isText := source.(string)
		if !ok || !isText || file == "" || scheme.MatchString(file) {
			continue
		}
		whole, err := inline(at, path, file)
		if err != nil {
			return nil, err
		}
		if v, _, err = patch.Set(path, whole).Apply(v); err != nil {
			return nil, err
		}
		changed = true
	}
	if !changed {
		return nil, nil
	}
	return v, nil
}

// inline makes a data: address of a file. Paths are taken from the folder of the job file; only the command line knows any.
func inline(at, field, file string) (string, error) {
	if at != "-" && !filepath.IsAbs(file) {
		file = filepath.Join(filepath.Dir(at), file)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		return "", problem.List{{Field: field, Code: "mark.file",
			Message: fmt.Sprintf("cannot be read: %v; it is icon: and a name, a data: address, or the path of a file", err)}}
	}
	if strings.HasPrefix(field, "/placements/") {
		if pdfpage.Is(data) {
			return "", problem.List{{Field: field, Code: "artwork.pdf",
				Message: "is a PDF, which only the server takes in as artwork; give it as SVG or PNG here"}}
		}
		if _, err := artwork.ReadSheet(data); err != nil {
			return "", problem.List{{Field: field, Code: "artwork", Message: err.Error()}}
		}
		return "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(data), nil
	}
	art, err := artwork.Read(data)
	if err != nil {
		return "", problem.List{{Field: field, Code: "mark.data", Message: err.Error()}}
	}
	kind := "image/svg+xml"
	if art.Pixels() {
		kind = "image/png"
	}
	return "data:" + kind + ";base64," + base64.StdEncoding.EncodeToString(art.Normal()), nil
}

// scheme is how sources begin that are no path.
var scheme = regexp.MustCompile(`^(icon|asset|data):`)

func printJSON(v any) error {
	e := json.NewEncoder(os.Stdout)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

func encode(args []string) error {
	path, err := parse("encode", "job file", args, nil)
	if err != nil {
		return err
	}
	m, err := loadJob(path)
	if err != nil {
		return err
	}
	return printJSON(m.Encoded())
}

func draw(args []string) error {
	var out, place, format, slip string
	var whole bool
	path, err := parse("draw", "job file", args, func(f *flag.FlagSet) {
		f.StringVar(&out, "o", "", "`file` to write; - is standard output")
		f.StringVar(&place, "placement", "", "`name` of the placement to draw for; the first if not given")
		f.StringVar(&slip, "slip", "", "`language` of the payment part and receipt of a Swiss QR-bill: de, fr, it or en")
		f.StringVar(&format, "format", "",
			"`format` where the ending of the file does not say it: svg, pdf, png, jpg, webp, svg-current or label; pdfx, eps "+
				"or tif for a press")
		f.BoolVar(&whole, "whole", false, "the whole that the code lies on, with its words, and not the code alone")
	})
	if err != nil {
		return err
	}
	if out == "" {
		return status{exitProblems, "sodrik draw needs -o FILE"}
	}
	if format == "" {
		format = strings.ToLower(strings.TrimPrefix(filepath.Ext(out), "."))
	}
	if format == "jpeg" {
		format = "jpg"
	}
	f := compose.Format{Kind: format}
	if whole {
		f.Of = compose.Whole
	}
	if slip != "" {
		f.Of, f.Language = compose.PaymentPart, slip
	}
	m, err := loadJob(path)
	if err != nil {
		return err
	}
	i, problems := m.Pick(place)
	if len(problems) > 0 {
		return problems
	}
	file, problems := m.File(f, m.Place(i), compose.MetaOf(f, m.Title(i), time.Now()))
	if len(problems) > 0 {
		return problems
	}
	if out == "-" {
		_, err = os.Stdout.Write(file)
		return err
	}
	return os.WriteFile(out, file, 0o644)
}

func prove(args []string) error {
	var place string
	path, err := parse("prove", "job file", args, func(f *flag.FlagSet) {
		f.StringVar(&place, "placement", "", "`name` of the placement to prove for; the first if not given")
	})
	if err != nil {
		return err
	}
	in, err := loadInput(path, place)
	if err != nil {
		return err
	}
	readers.AtOnce(runtime.NumCPU())
	p, err := proof.Prove(context.Background(), in, readers.Panel())
	if err != nil {
		return err
	}
	return printJSON(p)
}

// loadInput reads a job file, and gives what a proof of one of its placements is made from; of the first where place is "".
func loadInput(path, place string) (in proof.Input, err error) {
	m, err := loadJob(path)
	if err != nil {
		return in, err
	}
	i, problems := m.Pick(place)
	if len(problems) > 0 {
		return in, problems
	}
	return m.Proof(i)
}

func read(args []string) error {
	path, err := parse("read", "picture", args, nil)
	if err != nil {
		return err
	}
	b, err := load(path, 64<<20)
	if err != nil {
		return err
	}
	found, err := readers.File(context.Background(), b)
	var list problem.List
	if errors.As(err, &list) {
		return status{exitProblems, path + ": " + list.Error()}
	} else if err != nil {
		return err
	}
	if err := printJSON(found); err != nil {
		return err
	}
	if len(found.Symbols) == 0 {
		return status{exitFailed, ""}
	}
	return nil
}
