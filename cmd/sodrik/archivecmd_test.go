package main

import (
	"context"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/db"
	"sodrik/internal/db/private"
	"sodrik/internal/seal"
)

// TestArchive: on the command line a workspace leaves one server and arrives on another, once.
func TestArchive(t *testing.T) {
	pg, err := private.Start(t.Context(), private.Options{Brief: true})
	if err != nil {
		t.Fatal(err)
	}
	defer pg.Stop()
	keys := map[string]string{"here": seal.NewKey(), "there": seal.NewKey()}
	name := filepath.Join(t.TempDir(), "everything.zip")
	where := "here"
	run := func(args ...string) (code int, said string) {
		t.Helper()
		p := begin(t, nil) // for its path alone
		p.cmd.Process.Kill()
		c := exec.CommandContext(context.Background(), p.cmd.Path, args...)
		c.Env = append(p.cmd.Env, "SODRIK_DATABASE="+pg.URL(where), "SODRIK_KEY="+keys[where])
		out, _ := c.CombinedOutput()
		return c.ProcessState.ExitCode(), string(out)
	}
	for where := range keys {
		if err := pg.CreateDatabase(t.Context(), where, true); err != nil {
			t.Fatal(err)
		}
	}
	box, err := seal.Parse(keys["here"])
	if err != nil {
		t.Fatal(err)
	}
	d, err := db.Open(t.Context(), pg.URL("here"), 10*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	if err := migrated(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	app, err := assembled(d, box, "https://go.marrowby.example", "")
	if err == nil {
		err = ready(t.Context(), app, "main")
	}
	if err != nil {
		t.Fatal(err)
	}
	s := app.Codes
	m, problems := compose.Parse([]byte(gate), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if _, err := s.Create(t.Context(), access.OfProgram("main", "test"), m, ""); err != nil {
		t.Fatal(err)
	}
	if code, said := run("export", name); code != exitOK || !strings.Contains(said, "1 code, 0 versions") {
		t.Errorf("%d %s", code, said)
	}
	if code, said := run("import", name); code != exitProblems || !strings.Contains(said, "holds codes already") {
		t.Errorf("%d %s", code, said)
	}
	if code, said := run("export", "-workspace", "garden", name); code != exitProblems || !strings.Contains(said,
		"is not there: garden") {
		t.Errorf("%d %s", code, said)
	}
	where = "there"
	if code, said := run("import", name); code != exitOK || !strings.Contains(said, "is here now: 1 code, 0 versions") {
		t.Errorf("%d %s", code, said)
	}
	for _, args := range [][]string{{"import", name + ".none"}, {"import"}, {"export"}, {"import", "a", "b"}, {"export", "-x"}} {
		if code, _ := run(args...); code != exitProblems {
			t.Errorf("%v: %d", args, code)
		}
	}
}
