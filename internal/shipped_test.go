package internal

import (
	"os/exec"
	"strings"
	"testing"
)

// testOnly are packages that tests, measures and what makes files that ship need, and the program does not.
var testOnly = []string{"testing", "net/http/httptest", "github.com/go-rod/", "github.com/maxmind/mmdbwriter", "go4.org/netipx",
	"sodrik/internal/db/dbtest", "sodrik/internal/seal/sealtest", "sodrik/internal/costtest", "sodrik/internal/hostile",
	"sodrik/internal/calibration"}

// TestShipped: the program holds nothing that only tests need.
func TestShipped(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "../cmd/sodrik").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, dep := range strings.Fields(string(out)) {
		for _, bad := range testOnly {
			if dep == bad || strings.HasSuffix(bad, "/") && strings.HasPrefix(dep, bad) || strings.HasPrefix(dep, bad+"/") &&
				bad != "testing" {
				t.Errorf("the program holds %s", dep)
			}
		}
	}
}
