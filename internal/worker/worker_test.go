package worker

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/mailer"
	"sodrik/internal/seal/sealtest"
)

// dying names the database of a process that is to be killed in the middle of a job.
const dying = "SODRIK_TEST_DYING"

func TestMain(m *testing.M) {
	if url := os.Getenv(dying); url != "" {
		die(url)
		return
	}
	if url := os.Getenv(dyingOfBatches); url != "" {
		dieOfBatches(url)
		return
	}
	dbtest.Main(m)
}

// open gives a database with the tables of jobs, and a store on it whose readers read whatever they are shown.
func open(t *testing.T) *Worker {
	t.Helper()
	d := dbtest.Open(t)
	if err := Migrate(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	return on(d, sealtest.Box(t))
}

// run works until the test ends or stop is called, which waits until it has stopped.
func run(t *testing.T, w *Worker) (stop func()) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	done := w.Start(ctx)
	stop = func() { cancel(); <-done }
	t.Cleanup(stop)
	return stop
}

// until waits for something that jobs bring about.
func until(t *testing.T, what string, most time.Duration, done func() bool) {
	t.Helper()
	for end := time.Now().Add(most); !done(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("waited for %s for %v", what, most)
		}
	}
}

// count asks the database for a number.
func count(t *testing.T, d *db.DB, sql string) (n int) {
	t.Helper()
	if err := d.Pool.QueryRow(t.Context(), sql).Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

// TestSweeps: of three processes on one database, one does each sweep in its time; one that fails or panics does not hold up
// another, and one whose time did not suffice goes on.
func TestSweeps(t *testing.T) {
	t.Parallel()
	w := open(t)
	var failed, wild, sound, long atomic.Int32
	w.sweeps = []sweep{
		{"fails", time.Hour, alone(func(context.Context) (int64, error) { failed.Add(1); return 0, errors.New("no") })},
		{"panics", time.Hour, alone(func(context.Context) (int64, error) { wild.Add(1); panic("wild") })},
		{"sound", time.Hour, alone(func(context.Context) (int64, error) { sound.Add(1); return 1, nil })},
		{"long", time.Hour, alone(func(ctx context.Context) (int64, error) {
			if long.Add(1) < 3 {
				<-ctx.Done()
				return 5, ctx.Err()
			}
			return 1, nil
		})},
	}
	w.timeout, w.rescue = time.Second, time.Minute
	for range 3 {
		other := *w
		run(t, &other)
	}
	until(t, "all sweeps", 30*time.Second, func() bool {
		return failed.Load() >= 1 && wild.Load() >= 1 && sound.Load() >= 1 && long.Load() == 3
	})
	time.Sleep(time.Second)
	if n := sound.Load(); n != 1 {
		t.Errorf("three processes did a sweep %d times", n)
	}
	if n := count(t, w.Codes.DB, `SELECT count(*)::int FROM river.river_job`); n != 4 {
		t.Errorf("%d jobs were put down", n)
	}
}

// TestShippedSweeps carries out the sweeps of the service once.
func TestShippedSweeps(t *testing.T) {
	t.Parallel()
	w := open(t)
	run(t, w)
	until(t, "the sweeps", 30*time.Second, func() bool {
		return count(t, w.Codes.DB,
			`SELECT count(*)::int FROM river.river_job WHERE state = 'completed'`) == len(sweepsOf(w))
	})
}

// TestLedgerProofs: places of codes that nobody has proved are proved by themselves, once, when the code has been left alone;
// what changes meanwhile is not.
func TestLedgerProofs(t *testing.T) {
	t.Parallel()
	w := open(t)
	s := w.Codes
	id := twoPlaces(t, s, "marrowby.example/fair")
	fresh := twoPlaces(t, s, "marrowby.example/late")
	if _, err := s.DB.Pool.Exec(t.Context(), `UPDATE codes SET changed_at = now() - interval '1 hour' WHERE id = $1`,
		id); err != nil {
		t.Fatal(err)
	}
	list, err := s.Upkeep().Unproved(t.Context(), 10)
	if err != nil || len(list) != 2 || list[0].Code != id || list[0].Index != 0 || list[1].Index != 1 {
		t.Fatalf("unproved are %+v, %v; want the two places of %s", list, err, id)
	}
	run(t, w)
	until(t, "proofs", time.Minute, func() bool { return count(t, s.DB, `SELECT count(*)::int FROM proofs`) == 2 })
	if list, err := s.Upkeep().Unproved(t.Context(), 10); err != nil || len(list) != 0 {
		t.Errorf("still unproved: %+v, %v", list, err)
	}
	page, err := s.Ledger(t.Context(), loader, code.Active, "", nil, 10)
	if err != nil || len(page.Lines) != 2 {
		t.Fatal(err)
	}
	for _, l := range page.Lines {
		if known := l.Verdict != ""; known != (l.ID == id) {
			t.Errorf("%s: verdict %q", l.ID, l.Verdict)
		}
	}
	// A job of a state that is gone does nothing.
	old := code.Unproved{Workspace: workspace, Code: fresh, Index: 0, Key: "another"}
	if err := s.Upkeep().ProveUnproved(t.Context(), old); err != nil || count(t, s.DB, `SELECT count(*)::int FROM proofs`) != 2 {
		t.Errorf("what has changed was proved: %v", err)
	}
}

// postman keeps letters, and fails as often as it is told to.
type postman struct {
	sync.Mutex
	got     []mailer.Letter
	failing int
}

func (p *postman) Post(_ context.Context, l mailer.Letter) error {
	p.Lock()
	defer p.Unlock()
	p.got = append(p.got, l)
	if strings.HasPrefix(l.To[0], "gone@") {
		return fmt.Errorf("%w: 550", mailer.ErrBounced)
	}
	if len(p.got) <= p.failing {
		return errors.New("421 try again")
	}
	return nil
}

func (p *postman) letters() []mailer.Letter {
	p.Lock()
	defer p.Unlock()
	return append([]mailer.Letter(nil), p.got...)
}

// TestMails: a mail is tried until the server takes it, under one Message-ID; an address that does not exist is not tried
// again; in the database its words are sealed.
func TestMails(t *testing.T) {
	t.Parallel()
	w := open(t)
	out, err := NewOutbox(w.Codes.DB, w.Codes.Seal)
	if err != nil {
		t.Fatal(err)
	}
	const link = "https://sodrik.marrowby.example/join/hushhush"
	if err := out.Send(t.Context(), "wren@marrowby.example", "Come in", link); err != nil {
		t.Fatal(err)
	}
	var dump string
	if err := w.Codes.DB.Pool.QueryRow(t.Context(), `SELECT string_agg(j::text || encode(decode(coalesce(args->>'sealed', ''),
		'base64'), 'escape'), ' ') FROM river.river_job j`).Scan(&dump); err != nil {
		t.Fatal(err)
	}
	if strings.Contains(dump, "hushhush") || strings.Contains(dump, "wren@") {
		t.Error("the mail can be read in the database")
	}
	p := &postman{failing: 1}
	w.Post = p
	run(t, w)
	until(t, "two tries", 30*time.Second, func() bool { return len(p.letters()) == 2 })
	l := p.letters()
	if l[0].ID == "" || l[0].ID != l[1].ID || l[1].Body != link || l[1].Subject != "Come in" ||
		l[1].To[0] != "wren@marrowby.example" {
		t.Errorf("sent were %+v", l)
	}
	if err := out.Send(t.Context(), "gone@marrowby.example", "Come in", link); err != nil {
		t.Fatal(err)
	}
	until(t, "the end of the other", 30*time.Second, func() bool {
		return count(t, w.Codes.DB, `SELECT count(*)::int FROM river.river_job WHERE kind = 'mail' AND state = 'cancelled'`) == 1
	})
	if n := len(p.letters()); n != 3 {
		t.Errorf("%d letters went out", n)
	}
}

// slowServer stands for a mail server that has taken a whole letter and has not said so when the process is killed.
type slowServer struct{}

func (slowServer) Post(_ context.Context, l mailer.Letter) error {
	fmt.Println(l.ID)
	select {}
}

// die sends mails, says the Message-ID of each, and waits to be killed.
func die(url string) {
	d, err := db.Open(context.Background(), url, 10*time.Second)
	if err != nil {
		panic(err)
	}
	w := on(d, nil)
	w.sweeps, w.Post = []sweep{}, slowServer{}
	panic(w.Run(context.Background()))
}

// TestKilled: a mail whose process is killed without warning while it is sent goes out within two minutes by another process,
// once, under the same Message-ID.
func TestKilled(t *testing.T) {
	t.Parallel()
	d := dbtest.Open(t)
	if err := Migrate(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	w := on(d, nil) // under the key that the other process has
	out, err := NewOutbox(w.Codes.DB, w.Codes.Seal)
	if err != nil {
		t.Fatal(err)
	}
	if err := out.Send(t.Context(), "wren@marrowby.example", "Come in", "The gate is open."); err != nil {
		t.Fatal(err)
	}
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(self)
	cmd.Env = append(os.Environ(), dying+"="+w.Codes.DB.Pool.Config().ConnString())
	var said safe
	cmd.Stdout = &said
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	until(t, "the other process to send it", 30*time.Second, func() bool { return strings.HasSuffix(said.String(), "\n") })
	if err := cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	cmd.Wait()
	killed := time.Now()
	p := &postman{}
	w.sweeps, w.Post = []sweep{}, p
	run(t, w)
	until(t, "its mail to be sent", 2*time.Minute, func() bool { return len(p.letters()) > 0 })
	t.Logf("sent %v after it was killed", time.Since(killed).Round(time.Second))
	time.Sleep(time.Second)
	l := p.letters()
	if len(l) != 1 || l[0].ID != strings.TrimSpace(said.String()) || l[0].Body != "The gate is open." {
		t.Errorf("sent were %+v; it was %s", l, said.String())
	}
}

// safe is a buffer that is written and read at once.
type safe struct {
	sync.Mutex
	b bytes.Buffer
}

func (s *safe) Write(p []byte) (int, error) { s.Lock(); defer s.Unlock(); return s.b.Write(p) }
func (s *safe) String() string              { s.Lock(); defer s.Unlock(); return s.b.String() }

// TestTemporaryFolders leaves alone what is new, and what holds anything but pictures for readers.
func TestTemporaryFolders(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	old := time.Now().Add(-2 * temporaryFor)
	for _, c := range []struct {
		dir, file string
		at        time.Time
	}{{"sodrik-old", "a.pgm", old}, {"sodrik-new", "a.pgm", time.Now()}, {"sodrik-other", "notes.txt", old},
		{"others-old", "a.pgm", old}} {
		t.Run(c.dir, func(t *testing.T) {
			dir := filepath.Join(os.TempDir(), c.dir)
			if err := os.Mkdir(dir, 0o700); err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(filepath.Join(dir, c.file), nil, 0o600); err != nil {
				t.Fatal(err)
			}
			if err := os.Chtimes(dir, c.at, c.at); err != nil {
				t.Fatal(err)
			}
		})
	}
	clearTemporary()
	left, _ := filepath.Glob(filepath.Join(os.TempDir(), "*"))
	if len(left) != 3 {
		t.Errorf("left are %v", left)
	}
	if _, err := os.Stat(filepath.Join(os.TempDir(), "sodrik-old")); !os.IsNotExist(err) {
		t.Error("an old folder of pictures stays")
	}
}
