package e2e

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/standin"
)

// command runs the built program on the database that it serves from, and gives what it says and how it ended.
func (p *program) command(t *testing.T, args ...string) (said string, status int) {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	cmd := exec.CommandContext(ctx, p.binary, args...)
	cmd.Env = append(os.Environ(), "SODRIK_DATABASE="+p.database, "SODRIK_KEY="+p.key)
	out, err := cmd.CombinedOutput()
	var ended *exec.ExitError
	if err != nil && !errors.As(err, &ended) || ctx.Err() != nil {
		t.Fatalf("sodrik %s: %v\n%s", args[0], errors.Join(err, ctx.Err()), out)
	}
	return string(out), cmd.ProcessState.ExitCode()
}

// pack is an archive, its entries by name.
type pack map[string]string

// exported is the archive of the demonstration.
func (p *program) exported(t *testing.T) pack {
	t.Helper()
	file := filepath.Join(t.TempDir(), "house.zip")
	if said, status := p.command(t, "export", "-workspace", standin.Workspace, file); status != 0 {
		t.Fatalf("export: %s", said)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	out := pack{}
	for name, entry := range unzipped(t, data) {
		out[name] = string(entry)
	}
	return out
}

func (p pack) zipped() ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range slices.Sorted(maps.Keys(p)) {
		f, err := z.Create(name)
		if err == nil {
			_, err = io.WriteString(f, p[name])
		}
		if err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// hostileValues take the place of values in rows of an archive.
var hostileValues = []string{`null`, `""`, `-1`, `1e300`, `[]`, `{}`, `"hello"`, `true`, `"go.marrowby.example/SEEDS"`,
	`"javascript:alert(1)"`, `"https://go.marrowby.example:443//SEEDS/"`, `"bank.example"`, `"<script>alert(1)</script>"`,
	`"2026-13-45T00:00:00Z"`, `"2026-01-01T00:00:00Z"`, `"\u0001\ufffd"`, `"` + strings.Repeat("n", 100_000) + `"`,
	`{"s":[{"x":{"d":"go","t":"javascript:alert(1)"}}],"c":302}`}

// spoilt is a copy in which a few things are not as they should be, and says which.
func (w *wanderer) spoilt(p pack) (out pack, what []string) {
	out = maps.Clone(p)
	names := slices.Sorted(maps.Keys(p))
	for many := 1 + w.r.IntN(3); len(what) < many; {
		name := w.pick(names)
		if out[name] == "" {
			continue
		}
		lines := strings.Split(strings.TrimSuffix(out[name], "\n"), "\n")
		n := w.r.IntN(len(lines))
		did := ""
		switch k := w.r.IntN(10); {
		case k == 0:
			did = "missing"
			delete(out, name)
		case k == 1:
			did = "cut off"
			out[name] = out[name][:w.r.IntN(len(out[name])+1)]
		case k == 2:
			did = fmt.Sprintf("row %d twice", n)
			out[name] += lines[n] + "\n"
		default:
			row := map[string]json.RawMessage{}
			if json.Unmarshal([]byte(lines[n]), &row) != nil || len(row) == 0 {
				continue
			}
			field := w.pick(slices.Sorted(maps.Keys(row)))
			did = fmt.Sprintf("row %d, %s", n, field)
			row[field] = json.RawMessage(w.pick(hostileValues))
			if other := map[string]json.RawMessage{}; w.r.IntN(3) == 0 && // what another row says there
				json.Unmarshal([]byte(lines[w.r.IntN(len(lines))]), &other) == nil && other[field] != nil {
				row[field] = other[field]
			}
			b, err := json.Marshal(row)
			if err != nil {
				w.t.Fatal(err)
			}
			lines[n] = string(b)
			out[name] = strings.Join(lines, "\n") + "\n"
		}
		what = append(what, name+" "+did)
	}
	return out, what
}

// archive brings a spoilt archive into a workspace of its own. It is refused in words or taken; where it is taken all of its
// codes can be opened, and nobody else's links lead elsewhere.
func (w *wanderer) archive(tab *wanderTab, links []string) {
	p, what := w.spoilt(w.house)
	w.archives++
	if w.archives%4 > 0 { // of another house, whose links nobody has; the others would take over those that are here
		for name, text := range p {
			p[name] = strings.ReplaceAll(text, strings.TrimPrefix(standin.LinkHost, "https://"),
				fmt.Sprintf("go%d.marrowby.example", w.archives))
		}
	}
	w.note("an archive is brought in: %s", strings.Join(what, "; "))
	data, err := p.zipped()
	if err != nil {
		w.t.Fatal(err)
	}
	file := filepath.Join(w.t.TempDir(), "spoilt.zip")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		w.t.Fatal(err)
	}
	before := w.leading(links)
	into := fmt.Sprintf("arrived-%d", w.archives)
	said, status := w.p.command(w.t, "import", "-workspace", into, file)
	switch {
	case status != 0 && (strings.Contains(said, "SQLSTATE") || strings.Contains(said, "goroutine ") || strings.Contains(said,
		"panic")):
		w.fail(tab, "an archive that is not taken is answered %s", said)
	case status == 0:
		w.taken++
		w.opensAll(tab, into)
	}
	time.Sleep(300 * time.Millisecond) // until what was made live has reached those who answer
	for link, to := range w.leading(slices.Collect(maps.Keys(before))) {
		if before[link] != to {
			w.fail(tab, "%s led to %q and leads to %q", link, before[link], to)
		}
	}
}

// opensAll opens every code of a workspace.
func (w *wanderer) opensAll(tab *wanderTab, workspace string) {
	as := access.OfProgram(workspace, "wanderer")
	page, err := w.a.store.Ledger(w.t.Context(), as, code.Active, "", nil, 10_000)
	if err != nil {
		w.fail(tab, "the ledger of %s: %v", workspace, err)
		return
	}
	for _, row := range page.Lines {
		if _, err := w.a.store.Get(w.t.Context(), as, row.ID); err != nil {
			w.fail(tab, "%s of %s: %v", row.ID, workspace, err)
		}
	}
}

// linksOf are the short links of the demonstration.
func (p *program) linksOf(t *testing.T) (out []string) {
	t.Helper()
	err := p.store.DB.Snapshot(t.Context(), standin.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(t.Context(), `SELECT host || '/' || path FROM links ORDER BY 1`)
		if err == nil {
			out, err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		return err
	})
	if err != nil || len(out) == 0 {
		t.Fatalf("%d links, %v", len(out), err)
	}
	return out
}

// leading is where links lead that lead everybody to the same place.
func (w *wanderer) leading(links []string) map[string]string {
	out := map[string]string{}
	for _, link := range links {
		to := w.p.scanned(w.t, link)
		if again := w.p.scanned(w.t, link); again == to {
			out[link] = to
		}
	}
	return out
}

// scan has a phone scan one of the links, in some language: it is answered, whatever it says of itself.
func (w *wanderer) scan(tab *wanderTab, links []string) {
	host, path, _ := strings.Cut(w.pick(links), "/")
	r, err := http.NewRequest(w.pick([]string{http.MethodGet, http.MethodGet, http.MethodHead}), "http://"+w.p.links+"/"+path,
		nil)
	if err != nil {
		w.t.Fatal(err)
	}
	r.Host = host
	r.Header.Set("Accept-Language", w.pick([]string{"", "cy", "de-CH,de;q=0.5", "*;q=0.1", "EN;Q=0.2,cy", "garbage;;;=,cy"}))
	r.Header.Set("User-Agent", w.pick([]string{"", "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X)", "x", "curl/8"}))
	w.note("a phone scans %s, %q", r.Host+r.URL.Path, r.Header.Get("Accept-Language"))
	answer, err := http.DefaultTransport.RoundTrip(r)
	if err != nil {
		w.fail(tab, "a scan of %s: %v", r.URL, err)
		return
	}
	defer answer.Body.Close()
	io.Copy(io.Discard, answer.Body)
	if answer.StatusCode >= 500 {
		w.fail(tab, "a scan of %s/%s answers %s", host, path, answer.Status)
	}
}
