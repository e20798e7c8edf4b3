package main

import (
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"testing"
)

// TestQuickToStart: what packages make before the command runs stays small, since each call of it waits for that. The time
// differs from machine to machine; what is allocated hardly does.
func TestQuickToStart(t *testing.T) {
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(self, "help")
	cmd.Env = append(os.Environ(), "SODRIK_AS_COMMAND=1", "SODRIK_DATABASE=", "GODEBUG=inittrace=1")
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatal(err)
	}
	const most = 3_000_000 // bytes of one package; the rules of telephone numbers take most, 2.5 MB
	found := regexp.MustCompile(`(?m)^init (\S+) @.*clock, (\d+) bytes`).FindAllStringSubmatch(string(out), -1)
	if len(found) < 20 {
		t.Fatalf("%d packages in %.300s", len(found), out)
	}
	for _, f := range found {
		if n, err := strconv.Atoi(f[2]); err != nil || n > most {
			t.Errorf("%s makes %d bytes before anything runs, at most %d: make it when it is needed first", f[1], n, most)
		}
	}
}
