package calibration

import (
	"bufio"
	"encoding/json"
	"flag"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
)

var outsideToo = flag.Bool("outside", false,
	"also show the pictures to readers that are not in the panel, jsQR and qr, which need Node and npm")

// An outsider is a reader that has no say in any verdict. It runs as long as the tests do, and answers a line of names with a
// line of texts.
type outsider struct {
	family string // under which a record keeps it
	argv   []string

	once sync.Once
	in   io.WriteCloser
	out  *bufio.Reader
	err  error
	mu   sync.Mutex
}

var outsiders = []*outsider{{family: "jsQR", argv: []string{"node", "outside/read.mjs", "jsqr"}},
	{family: "qr", argv: []string{"node", "outside/read.mjs", "qr"}}}

// installed fetches them once.
var installed = sync.OnceValue(func() error {
	if _, err := os.Stat("outside/node_modules/qr"); err == nil {
		return nil
	}
	cmd := exec.Command("npm", "ci", "--silent", "--no-audit", "--no-fund")
	cmd.Dir = "outside"
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("npm ci: %w\n%s", err, out)
	}
	return nil
})

func (o *outsider) start() error {
	if err := installed(); err != nil {
		return err
	}
	cmd := exec.Command(o.argv[0], o.argv[1:]...)
	cmd.Stderr = os.Stderr
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	o.in, o.out = in, bufio.NewReaderSize(out, 1<<20)
	return cmd.Start() // it ends when its input does
}

// read says in which pictures it sees the payload.
func (o *outsider) read(t testing.TB, files []string, payload string) (read [looks]bool) {
	t.Helper()
	o.once.Do(func() { o.err = o.start() })
	if o.err != nil {
		t.Fatalf("%s: %v", o.family, o.err)
	}
	names, err := json.Marshal(files)
	if err != nil {
		t.Fatal(err)
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	var texts []*string
	if _, err = o.in.Write(append(names, '\n')); err == nil {
		var line []byte
		if line, err = o.out.ReadBytes('\n'); err == nil {
			err = json.Unmarshal(line, &texts)
		}
	}
	if err != nil || len(texts) != len(files) {
		t.Fatalf("%s: %v, %d answers for %d pictures", o.family, err, len(texts), len(files))
	}
	for i, text := range texts {
		read[i] = text != nil && *text == payload
	}
	return read
}

// outside shows pictures to every outsider.
func outside(t testing.TB, pictures []*image.Gray, payload string) map[string][looks]bool {
	t.Helper()
	dir := t.TempDir()
	var files []string
	for i, p := range pictures {
		name := filepath.Join(dir, fmt.Sprintf("%s-%d.pgm", filepath.Base(dir), i))
		b := fmt.Appendf(nil, "P5\n%d %d\n255\n", p.Rect.Dx(), p.Rect.Dy())
		if err := os.WriteFile(name, append(b, p.Pix...), 0o600); err != nil {
			t.Fatal(err)
		}
		files = append(files, name)
	}
	out := map[string][looks]bool{}
	for _, o := range outsiders {
		out[o.family] = o.read(t, files, payload)
	}
	return out
}
