package main

import (
	"os"
	"path/filepath"
	"testing"
	"time"
)

func TestBlocklist(t *testing.T) {
	t.Setenv("SODRIK_BLOCKLIST", "")
	if blocked, err := blocklistNamed(); blocked != nil || err != nil {
		t.Errorf("without a setting: %v", err)
	}
	file := filepath.Join(t.TempDir(), "hosts")
	t.Setenv("SODRIK_BLOCKLIST", file)
	if _, err := blocklistNamed(); err == nil {
		t.Error("a file that is not there is taken")
	}
	write := func(text string, at time.Time) {
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(file, at, at); err != nil {
			t.Fatal(err)
		}
	}
	write("# seen at the fair\nTrap.example. # twice\n0.0.0.0 lure.example\n\n", time.Now().Add(-time.Hour))
	b := &blocklist{file: file}
	if err := b.read(); err != nil {
		t.Fatal(err)
	}
	for host, want := range map[string]bool{"trap.example": true, "www.trap.example": true, "lure.example": true,
		"nottrap.example": false, "example": false, "": false, "twice": false} {
		if got := b.blocked(host); got != want {
			t.Errorf("%q is blocked: %v", host, got)
		}
	}
	write("other.example\n", time.Now())
	b.looked = time.Time{}
	if b.blocked("trap.example") || !b.blocked("other.example") {
		t.Error("a file that has changed is not read again")
	}
	if err := os.Remove(file); err != nil {
		t.Fatal(err)
	}
	b.looked = time.Time{}
	if !b.blocked("other.example") {
		t.Error("a file that is gone takes what it said along")
	}
}
