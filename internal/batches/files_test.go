package batches

import (
	"archive/zip"
	"bytes"
	"errors"
	"strings"
	"testing"

	"sodrik/internal/core/batch"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/problem"
	"sodrik/internal/link"
)

func zipOf(t *testing.T, files ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		if err != nil {
			t.Fatal(err)
		}
		w.Write([]byte(files[i+1]))
	}
	z.Close()
	return b.Bytes()
}

// TestOpen has rows open files of a zip, each its own; a name without a file and a file without a name are said.
func TestOpen(t *testing.T) {
	s := store(t)
	ctx := t.Context()
	id := made(t, s, "SKU;Guide\nMB-1;leek.pdf\nMB-2;Kale\nMB-3;pea.pdf\n")
	guides := zipOf(t, "guides/", "", "guides/Leek.PDF", "%PDF-1.7\nleek", "guides/kale.pdf", "%PDF-1.7\nkale", "guides/rose.pdf",
		"%PDF-1.7\nrose", "__MACOSX/guides/._leek.pdf", "x", "guides/.DS_Store", "x")
	var l problem.List
	if _, err := s.Open(ctx, editor, id, guides); !errors.As(err, &l) {
		t.Fatal("a server without short links: ", err)
	}
	s.Links = link.New(s.Codes, "https://go.marrowby.example")
	o, err := s.Open(ctx, editor, id, guides)
	if err != nil ||
		o.String() != "2 rows of the column Guide open a file of their own; not in the zip: pea.pdf; named by no row: rose.pdf" {
		t.Fatalf("%v %v", o, err)
	}
	b, all := got(t, s, id)
	if b.Plan.Kind() != "url" || !strings.HasPrefix(all[0].Says,
		"https://go.marrowby.example/") || !strings.HasSuffix(all[1].Says, "/kale.pdf") ||
		all[2].State != Bad || all[0].Says == all[1].Says {
		t.Errorf("%+v %+v", b.Plan, all)
	}
	if o, err = s.Open(ctx, editor, id, zipOf(t, "pea.pdf", "%PDF-1.7\npea")); err != nil || o.Rows != 1 {
		t.Fatal(o, err)
	}
	if _, all = got(t, s, id); all[2].State != Good || all[0].State != Good {
		t.Errorf("%+v", all)
	}
	for what, data := range map[string][]byte{"no zip": []byte("leek"), "no name": zipOf(t, "oak.pdf", "%PDF-1.7\n"),
		"a program": zipOf(t, "leek.pdf", "<html><script>")} {
		t.Run(what, func(t *testing.T) {
			if _, err := s.Open(ctx, editor, id, data); !errors.As(err, &l) || l[0].Field != "/file" {
				t.Errorf("%s: %v", what, err)
			}
		})
	}
}

// TestOpenColumnGone: the column that named the files went while they were kept.
func TestOpenColumnGone(t *testing.T) {
	s := store(t)
	id := made(t, s, "SKU;Guide\nMB-1;leek.pdf\n")
	var l problem.List
	if err := s.openAt(t.Context(), editor, id, map[string]string{"leek.pdf": "https://go.marrowby.example/f/1/leek.pdf"},
		&Opened{Column: "Leaflet"}); !errors.As(err, &l) || !strings.Contains(l[0].Message, `"Leaflet"`) {
		t.Error(err)
	}
}

// TestCheckPanics: a row whose making panics fails its batch, not the process.
func TestCheckPanics(t *testing.T) {
	s := store(t)
	id := made(t, s, "SKU;Link\nMB-1;https://marrowby.example/1\n")
	b, rows := got(t, s, id)
	rows[0].Code = "at a desk of which the use cases are missing"
	all := Rows{store: &Store{}, batch: b, rows: rows, workspace: editor.Workspace, keys: map[string]int{}}
	var p *caught.Panic
	if err := all.write(t.Context(), &batch.Maker{}, []int{0}); !errors.As(err, &p) {
		t.Error(err)
	}
}
