package readers

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"golang.org/x/text/encoding/japanese"

	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol"
)

// process runs an engine on PGM files, many with one start of it.
type process struct {
	name, family, path string
	// args gives the arguments for pictures, which it writes into a folder as files of its choice; files are their names, in
	// order.
	args func(dir string, pictures []*image.Gray) (args, files []string, err error)
	// texts takes the output apart, one list of payloads a file.
	texts func(stdout []byte, exit, pictures int, files []string) ([][]string, error)
}

func (p process) Name() string   { return p.name }
func (p process) Family() string { return p.family }

// Read answers for every picture, also where the engine hangs, crashes or talks nonsense. The milliseconds are the mean of
// the batch.
func (p process) Read(ctx context.Context, pictures []*image.Gray) []proof.Answer {
	out := make([]proof.Answer, len(pictures))
	texts, took, err := p.read(ctx, pictures)
	each := took.Seconds() * 1000 / float64(max(1, len(pictures)))
	for i := range out {
		out[i].MS = each
		if err != nil {
			out[i].Err = err
		} else {
			out[i].Payloads = texts[i]
		}
	}
	return out
}

func (p process) read(ctx context.Context, pictures []*image.Gray) (texts [][]string, took time.Duration, err error) {
	release, err := slot(ctx)
	if err != nil {
		return nil, 0, err
	}
	defer release()
	start := time.Now()
	defer func() { took = time.Since(start) }()
	limit := deadline + time.Duration(len(pictures))*perPicture
	ctx, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	dir, err := os.MkdirTemp("", "sodrik-")
	if err != nil {
		return nil, 0, err
	}
	defer os.RemoveAll(dir)
	args, files, err := p.args(dir, pictures)
	if err != nil {
		return nil, 0, err
	}
	cmd := exec.CommandContext(ctx, p.path, args...)
	cmd.Dir, cmd.WaitDelay = dir, time.Second
	out := &limited{left: maxOutput * (1 + len(pictures))}
	cmd.Stdout = out
	err = cmd.Run()
	var exit *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return nil, 0, fmt.Errorf("%s gave no answer within %v", p.name, limit)
	case errors.As(err, &exit) && exit.ExitCode() >= 0:
		texts, err = p.texts(out.Bytes(), exit.ExitCode(), len(pictures), files)
	case err != nil:
		err = fmt.Errorf("%s did not run: %w", p.name, err)
	default:
		texts, err = p.texts(out.Bytes(), 0, len(pictures), files)
	}
	return texts, took, err
}

// between is a symbol put after every picture that zbar is given: with binary output it writes payloads and nothing else, so
// that what belongs to which picture would not be known. Its payload is made up afresh by every process, so that no code can
// say it.
var between = sync.OnceValues(func() (payload string, file []byte) {
	b := make([]byte, 16)
	rand.Read(b)
	payload = "next " + hex.EncodeToString(b)
	s, err := symbol.Encode(payload, symbol.Options{})
	if err != nil {
		panic(err) // 37 characters fit
	}
	const per, quiet = 3, 4
	img := image.NewGray(image.Rect(0, 0, (s.Size+2*quiet)*per, (s.Size+2*quiet)*per))
	for y := range img.Rect.Dy() {
		for x := range img.Rect.Dx() {
			mx, my := x/per-quiet, y/per-quiet
			if mx < 0 || my < 0 || mx >= s.Size || my >= s.Size || !s.Dark(mx, my) {
				img.Pix[y*img.Stride+x] = 255
			}
		}
	}
	return payload, pgm(img)
})

// zbarArgs puts all pictures into one file, which its library takes for a sequence, in less than half the time.
func zbarArgs(dir string, pictures []*image.Gray) (args, files []string, err error) {
	_, next := between()
	var all []byte
	for _, p := range pictures {
		all = append(append(all, pgm(p)...), next...)
	}
	file := filepath.Join(dir, "all.pgm")
	// Binary output: without an ECI zbar would guess at a character set, and guess wrong.
	return []string{"--quiet", "--raw", "--nodbus", "-Sdisable", "-Sqrcode.enable", "-Sbinary", file}, nil,
		os.WriteFile(file, all, 0o600)
}

func zbarTexts(out []byte, exit, n int, _ []string) ([][]string, error) {
	payload, _ := between()
	parts := bytes.Split(out, []byte(payload))
	if exit != 0 && exit != 4 || len(parts) != n+1 || len(parts[n]) > 0 { // 4: a picture without a symbol
		return nil, fmt.Errorf("zbarimg ended with %d after %d of %d pictures", exit, len(parts)-1, n)
	}
	texts := make([][]string, n)
	for i := range n {
		if len(parts[i]) > 0 {
			texts[i] = []string{decoded(parts[i])}
		}
	}
	return texts, nil
}

func zxingArgs(dir string, pictures []*image.Gray) (args, files []string, err error) {
	for i, p := range pictures {
		files = append(files, filepath.Join(dir, fmt.Sprintf("%d.pgm", i)))
		if err := os.WriteFile(files[i], pgm(p), 0o600); err != nil {
			return nil, nil, err
		}
	}
	return append([]string{"-format", "QRCode", "-escape"}, files...), files, nil
}

// zxingTexts: for every file, its name, and for every symbol a list of what is known, the bytes in hexadecimal among it.
// Control characters are escaped, so that a payload cannot feign a line.
func zxingTexts(out []byte, exit, _ int, files []string) ([][]string, error) {
	texts := make([][]string, len(files))
	at := map[string]int{}
	for i, f := range files {
		at[f] = i
	}
	i, seen := -1, map[int]bool{}
	if len(files) == 1 && len(out) > 0 { // a lone file it does not name
		i, seen[0] = 0, true
	}
	for line := range strings.Lines(string(out)) {
		key, value, _ := strings.Cut(strings.TrimRight(line, "\n"), ":")
		value = strings.TrimSpace(value)
		switch key {
		case "File":
			n, ok := at[value]
			if !ok {
				return nil, fmt.Errorf("ZXingReader spoke of a file that it was not given")
			}
			i = n
			seen[i] = true
		case "Bytes":
			b, err := hex.DecodeString(strings.ReplaceAll(value, " ", ""))
			if err != nil || i < 0 {
				return nil, fmt.Errorf("ZXingReader wrote bytes that are not hexadecimal")
			}
			texts[i] = append(texts[i], decoded(b))
		}
	}
	if len(seen) != len(files) {
		return nil, fmt.Errorf("ZXingReader ended with %d after %d of %d pictures", exit, len(seen), len(files))
	}
	return texts, nil
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

func pgm(img *image.Gray) []byte {
	b := img.Bounds()
	out := fmt.Appendf(make([]byte, 0, 32+b.Dx()*b.Dy()), "P5\n%d %d\n255\n", b.Dx(), b.Dy())
	for y := range b.Dy() {
		out = append(out, img.Pix[y*img.Stride:][:b.Dx()]...)
	}
	return out
}
