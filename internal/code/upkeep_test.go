package code

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
	"sodrik/internal/ground"
	"sodrik/internal/housestyle"
	"sodrik/internal/seal"
)

// TestRotate: after a change of the key everything opens with the new one alone, and what belongs together still does:
// versions, proofs, codes that say the same.
func TestRotate(t *testing.T) {
	s, _ := open(t)
	old, fresh := strings.Repeat("o", seal.KeySize), strings.Repeat("n", seal.KeySize)
	box := func(keys ...string) *seal.Box {
		var list [][]byte
		for _, k := range keys {
			list = append(list, []byte(k))
		}
		b, err := seal.New(list...)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	s.Seal = box(old)
	ctx, ws := t.Context(), as("Tamsin")
	id := create(t, s, "Gate", "marrowby.example/fair")
	edit(t, s, id, "/look/ink", "#12594a", "a", 1)
	edit(t, s, id, "/placements/0/width_mm", "abc", "a", 2)
	edit(t, s, id, "/placements/0/width_mm", "120 mm", "a", 3)
	c, err := s.Issue(ctx, ws, id)
	if err != nil {
		t.Fatal(err)
	}
	s.Panel = panelThat(says{payload: c.Rendition.Payload})
	if _, err := s.Prove(ctx, ws, c.Rendition, 0, proof.Ordinary); err != nil {
		t.Fatal(err)
	}
	if err := s.DB.InWorkspace(ctx, inWS, func(tx pgx.Tx) error { // a trial, which package records keeps
		_, err := tx.Exec(ctx, `INSERT INTO trials (workspace, code, digest, version, place, phone, result, note, at, who, who_id)
			VALUES ($1, $2, $3, 1, '', 'shop phone', 'at-once', '', now(), '', '')`,
			inWS, id, s.Seal.Mac(c.Rendition.Job.Digest()))
		return err
	}); err != nil {
		t.Fatal(err)
	}
	// an instance that goes on serving
	running := New(ground.Ground{DB: s.DB, Now: s.Now, Seal: box(fresh, old)}, s.Panel, s.PanelVersion)
	late := ""
	s.Seal = box(fresh, old)
	done := make(chan error)
	go func() { _, err := s.Upkeep().Rotate(t.Context(), 300*time.Millisecond); done <- err }()
	time.Sleep(100 * time.Millisecond)
	late = create(t, running, "Meanwhile", "marrowby.example/meanwhile") // with digests of the old key
	if err := <-done; err != nil {
		t.Fatal(err)
	}
	if err := running.Upkeep().FollowKeyring(t.Context()); err != nil || running.Seal.Digests() != running.Seal.Newest() {
		t.Errorf("the instance that runs: %v", err)
	}
	s.Seal = box(fresh)
	s.Panel = panelThat(says{payload: "would be another verdict"})
	c, err = s.Get(ctx, ws, id)
	if err != nil || !c.AsIssued() {
		t.Fatalf("printed: %v", err)
	}
	if p, err := s.Prove(ctx, ws, c.Rendition, 0, proof.Ordinary); err != nil || p.Verdict != proof.Safe {
		t.Errorf("the proof was lost: %v, %v", p, err)
	}
	current := 0
	if err := s.DB.InWorkspace(ctx, inWS, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT count(*) FROM trials WHERE digest = $1`, s.Seal.Mac(c.Rendition.Job.Digest())).
			Scan(&current)
	}); err != nil || current != 1 {
		t.Errorf("%d trials of the code as it is, %v", current, err)
	}
	for text, want := range map[string]string{"https://marrowby.example/fair": id, "https://marrowby.example/meanwhile": late} {
		t.Run(text, func(t *testing.T) {
			if got, _, ok, err := s.ByPayload(ctx, ws, text); err != nil || !ok || got != want {
				t.Errorf("%s: %q, %v, %v", text, got, ok, err)
			}
		})
	}
	for range 3 {
		if _, err := s.Undo(ctx, ws, id, Turn{}); err != nil && !errors.Is(err, ErrNothing) {
			t.Errorf("undo: %v", err)
		}
	}
	if _, err := s.At(ctx, ws, id, "v1"); err != nil {
		t.Error(err)
	}
	s.Seal = box(old)
	if _, err := s.Get(ctx, ws, id); !errors.Is(err, seal.ErrKey) {
		t.Errorf("with the old key: %v", err)
	}
	if err := s.Upkeep().FollowKeyring(ctx); !errors.Is(err, seal.ErrKey) {
		t.Errorf("starting with the old key: %v", err)
	}
}

// TestSweepUploads: an upload goes once nothing names it: no draft, no version, no state that undo leads back to, no house style.
func TestSweepUploads(t *testing.T) {
	s, clock := open(t)
	ctx := t.Context()
	shapes := map[string]string{}
	for i, use := range []string{"draft", "history", "version", "house", "nothing"} {
		t.Run(use, func(t *testing.T) {
			a, err := s.Upload(ctx, ws, "x.svg",
				fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 90"><path d="M0 0h%dv%dz"/></svg>`,
					10+7*i, 50-3*i))
			if err != nil {
				t.Fatal(err)
			}
			shapes[use] = a.Source
		})
	}
	mark := func(id, source string, seq int64) {
		clock.t = clock.t.Add(time.Minute)
		edit(t, s, id, "/look/mark/source", source, "a", seq)
	}
	a, b := create(t, s, "A", "marrowby.example/a"), create(t, s, "B", "marrowby.example/b")
	mark(a, shapes["history"], 1)
	mark(a, shapes["draft"], 2)
	mark(b, shapes["version"], 1)
	if _, err := s.Issue(ctx, ws, b); err != nil {
		t.Fatal(err)
	}
	mark(b, "", 2)
	house := &housestyle.Store{DB: s.DB, Now: s.Now}
	if _, err := house.Change(ctx, ws, -1, func(h *style.Style) error {
		h.Marks = append(h.Marks, style.Mark{Key: "m", Name: "M", Source: shapes["house"], Clear: 1})
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Upkeep().SweepUploads(ctx); err != nil || n != 0 {
		t.Errorf("at once: %d, %v", n, err)
	}
	clock.t = clock.t.Add(uploadGrace + time.Hour)
	if n, err := s.Upkeep().SweepUploads(ctx); err != nil || n != 1 {
		t.Errorf("a day later %d went: %v", n, err)
	}
	for use, source := range shapes {
		var there bool
		if err := s.DB.Pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM assets WHERE source = $1)`, source).
			Scan(&there); err != nil || there != (use != "nothing") {
			t.Errorf("%s: there %v, %v", use, there, err)
		}
	}
	s.UploadRoom = 10
	if _, err := s.Upload(ctx, ws, "x.svg",
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="5"/></svg>`)); err == nil ||
		!strings.Contains(err.Error(), "MB are kept at most") {
		t.Errorf("beyond the room: %v", err)
	}
}

// TestSweepProofs: proofs go that nobody has asked for in a week, but not those of what is printed or drafted.
func TestSweepProofs(t *testing.T) {
	s, clock := open(t)
	ctx := t.Context()
	id := create(t, s, "Gate", "marrowby.example/fair")
	for i, ink := range []string{"#000000", "#12594a", "#12352b"} {
		t.Run(ink, func(t *testing.T) {
			clock.t = clock.t.Add(time.Minute)
			c := edit(t, s, id, "/look/ink", ink, "a", int64(i+1))
			s.Panel = panelThat(says{payload: c.Rendition.Payload})
			if _, err := s.Prove(ctx, ws, c.Rendition, 0, proof.Ordinary); err != nil {
				t.Fatal(err)
			}
			if i == 0 {
				if _, err := s.Issue(ctx, ws, id); err != nil {
					t.Fatal(err)
				}
			}
		})
	}
	if n, err := s.Upkeep().SweepProofs(ctx); err != nil || n != 0 {
		t.Errorf("at once: %d, %v", n, err)
	}
	clock.t = clock.t.Add(proofGrace + time.Hour)
	if n, err := s.Upkeep().SweepProofs(ctx); err != nil || n != 1 {
		t.Errorf("a week later %d went: %v", n, err)
	}
}

// TestReindex: codes written by older rules come up to date, and what they say stands nowhere as it is.
func TestReindex(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	id := create(t, s, "", "marrowby.example/fair?key=hushhush")
	if _, err := s.DB.Pool.Exec(ctx, `UPDATE codes SET findable = 0, name = 'marrowby.example/fair?key=hushhush',
		search = 'hushhush'`); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Upkeep().Reindex(ctx); err != nil || n != 1 {
		t.Fatalf("%d, %v", n, err)
	}
	var name, search string
	if err := s.DB.Pool.QueryRow(ctx, `SELECT name, search FROM codes WHERE id = $1`, id).Scan(&name, &search); err != nil ||
		name != "" || strings.Contains(search, "hush") || !strings.Contains(search, "marrowby.example/fair") {
		t.Errorf("%q, %q, %v", name, search, err)
	}
	if _, got, ok, err := s.ByPayload(ctx, ws, "https://marrowby.example/fair?key=hushhush"); err != nil || !ok ||
		got != "marrowby.example/fair" {
		t.Errorf("%q, %v, %v", got, ok, err)
	}
}

// TestAllOrNothing: what belongs together is done together, for every code however many there are, or not at all.
func TestAllOrNothing(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	house := houseOf(t, s, `{"colours":[{"key":"pine","name":"Pine","value":"#12352b"}]}`)
	first := create(t, s, "first", "marrowby.example/first")
	if _, err := s.PatchAt(ctx, ws, first, patch.Set("/look", map[string]any{"ink": map[string]any{"style": "pine"}}),
		-1); err != nil {
		t.Fatal(err)
	}
	const many = 520
	ids := []string{first}
	for range many - 1 {
		id, err := s.Duplicate(ctx, ws, first)
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	change := func(to string, fails error) error {
		_, err := house.Change(ctx, ws, -1, func(h *style.Style) error {
			h.Colours[0].Value.R, h.Colours[0].Value.G, h.Colours[0].Value.B = to[0], to[1], to[2]
			return nil
		}, func(tx pgx.Tx, _, _ *style.Style) error {
			if err := s.Refresh(ctx, tx, ws, "pine"); err != nil {
				return err
			}
			return fails
		})
		return err
	}
	inks := func() map[string]int {
		out := map[string]int{}
		for _, id := range ids {
			var good []byte
			if err := s.DB.Pool.QueryRow(ctx, `SELECT last_good FROM codes WHERE workspace = $1 AND id = $2`, inWS, id).
				Scan(&good); err != nil {
				t.Fatal(err)
			}
			text, err := s.Seal.Open(good, place(inWS, id, "good"))
			if err != nil {
				t.Fatal(err)
			}
			out[text2ink(string(text))]++
		}
		return out
	}
	boom := errors.New("the machine stops here")
	if err := change("\x01\x02\x03", boom); !errors.Is(err, boom) {
		t.Fatal(err)
	}
	if h, _, _ := house.Get(ctx, ws); h.Colours[0].Value.String() != "#12352b" || inks()["#12352b"] != many {
		t.Errorf("half of a change stayed: %v, %v", h.Colours[0].Value, inks())
	}
	if err := change("\x0a\x0b\x0c", nil); err != nil {
		t.Fatal(err)
	}
	if got := inks(); got["#0a0b0c"] != many {
		t.Errorf("of %d codes: %v", many, got)
	}
	l := style.Look{Key: "sign", Name: "Sign", Wear: map[string]any{"ink": "#5a2d0c"}}
	if _, err := s.DressAll(ctx, ws, append(ids[:5:5], "nothere"), l); !errors.Is(err, ErrNotFound) {
		t.Fatal(err)
	}
	if got := inks(); got["#0a0b0c"] != many {
		t.Errorf("some wear what others could not: %v", got)
	}
	if n, err := s.DressAll(ctx, ws, ids[:5], l); err != nil || len(n.Was) != 5 || inks()["#5a2d0c"] != 5 {
		t.Errorf("%d, %v, %v", len(n.Was), err, inks())
	}
}

func text2ink(text string) string {
	i := strings.Index(text, `"#`)
	return text[i+1 : i+8]
}

// TestManyOperations: a patch of more operations than are taken is refused at once with the bound; one of as many holds no
// connection while it is made.
func TestManyOperations(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair")
	var p patch.Patch
	for i := range 17_000 {
		p = append(p, patch.Op{Op: "add", Path: "/name", Value: fmt.Sprint("Gate ", i)})
	}
	start := time.Now()
	if _, err := s.PatchAt(t.Context(), ws, id, p, -1); err == nil ||
		!strings.Contains(err.Error(), "has 17000 operations; at most 200 are taken") || time.Since(start) > time.Second {
		t.Errorf("%v after %v", err, time.Since(start))
	}
	if _, err := s.PatchAt(t.Context(), ws, id, p[:patch.MaxOps], -1); err != nil {
		t.Errorf("as many as are taken: %v", err)
	}
	var places []any
	for i := range 101 {
		places = append(places, map[string]any{"name": fmt.Sprint("p", i), "width_mm": 50})
	}
	c, err := s.PatchAt(t.Context(), ws, id, patch.Set("/placements", places), -1)
	if err != nil || len(c.Problems) == 0 || !strings.Contains(c.Problems[0].Message,
		"holds 101 places; a code has 100 at most") {
		t.Errorf("%v, %v", c.Problems, err)
	}
	// While it is made, others get connections: none is held by the one that makes.
	held := s.DB.Pool.Stat().AcquiredConns()
	if _, err := s.change(context.Background(), ws, id, Edit{Base: -1},
		act{"x", func(*Code) (patch.Patch, map[string]*string, error) {
			if now := s.DB.Pool.Stat().AcquiredConns(); now > held {
				t.Errorf("%d connections are held while a change is made", now-held)
			}
			return nil, nil, nil
		}}); err != nil {
		t.Fatal(err)
	}
}
