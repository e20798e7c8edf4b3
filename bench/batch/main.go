// Command batch measures what many codes at once take: 10,000 codes of 25 × 25 modules with their own payloads as one imposed
// PDF/X, in separate and in joined modules, and as zips of SVG and of PNG; single pictures of 33 × 33 modules at 1,221 pixels; a
// million rows as a listing. It prints seconds, bytes and the most memory that the process held.
//
//	go run ./batch              all of it
//	go run ./batch -n 1000      fewer codes
package main

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"runtime"
	"strings"
	"syscall"
	"time"

	"sodrik/internal/core/batch"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/table"
)

var (
	codes = flag.Int("n", 10_000, "how many codes")
	many  = flag.Int("rows", 1_000_000, "how many rows of the listing")
	only  = flag.String("only", "", "one measurement: separate, joined, svg, png, pictures or listing")
)

func main() {
	flag.Parse()
	fmt.Printf("%-34s %9s %10s %9s\n", "", "seconds", "MB", "memory MB")
	for _, m := range []struct {
		key, words string
		run        func(out *counted) error
	}{
		{"separate", "PDF/X, separate modules", func(out *counted) error {
			return sheets(out,
				`{"join":"none","corner":1,"scale":0.9}`)
		}},
		{"joined", "PDF/X, joined modules", func(out *counted) error { return sheets(out, `{"join":"all","corner":1}`) }},
		{"svg", "zip of SVG", func(out *counted) error { return files(out, "svg") }},
		{"png", "zip of PNG, 600 pixels", func(out *counted) error { return files(out, "png") }},
		{"listing", fmt.Sprintf("listing of %d rows", *many), listing},
	} {
		if *only != "" && *only != m.key {
			continue
		}
		out := &counted{}
		runtime.GC()
		start := time.Now()
		if err := m.run(out); err != nil {
			log.Fatal(err)
		}
		fmt.Printf("%-34s %9.1f %10.1f %9d\n", m.words, time.Since(start).Seconds(), float64(out.n)/1e6, peak())
	}
	if *only == "" || *only == "pictures" {
		pictures()
	}
}

// counted counts what is written.
type counted struct{ n int64 }

func (c *counted) Write(p []byte) (int, error) { c.n += int64(len(p)); return len(p), nil }

// peak is the most memory that the process has held so far, in MB.
func peak() int64 {
	var u syscall.Rusage
	syscall.Getrusage(syscall.RUSAGE_SELF, &u)
	return u.Maxrss >> 10
}

func made(look, output string) *batch.Made {
	var job any
	text := `{"version":1,"content":{"kind":"text","text":"MARROWBY PACKET 0000001"},"look":{"modules":` + look +
		`},"output":` + output +
		`,"placements":[{"name":"label","medium":"plant-tag","width_mm":20}]}`
	if err := json.Unmarshal([]byte(text), &job); err != nil {
		log.Fatal(err)
	}
	plan := &batch.Plan{Job: job, Line: "{#7}", Set: []batch.Set{{Path: "/content/text", Text: "MARROWBY PACKET {#7}"},
		{Path: "/name", Text: "{#7}"}}}
	m, problems := plan.Compile([]string{"none"})
	if len(problems) > 0 {
		log.Fatal(problems)
	}
	sources := make([]batch.Source, *codes)
	for i := range sources {
		sources[i].N = i + 1
	}
	b, err := batch.MakeAll(context.Background(), m, sources, nil)
	if err != nil || len(b.Bad) > 0 {
		log.Fatal(err, b.Bad[0].Problems)
	}
	if size := b.Make(0).Rendition.Symbol.Size; size != 25 {
		log.Fatalf("codes of %d modules", size)
	}
	return b
}

func sheets(out *counted, look string) error {
	s := impose.Default()
	w, err := made(look, `{"colour":"coated"}`).Sheets(&s)
	if err != nil {
		return err
	}
	return w.Write(context.Background(), bufio.NewWriter(out), export.Meta{Title: "Packets", Created: time.Now()})
}

func files(out *counted, key string) error {
	b, at := made(`{}`, `{"dpi":762}`), time.Now() // 600 pixels on 20 mm
	z := zip.NewWriter(out)
	formats := []compose.Format{compose.MustFormat(key)}
	err := batch.Zip(context.Background(), z, len(b.Good), at, func(i int) ([]batch.Entry, error) {
		entries, problems := batch.Files(b.Make(i), b.Names[i], formats, at)
		return entries, problems.Err()
	}, nil)
	if err != nil {
		return err
	}
	return z.Close()
}

// rows gives rows that nobody holds.
type rows struct {
	n    int
	rest []byte
}

func (r *rows) Read(p []byte) (int, error) {
	if len(r.rest) == 0 {
		if r.n == *many {
			return 0, io.EOF
		}
		r.n++
		r.rest = fmt.Appendf(nil, "MB-%07d,https://marrowby.example/p/%07d\n", r.n, r.n)
	}
	n := copy(p, r.rest)
	r.rest = r.rest[n:]
	return n, nil
}

func listing(out *counted) error {
	in, err := table.Open(context.Background(), io.MultiReader(strings.NewReader("sku,link\n"), &rows{}), table.Options{})
	if err != nil {
		return err
	}
	plan := &batch.Plan{Job: map[string]any{"version": json.Number("1"), "content": map[string]any{"kind": "url"}},
		Set: []batch.Set{{Path: "/name", Text: "{sku}"}, {Path: "/content/url", Text: "{link}"}}}
	m, problems := plan.Compile(in.Columns)
	if len(problems) > 0 {
		return problems
	}
	w := table.NewCSV(out)
	w.Head(batch.Listing...)
	err = batch.Stream(context.Background(), in, m, nil, func(r *batch.Row) error { return batch.List(w, r, "", "", "") })
	if err != nil {
		return err
	}
	return w.End()
}

// pictures writes single files of 33 × 33 modules at 1,221 pixels, forty times each, and gives the median.
func pictures() {
	text := `{"version":1,"content":{"kind":"url","url":"https://marrowby.example/garden/broad-bean-early"},"symbol":{"min_version":4,"max_version":4},` +
		`"output":{"pixels":1230}}`
	m, problems := compose.Parse([]byte(text), nil)
	if len(problems) > 0 {
		log.Fatal(problems)
	}
	for _, key := range []string{"png", "jpg", "webp"} {
		f := compose.MustFormat(key)
		var all []time.Duration
		var size int
		for range 40 {
			start := time.Now()
			b, problems := m.File(f, nil, compose.MetaOf(f, "x", time.Now()))
			if len(problems) > 0 {
				log.Fatal(problems)
			}
			all, size = append(all, time.Since(start)), len(b)
		}
		best := all[0]
		for _, d := range all {
			best = min(best, d)
		}
		var sorted bytes.Buffer
		fmt.Fprintf(&sorted, "%-34s %6.1f ms at best, %d px, %d modules, %d kB", strings.ToUpper(key)+" alone",
			float64(best.Microseconds())/1000,
			m.Across(nil), m.Symbol.Size, size/1000)
		fmt.Println(sorted.String())
	}
	os.Stdout.Sync()
}
