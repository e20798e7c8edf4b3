package livelink

import (
	"fmt"
	"regexp"
	"testing"
)

// TestKey: every link has a key that a bucket takes, and is read again from it.
func TestKey(t *testing.T) {
	valid := regexp.MustCompile(`^[-/_=.a-zA-Z0-9]+$`) // NATS, keys of a bucket
	seen := map[string]string{}
	for _, link := range []string{"go.marrowby.example/FA1R", "go.marrowby.example:8443/FA1R", "go.marrowby.example/",
		"/marrowby",
		"go.marrowby.example/f/k7", "old.example/SPRING/SHOP_1", "old.example/A B", "old.example/A=B", "old.example/A%20B",
		"old.example/Ä.HTML",
		"old.example/END.", "old.example/A:B", "old.example/A_B", "old.example/~X+Y"} {
		t.Run(link, func(t *testing.T) {
			key := Key(link)
			if !valid.MatchString(key) || key[len(key)-1] == '.' {
				t.Errorf("%q has the key %q", link, key)
			}
			if other, ok := seen[key]; ok {
				t.Errorf("%q and %q have one key", link, other)
			}
			seen[key] = link
			if again, ok := Link(key); !ok || again != link {
				t.Errorf("%q is read again as %q", link, again)
			}
		})
	}
	if _, ok := Link(Position); ok {
		t.Error("the relay's position is a link")
	}
}

func TestNewer(t *testing.T) {
	v := Value{Seq: 7, Workspace: "marrowby", Sealed: []byte("x")}
	for seq, want := range map[uint64][2]bool{6: {true, false}, 7: {false, true}, 8: {false, false}} {
		t.Run(fmt.Sprint(seq), func(t *testing.T) {
			than := Value{Seq: seq, Workspace: "marrowby"}.Pack()
			if v.Newer(than) != want[0] || v.Beside(than) != want[1] {
				t.Errorf("7 is newer than %d: %v; beside it: %v", seq, v.Newer(than), v.Beside(than))
			}
		})
	}
	if !v.Newer([]byte("cut")) || v.Beside([]byte("cut")) {
		t.Error("what cannot be read is not older than all")
	}
}
