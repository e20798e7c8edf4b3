package records

import (
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// TestHandOver: what went out is on record, the newest set of a medium is remembered, mails are bounded, and a picture has
// one address.
func TestHandOver(t *testing.T) {
	r, s, now := open(t)
	ctx, ws := t.Context(), as("Tamsin")
	id := create(t, s, "Gate", "https://marrowby.example/fair")
	if _, err := s.Issue(ctx, ws, id); err != nil {
		t.Fatal(err)
	}
	if files, _, err := r.Afterwards(ctx, ws, "", "flyer"); err != nil || files != nil {
		t.Errorf("%v, %v", files, err)
	}
	for _, files := range [][]string{{"svg", "pdf"}, {"png"}, {"pdf", "sheet-pdf"}, {"jpg"}} {
		if err := r.Record(ctx, ws, id, HandOver{N: 1, Way: ByFiles, Files: files, Medium: "flyer"}); err != nil {
			t.Fatal(err)
		}
	}
	if files, _, err := r.Afterwards(ctx, ws, "", "flyer"); err != nil || fmt.Sprint(files) != "[pdf sheet-pdf]" {
		t.Errorf("%v, %v", files, err)
	}
	if _, list, err := r.Afterwards(ctx, ws, id, ""); err != nil || len(list) != 4 || list[0].Who != "Tamsin" ||
		list[0].Files[0] != "jpg" {
		t.Errorf("%+v, %v", list, err)
	}
	for range maxMails {
		m, err := r.BeginMail(ctx, ws, id, "wren@printer.example")
		if err == nil {
			err = m.Sent(ctx, HandOver{N: 1, Files: []string{"pdf"}})
		}
		if err == nil {
			err = m.Unsent(ctx) // which takes nothing off that is on record
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	var problems problem.List
	if _, err := r.BeginMail(ctx, ws, id, "wren@printer.example"); !errors.As(err, &problems) {
		t.Errorf("one more mail: %v", err)
	}
	if m, err := r.BeginMail(ctx, elsewhere, id, "x@printer.example"); err != nil || m.Unsent(ctx) != nil {
		t.Errorf("of another workspace: %v", err)
	}
	now.t = now.t.Add(2 * mailsWithin)
	// Of many who send at once, no more go out than may.
	var sent atomic.Int32
	var wg sync.WaitGroup
	for range maxMails + 10 {
		wg.Go(func() {
			if _, err := r.BeginMail(ctx, ws, id, "wren@printer.example"); err == nil {
				sent.Add(1)
			}
		})
	}
	if wg.Wait(); sent.Load() != maxMails {
		t.Errorf("later, all at once: %d go out, %d may", sent.Load(), maxMails)
	}
	token, err := r.ShowPicture(ctx, ws, id, 1, 0)
	if err != nil {
		t.Fatal(err)
	}
	clear := func() (n int) {
		t.Helper()
		if err := r.DB.Pool.QueryRow(ctx, `SELECT count(*) FROM shown_pictures p WHERE p::text LIKE '%' || $1 || '%'`,
			token).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	if clear() != 0 {
		t.Error("whoever reads the database reads the address")
	}
	// One from before, in the clear, is shown, and hidden by the sweep.
	if _, err := r.DB.Pool.Exec(ctx, `UPDATE shown_pictures SET token = $1, sealed = NULL`, token); err != nil {
		t.Fatal(err)
	}
	if _, _, _, err := r.Shown(ctx, token); err != nil || clear() != 1 {
		t.Errorf("one from before: %v", err)
	}
	if n, err := r.codes.Upkeep().SealTokens(ctx); err != nil || n != 1 || clear() != 0 {
		t.Errorf("%d are hidden, %v", n, err)
	}
	if again, err := r.ShowPicture(ctx, ws, id, 1, 0); err != nil || again != token {
		t.Errorf("a second address %s, %v", again, err)
	}
	if st, n, i, err := r.Shown(ctx, token); err != nil || n != 1 || i != 0 || code.NameOf(st.Rendition.Job) != "Gate" {
		t.Errorf("%d, %d, %v", n, i, err)
	}
	if err := r.HidePictures(ctx, elsewhere, id); err != nil {
		t.Fatal(err)
	}
	if _, _, _, err := r.Shown(ctx, token); err != nil {
		t.Error("another workspace took the address away")
	}
	if err := r.HidePictures(ctx, ws, id); err != nil {
		t.Fatal(err)
	}
	for _, token := range []string{token, "", "nothing"} {
		t.Run(token, func(t *testing.T) {
			if _, _, _, err := r.Shown(ctx, token); !errors.Is(err, code.ErrNotFound) {
				t.Errorf("%q: %v", token, err)
			}
		})
	}
}
