package link

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
	"sodrik/internal/redirect"
	"sodrik/internal/seal"
)

var guide = []byte("%PDF-1.7\n" + strings.Repeat("sow in rows, ", 20000) + "\n%%EOF\n")

func ask(r *redirect.Service, url string, headers ...string) *httptest.ResponseRecorder {
	w, q := httptest.NewRecorder(), httptest.NewRequest(http.MethodGet, url, nil)
	for i := 0; i < len(headers); i += 2 {
		q.Header.Set(headers[i], headers[i+1])
	}
	r.ServeHTTP(w, q)
	return w
}

// TestFiles: a file becomes a code that opens it, in one act; it is answered from the log alone, in parts too, also under another
// key; a code can lead to another file, and the leaving pack has them.
func TestFiles(t *testing.T) {
	s := open(t)
	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	r := service(t, s, log)
	start(t, NewRelay(s.Codes.DB, log).Run)
	ctx := t.Context()
	id, err := s.Open(ctx, ws, "Sowing guide 2027.pdf", guide)
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Codes.Get(ctx, ws, id)
	if err != nil || c.Name() != "Sowing guide 2027" {
		t.Fatalf("the code is called %q, %v", c.Name(), err)
	}
	a := Links(c.Rendition.Job)[0].Address
	issue(t, s, id)
	var at string
	until(t, "the link leads to the file", 5*time.Second, func() bool {
		at = ask(r, a.URL()).Header().Get("Location")
		return at != ""
	})
	if !strings.HasPrefix(at, "https://go.marrowby.example/f/") || !strings.HasSuffix(at, "/sowing-guide-2027.pdf") ||
		len(at) != len("https://go.marrowby.example/f/")+16+len("/sowing-guide-2027.pdf") {
		t.Errorf("it leads to %s", at)
	}
	w := ask(r, at)
	if w.Code != 200 || !bytes.Equal(w.Body.Bytes(), guide) || w.Header().Get("Content-Type") != "application/pdf" ||
		w.Header().Get("Content-Disposition") != "inline; filename=sowing-guide-2027.pdf" ||
		w.Header().Get("X-Content-Type-Options") != "nosniff" {
		t.Errorf("the file is answered by %d %v", w.Code, w.Header())
	}
	if w := ask(r, at, "Range", "bytes=0-3"); w.Code != 206 || w.Body.String() != "%PDF" {
		t.Errorf("a part of it by %d %q", w.Code, w.Body)
	}
	if w := ask(r, at, "If-None-Match", w.Header().Get("ETag")); w.Code != 304 {
		t.Errorf("what the phone has already by %d", w.Code)
	}
	for _, other := range []string{strings.Replace(at, "/f/", "/f/x", 1), "https://go.marrowby.example/f/",
		"https://go.marrowby.example/f"} {
		t.Run(other, func(t *testing.T) {
			if w := ask(r, other); w.Code != 404 {
				t.Errorf("%s is answered by %d", other, w.Code)
			}
		})
	}

	// What is no file that phones open is refused, at its field, and nothing of it is kept.
	if _, err := s.Open(ctx, ws, "guide.pdf", []byte("<html>")); problemOf(err) != "/file file.kind" {
		t.Errorf("a page: %v", err)
	}
	if _, err := s.LeadToFile(ctx, ws, id, "guide.pdf", nil); problemOf(err) != "/to file.empty" {
		t.Errorf("an empty file: %v", err)
	}
	photo := []byte("\x89PNG\r\n\x1a\n" + strings.Repeat("x", 1000))
	if _, err := s.LeadToFile(ctx, ws, id, "Tulips.png", photo); err != nil {
		t.Fatal(err)
	}
	l, err := s.MakeLive(ctx, ws, id, 0)
	if err != nil || !strings.HasSuffix(l.Live.Lead.To.Payload(), "/tulips.png") {
		t.Fatalf("another file: %v", err)
	}
	until(
		t,
		"the other file",
		5*time.Second,
		func() bool { return ask(r, a.URL()).Header().Get("Location") == l.Live.Lead.To.Payload() },
	)
	if w := ask(r, l.Live.Lead.To.Payload()); w.Code != 200 ||
		!strings.Contains(w.Header().Get("Content-Security-Policy"), "sandbox") {
		t.Errorf("the other file by %d %v", w.Code, w.Header())
	}

	var pack bytes.Buffer
	if err := s.Pack(ctx, ws, &pack); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(pack.Bytes()), int64(pack.Len()))
	if err != nil {
		t.Fatal(err)
	}
	found := 0
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "site/go.marrowby.example/f/") {
			found++
		}
	}
	if found != 2 {
		t.Errorf("the pack has %d files", found)
	}

	// Under a new key it is brought again, and the old one is not needed any more.
	key := seal.NewKey()
	both, err := seal.Parse(key + "," + base64.StdEncoding.EncodeToString(bytes.Repeat([]byte{7}, seal.KeySize)))
	if err != nil {
		t.Fatal(err)
	}
	s.Codes.Seal = both
	if _, err := s.Codes.Upkeep().Rotate(ctx, 0); err != nil {
		t.Fatal(err)
	}
	alone, err := seal.Parse(key)
	if err != nil {
		t.Fatal(err)
	}
	fresh := redirect.New(redirect.Options{Log: log, Seal: alone, Now: s.Codes.Now, Hosts: []string{"go.marrowby.example"}})
	start(t, fresh.Run)
	until(t, "the file under the new key", 10*time.Second, func() bool {
		w := ask(fresh, at)
		return w.Code == 200 && bytes.Equal(w.Body.Bytes(), guide)
	})
	if got := leads.FilesBelow; got != "/f/" {
		t.Errorf("files stand below %s, which print knows", got)
	}
}

// TestTrial: a code is tried under a link as long as its own, before it is handed over too, which leads where the draft says,
// keeps nothing of the scan, is the same for hours, and ends the next day.
func TestTrial(t *testing.T) {
	s := open(t)
	now := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	s.Codes.Now = func() time.Time { return now }
	log := openLog(t, eventlog.Options{Dir: t.TempDir()})
	r := redirect.New(redirect.Options{Log: log, Seal: s.Codes.Seal, Now: func() time.Time { return now },
		Hosts: []string{"go.marrowby.example"}})
	start(t, r.Run)
	start(t, NewRelay(s.Codes.DB, log).Run)
	ctx := t.Context()
	id := fair(t, s)
	if tried, err := s.Trial(ctx, ws, read(t, s, id), 0, nil); tried != nil || err != nil {
		t.Errorf("a fixed code is tried under %+v, %v", tried, err)
	}
	turn(t, s, id)
	if _, err := s.Word(ctx, ws, id, 1, "at-the-till-of-the-shop", code.Anyhow); err != nil {
		t.Fatal(err)
	}
	c := read(t, s, id)
	printed := Links(c.Rendition.Job)
	for i, p := range printed {
		tried, err := s.Trial(ctx, ws, c, i, nil)
		if err != nil {
			t.Fatal(err)
		}
		if a := tried.Address; a.Host != p.Address.Host || len(a.Path) != len(p.Address.Path) || a.Path == p.Address.Path ||
			tried.Ends.Sub(now) != 24*time.Hour {
			t.Errorf("%v is tried as %+v", p.Address, tried)
		}
		to := func() string { return ask(r, tried.Address.URL()).Header().Get("Location") }
		until(t, "the draft", 5*time.Second, func() bool { return to() == "https://marrowby.example/fair" })
		if _, err := s.Edit(ctx, ws, id, map[string]string{"to": "marrowby.example/shop"}, "GB", 0); err != nil {
			t.Fatal(err)
		}
		now = now.Add(19 * time.Hour)
		again, err := s.Trial(ctx, ws, c, i, nil)
		if err != nil || again.Address != tried.Address {
			t.Errorf("after some hours it is tried as %+v, %v", again, err)
		}
		until(t, "the draft that has changed", 5*time.Second, func() bool { return to() == "https://marrowby.example/shop" })
		now = now.Add(2 * time.Hour)
		if again, err = s.Trial(ctx, ws, c, i, nil); err != nil || again.Address == tried.Address {
			t.Errorf("shortly before its end it is tried as %+v, %v", again, err)
		}
		now = now.Add(3 * time.Hour)
		if w := ask(r, tried.Address.URL()); w.Code != 200 || !strings.Contains(w.Body.String(), "This trial is over.") {
			t.Errorf("the next day: %d %s", w.Code, w.Body)
		}
		if _, err := s.Edit(ctx, ws, id, map[string]string{"to": "marrowby.example/fair"}, "GB", 0); err != nil {
			t.Fatal(err)
		}
	}
	// What is handed over later does not make it one that hangs.
	issue(t, s, id)
	if got := answers(t, s); len(got) < 2 {
		t.Errorf("live are %v", got)
	}
	live, err := s.Live(ctx, ws)
	if err != nil || len(live) != len(printed) {
		t.Errorf("%d links hang, %v, want %d", len(live), err, len(printed))
	}
	quiet, cancel := context.WithTimeout(ctx, 300*time.Millisecond)
	defer cancel()
	log.Ingest(quiet, 100, func(batch []eventlog.Event) error {
		for _, m := range batch {
			events, err := scan.Decode(m.Data)
			for _, e := range events {
				if err != nil || e.Kind != scan.Unknown { // asked for before it was there
					t.Errorf("of a trial %+v is kept, %v", e, err)
				}
			}
		}
		return nil
	})
}

func read(t *testing.T, s *Store, id string) *code.Code {
	t.Helper()
	c, err := s.Codes.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	return c
}
