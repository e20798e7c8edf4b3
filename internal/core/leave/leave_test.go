package leave

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/leads"
)

var now = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)

const host = "go.marrowby.example"

func goes(to string) *leads.Live {
	return &leads.Live{Status: 302, Steps: []leads.Step{{Act: leads.Act{Does: leads.Goes, To: to}}}}
}

// odd are destinations that would mean something to a server if they were not escaped.
var odd = map[string]string{
	"FA1R": "https://marrowby.example/fair",
	"D1":   "https://marrowby.example/?a=$1&b=$uri${host}$",
	"B1":   "https://marrowby.example/{http.request.host}?{query}={}",
	"P1":   "https://marrowby.example/%24%7Bx%7D%20y?q=%1&r=100%25",
	"Q1":   `https://marrowby.example/"a"?b='c'`,
	"S1":   `https://marrowby.example/a\b\\c?d=\1`,
	"N1":   "https://marrowby.example/a b",
	"A1":   "https://marrowby.example/?a=b&amp;c=d#part-2;x",
	"W-2":  "http://marrowby.example:8080/;#",

	"SPRING/SHOP_1.HTML": "https://marrowby.example/shop", // that came from elsewhere
	"A B+(C)":            "https://marrowby.example/a",
}

func pack() []Link {
	var out []Link
	for path, to := range odd {
		out = append(out, Link{Host: host, Path: path, Code: "Fair", Live: goes(to)})
	}
	card := leads.Act{Does: leads.Asks, Title: "Save this contact?", Lines: []string{"Åsa <Thorne>"}, Label: "Save the contact",
		File: &leads.File{Name: "contact.vcf", Type: "text/vcard; charset=utf-8", Text: "BEGIN:VCARD\r\nFN:Åsa\r\nEND:VCARD\r\n"}}
	call := leads.Act{Does: leads.Asks, Title: "Call this number?", Lines: []string{"+44 113 496 0123"}, Label: "Call",
		To: "tel:+441134960123"}
	rest := leads.Act{Does: leads.Quiet, Title: "Back & soon.", To: "https://marrowby.example", Label: "Go to marrowby.example"}
	for path, a := range map[string]leads.Act{"CARD": card, "CALL": call, "REST": rest} {
		out = append(out, Link{Host: host, Path: path, Code: "=1+1", Live: &leads.Live{Status: 302,
			Steps: []leads.Step{{Act: a}}}})
	}
	return append(out, Link{Host: "other.marrowby.example:8443", Path: "FA1R", Live: goes("https://other.example/")})
}

// unpacked writes the pack into a folder.
func unpacked(t *testing.T) (dir string, files map[string]string) {
	t.Helper()
	dir, files = t.TempDir(), map[string]string{}
	os.Chmod(dir, 0o755)
	os.Chmod(filepath.Dir(dir), 0o755)
	for _, f := range Pack(pack(), now) {
		at := filepath.Join(dir, filepath.FromSlash(f.Name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at, f.Data, 0o644); err != nil {
			t.Fatal(err)
		}
		files[f.Name] = string(f.Data)
	}
	return dir, files
}

// TestTables: CSV and JSON hold every link, read by readers of their own; no cell is a formula.
func TestTables(t *testing.T) {
	_, files := unpacked(t)
	rows, err := csv.NewReader(strings.NewReader(files["links.csv"])).ReadAll()
	if err != nil || len(rows) != len(odd)+5 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	var list []map[string]any
	if err := json.Unmarshal([]byte(files["links.json"]), &list); err != nil || len(list) != len(odd)+4 {
		t.Fatalf("%d entries, %v", len(list), err)
	}
	found := 0
	for i, r := range rows[1:] {
		if list[i]["link"] != r[0] || fmt.Sprint(list[i]["status"]) != r[3] {
			t.Errorf("%v in one, %v in the other", r, list[i])
		}
		for _, cell := range r {
			if strings.HasPrefix(cell, "=") {
				t.Errorf("%q is a formula", cell)
			}
		}
		if path, ok := strings.CutPrefix(r[0], "https://"+host+"/"); ok && odd[path] == r[2] && r[1] == "redirect" {
			found++
		}
	}
	if found != len(odd) {
		t.Errorf("%d of %d destinations are in the table", found, len(odd))
	}
}

// TestLost: what a file cannot hold is named.
func TestLost(t *testing.T) {
	l := Link{Host: host, Path: "FA1R", Live: goes("https://a.example")}
	if len(l.Lost(now)) != 0 {
		t.Errorf("a plain link loses %v", l.Lost(now))
	}
	l.Live.KeepQuery, l.Live.Status = true, 307
	l.Live.Steps = append(l.Live.Steps, leads.Step{From: now.Unix() + 1, Act: leads.Act{Does: leads.Goes,
		To: "https://b.example"}},
		leads.Step{From: now.Unix() + 60})
	if got := l.Lost(now.Add(time.Second)); len(got) != 3 {
		t.Errorf("%q", got)
	}
	files := Pack([]Link{l}, now)
	if text := string(files[0].Data); strings.Count(text, "go.marrowby.example/FA1R:") != 4 || !strings.Contains(text,
		"1 March 2027") {
		t.Errorf("%s", text)
	}
}

// served asks a server for every link, in both ways of writing it, and holds the answers against what is live.
func served(t *testing.T, server, address string, either bool) {
	t.Helper()
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	ask := func(host, path string) (*http.Response, string) {
		r, err := http.NewRequest("GET", "http://"+address+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Host = host
		for end := time.Now().Add(20 * time.Second); ; time.Sleep(50 * time.Millisecond) {
			w, err := client.Do(r)
			if err != nil {
				if time.Now().Before(end) {
					continue
				}
				t.Fatalf("%s does not answer: %v", server, err)
			}
			body, _ := io.ReadAll(w.Body)
			w.Body.Close()
			return w, string(body)
		}
	}
	for path, to := range odd {
		for _, way := range []string{"/" + path, "/" + path + "/", "/" + strings.ToLower(path), "/" + path + "?utm=1"} {
			w, body := ask(host, way)
			got := w.Header.Get("Location")
			if !either { // plain files
				m := regexp.MustCompile(`content="0; url=(.*?)">`).FindStringSubmatch(body)
				if m == nil {
					t.Errorf("%s: %s is %s", server, way, body)
					continue
				}
				got = html.UnescapeString(m[1])
			} else if w.StatusCode != 302 {
				t.Errorf("%s: %s is %d", server, way, w.StatusCode)
			}
			if got = strings.ReplaceAll(got, "%22", `"`); got != to { // the same (RFC 3986, 2.1)
				t.Errorf("%s: %s leads to %q, not to %q", server, way, got, to)
			}
		}
	}
	for path, want := range map[string]string{"/CARD": `href="contact.vcf"`, "/CALL": `href="tel:+441134960123"`,
		"/call": "Call this number?", "/REST/": "Back &amp; soon."} {
		if path == "/CARD" {
			path = "/CARD/" // where the file lies beside the page
		}
		if w, body := ask(host, path); w.StatusCode != 200 || !strings.Contains(body, want) ||
			!strings.HasPrefix(w.Header.Get("Content-Type"), "text/html") {
			t.Errorf("%s: %s is %d %s", server, path, w.StatusCode, body)
		}
	}
	if w, body := ask(host, "/CARD/contact.vcf"); w.StatusCode != 200 || !strings.Contains(body, "FN:Åsa") ||
		strings.ToLower(w.Header.Get("Content-Type")) != "text/vcard; charset=utf-8" {
		t.Errorf("%s: the contact is %d %v %q", server, w.StatusCode, w.Header, body)
	}
	if w, _ := ask(host, "/N0NE"); w.StatusCode != 404 {
		t.Errorf("%s: what is no link is %d", server, w.StatusCode)
	}
	if either {
		if w, _ := ask("other.marrowby.example", "/fa1r"); w.Header.Get("Location") != "https://other.example/" {
			t.Errorf("%s: the other host leads to %q", server, w.Header.Get("Location"))
		}
	}
}

// free is a port of this machine on which nothing listens.
func free(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

// run starts a server until the test ends.
func run(t *testing.T, dir, program string, args ...string) {
	t.Helper()
	c := exec.Command(program, args...)
	log, err := os.Create(filepath.Join(dir, "log"))
	if err != nil {
		t.Fatal(err)
	}
	c.Stdout, c.Stderr, c.Env = log, log, append(os.Environ(), "HOME="+dir, "XDG_DATA_HOME="+dir, "XDG_CONFIG_HOME="+dir)
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		c.Process.Signal(os.Interrupt)
		done := make(chan struct{})
		go func() { c.Wait(); close(done) }()
		select {
		case <-done:
		case <-time.After(5 * time.Second):
			c.Process.Kill()
		}
		if t.Failed() {
			b, _ := os.ReadFile(log.Name())
			t.Logf("%s said: %s", program, b)
		}
	})
}

// put writes a file and gives its path.
func put(t *testing.T, dir, name, text string) string {
	t.Helper()
	at := filepath.Join(dir, name)
	if err := os.WriteFile(at, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return at
}

// TestServers serves the pack with web servers that we did not write.
func TestServers(t *testing.T) {
	t.Run("nginx", func(t *testing.T) {
		t.Parallel()
		dir, files := unpacked(t)
		at := free(t)
		text := strings.ReplaceAll(strings.ReplaceAll(files["nginx.conf"], "listen 80;", "listen "+at+";"), "/var/www/",
			dir+"/site/")
		put(t, dir, "links.conf", text)
		conf := put(t, dir, "main.conf",
			"daemon off; master_process off; pid "+dir+"/pid; error_log "+dir+"/errors;\nevents {}\n"+
				"http { access_log off; client_body_temp_path "+dir+"/t1; proxy_temp_path "+dir+"/t2; fastcgi_temp_path "+dir+"/t3; "+
				"uwsgi_temp_path "+dir+"/t4; scgi_temp_path "+dir+"/t5; map_hash_bucket_size 256; include "+dir+"/links.conf; }\n")
		run(t, dir, "nginx", "-c", conf, "-e", dir+"/errors")
		served(t, "nginx", at, true)
	})
	t.Run("caddy", func(t *testing.T) {
		t.Parallel()
		dir, files := unpacked(t)
		at := free(t)
		_, port, _ := net.SplitHostPort(at)
		text := regexp.MustCompile(`(?m)^([a-z.]+) \{$`).ReplaceAllString(files["Caddyfile"],
			"http://$1:"+port+" {\n\tbind 127.0.0.1")
		text = "{\n\tadmin off\n}\n" + strings.ReplaceAll(text, "/var/www/", dir+"/site/")
		run(t, dir, "caddy", "run", "--adapter", "caddyfile", "--config", put(t, dir, "Caddyfile.test", text))
		served(t, "caddy", at, true)
	})
	t.Run("apache", func(t *testing.T) {
		t.Parallel()
		dir, files := unpacked(t)
		at := free(t)
		modules := ""
		for _, m := range []string{"mpm_event", "authz_core", "rewrite", "mime", "dir"} {
			modules += fmt.Sprintf("LoadModule %s_module /usr/lib/apache2/modules/mod_%s.so\n", m, m)
		}
		conf := put(t, dir, "main.conf", modules+"ServerName "+host+"\nServerAlias other.marrowby.example\nListen "+at+"\nPidFile "+dir+
			"/pid\nErrorLog "+dir+"/errors\nDocumentRoot "+dir+"/site/"+host+"\nTypesConfig /dev/null\nAddType text/html .html\n"+
			"<Directory />\nRequire all granted\n</Directory>\nDirectoryIndex index.html\nUser www-data\nGroup www-data\n"+files["apache.conf"])
		text, _ := os.ReadFile(conf)
		put(t, dir, "main.conf", strings.Replace(string(text), "ServerAlias other.marrowby.example\n", "", 1))
		run(t, dir, "apache2", "-X", "-f", conf)
		served(t, "apache", at, true)
	})
	t.Run("plain files", func(t *testing.T) {
		t.Parallel()
		dir, _ := unpacked(t)
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		s := &http.Server{Handler: followed(http.FileServer(http.Dir(dir + "/site/" + host)))}
		go s.Serve(l)
		t.Cleanup(func() { s.Close() })
		served(t, "plain files", l.Addr().String(), false)
	})
}

// followed has a file server answer at once for a folder, as hosts of plain files do, in place of leading to its slash.
func followed(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasSuffix(r.URL.Path, "/") && !strings.HasSuffix(r.URL.Path, ".vcf") {
			r.URL.Path += "/"
		}
		h.ServeHTTP(w, r)
	})
}
