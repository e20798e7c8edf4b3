package internal

import (
	"bufio"
	"bytes"
	"os/exec"
	"strings"
	"testing"
)

// layers says what a package may import of Sodrik, by the longest prefix that fits. Arrows point inward: cmd → web and
// api → use cases → db, readers, core.
var layers = []struct {
	at  string
	may []string
}{
	{"cmd/", []string{"internal/", "assets"}},
	{"assets", nil},
	{"e2e", []string{"internal/", "assets"}},
	{"internal/assembly", []string{"internal/"}},
	{"internal/access", nil},
	{"internal/core/problem", nil},
	{"internal/calibration", nil},
	{"internal/costtest", nil},
	{"internal/core/measure", nil},
	{"internal/core/scene", []string{"internal/core/ink"}},
	{"internal/core/symbol", []string{"internal/core/symbol"}},
	{"internal/core/", []string{"internal/core/"}},
	{"internal/readers", []string{"internal/core/"}},
	{"internal/db", []string{"internal/db"}},
	{"internal/seal", []string{"internal/seal"}},
	{"internal/eventlog", nil},
	{"internal/livelink", nil},
	{"internal/client", nil},
	{"internal/outside", nil},
	{"internal/notices", []string{"internal/access", "internal/core/", "internal/db", "internal/link", "internal/outside",
		"internal/scans", "internal/seal"}},
	{"internal/archive", []string{"internal/access", "internal/code", "internal/core/", "internal/link"}},
	{"internal/webhooks", []string{"internal/access", "internal/core/", "internal/db", "internal/outside", "internal/scans",
		"internal/seal"}},
	{"internal/scans", []string{"internal/access", "internal/core/", "internal/db", "internal/eventlog", "internal/seal"}},
	{
		"internal/redirect",
		[]string{"internal/client", "internal/core/", "internal/eventlog", "internal/livelink", "internal/seal"},
	},
	// no database, no page
	{"internal/link", []string{"internal/access", "internal/code", "internal/core/", "internal/db", "internal/eventlog",
		"internal/housestyle", "internal/livelink"}},
	{"internal/heavy", []string{"internal/core/caught"}},
	{"internal/hostile", []string{"internal/"}},
	{
		"internal/worker",
		[]string{
			"internal/batches",
			"internal/webhooks",
			"internal/link",
			"internal/notices",
			"internal/scans",
			"internal/proving",
			"internal/shelf",
			"internal/access",
			"internal/code",
			"internal/people",
			"internal/db",
			"internal/seal",
			"internal/mailer",
			"internal/core/",
		},
	},
	{"internal/ground", []string{"internal/db", "internal/seal"}},
	// knows no code
	{"internal/proving", []string{"internal/ground", "internal/access", "internal/core/", "internal/heavy", "internal/db"}},
	{"internal/shelf", []string{"internal/ground", "internal/access", "internal/core/", "internal/heavy", "internal/db"}},
	{"internal/code", []string{"internal/ground", "internal/proving", "internal/shelf", "internal/access", "internal/core/",
		"internal/heavy", "internal/db", "internal/seal", "internal/housestyle"}},
	{
		"internal/batches",
		[]string{"internal/link", "internal/access", "internal/code", "internal/core/", "internal/housestyle", "internal/proving",
			"internal/heavy"},
	},
	{"internal/records", []string{"internal/heavy", "internal/ground", "internal/access", "internal/code", "internal/core/",
		"internal/db", "internal/seal"}},
	{"internal/handover", []string{"internal/records", "internal/proving", "internal/shelf", "internal/access", "internal/code",
		"internal/core/", "internal/housestyle", "internal/mailer"}},
	{"internal/housestyle", []string{"internal/access", "internal/core/", "internal/db"}},
	{
		"internal/standin",
		[]string{
			"internal/webhooks",
			"internal/batches",
			"internal/eventlog",
			"internal/link",
			"internal/records",
			"internal/proving",
			"internal/shelf",
			"internal/access",
			"internal/core/",
			"internal/code",
			"internal/housestyle",
			"internal/people",
			"internal/db",
			"internal/mailer",
		},
	},
	{"internal/people", []string{"internal/access", "internal/core/problem", "internal/core/caught", "internal/db",
		"internal/seal"}},
	{"internal/mailer", nil},
	{
		"internal/api",
		[]string{
			"internal/batches",
			"internal/link",
			"internal/scans",
			"internal/records",
			"internal/proving",
			"internal/shelf",
			"internal/handover",
			"internal/access",
			"internal/heavy",
			"internal/code",
			"internal/housestyle",
			"internal/people",
			"internal/core/",
			"internal/readers",
			"internal/db",
		},
	},
	{
		"internal/web",
		[]string{
			"internal/archive",
			"internal/batches",
			"internal/webhooks",
			"internal/client",
			"internal/notices",
			"internal/scans",
			"internal/link",
			"internal/records",
			"internal/proving",
			"internal/shelf",
			"internal/handover",
			"internal/access",
			"internal/web",
			"internal/heavy",
			"internal/mailer",
			"internal/api",
			"internal/code",
			"internal/housestyle",
			"internal/people",
			"internal/core/",
			"internal/db",
			"assets",
		},
	},
	{"internal/web/ui", []string{"internal/access", "assets", "internal/code", "internal/people", "internal/core/",
		"internal/db"}},
	{"internal/web/forms", []string{"internal/core/"}},
	{"internal/web/outthere", []string{"internal/web/ui", "internal/link", "internal/batches", "internal/code", "internal/core/",
		"internal/people"}},
	{"internal/web/hooks", []string{"internal/web/ui", "internal/webhooks", "internal/code", "internal/core/",
		"internal/people"}},
	{
		"internal/web/batched",
		[]string{"internal/web/ui", "internal/web/forms", "internal/batches", "internal/code", "internal/core/",
			"internal/records", "internal/housestyle", "internal/people"},
	},
	{"internal/web/bench", []string{"internal/proving", "internal/shelf", "internal/web/ui", "internal/web/forms",
		"internal/web/paste", "internal/code", "internal/core/", "internal/heavy", "internal/handover"}},
	// opens pictures of codes
	{"internal/web/paste", []string{"internal/web/ui", "internal/core/", "internal/readers"}},
	// acts on several
	{
		"internal/web/ledger",
		[]string{"internal/batches", "internal/scans", "internal/link", "internal/records", "internal/proving",
			"internal/shelf", "internal/access",
			"internal/web/ui", "internal/web/paste", "internal/web/forms", "internal/code", "internal/people", "internal/core/",
			"internal/handover", "internal/housestyle"},
	},
	{"internal/web/desk/drawn", []string{"internal/code", "internal/core/"}},
	{"internal/web/desk/bound", []string{"internal/code", "internal/core/", "internal/web/forms"}},
	{"internal/web/desk/bound/boundtest", []string{"internal/web/desk/bound", "internal/code", "internal/core/"}},
	// a stub: values in, values out
	{
		"internal/web/desk/",
		[]string{"internal/people", "internal/scans", "internal/link", "internal/records", "internal/web/desk/bound",
			"internal/web/desk/drawn", "internal/web/ui",
			"internal/web/forms", "internal/code", "internal/shelf", "internal/core/"},
	},
	{"internal/web/desk", []string{"internal/scans", "internal/link", "internal/records", "internal/proving", "internal/shelf",
		"internal/web/desk/",
		"internal/handover", "internal/access", "internal/web/ui", "internal/web/forms", "internal/code", "internal/housestyle",
		"internal/people", "internal/core/"}},
	{"internal/web/destinations", []string{"internal/code", "internal/link", "internal/web/forms", "internal/web/ui",
		"internal/people", "internal/core/"}},
	{"internal/web/hosts", []string{"internal/code", "internal/link", "internal/scans", "internal/web/forms", "internal/web/ui",
		"internal/people", "internal/core/"}},
	{"internal/web/scanned", []string{"internal/notices", "internal/scans",
		"internal/code", "internal/link", "internal/web/ui", "internal/people",
		"internal/core/"}},
	{"internal/web/leaving", []string{"internal/archive", "internal/link", "internal/web/ui", "internal/people",
		"internal/core/"}},
	{"internal/web/reference", []string{"internal/web/ui", "internal/people", "internal/api"}}, // shows the API's operations
	{"internal/web/", []string{"internal/proving", "internal/shelf", "internal/handover", "internal/access", "internal/web/ui",
		"internal/web/forms", "internal/mailer", "internal/code", "internal/housestyle", "internal/people", "internal/core/"}},
}

// outside says which packages from elsewhere only one layer may use: pages hold no SQL, the core no database, no HTTP.
var outside = map[string][]string{
	"github.com/riverqueue": {"internal/worker"},
	"github.com/jackc/pgx": {
		"internal/archive", "internal/batches", "internal/scans", "internal/notices", "internal/link", "internal/records",
		"internal/proving",
		"internal/shelf", "internal/worker", "internal/db", "internal/api", "internal/code", "internal/housestyle",
		"internal/people",
		"internal/standin", "internal/web",
	},
	"net/http": {
		"internal/client",
		"internal/outside",
		"internal/standin",
		"internal/redirect",
		"internal/web",
		"internal/api",
		"cmd/",
		"e2e",
	},
	"github.com/go-chi/chi":  {"internal/web", "internal/api"},
	"html/template":          {"internal/redirect", "internal/web"},
	"github.com/makiuchi-d/": {"internal/readers"},
	"os/exec":                {"internal/readers", "internal/db", "e2e", "internal"},
}

func TestArrows(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "sodrik/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for lines := bufio.NewScanner(bytes.NewReader(out)); lines.Scan(); {
		words := strings.Fields(lines.Text())
		from := strings.TrimPrefix(words[0], "sodrik/")
		layer := -1
		for i, l := range layers {
			if strings.HasPrefix(from, l.at) && (layer < 0 || len(l.at) > len(layers[layer].at)) {
				layer = i
			}
		}
		if layer < 0 {
			if from != "internal" {
				t.Errorf("%s stands in no layer", from)
			}
			continue
		}
		for _, imported := range words[1:] {
			to, ours := strings.CutPrefix(imported, "sodrik/")
			if ours && !allowed(to, layers[layer].may) {
				t.Errorf("%s imports %s; it may import %v", from, to, layers[layer].may)
			}
			for prefix, users := range outside {
				t.Run(prefix, func(t *testing.T) {
					if strings.HasPrefix(imported, prefix) && !allowed(from, users) {
						t.Errorf("%s imports %s, which is for %v", from, imported, users)
					}
				})
			}
			seen++
		}
	}
	if seen < 100 {
		t.Errorf("only %d imports were looked at", seen)
	}
}

func allowed(to string, prefixes []string) bool {
	for _, p := range prefixes {
		if strings.HasPrefix(to, p) {
			return true
		}
	}
	return false
}
