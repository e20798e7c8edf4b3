package calibration

import (
	"bufio"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
)

var outsideToo = flag.Bool("outside", false, "also show the pictures to a reader that is not in the panel, jsQR, which needs Node and npm")

// outsider is the family under which a record keeps it.
const outsider = "outside"

// installed fetches the outside reader once.
var installed = sync.OnceValue(func() error {
	if _, err := os.Stat("outside/node_modules/jsqr"); err == nil {
		return nil
	}
	cmd := exec.Command("npm", "ci", "--silent", "--no-audit", "--no-fund")
	cmd.Dir = "outside"
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("npm ci: %w\n%s", err, out)
	}
	return nil
})

// outside says which pictures a reader sees the payload in that has no say in any verdict.
func outside(t testing.TB, pictures []*image.Gray, payload string) (read [looks]bool) {
	t.Helper()
	if err := installed(); err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	args := []string{"outside/read.mjs"}
	for i, p := range pictures {
		name := filepath.Join(dir, fmt.Sprint(i, ".pgm"))
		b := fmt.Appendf(nil, "P5\n%d %d\n255\n", p.Rect.Dx(), p.Rect.Dy())
		if err := os.WriteFile(name, append(b, p.Pix...), 0o600); err != nil {
			t.Fatal(err)
		}
		args = append(args, name)
	}
	out, err := exec.Command("node", args...).Output()
	if err != nil {
		t.Fatalf("jsQR: %v", err)
	}
	lines := bufio.NewScanner(bytes.NewReader(out))
	for i := 0; lines.Scan(); i++ {
		var said *string
		if err := json.Unmarshal(lines.Bytes(), &said); err != nil {
			t.Fatal(err)
		}
		read[i] = said != nil && *said == payload
	}
	return read
}
