package main

import (
	"bufio"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"sodrik/internal/db/private"
	"sodrik/internal/seal"
)

// TestServe starts the server with a database of its own: the first start prints the owner's link, which works once; the
// next prints none; SIGTERM stops it in order.
func TestServe(t *testing.T) {
	pg, err := private.Start(t.Context(), private.Options{Brief: true})
	if err != nil {
		t.Fatal(err)
	}
	defer pg.Stop()
	if err := pg.CreateDatabase(t.Context(), "served", true); err != nil {
		t.Fatal(err)
	}
	key := seal.NewKey()
	start := func() (cmd *exec.Cmd, lines <-chan string) {
		self, err := os.Executable()
		if err != nil {
			t.Fatal(err)
		}
		cmd = exec.Command(self, "serve", "-addr", "127.0.0.1:0")
		cmd.Env = append(os.Environ(), "SODRIK_AS_COMMAND=1", "SODRIK_DATABASE="+pg.URL("served"), "SODRIK_KEY="+key)
		out, err := cmd.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		ch := make(chan string, 10)
		go func() {
			for s := bufio.NewScanner(out); s.Scan(); {
				ch <- s.Text()
			}
			close(ch)
		}()
		return cmd, ch
	}
	stop := func(cmd *exec.Cmd, lines <-chan string) (rest string) {
		if err := cmd.Process.Signal(syscall.SIGTERM); err != nil {
			t.Fatal(err)
		}
		for l := range lines {
			rest += l
		}
		if err := cmd.Wait(); err != nil {
			t.Errorf("it did not stop in order: %v", err)
		}
		return rest
	}
	next := func(lines <-chan string) string {
		select {
		case l := <-lines:
			return l
		case <-time.After(20 * time.Second):
			t.Fatal("nothing was printed")
			return ""
		}
	}

	cmd, lines := start()
	base := regexp.MustCompile(`http://[\d.:]+`).FindString(next(lines))
	link := regexp.MustCompile(`http://\S+/first/\S+`).FindString(next(lines))
	if base == "" || !strings.HasPrefix(link, base) {
		t.Fatalf("address %q, link %q", base, link)
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	get := func(address string) (int, string) {
		r, err := client.Get(address)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		return r.StatusCode, r.Request.URL.Path
	}
	if status, path := get(base + "/codes"); status != 200 || path != "/sign-in" {
		t.Errorf("a stranger gets %d at %s", status, path)
	}
	if status, _ := get(link); status != 200 {
		t.Errorf("the owner's link gives %d", status)
	}
	r, err := client.PostForm(link, url.Values{"name": {"Tamsin"}, "email": {"tamsin@marrowby.example"},
		"password": {"leeks in october"}})
	if err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	if r.Request.URL.Path != "/style/first" || r.StatusCode != 200 {
		t.Errorf("the first owner lands at %s with %d", r.Request.URL.Path, r.StatusCode)
	}
	if status, _ := get(link); status != http.StatusConflict {
		t.Errorf("the link again: %d", status)
	}
	if status, _ := get(base + "/mailbox"); status != http.StatusNotFound {
		t.Errorf("the stand-in mailbox is open to all: %d", status)
	}
	if r, err = client.PostForm(base+"/codes", url.Values{"text": {"marrowby.example/kept"}}); err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	kept := r.Request.URL.Path
	if rest := stop(cmd, lines); rest != "" {
		t.Errorf("it printed %q", rest)
	}

	cmd, lines = start()
	base = regexp.MustCompile(`http://[\d.:]+`).FindString(next(lines))
	if status, path := get(base + kept); status != 200 || path != kept {
		t.Errorf("after a new start the code gives %d at %s", status, path)
	}
	if rest := stop(cmd, lines); strings.Contains(rest, "/first/") {
		t.Errorf("a second link was printed: %q", rest)
	}
}

// TestServeHelp: the reference names every setting.
func TestServeHelp(t *testing.T) {
	code, out, errs := sodrik(t, "", "serve", "-help")
	for _, want := range []string{"SODRIK_DATABASE", "SODRIK_KEY", "SODRIK_SMTP", "_FILE", "-addr", "-base", "-mail-from"} {
		if !strings.Contains(out+errs, want) {
			t.Errorf("the help does not name %s", want)
		}
	}
	if code != 0 {
		t.Errorf("exit %d", code)
	}
}
