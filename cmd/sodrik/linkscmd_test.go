package main

import (
	"archive/zip"
	"context"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/db"
	"sodrik/internal/db/private"
	"sodrik/internal/seal"
)

// TestLinks: short links are listed, led elsewhere, taken along and moved in on the command line; what is wrong is said as
// everywhere.
func TestLinks(t *testing.T) {
	pg, err := private.Start(t.Context(), private.Options{Brief: true})
	if err != nil {
		t.Fatal(err)
	}
	defer pg.Stop()
	if err := pg.CreateDatabase(t.Context(), "links", true); err != nil {
		t.Fatal(err)
	}
	key := seal.NewKey()
	box, err := seal.Parse(key)
	if err != nil {
		t.Fatal(err)
	}
	d, err := db.Open(t.Context(), pg.URL("links"), 10*time.Second)
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
	s, links, actor := app.Codes, app.Links, access.OfProgram("main", "test")
	m, problems := compose.Parse([]byte(gate), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Create(t.Context(), actor, m, "")
	if err == nil {
		_, err = links.Turn(t.Context(), actor, id, code.Anyhow)
	}
	if err == nil {
		_, err = s.Issue(t.Context(), actor, id)
	}
	if err != nil {
		t.Fatal(err)
	}
	run := func(want int, stdin string, args ...string) string {
		t.Helper()
		p := begin(t, nil) // for its path alone
		p.cmd.Process.Kill()
		c := exec.CommandContext(context.Background(), p.cmd.Path, append([]string{"links"}, args...)...)
		c.Env = append(
			p.cmd.Env,
			"SODRIK_DATABASE="+pg.URL("links"),
			"SODRIK_KEY="+key,
			"SODRIK_LINKS=https://go.marrowby.example",
		)
		c.Stdin = strings.NewReader(stdin)
		out, _ := c.CombinedOutput()
		if got := c.ProcessState.ExitCode(); got != want {
			t.Errorf("%v ends with %d: %s", args, got, out)
		}
		return string(out)
	}
	says := func(got string, want ...string) {
		t.Helper()
		for _, w := range want {
			if !strings.Contains(got, w) {
				t.Errorf("it says %q, not %q", got, w)
			}
		}
	}
	says(run(0, "", "list"), "link,does,to,code,place\ngo.marrowby.example/", ",go,https://marrowby.example/fair,"+id+",gate")
	says(run(0, "", "lead", id), "draft: marrowby.example/fair", "live: marrowby.example/fair, since")
	says(run(0, "", "lead", id, "marrowby.example/bulbs"), "live: marrowby.example/bulbs")
	says(run(2, "", "lead", id, "javascript:alert(1)"), "to: ")
	says(run(1, "", "lead", "nothing"), "There is no code nothing.")
	says(run(0, "/spring,https://marrowby.example/spring\n/x,ftp://x\n", "-look", "movein", "go.marrowby.example", "-"),
		"line 2: It leads to", "1 of 2 paths can move in.")
	says(run(0, "/spring,https://marrowby.example/spring\n", "movein", "go.marrowby.example", "-"), "1 path leads from here now.")
	says(run(0, "", "list"), "go.marrowby.example/SPRING,go,https://marrowby.example/spring")
	says(run(2, "", "movein", "go.marrowby.example", "-"), "The rules hold no path")
	says(run(1, "/a,https://b.example", "movein", "other.example", "-"), "")
	says(run(2, "", "plant"), "sodrik links works on the database")
	file := filepath.Join(t.TempDir(), "pack.zip")
	run(0, "", "leave", file)
	z, err := zip.OpenReader(file)
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	if len(z.File) < 8 {
		t.Errorf("the pack has %d files", len(z.File))
	}
}
