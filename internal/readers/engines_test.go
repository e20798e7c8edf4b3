package readers

import (
	"fmt"
	"image"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

// stub is an engine that is a shell script; %NEXT% stands for what is put between pictures, %OWN% for the payload.
func stub(t *testing.T, family, script, payload string) proof.Reader {
	t.Helper()
	next, _ := between()
	script = strings.NewReplacer("%NEXT%", next, "%OWN%", payload).Replace(script)
	path := filepath.Join(t.TempDir(), "engine")
	if err := os.WriteFile(path, []byte("#!/bin/sh\n"+script+"\n"), 0o700); err != nil {
		t.Fatal(err)
	}
	return process{"stub", family, path, zbarArgs, zbarTexts}
}

// TestUnreliableEngines: whatever an engine does, the proof says the right thing about it, and nobody waits for long.
func TestUnreliableEngines(t *testing.T) {
	before := deadline
	deadline = 500 * time.Millisecond
	defer func() { deadline = before }()
	m, problems := compose.Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/fair"}}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	in, err := m.Proof(-1)
	if err != nil {
		t.Fatal(err)
	}
	const both = `printf '%s' "%OWN%%NEXT%%OWN%%NEXT%"`
	for _, c := range []struct{ name, script, want string }{
		{"reads", both, ""},
		{"hangs", "sleep 60", "reader.broken"},
		{"crashes", "kill -SEGV $$", "reader.broken"},
		{"fails", "exit 7", "reader.broken"},
		{"says nothing", "exit 0", "reader.broken"},
		{"answers for one picture", `printf '%s' "%OWN%%NEXT%"`, "reader.broken"},
		{"lies", `printf '%s' "https://elsewhere.example%NEXT%https://elsewhere.example%NEXT%"`, "misread"},
		{"talks without end", "yes", "reader.broken"},
		{"sees nothing", `printf '%s' "%NEXT%%NEXT%"; exit 4`, "unread.picture"},
		{"is deaf to its end", `trap '' TERM INT; sleep 60`, "reader.broken"},
	} {
		t.Run(c.name, func(t *testing.T) {
			panel := proof.Panel{Families: []string{"zxing", "other"},
				Readers: []proof.Reader{Gozxing(), stub(t, "other", c.script, m.Payload)}}
			start := time.Now()
			p, err := proof.Prove(t.Context(), in, panel, proof.Ordinary)
			if err != nil {
				t.Errorf("%s: %v", c.name, err)
				return
			}
			var got []string
			for _, f := range p.Findings {
				got = append(got, f.Code)
			}
			if strings.Join(got, " ") != c.want {
				t.Errorf("%s: %v, want %q", c.name, got, c.want)
			}
			// engines that hang would take 60; a busy machine needs some for the pictures
			if took := time.Since(start); took > 40*time.Second {
				t.Errorf("%s: took %v", c.name, took)
			}
		})
	}
	missing := process{"stub", "other", "/nonexistent/engine", zbarArgs, zbarTexts}
	if a := missing.Read(t.Context(), []*image.Gray{image.NewGray(image.Rect(0, 0, 30, 30))}); len(a) != 1 || a[0].Err == nil {
		t.Errorf("a missing engine answers %+v", a)
	}
}

// TestInside: an engine in this process may panic or run on; both are errors, and the slot is given back.
func TestInside(t *testing.T) {
	before := deadline
	deadline = 100 * time.Millisecond
	defer func() { deadline = before }()
	end := make(chan struct{})
	defer close(end)
	for name, look := range map[string]func(*image.Gray) ([]string, []int, error){
		"panics":  func(*image.Gray) ([]string, []int, error) { panic("out of range") },
		"runs on": func(*image.Gray) ([]string, []int, error) { <-end; return nil, nil, nil },
	} {
		t.Run(name, func(t *testing.T) {
			for range 3 {
				a := inside{"x", "x", look}.Read(t.Context(), []*image.Gray{nil})
				if len(a) != 1 || a[0].Err == nil {
					t.Errorf("%s: %+v", name, a)
				}
			}
		})
	}
	if a := Gozxing().Read(t.Context(), []*image.Gray{image.NewGray(image.Rect(0, 0, 50, 50))}); a[0].Err != nil {
		t.Errorf("afterwards: %v", a[0].Err)
	}
}

// TestBatches: many pictures at once are answered in their order, also where some hold nothing, by every reader.
func TestBatches(t *testing.T) {
	var pictures []*image.Gray
	var want []string
	for i := range 9 {
		text := fmt.Sprintf("https://marrowby.example/bed/%d\nKäse %d", i, i)
		m, problems := compose.Parse([]byte(fmt.Sprintf(`{"content":{"kind":"text","text":%q}}`, text)), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		in, err := m.Proof(-1)
		if err != nil {
			t.Fatal(err)
		}
		if i%3 == 1 {
			pictures, want = append(pictures, image.NewGray(image.Rect(0, 0, 90+i, 80))), append(want, "")
			continue
		}
		pictures, want = append(pictures, in.File), append(want, text)
	}
	for _, r := range panel(t) {
		answers := r.Read(t.Context(), pictures)
		if len(answers) != len(pictures) {
			t.Fatalf("%s: %d answers", r.Name(), len(answers))
		}
		for i, a := range answers {
			if got := strings.Join(a.Payloads, " and "); a.Err != nil || got != want[i] {
				t.Errorf("%s, picture %d: %q %v, want %q", r.Name(), i, got, a.Err, want[i])
			}
		}
	}
}
