package readers

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os/exec"
	"strings"
	"time"

	"sodrik/internal/core/problem"
)

// Bounds of a drawing that is turned into pixels.
const (
	convertTime  = 30 * time.Second
	convertCPU   = 2               // seconds of a processor, of one process
	convertAll   = 2 * time.Second // of a processor, of all pages of a file
	convertSpace = 700 << 20       // bytes of address space, of which far less is memory
	convertPages = 4
	convertSide  = 2400
)

// File reads the symbols of a picture, or of a drawing: an SVG, or the first pages of a PDF, turned into pixels by a program
// of its own process. What cannot be read is a problem that says why.
func File(ctx context.Context, file []byte) (Found, error) {
	head := bytes.TrimLeft(file[:min(len(file), 1024)], "\ufeff \t\r\n")
	switch {
	case bytes.HasPrefix(head, []byte("%PDF-")):
		return pages(ctx, file)
	case bytes.HasPrefix(head, []byte("<")) && bytes.Contains(head, []byte("<svg")):
		png, err := convert(ctx, file, "rsvg-convert", "--format=png", fmt.Sprintf("--width=%d", convertSide/2),
			fmt.Sprintf("--height=%d", convertSide/2), "--keep-aspect-ratio", "--background-color=white")
		if err != nil {
			return Found{Symbols: []FoundSymbol{}}, err
		}
		return Picture(ctx, png)
	}
	return Picture(ctx, file)
}

// pages looks through the first pages of a PDF until one has a symbol.
func pages(ctx context.Context, file []byte) (found Found, err error) {
	var spent time.Duration
	for n := 1; n <= convertPages && spent < convertAll; n++ {
		page := fmt.Sprint(n)
		png, took, err := converted(ctx, file, "pdftoppm", "-f", page, "-l", page, "-singlefile", "-png", "-scale-to",
			fmt.Sprint(convertSide), "-")
		spent += took
		if err != nil && n > 1 {
			return found, nil // there are no more
		}
		if err != nil {
			return found, err
		}
		if found, err = Picture(ctx, png); err != nil || len(found.Symbols) > 0 {
			return found, err
		}
	}
	return found, nil
}

// PDFPage draws a page of a PDF, the whole of its media box, on nothing, and gives the PNG.
func PDFPage(ctx context.Context, file []byte, page int, dpi float64) ([]byte, error) {
	n := fmt.Sprint(page)
	return convert(ctx, file, "pdftocairo", "-f", n, "-l", n, "-singlefile", "-png", "-transp", "-r",
		fmt.Sprintf("%.3f", dpi), "-", "-")
}

func convert(ctx context.Context, file []byte, name string, args ...string) ([]byte, error) {
	out, _, err := converted(ctx, file, name, args...)
	return out, err
}

// bounded is a program that the system ends where it takes more of a processor, or of memory, than it may. Debian's
// util-linux brings prlimit; without it, time alone bounds the program.
func bounded(ctx context.Context, path string, args ...string) *exec.Cmd {
	if limit, err := exec.LookPath("prlimit"); err == nil {
		args = append([]string{fmt.Sprintf("--cpu=%d", convertCPU), fmt.Sprintf("--as=%d", convertSpace), "--core=0", path},
			args...)
		path = limit
	}
	return exec.CommandContext(ctx, path, args...)
}

// converted runs a program on the file, which it gets on its standard input, and gives what it writes, and what it took of a
// processor.
func converted(ctx context.Context, file []byte, name string, args ...string) (picture []byte, took time.Duration, err error) {
	bad := func(format string, args ...any) error {
		return problem.List{{Code: "picture", Message: fmt.Sprintf(format, args...)}}
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return nil, 0, bad("opening such a drawing needs %s, which is not installed here; give a PNG instead", name)
	}
	release, err := slot(ctx)
	if err != nil {
		return nil, 0, err
	}
	defer release()
	ctx, cancel := context.WithTimeout(ctx, convertTime)
	defer cancel()
	cmd := bounded(ctx, path, args...)
	cmd.WaitDelay = time.Second
	out, errs := &limited{left: 64 << 20}, &limited{left: 4 << 10}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = bytes.NewReader(file), out, errs
	err = cmd.Run()
	if cmd.ProcessState != nil {
		took = cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
	}
	if err != nil || out.Len() == 0 {
		if errors.Is(ctx.Err(), context.DeadlineExceeded) || took >= convertCPU*time.Second-100*time.Millisecond {
			return nil, took, bad("the drawing takes too long to open; give a PNG instead")
		}
		if ctx.Err() != nil {
			return nil, took, ctx.Err()
		}
		first, _, _ := strings.Cut(strings.TrimSpace(errs.String()), "\n")
		if first == "" {
			first = "the program that opens it ended without a word"
		}
		return nil, took, bad("the drawing cannot be opened: %s", first)
	}
	return out.Bytes(), took, nil
}
