// Package private runs a PostgreSQL server of its own for the demonstration and the tests: on loopback only, on a free
// port, in a data directory of its own, never as root. It touches no other server on the machine.
package private

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Options of Start.
type Options struct {
	Dir   string                           // data directory; made where it is not there. Empty: a temporary one, removed at Stop
	Brief bool                             // trade safety for speed: for tests, whose data may be lost
	Model Model                            // what a brief server begins with
	Log   func(format string, args ...any) // what happens, for people; nil is silent
	anew  bool                             // no copy of a model: the model itself
}

// Server is a running server.
type Server struct {
	options  Options
	bin      string
	account  *account
	port     int
	password string
	mu       sync.Mutex
	cmd      *exec.Cmd
	done     chan struct{} // closed when the present process has ended
	stopping bool
	remove   bool
}

// account is whom the server runs as where this program runs as root.
type account struct {
	uid, gid uint32
	name     string
}

// Start brings a server up and waits until it answers. It starts the server again should it end on its own.
func Start(ctx context.Context, o Options) (*Server, error) {
	if o.Log == nil {
		o.Log = func(string, ...any) {}
	}
	s := &Server{options: o}
	var err error
	if s.bin, err = findBinaries(); err != nil {
		return nil, err
	}
	if os.Geteuid() == 0 {
		if s.account, err = postgresAccount(); err != nil {
			return nil, err
		}
	}
	if o.Dir == "" {
		if s.options.Dir, err = os.MkdirTemp(inMemory(), temporary); err != nil {
			return nil, err
		}
		s.remove = true
		s.options.Dir = filepath.Join(s.options.Dir, "data")
		if err := os.Chmod(filepath.Dir(s.options.Dir), 0o711); err != nil {
			return nil, err
		}
	}
	if err := s.initialise(ctx); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	if err := s.launch(); err != nil {
		return nil, err
	}
	if err := s.await(ctx); err != nil {
		s.Stop()
		return nil, err
	}
	return s, nil
}

// inMemory is where files stay in memory, if this machine has room for some there, or "". A data directory is a thousand small
// files, and so is each database that a test makes. What those left there yesterday who were killed is put away.
func inMemory() string {
	const memory, room = "/dev/shm", 2 << 30
	var at syscall.Statfs_t
	if err := syscall.Statfs(memory, &at); err != nil || at.Bavail*uint64(at.Bsize) < room {
		return ""
	}
	left, _ := filepath.Glob(filepath.Join(memory, temporary+"*"))
	for _, dir := range left {
		if i, err := os.Stat(dir); err == nil && time.Since(i.ModTime()) > 24*time.Hour {
			os.RemoveAll(dir)
		}
	}
	return memory
}

// temporary begins the names of data directories that are removed at Stop.
const temporary = "sodrik-pg-"

// findBinaries looks where Debian puts the newest server, then along the path.
func findBinaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	slices.SortFunc(found, func(a, b string) int { return version(b) - version(a) })
	if len(found) > 0 {
		return filepath.Dir(found[0]), nil
	}
	if p, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(p), nil
	}
	return "", errors.New("PostgreSQL is not installed: install Debian's package postgresql")
}

func version(path string) int {
	n, _ := strconv.Atoi(strings.Split(strings.TrimPrefix(path, "/usr/lib/postgresql/"), "/")[0])
	return n
}

func postgresAccount() (*account, error) {
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("PostgreSQL refuses to run as root, and there is no account postgres to run it as")
	}
	uid, err1 := strconv.Atoi(u.Uid)
	gid, err2 := strconv.Atoi(u.Gid)
	return &account{uint32(uid), uint32(gid), u.Username}, errors.Join(err1, err2)
}

func (s *Server) command(name string, args ...string) *exec.Cmd {
	c := exec.Command(filepath.Join(s.bin, name), args...)
	c.Dir = filepath.Dir(s.options.Dir)
	c.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C.UTF-8", "TZ=UTC", "HOME=" + c.Dir}
	// Its own process group: Ctrl-C reaches this program first, which then stops the server in order. Should this program
	// be killed outright, the kernel asks the server to stop (SIGINT: fast shutdown).
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGINT}
	if s.account != nil {
		c.SysProcAttr.Credential = &syscall.Credential{Uid: s.account.uid, Gid: s.account.gid}
	}
	return c
}

func (s *Server) initialise(ctx context.Context) error {
	dir := s.options.Dir
	secret := dir + ".password"
	if b, err := os.ReadFile(secret); err == nil {
		if _, err := os.Stat(filepath.Join(dir, "PG_VERSION")); err == nil {
			s.password = string(b)
			return nil
		}
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	if entries, err := os.ReadDir(dir); err != nil || len(entries) > 0 {
		return fmt.Errorf("%s holds something that is not a finished database; move it away", dir)
	}
	if s.options.Brief && !s.options.anew {
		if ok, err := s.from(ctx, s.options.Model); ok || err != nil {
			return err
		}
	}
	s.password = rand.Text()
	if err := s.keepSecret(); err != nil {
		return err
	}
	args := []string{"-D", dir, "-U", "sodrik", "-E", "UTF8", "--locale=C.UTF-8", "--auth=scram-sha-256", "--pwfile=" + secret}
	if s.options.Brief {
		args = append(args, "--no-sync", "--wal-segsize=4")
	}
	out, err := s.command("initdb", args...).CombinedOutput()
	if err != nil {
		return fmt.Errorf("initdb failed: %w\n%s", err, out)
	}
	return ctx.Err()
}

// keepSecret writes the password beside the data directory, both for the account that the server runs as.
func (s *Server) keepSecret() error {
	secret := s.options.Dir + ".password"
	if err := os.WriteFile(secret, []byte(s.password), 0o600); err != nil || s.account == nil {
		return err
	}
	for _, p := range []string{s.options.Dir, secret} {
		if err := os.Chown(p, int(s.account.uid), int(s.account.gid)); err != nil {
			return err
		}
	}
	return nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// launch starts the process from a thread that lives as long as it does: the kernel ties Pdeathsig to the thread.
func (s *Server) launch() error {
	settings := []string{"listen_addresses=127.0.0.1", "unix_socket_directories=", "max_connections=60", "shared_buffers=64MB",
		"logging_collector=off", "log_min_messages=warning", "timezone=UTC"}
	if s.options.Brief {
		settings = append(settings, "fsync=off", "synchronous_commit=off", "full_page_writes=off")
	}
	args := []string{"-D", s.options.Dir, "-p", strconv.Itoa(s.port)}
	for _, v := range settings {
		args = append(args, "-c", v)
	}
	log, err := os.OpenFile(s.options.Dir+".log", os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return err
	}
	cmd := s.command("postgres", args...)
	cmd.Stdout, cmd.Stderr = log, log
	started, done := make(chan error, 1), make(chan struct{})
	go func() {
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		defer log.Close()
		defer close(done)
		err := cmd.Start()
		started <- err
		if err == nil {
			err = cmd.Wait()
			s.ended(err)
		}
	}()
	if err := <-started; err != nil {
		return err
	}
	s.mu.Lock()
	s.cmd, s.done = cmd, done
	s.mu.Unlock()
	return nil
}

// ended starts the server again unless it was told to stop.
func (s *Server) ended(err error) {
	s.mu.Lock()
	stopping := s.stopping
	s.mu.Unlock()
	if stopping {
		return
	}
	s.options.Log("the database ended (%v); it is started again", err)
	go func() {
		time.Sleep(500 * time.Millisecond)
		s.mu.Lock()
		stopping := s.stopping
		s.mu.Unlock()
		if !stopping {
			if err := s.launch(); err != nil {
				s.options.Log("the database does not start: %v", err)
			}
		}
	}()
}

func (s *Server) await(ctx context.Context) error {
	deadline := time.Now().Add(30 * time.Second)
	for {
		conn, err := pgx.Connect(ctx, s.URL("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		s.mu.Lock()
		done := s.done
		s.mu.Unlock()
		select {
		case <-done:
			out, _ := os.ReadFile(s.options.Dir + ".log")
			return fmt.Errorf("the database did not start; %s.log ends with:\n%s", s.options.Dir, tail(out, 800))
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(30 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("the database did not answer within 30 s: %w", err)
		}
	}
}

func tail(b []byte, n int) []byte { return b[max(0, len(b)-n):] }

// URL is the address of one database of the server, with the password.
func (s *Server) URL(database string) string {
	return fmt.Sprintf("postgres://sodrik:%s@127.0.0.1:%d/%s?sslmode=disable", s.password, s.port, database)
}

// PID is the process that now serves, 0 where there is none.
func (s *Server) PID() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.cmd == nil || s.cmd.Process == nil {
		return 0
	}
	return s.cmd.Process.Pid
}

// CreateDatabase makes a database unless it is there; fresh drops it first.
func (s *Server) CreateDatabase(ctx context.Context, name string, fresh bool) error {
	conn, err := pgx.Connect(ctx, s.URL("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	quoted := pgx.Identifier{name}.Sanitize()
	if fresh {
		if _, err := conn.Exec(ctx, "DROP DATABASE IF EXISTS "+quoted+" WITH (FORCE)"); err != nil {
			return err
		}
	}
	var there bool
	if err := conn.QueryRow(ctx, "SELECT count(*) > 0 FROM pg_database WHERE datname = $1", name).Scan(&there); err != nil ||
		there {
		return err
	}
	_, err = conn.Exec(ctx, "CREATE DATABASE "+quoted)
	return err
}

// CopyDatabase makes a database as a copy of another, in which nobody may be.
func (s *Server) CopyDatabase(ctx context.Context, from, name string) error {
	conn, err := pgx.Connect(ctx, s.URL("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize()+" TEMPLATE "+pgx.Identifier{from}.Sanitize()+
		" STRATEGY FILE_COPY") // twice as fast as through the log
	return err
}

// Stop ends the server in order: connections are closed, data is written. A temporary data directory is removed.
func (s *Server) Stop() {
	s.end()
	if s.remove {
		os.RemoveAll(filepath.Dir(s.options.Dir))
	}
}

func (s *Server) end() {
	s.mu.Lock()
	s.stopping = true
	cmd, done := s.cmd, s.done
	s.mu.Unlock()
	if cmd != nil && cmd.Process != nil {
		cmd.Process.Signal(syscall.SIGINT)
		select {
		case <-done:
		case <-time.After(20 * time.Second):
			cmd.Process.Signal(syscall.SIGQUIT)
			<-done
		}
	}
}
