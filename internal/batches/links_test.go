package batches

import (
	"errors"
	"strings"
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
	"sodrik/internal/link"
)

// TestLinks: rows lead through short links of their own, once; the same table again, changed, makes drafts and no doubles; what
// changed goes live together, after the codes were handed over.
func TestLinks(t *testing.T) {
	s := store(t)
	ctx := t.Context()
	id := made(t, s, "SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\nMB-3;no address\n")
	var l problem.List
	if err := s.Lead(ctx, editor, id); !errors.As(err, &l) {
		t.Fatal("a server without short links: ", err)
	}
	s.Links = link.New(s.Codes, "https://go.marrowby.example")
	if err := s.Lead(ctx, editor, id); err != nil {
		t.Fatal(err)
	}
	b, all := got(t, s, id)
	const host = "HTTPS://GO.MARROWBY.EXAMPLE/"
	if b.Linked != 2 || b.Stale != 0 || !strings.HasPrefix(all[0].Says, host) || all[0].Says == all[1].Says ||
		all[0].Leads != "marrowby.example/1" || all[2].State != Bad {
		t.Fatalf("%+v\n%+v", b, all)
	}
	leads := func(n int) (draft, live string) {
		t.Helper()
		c, err := s.Codes.Get(ctx, editor, all[n].Code)
		if err != nil {
			t.Fatal(err)
		}
		led, err := s.Links.Of(ctx, editor, c)
		if err != nil {
			t.Fatal(err)
		}
		if led.Live != nil {
			live = content.Shown(led.Live.Lead.To)
		}
		return content.Shown(led.Draft.To), live
	}
	if draft, live := leads(0); draft != "https://marrowby.example/1" || live != "" {
		t.Error(draft, live)
	}
	if page, err := s.Codes.Ledger(ctx, editor, code.Active, "", nil, 10); err != nil || page.Codes != 0 {
		t.Error("the ledger shows the batch, and its codes too: ", page.Codes, err)
	}
	if page, err := s.Codes.Ledger(ctx, editor, code.Active, "MB-1", nil, 10); err != nil || page.Codes != 1 {
		t.Error("a code of a batch is found by its words: ", err)
	}
	first := all[0].Says
	if _, _, file := taken(t, s, id, AsZip); !strings.Contains(string(file), "mb-1.svg") {
		t.Error("no file")
	}
	if draft, live := leads(0); live != draft {
		t.Errorf("handed over, and leads to %q", live)
	}
	_, _, table := taken(t, s, id, AsTable)
	if !strings.Contains(string(table), "https://marrowby.example/1,"+first) {
		t.Error(string(table))
	}
	u, err := s.Update(ctx, editor, id, rows(t, "SKU;Link\nMB-1;https://marrowby.example/one\nMB-2;https://marrowby.example/2\n"+
		"MB-3;https://marrowby.example/3\nMB-4;https://marrowby.example/4\n"))
	if err != nil || u.Changed != 2 || u.New != 1 || u.Same != 1 {
		t.Fatalf("%+v %v", u, err)
	}
	b, all = got(t, s, id)
	if b.Rows != 4 || b.Linked != 4 || all[0].Says != first {
		t.Fatalf("%+v %+v", b, all)
	}
	if draft, live := leads(0); draft != "https://marrowby.example/one" || live != "https://marrowby.example/1" {
		t.Error(draft, live)
	}
	if waiting, err := s.Waiting(ctx, editor, id); err != nil || len(waiting) != 1 || waiting[0] != all[0].Code {
		t.Error(waiting, err)
	}
	if n, err := s.MakeLive(ctx, editor, id); err != nil || n != 1 {
		t.Error(n, err)
	}
	if draft, live := leads(0); draft != live {
		t.Error(draft, live)
	}
	if u, err = s.Update(ctx, editor, id, rows(t, "SKU;Link\nMB-1;https://marrowby.example/one\n")); err != nil || u.Same != 1 || len(u.Gone) != 3 {
		t.Fatalf("%+v %v", u, err)
	}
	if b, _ = got(t, s, id); b.Rows != 4 || b.Linked != 4 {
		t.Errorf("%+v", b)
	}
	// what somebody changed on the desk stays, until the rows say something new
	c, err := s.Codes.Get(ctx, editor, all[1].Code)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Links.Edit(ctx, editor, c.ID, map[string]string{"to": "https://marrowby.example/desk"}, "", 0); err != nil {
		t.Fatal(err)
	}
	if err := s.Set(ctx, editor, id, "/same", "true"); err != nil {
		t.Fatal(err)
	}
	if draft, _ := leads(1); draft != "https://marrowby.example/desk" {
		t.Error(draft)
	}
	if err := s.Mend(ctx, editor, id, 2, "/content/url", "not an address !"); err != nil {
		t.Fatal(err)
	}
	if _, all = got(t, s, id); all[1].State != Bad {
		t.Errorf("%+v", all[1])
	}
}

// TestWhatCannotLead says why.
func TestWhatCannotLead(t *testing.T) {
	s := store(t)
	s.Links = link.New(s.Codes, "https://go.marrowby.example")
	id := made(t, s, "SSID;Password\nShed;compost-heap\nOffice;seed-ledger\n")
	var l problem.List
	if err := s.Lead(t.Context(), editor, id); !errors.As(err, &l) || l[0].Field != "/links" {
		t.Error(err)
	}
}
