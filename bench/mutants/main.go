// Command mutants changes rules a little, one at a time, and counts how many of the changes a package's tests notice. Where
// rules can be changed is found by gremlins, a mutation tester; which of them are, is drawn by seed, so that a slow package
// can be looked at too and a figure can be had again.
//
//	go run ./mutants -n 300 -seed 1 ../internal/core/gs1
//
// It prints each change that no test noticed, and the share that was. A change that does not compile is drawn again.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// mutant is one change.
type mutant struct {
	file         string
	line, column int
	kind         string
	covered      bool
	from, to     string
	outcome      string
	took         time.Duration
}

func (m *mutant) String() string {
	return fmt.Sprintf("%s:%d:%d %s becomes %s", m.file, m.line, m.column, m.from, m.to)
}

// becomes says what each token turns into, by the kind of the change.
var becomes = map[string]map[string]string{
	"CONDITIONALS_BOUNDARY": {"<": "<=", "<=": "<", ">": ">=", ">=": ">"},
	"CONDITIONALS_NEGATION": {"==": "!=", "!=": "==", "<": ">=", "<=": ">", ">": "<=", ">=": "<"},
	"ARITHMETIC_BASE":       {"+": "-", "-": "+", "*": "/", "/": "*", "%": "*"},
	"INCREMENT_DECREMENT":   {"++": "--", "--": "++"},
	"INVERT_NEGATIVES":      {"-": "+"},
}

// tokens are those that are changed, longer ones first.
var tokens = []string{"==", "!=", "<=", ">=", "++", "--", "<", ">", "+", "-", "*", "/", "%"}

func main() {
	n := flag.Int("n", 300, "`how many` changes are drawn")
	seed := flag.Uint64("seed", 1, "the `seed` they are drawn by")
	run := flag.String("run", "", "the tests that are to notice, a `pattern`; all of the package if not set")
	files := flag.String("files", "", "the files whose rules are changed, a `pattern` such as finding*.go; all if not set")
	at := flag.Int("parallel", 2, "`how many` are tried at once")
	flag.Parse()
	if flag.NArg() != 1 {
		flag.Usage()
		os.Exit(2)
	}
	if err := mutate(flag.Arg(0), *run, *files, *n, *at, *seed); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func mutate(dir, run, files string, n, at int, seed uint64) error {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return err
	}
	list, err := find(dir, files)
	if err != nil {
		return err
	}
	r := rand.New(rand.NewPCG(seed, 0))
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	usual, err := usually(dir, run)
	if err != nil {
		return err
	}
	var mu sync.Mutex
	var tried []*mutant
	next := 0
	var all sync.WaitGroup
	for range at {
		all.Go(func() {
			for {
				mu.Lock()
				if next == len(list) || len(tried) >= n {
					mu.Unlock()
					return
				}
				m := list[next]
				next++
				tried = append(tried, m)
				mu.Unlock()
				m.try(dir, run, 4*usual+20*time.Second)
				mu.Lock()
				if m.outcome == "void" {
					tried = slices.DeleteFunc(tried, func(t *mutant) bool { return t == m })
				}
				mu.Unlock()
			}
		})
	}
	all.Wait()
	killed := 0
	slices.SortFunc(tried, func(a, b *mutant) int {
		if c := strings.Compare(a.file, b.file); c != 0 {
			return c
		}
		return a.line - b.line
	})
	for _, m := range tried {
		if m.outcome == "lived" {
			fmt.Println(m)
		} else {
			killed++
		}
	}
	fmt.Printf("%s: of %d changes (of %d possible), %d were noticed: %.0f %%\n", filepath.Base(dir), len(tried), len(list),
		killed, 100*float64(killed)/float64(max(1, len(tried))))
	return nil
}

// find asks gremlins where rules can be changed. What no test reaches counts too.
func find(dir, files string) ([]*mutant, error) {
	out, err := os.CreateTemp("", "mutants-*.json")
	if err != nil {
		return nil, err
	}
	defer os.Remove(out.Name())
	where := exec.Command("go", "list", "-m", "-f", "{{.Dir}}")
	where.Dir = dir
	root, err := where.Output()
	if err != nil {
		return nil, err
	}
	below, err := filepath.Rel(strings.TrimSpace(string(root)), dir)
	if err != nil {
		return nil, err
	}
	cmd := exec.Command("go", "run", "github.com/go-gremlins/gremlins/cmd/gremlins@latest", "unleash", "--dry-run", "-o",
		out.Name(), "./"+below)
	cmd.Dir = strings.TrimSpace(string(root))
	if b, err := cmd.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("gremlins: %v\n%s", err, b)
	}
	var found struct {
		Files []struct {
			Name      string `json:"file_name"`
			Mutations []struct {
				Type, Status string
				Line, Column int
			}
		}
	}
	if err := json.NewDecoder(out).Decode(&found); err != nil {
		return nil, err
	}
	var list []*mutant
	for _, f := range found.Files {
		name := filepath.Base(f.Name)
		if ok, err := filepath.Match(files, name); files != "" && (err != nil || !ok) {
			continue
		}
		if _, err := os.Stat(filepath.Join(dir, name)); err != nil || filepath.Dir(f.Name) != "." {
			continue // of a package below
		}
		for _, m := range f.Mutations {
			list = append(list, &mutant{file: name, line: m.Line, column: m.Column, kind: m.Type,
				covered: m.Status == "RUNNABLE"})
		}
	}
	slices.SortFunc(list, func(a, b *mutant) int {
		return strings.Compare(fmt.Sprintf("%s %06d %04d %s", a.file, a.line, a.column, a.kind),
			fmt.Sprintf("%s %06d %04d %s", b.file, b.line, b.column, b.kind))
	})
	return list, nil
}

// usually is how long the tests take as things are; they have to pass.
func usually(dir, run string) (time.Duration, error) {
	start := time.Now()
	b, err := test(context.Background(), dir, run)
	if err != nil {
		return 0, fmt.Errorf("the tests fail as things are: %s", b)
	}
	return time.Since(start), nil
}

func test(ctx context.Context, dir, run string, more ...string) ([]byte, error) {
	args := append([]string{"test", "-failfast", "-vet=off", "-run", run}, more...)
	if end, ok := ctx.Deadline(); ok { // the tests end by themselves; they would outlive go test
		args = append(args, "-timeout", time.Until(end).String())
	}
	cmd := exec.CommandContext(ctx, "go", append(args, ".")...)
	cmd.Dir = dir
	cmd.Cancel = func() error { return nil }
	cmd.WaitDelay = 30 * time.Second
	return cmd.CombinedOutput()
}

// try makes the change in a copy of its file, and runs the tests with the copy in its place.
func (m *mutant) try(dir, run string, most time.Duration) {
	m.outcome = "void"
	path := filepath.Join(dir, m.file)
	text, err := os.ReadFile(path)
	if err != nil {
		return
	}
	lines := bytes.SplitAfter(text, []byte("\n"))
	line := lines[m.line-1]
	if m.column > len(line) {
		return
	}
	rest := line[m.column-1:]
	for _, t := range tokens {
		if bytes.HasPrefix(rest, []byte(t)) {
			m.from = t
			break
		}
	}
	if m.to = becomes[m.kind][m.from]; m.to == "" {
		return
	}
	lines[m.line-1] = slices.Concat(line[:m.column-1], []byte(m.to), rest[len(m.from):])
	tmp, err := os.MkdirTemp("", "mutant-*")
	if err != nil {
		return
	}
	defer os.RemoveAll(tmp)
	changed, overlay := filepath.Join(tmp, m.file), filepath.Join(tmp, "overlay.json")
	o, _ := json.Marshal(map[string]any{"Replace": map[string]string{path: changed}})
	if os.WriteFile(changed, bytes.Join(lines, nil), 0o600) != nil || os.WriteFile(overlay, o, 0o600) != nil {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), most)
	defer cancel()
	start := time.Now()
	b, err := test(ctx, dir, run, "-overlay", overlay)
	m.took = time.Since(start)
	switch {
	case err == nil:
		m.outcome = "lived"
	case strings.Contains(string(b), "[build failed]"), strings.Contains(string(b), "[setup failed]"):
		m.outcome = "void"
	default:
		m.outcome = "killed"
	}
}
