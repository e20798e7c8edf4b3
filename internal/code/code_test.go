package code

import (
	"context"
	"errors"
	"fmt"
	"image"
	"sync"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/proof"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const inWS = "marrowby"

// ws is somebody without a name who may do everything, elsewhere the same in another workspace, as somebody with a name.
var (
	ws        = access.OfProgram(inWS, "")
	elsewhere = access.OfProgram("other", "")
)

func as(name string) access.Actor {
	return access.Actor{Kind: access.Person, ID: "id of " + name, Name: name, Workspace: inWS, Role: access.Editor}
}

// clock moves only when told to.
type clock struct{ t time.Time }

func (c *clock) now() time.Time { return c.t }

func open(t *testing.T) (*Store, *clock) {
	t.Helper()
	c := &clock{time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)}
	s := New(ground.Ground{DB: dbtest.Open(t), Now: c.now, Seal: sealtest.Box(t)}, proof.Panel{}, "test")
	for _, id := range []string{inWS, "other"} {
		if _, err := s.EnsureWorkspace(t.Context(), id, id); err != nil {
			t.Fatal(err)
		}
	}
	return s, c
}

func create(t *testing.T, s *Store, name, url string) string {
	t.Helper()
	m,
		problems := compose.Parse(
		[]byte(
			fmt.Sprintf(
				`{"name":%q,"content":{"kind":"url","url":%q},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`,
				name, url)), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Create(t.Context(), ws, m, "Bulb Fair 2027")
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func edit(t *testing.T, s *Store, id, path, text, tab string, seq int64) *Code {
	t.Helper()
	c, err := s.Edit(t.Context(), ws, id, Edit{Path: path, Text: text, Tab: tab, Seq: seq, Base: -1})
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// TestUploads: an upload belongs to its workspace; a code wears it, tries change nothing, and what is not there is a problem
// of the draft beside the last good state.
func TestUploads(t *testing.T) {
	s, _ := open(t)
	logo := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><circle cx="4" cy="4" r="4"/></svg>`)
	a, err := s.Upload(t.Context(), ws, `C:\\marks\\seed.svg`, logo)
	if err != nil || a.Name != "seed.svg" {
		t.Fatal(a, err)
	}
	if _, err := s.Upload(t.Context(), ws, "x", nil); err == nil {
		t.Error("an empty file was kept")
	} else if list, ok := IsProblem(err); !ok || list[0].Field != "/file" {
		t.Error(err)
	}
	if list, err := s.Uploads(t.Context(), ws); err != nil || len(list) != 1 || list[0].Is == nil {
		t.Errorf("%+v %v", list, err)
	}
	if list, err := s.Uploads(t.Context(), elsewhere); err != nil || len(list) != 0 {
		t.Errorf("another workspace sees %+v %v", list, err)
	}
	if _, ok := s.Assets(t.Context(), elsewhere)(a.Source); ok {
		t.Error("another workspace wears it")
	}
	id := create(t, s, "Marked", "marrowby.example/marked")
	tried, err := s.Try(t.Context(), ws, id, "/look/mark/source", a.Source)
	if err != nil || tried.Rendition.Mark == nil {
		t.Fatal(err)
	}
	if c, _ := s.Get(t.Context(), ws, id); c.Rendition.Mark != nil || c.Rev != 0 {
		t.Error("trying changed the code")
	}
	if _, err := s.Try(t.Context(), ws, id, "/look/mark/source", "icon:nothing"); err == nil {
		t.Error("what cannot be made was tried")
	}
	c := edit(t, s, id, "/look/mark/source", a.Source, "tab", 1)
	if c.Rendition.Mark == nil || c.Undo != "mark to an upload" {
		t.Errorf("%v, undo %q", c.Problems, c.Undo)
	}
	c = edit(t, s, id, "/look/mark/source", "asset:sha256-00", "tab2", 1)
	if len(c.Problems) != 1 || c.Problems[0].Field != "/look/mark/source" || c.Rendition.Mark == nil {
		t.Errorf("%v, last good %v", c.Problems, c.Rendition.Mark)
	}
	if c = edit(t, s, id, "/look/mark/source", "", "tab3", 1); len(c.Problems) != 0 || c.Rendition.Mark != nil {
		t.Errorf("%v %v", c.Problems, c.Rendition.Mark)
	}
}

func TestEditUndoRedo(t *testing.T) {
	s, clock := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	steps := []struct{ path, text string }{
		{"/content/url", "marrowby.example/spring"}, {"/look/ink", "#12594a"}, {"/placements/0/width_mm", "16,5 cm"},
		{"/placements/0/width_mm", "abc"}, {"/content/url", "javascript:alert(1)"}, {"/look/ink", ""},
		{"/content/tags/source", "gate"},
	}
	var texts []string
	for i, e := range steps {
		t.Run(e.path, func(t *testing.T) {
			clock.t = clock.t.Add(time.Minute)
			texts = append(texts, snapshot(t, s, id))
			edit(t, s, id, e.path, e.text, "a", int64(i+1))
		})
	}
	end := snapshot(t, s, id)
	for i := len(steps) - 1; i >= 0; i-- {
		if _, err := s.Undo(t.Context(), ws, id, Turn{}); err != nil {
			t.Fatal(err)
		}
		if got := snapshot(t, s, id); got != texts[i] {
			t.Errorf("undo of %v gives\n%s, it was\n%s", steps[i], got, texts[i])
		}
	}
	if _, err := s.Undo(t.Context(), ws, id, Turn{}); !errors.Is(err, ErrNothing) {
		t.Errorf("one undo too many gave %v", err)
	}
	for range steps {
		if _, err := s.Redo(t.Context(), ws, id, Turn{}); err != nil {
			t.Fatal(err)
		}
	}
	if got := snapshot(t, s, id); got != end {
		t.Errorf("redo ends at\n%s, it was\n%s", got, end)
	}
	if _, err := s.Undo(t.Context(), ws, id, Turn{}); err != nil {
		t.Fatal(err)
	}
	if c := edit(t, s, id, "/name", "Gate", "a", 99); c.Redo != "" || c.Undo != "name to Gate" {
		t.Errorf("after an edit: undo %q, redo %q", c.Undo, c.Redo)
	}
}

// snapshot is all that a person sees of the draft.
func snapshot(t *testing.T, s *Store, id string) string {
	t.Helper()
	c, err := s.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	return fmt.Sprint(c.Draft, c.Unparsed, c.Problems)
}

func TestWhatCannotBeMadeIsKept(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	c := edit(t, s, id, "/placements/0/width_mm", "abc", "a", 1)
	if c.Text("/placements/0/width_mm") != "abc" || len(c.Problems.At("/placements/0/width_mm")) != 1 {
		t.Errorf("width reads %q with %v", c.Text("/placements/0/width_mm"), c.Problems)
	}
	if c.Rendition.Job.Placements[0].Width != 160 || !c.Stale() {
		t.Errorf("the sheet has %v, stale %v", c.Rendition.Job.Placements[0].Width, c.Stale())
	}
	c = edit(t, s, id, "/content/url", "javascript:alert(1)", "a", 2)
	if c.Text("/content/url") != "javascript:alert(1)" || c.Rendition.Payload != "https://marrowby.example/fair" ||
		len(c.Problems) != 2 {
		t.Errorf("address reads %q, the sheet %q, problems %v", c.Text("/content/url"), c.Rendition.Payload, c.Problems)
	}
	if _, err := s.Issue(t.Context(), ws, id); err == nil {
		t.Error("a code with problems was issued")
	}
	if c = edit(t, s, id, "/placements/0/distance_mm", "", "a", 6); c.Text("/placements/0/distance_mm") != "" ||
		len(c.Problems) != 3 {
		t.Errorf("an emptied distance reads %q with %v", c.Text("/placements/0/distance_mm"), c.Problems)
	}
	edit(t, s, id, "/placements/0/distance_mm", "1.5 m", "a", 7)
	edit(t, s, id, "/placements/0/width_mm", "170", "a", 3)
	c = edit(t, s, id, "/content/url", "marrowby.example/f", "a", 4)
	if c.Stale() || c.Rendition.Job.Placements[0].Width != 170 || c.Rendition.Payload != "https://marrowby.example/f" {
		t.Errorf("put right: %v %v %v", c.Problems, c.Rendition.Job.Placements, c.Rendition.Payload)
	}
	if _, err := s.Edit(t.Context(), ws, id, Edit{Path: "/version", Text: "2", Tab: "a", Seq: 5}); err == nil {
		t.Error("a path that is no field was edited")
	}
}

func TestRetriesAndQuickTyping(t *testing.T) {
	s, clock := open(t)
	id := create(t, s, "", "marrowby.example/fair")
	edit(t, s, id, "/content/url", "marrowby.example/a", "a", 1)
	edit(t, s, id, "/content/url", "marrowby.example/ab", "a", 2)
	c := edit(t, s, id, "/content/url", "marrowby.example/a", "a", 1) // the first again, late
	if c.Text("/content/url") != "marrowby.example/ab" {
		t.Errorf("a late retry won: %q", c.Text("/content/url"))
	}
	edit(t, s, id, "/content/url", "marrowby.example/abcd", "a", 4)
	if c := edit(t, s, id, "/content/url", "marrowby.example/abc", "a", 3); c.Text("/content/url") != "marrowby.example/abcd" {
		t.Errorf("an overtaken edit won: %q", c.Text("/content/url"))
	}
	clock.t = clock.t.Add(3 * time.Second)
	edit(t, s, id, "/content/url", "marrowby.example/later", "a", 5)
	for _, want := range []string{"marrowby.example/abcd", "marrowby.example/fair"} {
		t.Run(want, func(t *testing.T) {
			c, err := s.Undo(t.Context(), ws, id, Turn{})
			if err != nil || c.Text("/content/url") != want {
				t.Errorf("undo gives %q, want %q (%v)", c.Text("/content/url"), want, err)
			}
		})
	}
}

// TestTwoTabsAtOnce edits two fields from two tabs, many times, at the same time: nothing is lost on either.
func TestTwoTabsAtOnce(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "", "marrowby.example/fair")
	var wg sync.WaitGroup
	for tab, path := range map[string]string{"a": "/content/url", "b": "/name"} {
		wg.Go(func() {
			for i := range 40 {
				if _, err := s.Edit(t.Context(), ws, id, Edit{Path: path, Text: fmt.Sprintf("marrowby.example/%s%d", tab, i),
					Tab: tab, Seq: int64(i + 1), Base: -1}); err != nil {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	c, err := s.Get(t.Context(), ws, id)
	if err != nil || c.Text("/content/url") != "marrowby.example/a39" || c.Text("/name") != "marrowby.example/b39" ||
		c.Rev != 80 {
		t.Errorf("address %q, name %q, revision %d, %v", c.Text("/content/url"), c.Text("/name"), c.Rev, err)
	}
}

func TestFixIsOneEdit(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "", "marrowby.example/fair")
	edit(t, s, id, "/look/ink", "#eeeeee", "a", 1)
	fix := patch.Patch{{Op: "add", Path: "/look/ink", Value: "#000000"}, {Op: "add", Path: "/look/paper", Value: "#ffffff"},
		{Op: "add", Path: "/symbol/quiet_zone", Value: 6}}
	c, err := s.Patch(t.Context(), ws, id, fix, Change{Tab: "a", Seq: 2, Base: -1, Words: "black on white"})
	if err != nil || c.Text("/look/ink") != "#000000" || c.Rendition.Job.Symbol.QuietZone != 6 || c.Undo != "black on white" {
		t.Fatalf("%v: %v", err, c)
	}
	if c, err = s.Undo(t.Context(), ws, id, Turn{}); err != nil || c.Text("/look/ink") != "#eeeeee" ||
		c.Rendition.Job.Symbol.QuietZone != 4 {
		t.Errorf("undone to %v, %v", c.Draft, err)
	}
	if _, err := s.Patch(t.Context(), ws, id, patch.Patch{{Op: "remove", Path: "/nowhere"}},
		Change{Tab: "a", Seq: 3, Base: -1, Words: "x"}); err == nil {
		t.Error("a patch that fits nothing was applied")
	}
}

func TestIssue(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	for _, want := range []int{1, 1} {
		c, err := s.Issue(t.Context(), ws, id)
		if err != nil || c.Issued.N != want || !c.AsIssued() {
			t.Fatalf("version %v, %v", c.Issued, err)
		}
	}
	c := edit(t, s, id, "/look/ink", "#12594a", "a", 1)
	if c.AsIssued() || c.Issued.N != 1 {
		t.Errorf("after an edit: %+v, printed %v", c.Issued, c.AsIssued())
	}
	if c, _ = s.Issue(t.Context(), ws, id); c.Issued.N != 2 {
		t.Errorf("the next version is %d", c.Issued.N)
	}
	if c, _ = s.Undo(t.Context(), ws, id, Turn{}); c.AsIssued() {
		t.Error("the draft is version 1 again, not the newest")
	}
}

func TestListFindDuplicateRetire(t *testing.T) {
	s, clock := open(t)
	a := create(t, s, "Gate poster", "marrowby.example/fair")
	clock.t = clock.t.Add(time.Hour)
	b := create(t, s, "", "marrowby.example/prune_100%")
	names := func(state, query string) (out []string) {
		for _, r := range listed(t, s, state, query) {
			out = append(out, r.Name)
		}
		return out
	}
	for _, c := range []struct{ query, want string }{
		{"", "[marrowby.example/prune_100%25 Gate poster]"}, {"GATE", "[Gate poster]"}, {"poster fair", "[Gate poster]"},
		{"poster prune", "[]"},
		{"%", "[marrowby.example/prune_100%25]"}, {"e_1", "[marrowby.example/prune_100%25]"}, {`\`, "[]"},
	} {
		t.Run(c.query, func(t *testing.T) {
			if got := fmt.Sprint(names(Active, c.query)); got != c.want {
				t.Errorf("%q finds %s, want %s", c.query, got, c.want)
			}
		})
	}
	if id, name, ok, err := s.ByPayload(t.Context(), ws, "https://marrowby.example/fair"); id != a || name != "Gate poster" ||
		!ok || err != nil {
		t.Errorf("by payload: %v %v %v %v", id, name, ok, err)
	}
	if _, _, ok, _ := s.ByPayload(t.Context(), elsewhere, "https://marrowby.example/fair"); ok {
		t.Error("found in another workspace")
	}
	if _, err := s.Get(t.Context(), elsewhere, a); !errors.Is(err, ErrNotFound) {
		t.Errorf("read from another workspace: %v", err)
	}
	copied, err := s.Duplicate(t.Context(), ws, a)
	if err != nil {
		t.Fatal(err)
	}
	if c, _ := s.Get(t.Context(), ws, copied); c.Name() != "Gate poster, copy" || c.Campaign != "Bulb Fair 2027" ||
		c.Issued != nil {
		t.Errorf("the copy is %+v", c)
	}
	if err := s.SetCampaign(t.Context(), ws, copied, "  Spring   mailing ", nil); err != nil {
		t.Fatal(err)
	}
	if names, _ := s.Campaigns(t.Context(), ws); fmt.Sprint(len(names)) != "2" {
		t.Errorf("campaigns %v", names)
	}
	if err := s.SetCampaign(t.Context(), ws, copied, "", nil); err != nil {
		t.Fatal(err)
	}
	if names, _ := s.Campaigns(t.Context(), ws); fmt.Sprint(names) != "[Bulb Fair 2027]" {
		t.Errorf("a campaign without codes stays: %v", names)
	}
	if err := s.SetCampaign(t.Context(), elsewhere, copied, "x", nil); !errors.Is(err, ErrNotFound) {
		t.Errorf("moved from another workspace: %v", err)
	}
	if _, err := s.SetStates(t.Context(), ws, []string{b}, Retired); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(names(Active, "prune"), names(Retired, "")); got != "[] [marrowby.example/prune_100%25]" {
		t.Errorf("after retiring: %s", got)
	}
	if _, err := s.SetStates(t.Context(), ws, []string{b}, Active); err != nil || len(names(Retired, "")) != 0 {
		t.Error("it was not restored", err)
	}
	if _, err := s.SetStates(t.Context(), elsewhere, []string{b}, Retired); !errors.Is(err, ErrNotFound) {
		t.Errorf("retired from another workspace: %v", err)
	}
}

// says is a reader that finds in every picture what it is told to, or fails.
type says struct {
	payload string
	err     error
}

func (s says) Name() string   { return "says" }
func (s says) Family() string { return "own" }
func (s says) Read(_ context.Context, pictures []*image.Gray) []proof.Answer {
	out := make([]proof.Answer, len(pictures))
	for i := range out {
		out[i] = proof.Answer{Payloads: []string{s.payload}, Err: s.err}
	}
	return out
}

func panelThat(readers ...proof.Reader) proof.Panel {
	return proof.Panel{Readers: readers, Families: []string{"own"}}
}

func TestProofIsKept(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	c, _ := s.Get(t.Context(), ws, id)
	s.Panel = panelThat(says{payload: c.Rendition.Payload})
	first, err := s.Prove(t.Context(), ws, c.Rendition, 0, proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	rows := listed(t, s, Active, "")
	if rows[0].Verdict != first.Verdict || first.Verdict != proof.Safe {
		t.Errorf("the ledger says %q, the proof %q", rows[0].Verdict, first.Verdict)
	}
	s.Panel = panelThat(says{payload: "something else"})
	again, err := s.Prove(t.Context(), ws, c.Rendition, 0, proof.Ordinary)
	if err != nil || fmt.Sprint(again) != fmt.Sprint(first) {
		t.Errorf("proved again: %v, %v", again, err)
	}
}

// TestProofIsAboutTheCode: while a reader cannot work there is no verdict, in the ledger neither, and none stays behind once
// it can.
func TestProofIsAboutTheCode(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	c, _ := s.Get(t.Context(), ws, id)
	for name, panel := range map[string]proof.Panel{
		"broken":  panelThat(says{err: errors.New("no space left on device")}),
		"missing": {Readers: []proof.Reader{says{payload: c.Rendition.Payload}}, Families: []string{"own", "other"}},
	} {
		t.Run(name, func(t *testing.T) {
			s.Panel = panel
			p, err := s.Prove(t.Context(), ws, c.Rendition, 0, proof.Range)
			if err != nil || p.Verdict != proof.Unknown || p.Has(proof.Hard) {
				t.Errorf("%s: %v, %v", name, p, err)
			}
			if rows := listed(t, s, Active, ""); rows[0].Verdict != "" {
				t.Errorf("%s: the ledger says %q", name, rows[0].Verdict)
			}
		})
	}
	s.Panel = panelThat(says{payload: c.Rendition.Payload})
	if p, err := s.Prove(t.Context(), ws, c.Rendition, 0, proof.Ordinary); err != nil || p.Verdict != proof.Safe {
		t.Errorf("after the repair: %v, %v", p, err)
	}
}
