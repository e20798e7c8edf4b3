package code

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/job"
	"sodrik/internal/core/proof"
	"sodrik/internal/seal"
)

// TestTwoTabs: different fields are both kept; the same field gives both values and changes nothing; the choice wins.
func TestTwoTabs(t *testing.T) {
	s, clock := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair")
	send := func(path, text, tab string, seq, base int64) (*Code, error) {
		clock.t = clock.t.Add(time.Minute)
		return s.Edit(t.Context(), ws, id, Edit{Path: path, Text: text, Tab: tab, Seq: seq, Base: base})
	}
	if _, err := send("/content/url", "marrowby.example/a", "a", 1, 0); err != nil {
		t.Fatal(err)
	}
	c, err := send("/name", "Gate b", "b", 1, 0) // b has not seen a's edit
	if err != nil || c.Text("/content/url") != "marrowby.example/a" || c.Text("/name") != "Gate b" {
		t.Fatalf("different fields: %v, %v", c, err)
	}
	_, err = send("/content/url", "marrowby.example/b", "b", 2, 0)
	var clash *Conflict
	if !errors.As(err, &clash) || clash.Theirs != "marrowby.example/a" || clash.Mine != "marrowby.example/b" {
		t.Fatalf("the same field: %v", err)
	}
	if c, _ := s.Get(t.Context(), ws, id); c.Text("/content/url") != "marrowby.example/a" || c.Rev != 2 {
		t.Errorf("the clash changed the code: %v", c.Draft)
	}
	if _, err = send("/content/url", "marrowby.example/a", "b", 3, 0); err != nil {
		t.Errorf("the same text is no clash: %v", err)
	}
	if c, err = send("/content/url", "marrowby.example/b", "b", 4, 2); err != nil ||
		c.Text("/content/url") != "marrowby.example/b" {
		t.Errorf("having seen both: %v", err)
	}
	if _, err = send("/content/url", "marrowby.example/b2", "b", 5, 0); err != nil {
		t.Errorf("one's own edits do not clash: %v", err)
	}
	if _, err = s.Undo(t.Context(), ws, id, Turn{}); err != nil {
		t.Fatal(err)
	}
	if _, err = send("/content/url", "marrowby.example/a3", "a", 2, 3); !errors.As(err, &clash) {
		t.Errorf("an undo elsewhere clashes too: %v", err)
	}
}

func TestHistory(t *testing.T) {
	s, clock := open(t)
	ctx, ws := t.Context(), as("Tamsin")
	id := create(t, s, "Gate", "marrowby.example/fair")
	step := func(path, text string, seq int64) {
		clock.t = clock.t.Add(time.Minute)
		if _, err := s.Edit(ctx, ws, id, Edit{Path: path, Text: text, Tab: "a", Seq: seq, Base: -1}); err != nil {
			t.Fatal(err)
		}
	}
	step("/look/ink", "#12594a", 1)
	clock.t = clock.t.Add(time.Minute)
	if _, err := s.Issue(ctx, ws, id); err != nil {
		t.Fatal(err)
	}
	step("/placements/0/width_mm", "abc", 2)
	step("/placements/0/width_mm", "120 mm", 3)
	step("/content/url", "marrowby.example/later", 4)
	entries, err := s.History(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	var lines []string
	for _, e := range entries {
		lines = append(lines, e.Ref+" "+e.Words+" "+e.Who)
	}
	want := "r4 address to marrowby.example/later Tamsin|r3 width to 120 mm Tamsin|r2 width to abc Tamsin|v1 Version 1 handed " +
		"over Tamsin|r1 ink to #12594a Tamsin|r0 Made "
	if got := strings.Join(lines, "|"); got != want {
		t.Errorf("history\n%s, want\n%s", got, want)
	}
	for ref, want := range map[string]string{"r0": "#000000 160 mm https://marrowby.example/fair",
		"r1": "#12594a 160 mm https://marrowby.example/fair", "v1": "#12594a 160 mm https://marrowby.example/fair",
		"r2": "#12594a 160 mm https://marrowby.example/fair", "r3": "#12594a 120 mm https://marrowby.example/fair",
		"r4": "#12594a 120 mm https://marrowby.example/later"} {
		t.Run(ref, func(t *testing.T) {
			st, err := s.At(t.Context(), ws, id, ref)
			if err != nil || st.Rendition == nil {
				t.Errorf("%s: %v", ref, err)
				return
			}
			if got := fmt.Sprint(st.Rendition.Job.Look.Ink, " ", st.Rendition.Job.Placements[0].Width, " ",
				st.Rendition.Payload); got != want {
				t.Errorf("%s: %s, want %s", ref, got, want)
			}
		})
	}
	c, _ := s.Get(t.Context(), ws, id)
	d, err := s.SinceIssue(t.Context(), ws, c)
	if err != nil || fmt.Sprint(d) != "[address marrowby.example/fair → marrowby.example/later width at gate 160 mm → 120 mm]" ||
		!c.SaysOtherwise() {
		t.Errorf("since version 1: %v, %v", d, err)
	}
	rows := listed(t, s, Active, "")
	if !rows[0].Differs {
		t.Error("the ledger does not mark that it says otherwise")
	}
	c, err = s.Return(t.Context(), ws, id, "v1", Change{Tab: "a", Seq: 9, Base: -1})
	if err != nil || !c.AsIssued() || c.Undo != "back to version 1" {
		t.Errorf("back to version 1: %v, undo %q", err, c.Undo)
	}
	if c, err = s.Undo(t.Context(), ws, id, Turn{}); err != nil || c.Text("/content/url") != "marrowby.example/later" {
		t.Errorf("and undone: %v", err)
	}
	for _, ref := range []string{"", "x1", "r", "v-1", "rx"} {
		t.Run(ref, func(t *testing.T) {
			if _, err := s.At(t.Context(), ws, id, ref); err == nil {
				t.Errorf("%q was found", ref)
			}
		})
	}
	for _, ref := range []string{"v9"} {
		if _, err := s.At(t.Context(), ws, id, ref); !errors.Is(err, ErrNotFound) {
			t.Errorf("%q: %v", ref, err)
		}
	}
	if _, err := s.History(t.Context(), elsewhere, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("from another workspace: %v", err)
	}
}

func TestDifferences(t *testing.T) {
	parse := func(text string) *job.Job {
		j, problems := job.Parse([]byte(text))
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		return j
	}
	a := parse(
		`{"name":"A","content":{"kind":"url","url":"m.example"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":30}]}`)
	b := parse(
		`{"name":"B","content":{"kind":"url","url":"m.example","tags":{"source":"x"}},"look":{"ink":"#123456"},"symbol":{"quiet_zone":6},"placements":[{"name":"till","width_mm":30},{"name":"gate","width_mm":100,"distance_mm":1500}]}`)
	want := "[campaign tag set to x ink set to #123456 name A → B width at gate 160 mm → 100 mm quiet zone set to 6]"
	if got := fmt.Sprint(job.Differences(a, b)); got != want {
		t.Errorf("%s, want %s", got, want)
	}
	if got := job.Differences(a, a); len(got) != 0 {
		t.Errorf("a job differs from itself: %v", got)
	}
}

// TestSecondWall: a query that forgets the workspace still sees its own rows only, and cannot write another's.
func TestSecondWall(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair")
	if _, err := s.Issue(t.Context(), ws, id); err != nil {
		t.Fatal(err)
	}
	edit(t, s, id, "/name", "Gate b", "a", 1)
	for _, table := range []string{"codes", "edits", "issued_versions", "campaigns", "workspaces"} {
		t.Run(table, func(t *testing.T) {
			counts := map[string]int{}
			for _, workspace := range []string{inWS, "other", ""} {
				err := s.DB.InWorkspace(t.Context(), workspace, func(tx pgx.Tx) error {
					var n int
					err := tx.QueryRow(t.Context(), `SELECT count(*) FROM `+table).Scan(&n)
					counts[workspace] = n
					return err
				})
				if err != nil {
					t.Fatal(err)
				}
			}
			want := 0
			if table == "workspaces" {
				want = 1
			}
			if counts[inWS] != 1 || counts["other"] != want || counts[""] != 0 {
				t.Errorf("%s: %v", table, counts)
			}
		})
	}
	err := s.DB.InWorkspace(t.Context(), "other", func(tx pgx.Tx) error {
		_, err := tx.Exec(t.Context(), `INSERT INTO campaigns (workspace, id, name) VALUES ('marrowby', 'x', 'x')`)
		return err
	})
	if err == nil {
		t.Error("a row was written into another workspace")
	}
	for _, sql := range []string{`SELECT * FROM people`, `SELECT * FROM api_tokens`, `SELECT * FROM sessions`} {
		t.Run(sql, func(t *testing.T) {
			err := s.DB.InWorkspace(t.Context(), inWS, func(tx pgx.Tx) error {
				_, err := tx.Exec(t.Context(), sql)
				return err
			})
			if err == nil {
				t.Errorf("%s was allowed within a workspace", sql)
			}
		})
	}
	if err := s.DB.InWorkspace(t.Context(), "x'; DROP TABLE codes; --", func(pgx.Tx) error { return nil }); err == nil {
		t.Error("a workspace of that name was entered")
	}
}

// TestSealed: a copy of the database gives nothing away of what contents say, and with another key nothing opens.
func TestSealed(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair?key=hushhush")
	edit(t, s, id, "/content/url", "marrowby.example/fair?key=hushhush2", "a", 1)
	edit(t, s, id, "/placements/0/width_mm", "hushhush mm", "a", 2)
	edit(t, s, id, "/placements/0/width_mm", "150", "a", 3)
	c, err := s.Issue(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	s.Panel = panelThat(says{payload: c.Rendition.Payload})
	if _, err := s.Prove(t.Context(), ws, c.Rendition, 0, proof.Ordinary); err != nil {
		t.Fatal(err)
	}
	// A web address is public and may be searched for; everything else about it is sealed.
	if _, err := s.DB.Pool.Exec(t.Context(), `UPDATE codes SET search = ''`); err != nil {
		t.Fatal(err)
	}
	for _, table := range []string{"codes", "edits", "issued_versions", "proofs"} {
		t.Run(table, func(t *testing.T) {
			rows, err := s.DB.Pool.Query(t.Context(), `SELECT t::text FROM `+table+` t`)
			if err != nil {
				t.Fatal(err)
			}
			dump, err := pgx.CollectRows(rows, pgx.RowTo[string])
			if err != nil || len(dump) == 0 {
				t.Fatal(table, err)
			}
			for _, plain := range []string{"hushhush", fmt.Sprintf("%x", "hushhush"), c.Rendition.Job.Digest()} {
				if strings.Contains(strings.Join(dump, " "), plain) {
					t.Errorf("%s holds %q", table, plain)
				}
			}
		})
	}
	other, err := seal.New(make([]byte, seal.KeySize))
	if err != nil {
		t.Fatal(err)
	}
	s.Seal = other
	if _, err := s.Get(t.Context(), ws, id); !errors.Is(err, seal.ErrKey) {
		t.Errorf("with another key: %v", err)
	}
}
