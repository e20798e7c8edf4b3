package code

import (
	"context"
	"errors"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/housestyle"
)

// houseOf gives a workspace a house style.
func houseOf(t *testing.T, s *Store, text string) *housestyle.Store {
	t.Helper()
	in, problems := style.Parse([]byte(text))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	h := &housestyle.Store{DB: s.DB, Now: s.Now}
	if _, err := h.Change(t.Context(), ws, -1, func(s *style.Style) error { *s = *in; return nil }); err != nil {
		t.Fatal(err)
	}
	return h
}

const aHouse = `{"colours":[{"key":"pine","name":"Pine","value":"#12352b"}],"looks":[{"key":"sign","name":"Garden sign","look":{"ink":{"style":"pine"},"modules":{"join":"rows","corner":1}}}]}`

// TestTypefaces: a typeface that came in is found by drafts and issued versions, and is not among the drawings.
func TestTypefaces(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	data, err := os.ReadFile("../core/typeface/fonts/caveat.ttf")
	if err != nil {
		t.Fatal(err)
	}
	face, err := s.UploadFace(ctx, ws, data)
	if err != nil || face.Name != "Caveat Bold" {
		t.Fatalf("%+v, %v", face, err)
	}
	if list, err := s.Uploads(ctx, ws); err != nil || len(list) != 0 {
		t.Errorf("among the drawings: %v, %v", list, err)
	}
	for name, bad := range map[string][]byte{"words": []byte("no font"), "a drawing": []byte("<svg/>"), "nothing": nil} {
		t.Run(name, func(t *testing.T) {
			var problems problem.List
			if _, err := s.UploadFace(ctx, ws, bad); !errors.As(err, &problems) || problems[0].Field != "/file" {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	id := create(t, s, "a", "https://marrowby.example/a")
	for path, text := range map[string]string{"/look/frame/shape": "rule", "/look/frame/text": "Sow",
		"/look/frame/font": face.Source} {
		t.Run(path, func(t *testing.T) {
			if _, err := s.Edit(ctx, ws, id, Edit{Path: path, Text: text, Tab: path, Seq: 1, Base: -1}); err != nil {
				t.Fatal(err)
			}
		})
	}
	c, err := s.Issue(ctx, ws, id)
	if err != nil || c.Rendition.Job.Look.Frame.Face().Name != "Caveat Bold" {
		t.Fatalf("%+v, %v", c, err)
	}
	st, err := s.At(ctx, ws, id, "v1")
	if err != nil || st.Rendition == nil || st.Rendition.Job.Look.Frame.Face().Name != "Caveat Bold" {
		t.Errorf("version 1: %v", err)
	}
}

// TestWearing: a look is put on as one edit, is known where it is worn, is told from one that was altered, and comes off by undo.
func TestWearing(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	h := houseOf(t, s, aHouse)
	house, _, err := h.Get(ctx, ws)
	if err != nil {
		t.Fatal(err)
	}
	sign, _ := house.Find("sign")
	var ids []string
	for _, name := range []string{"a", "b", "c"} {
		t.Run(name, func(t *testing.T) {
			ids = append(ids, create(t, s, name, "https://marrowby.example/"+name))
		})
	}
	if n, err := s.DressAll(ctx, ws, ids, sign); err != nil || len(n.Was) != 3 {
		t.Fatalf("%d changed, %v", len(n.Was), err)
	}
	if n, err := s.DressAll(ctx, ws, ids[:1], sign); err != nil || len(n.Was) != 0 {
		t.Errorf("again: %d changed, %v", len(n.Was), err)
	}
	c, err := s.Get(ctx, ws, ids[0])
	if err != nil || c.Rendition.Job.Look.Ink.String() != "#12352b" || From(c.Draft) != "sign" || c.Undo != "wear Garden sign" {
		t.Fatalf("%+v, %v", c, err)
	}
	if _, err := s.Edit(ctx, ws, ids[1], Edit{Path: "/look/modules/corner", Text: "0.4", Tab: "t", Seq: 1,
		Base: -1}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Undo(ctx, ws, ids[2], Turn{}); err != nil {
		t.Fatal(err)
	}
	worn := func() (out []string) {
		list, err := s.Wearers(ctx, ws)
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range list {
			if w.Look != "" {
				out = append(out, w.Name+map[bool]string{true: " altered"}[w.Altered])
			}
		}
		return out
	}
	if got := worn(); !slices.Equal(got, []string{"a", "b altered"}) {
		t.Errorf("worn by %q", got)
	}

	// A copy goes on being in the colours of the house, and knows the look it came from.
	copied, err := s.Duplicate(ctx, ws, ids[0])
	if err != nil {
		t.Fatal(err)
	}
	if c, err = s.Get(ctx, ws, copied); err != nil || From(c.Draft) != "sign" || c.Name() != "a, copy" ||
		c.Rendition.Job.Look.Ink.Style != "pine" {
		t.Errorf("the copy came from %q, in %+v, called %q: %v", From(c.Draft), c.Rendition.Job.Look.Ink, c.Name(), err)
	}

	// Another workspace sees nothing of it.
	if other, _, err := h.Get(ctx, elsewhere); err != nil || len(other.Colours) != 0 {
		t.Errorf("elsewhere: %+v, %v", other, err)
	}
}

// TestColourChanges: drafts follow a colour of the house; what is in print does not, and is told from the draft.
func TestColourChanges(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	h := houseOf(t, s, aHouse)
	id := create(t, s, "a", "https://marrowby.example/a")
	if _, err := s.Edit(ctx, ws, id, Edit{Path: "/look/ink", Text: "style:pine", Tab: "t", Seq: 1, Base: -1}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Issue(ctx, ws, id); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Change(ctx, ws, -1, func(s *style.Style) error { s.Colours[0].Value.R = 0x40; return nil }); err != nil {
		t.Fatal(err)
	}
	if err := s.DB.InWorkspace(ctx, inWS, func(tx pgx.Tx) error { return s.Refresh(ctx, tx, ws, "pine") }); err != nil {
		t.Fatal(err)
	}
	c, err := s.Get(ctx, ws, id)
	if err != nil || c.Rendition.Job.Look.Ink.String() != "#40352b" || c.AsIssued() {
		t.Errorf("the draft: %v, in print %v, %v", c.Rendition.Job.Look.Ink, c.AsIssued(), err)
	}
	printed, err := s.Printed(ctx, ws, c)
	if err != nil || printed.Job.Look.Ink.String() != "#12352b" {
		t.Errorf("in print: %+v, %v", printed, err)
	}
	rows := listed(t, s, Active, "")
	if !strings.Contains(rows[0].Corner, "#40352b") || rows[0].AsIssued {
		t.Errorf("in the ledger: %+v", rows[0])
	}
	if names, err := inColour(ctx, s, "pine"); err != nil || !slices.Equal(names, []string{"a"}) {
		t.Errorf("printed in pine: %q, %v", names, err)
	}
	// A colour that is named and is not there is a problem of the field, and the last picture stays.
	c, err = s.Edit(ctx, ws, id, Edit{Path: "/look/ink", Text: "style:moss", Tab: "t", Seq: 2, Base: -1})
	if err != nil || len(c.Problems) != 1 || c.Problems[0].Field != "/look/ink" {
		t.Errorf("%v, %v", c.Problems, err)
	}
}

func TestHouseChanges(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	h := houseOf(t, s, aHouse)
	_, rev, err := h.Get(ctx, ws)
	if err != nil {
		t.Fatal(err)
	}
	name := func(to string) func(*style.Style) error {
		return func(s *style.Style) error { s.Name = to; return nil }
	}
	if _, err := h.Change(ctx, ws, rev, name("one")); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Change(ctx, ws, rev, name("two")); !errors.Is(err, housestyle.ErrStale) {
		t.Errorf("over somebody's change: %v", err)
	}
	var problems problem.List
	if _, err := h.Change(ctx, ws, -1, func(s *style.Style) error {
		s.Looks = append(s.Looks, s.Looks[0])
		return nil
	}); !errors.As(err, &problems) {
		t.Errorf("two looks with one name: %v", err)
	}
	if got, now, err := h.Get(ctx, ws); err != nil || got.Name != "one" || now != rev+1 {
		t.Errorf("%q at %d, %v", got.Name, now, err)
	}
}

func inColour(ctx context.Context, s *Store, key string) (names []string, err error) {
	err = s.DB.InWorkspace(ctx, inWS, func(tx pgx.Tx) error {
		names, err = s.InColour(ctx, tx, ws, key)
		return err
	})
	return names, err
}
