package shelf

import (
	"errors"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var (
	ws        = access.OfProgram("marrowby", "")
	elsewhere = access.OfProgram("other", "")
)

func open(t *testing.T) *Shelf {
	t.Helper()
	d := dbtest.Open(t)
	if _, err := d.Pool.Exec(t.Context(),
		`INSERT INTO workspaces (id, name) VALUES ('marrowby', 'Marrowby'), ('other', 'Other')`); err != nil {
		t.Fatal(err)
	}
	now := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	return &Shelf{Ground: &ground.Ground{DB: d, Now: func() time.Time { now = now.Add(time.Second); return now }}}
}

const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><circle cx="4" cy="4" r="4"/></svg>`

// TestUpload: a drawing is kept once under the name of its file alone, is found by its workspace and by no other, and by
// whoever may look.
func TestUpload(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	a, err := s.Upload(ctx, ws, `C:\marks\seed.svg`, []byte(logo))
	if err != nil || a.Name != "seed.svg" {
		t.Fatal(a, err)
	}
	if _, err := s.Upload(ctx, ws, "other.svg",
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="5"/></svg>`)); err != nil {
		t.Fatal(err)
	}
	if again, err := s.Upload(ctx, ws, "seed, newest.svg",
		[]byte(strings.Replace(logo, "><circle", ">\n  <circle", 1))); err != nil ||
		again.Source != a.Source {
		t.Errorf("the same drawing is kept as %s and %s, %v", a.Source, again.Source, err)
	}
	list, err := s.Uploads(ctx, ws)
	if err != nil || len(list) != 2 || list[0].Name != "seed, newest.svg" || list[0].Is == nil {
		t.Errorf("%+v %v", list, err)
	}
	if list, err := s.Uploads(ctx, elsewhere); err != nil || len(list) != 0 {
		t.Errorf("another workspace sees %+v %v", list, err)
	}
	printer := access.Actor{Kind: access.Person, ID: "p", Name: "Wren", Workspace: "marrowby", Role: access.Printer}
	for _, c := range []struct {
		name  string
		actor access.Actor
		found bool
	}{{"the workspace", ws, true}, {"another", elsewhere, false}, {"a printer, for the files", printer, true},
		{"nobody", access.Actor{Workspace: "marrowby"}, false}} {
		t.Run(c.name, func(t *testing.T) {
			if _, ok := s.Assets(ctx, c.actor)(a.Source); ok != c.found {
				t.Errorf("%s finds it: %v", c.name, ok)
			}
		})
	}
	if _, err := s.Upload(ctx, printer, "x.svg", []byte(logo)); err == nil {
		t.Error("a printer took something in")
	}
}

// TestRefused: what cannot be taken in says so at the field of the file, and nothing is kept.
func TestRefused(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	var problems problem.List
	for name, do := range map[string]func() error{
		"no drawing":  func() error { _, err := s.Upload(ctx, ws, "x", nil); return err },
		"no typeface": func() error { _, err := s.UploadFace(ctx, ws, []byte(logo)); return err },
		"no artwork":  func() error { _, err := s.UploadArtwork(ctx, ws, "x", []byte("a flyer")); return err },
		"nobody draws a PDF": func() error {
			_, err := s.UploadArtwork(ctx, ws, "x.pdf", []byte("%PDF-1.4 no more"))
			return err
		},
		"beyond the room": func() error {
			if _, err := s.Upload(ctx, ws, "x.svg", []byte(logo)); err != nil {
				t.Fatal(err)
			}
			s.UploadRoom = 10
			_, err := s.Upload(ctx, ws, "y.svg", []byte(logo))
			s.UploadRoom = 0
			return err
		},
	} {
		t.Run(name, func(t *testing.T) {
			if err := do(); !errors.As(err, &problems) || problems[0].Field != "/file" {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	if list, err := s.Uploads(ctx, ws); err != nil || len(list) != 1 {
		t.Errorf("kept are %+v, %v", list, err)
	}
}

// TestTidyName: names come without folders and without what cannot be printed, and are short.
func TestTidyName(t *testing.T) {
	for name, want := range map[string]string{`C:\marks\seed.svg`: "seed.svg", "/home/wren/leaf.png": "leaf.png",
		"a\x00b\tc": "abc", "": "mark", "/": "mark", strings.Repeat("ü", 81): strings.Repeat("ü", 80)} {
		t.Run(name, func(t *testing.T) {
			if got := tidyName(name, "mark"); got != want {
				t.Errorf("%q: %q, want %q", name, got, want)
			}
		})
	}
}
