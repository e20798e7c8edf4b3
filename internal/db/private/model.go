package private

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// Model is what a brief server begins with. Making a data directory and filling it takes longer than all else that many a test
// does with it, so it is made once, kept among this account's caches, and copied.
type Model struct {
	Key  string                                     // differs where Fill would leave something else
	Fill func(ctx context.Context, s *Server) error // fills it where it is made
}

// layout says what of initialise and launch a model hangs on, next to the server's programs and the model's key.
const layout = "2"

// kept is how long a model is of use to anybody.
const kept = 14 * 24 * time.Hour

// from makes the data directory as a copy of the model, which it makes first where it is not there. Where this account has no
// place for models, ok is false.
func (s *Server) from(ctx context.Context, m Model) (ok bool, err error) {
	models, err := os.UserCacheDir()
	if err != nil {
		return false, nil
	}
	models = filepath.Join(models, "sodrik", "databases")
	if os.MkdirAll(models, 0o700) != nil {
		return false, nil
	}
	program, err := os.Stat(filepath.Join(s.bin, "postgres"))
	if err != nil {
		return false, err
	}
	owner := ""
	if s.account != nil {
		owner = s.account.name
	}
	sum := sha256.Sum256([]byte(strings.Join([]string{layout, s.bin, program.ModTime().String(), owner, m.Key}, "\n")))
	model := filepath.Join(models, fmt.Sprintf("%x", sum[:8]))
	if _, err := os.Stat(model); err != nil {
		if err := makeModel(ctx, m, models, model); err != nil {
			return false, err
		}
	}
	secret, err := os.ReadFile(filepath.Join(model, "password"))
	if err != nil {
		return false, err
	}
	if err := copyTree(filepath.Join(model, "data"), s.options.Dir); err != nil {
		return false, errors.Join(err, os.RemoveAll(s.options.Dir))
	}
	s.password = string(secret)
	return true, s.keepSecret()
}

// makeModel makes a model, and forgets those that nobody has made for long. Of several that make the same, one is kept.
func makeModel(ctx context.Context, m Model, models, model string) error {
	s, err := Start(ctx, Options{Brief: true, anew: true})
	if err != nil {
		return err
	}
	defer s.Stop()
	if m.Fill != nil {
		if err := m.Fill(ctx, s); err != nil {
			return err
		}
	}
	s.end()
	made, err := os.MkdirTemp(models, "making-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(made)
	if err := errors.Join(copyTree(s.options.Dir, filepath.Join(made, "data")),
		os.WriteFile(filepath.Join(made, "password"), []byte(s.password), 0o600)); err != nil {
		return err
	}
	if err := os.Rename(made, model); err != nil {
		if _, there := os.Stat(model); there != nil {
			return err
		}
	}
	others, err := os.ReadDir(models)
	for _, o := range others {
		if i, err := o.Info(); err == nil && time.Since(i.ModTime()) > kept {
			os.RemoveAll(filepath.Join(models, o.Name()))
		}
	}
	return err
}

// copyTree copies a folder with all that it holds, and whose it is.
func copyTree(from, to string) error {
	if out, err := exec.Command("cp", "-aT", "--reflink=auto", from, to).CombinedOutput(); err != nil {
		return fmt.Errorf("copying %s: %w\n%s", from, err, out)
	}
	return nil
}
