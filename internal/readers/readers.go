// Package readers puts other people's engines behind proof.Reader: gozxing in this process, zbar and zxing-cpp as bounded
// processes. A reader can never hang or crash its caller, and at most cores − 1 work at once.
package readers

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"runtime"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/text/encoding/japanese"

	"sodrik/internal/core/proof"
)

// Limits of one reading.
const (
	deadline   = 5 * time.Second
	mostOutput = 64 << 10
)

// slots bounds how many readers work at once in this process.
var slots = make(chan struct{}, max(1, runtime.NumCPU()-1))

func slot(ctx context.Context) (release func(), err error) {
	select {
	case slots <- struct{}{}:
		return func() { <-slots }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Families that a full panel holds. gozxing and zxing-cpp are one lineage, so that they count once.
var Families = []string{"zbar", "zxing"}

// Panel is the readers that work on this machine. Missing engines are simply not in it; proof names their family.
func Panel() proof.Panel {
	p := proof.Panel{Families: Families, Readers: []proof.Reader{Gozxing{}}}
	if path, err := exec.LookPath("zbarimg"); err == nil {
		p.Readers = append(p.Readers, process{"zbar", "zbar", path, zbarArgs, zbarText})
	}
	if path, err := exec.LookPath("ZXingReader"); err == nil {
		p.Readers = append(p.Readers, process{"zxing-cpp", "zxing", path, zxingArgs, zxingText})
	}
	return p
}

// Version names the panel, for caching proofs made with it.
func Version(p proof.Panel) string {
	names := []string{"1"}
	for _, r := range p.Readers {
		names = append(names, r.Name())
	}
	return strings.Join(names, " ")
}

// process runs an engine on a PGM file.
type process struct {
	name, family, path string
	args               func(file string) []string
	text               func(stdout []byte, exit int) ([]string, error)
}

func (p process) Name() string   { return p.name }
func (p process) Family() string { return p.family }

func zbarArgs(file string) []string {
	// Binary output: without an ECI zbar would guess at a character set, and guess wrong.
	return []string{"--quiet", "--raw", "--nodbus", "-Sdisable", "-Sqrcode.enable", "-Sbinary", file}
}

// zbarText: with -Sbinary the output is the payload and nothing after it.
func zbarText(out []byte, exit int) ([]string, error) {
	switch {
	case exit == 4 || exit == 0 && len(out) == 0: // no symbol
		return nil, nil
	case exit != 0:
		return nil, fmt.Errorf("zbarimg ended with %d", exit)
	}
	return []string{decoded(out)}, nil
}

// decoded takes the bytes of a symbol for text. Kanji segments come as Shift JIS (ISO/IEC 18004:2015, clause 7.4.6), which
// is told from UTF-8 by not being it; other bytes stay as they are.
func decoded(b []byte) string {
	if !utf8.Valid(b) {
		if s, err := japanese.ShiftJIS.NewDecoder().Bytes(b); err == nil && !bytes.ContainsRune(s, utf8.RuneError) {
			return string(s)
		}
	}
	return string(b)
}

func zxingArgs(file string) []string { return []string{"-format", "QRCode", "-bytes", file} }

// zxingText: -bytes writes the bytes of the symbol, nothing where there is none.
func zxingText(out []byte, exit int) ([]string, error) {
	if len(out) == 0 {
		return nil, nil
	}
	return []string{decoded(out)}, nil
}

func (p process) Read(ctx context.Context, img *image.Gray) ([]string, error) {
	release, err := slot(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	ctx, cancel := context.WithTimeout(ctx, deadline)
	defer cancel()
	f, err := os.CreateTemp("", "sodrik-*.pgm")
	if err != nil {
		return nil, err
	}
	defer os.Remove(f.Name())
	err = writePGM(f, img)
	if err := errors.Join(err, f.Close()); err != nil {
		return nil, err
	}
	cmd := exec.CommandContext(ctx, p.path, p.args(f.Name())...)
	cmd.WaitDelay = time.Second
	out := &limited{left: mostOutput}
	cmd.Stdout = out
	err = cmd.Run()
	var exit *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return nil, fmt.Errorf("%s gave no answer within %v", p.name, deadline)
	case errors.As(err, &exit) && exit.ExitCode() >= 0:
		return p.text(out.Bytes(), exit.ExitCode())
	case err != nil:
		return nil, fmt.Errorf("%s did not run: %w", p.name, err)
	}
	return p.text(out.Bytes(), 0)
}

// limited keeps the first bytes written to it.
type limited struct {
	bytes.Buffer
	left int
}

func (l *limited) Write(b []byte) (int, error) {
	n := min(len(b), l.left)
	l.left -= n
	l.Buffer.Write(b[:n])
	return len(b), nil
}

func writePGM(f *os.File, img *image.Gray) error {
	b := img.Bounds()
	if _, err := fmt.Fprintf(f, "P5\n%d %d\n255\n", b.Dx(), b.Dy()); err != nil {
		return err
	}
	for y := range b.Dy() {
		if _, err := f.Write(img.Pix[y*img.Stride : y*img.Stride+b.Dx()]); err != nil {
			return err
		}
	}
	return nil
}
