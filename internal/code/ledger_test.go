package code

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

// listed is the whole ledger.
func listed(t testing.TB, s *Store, state, query string) []Line {
	t.Helper()
	p, err := s.Ledger(t.Context(), ws, state, query, nil, 100_000)
	if err != nil || p.Next != nil || p.Codes != len(p.Lines) {
		t.Fatalf("%d of %d codes, %v", len(p.Lines), p.Codes, err)
	}
	return p.Lines
}

// paged goes through the ledger in pages.
func paged(t *testing.T, s *Store, query string, limit int, between func(page int)) (out []Line, last *Stretch) {
	t.Helper()
	var after *Mark
	for page := 0; ; page++ {
		p, err := s.Ledger(t.Context(), ws, Active, query, after, limit)
		if err != nil || len(p.Lines) > limit {
			t.Fatalf("%d lines, %v", len(p.Lines), err)
		}
		out = append(out, p.Lines...)
		if p.Next == nil {
			return out, p
		}
		after = p.Next
		between(page)
	}
}

func namesOf(lines []Line) (out []string) {
	for _, l := range lines {
		out = append(out, l.Name)
	}
	return out
}

// TestLedgerPages: pages of any size come to the whole, in its order; nothing is left out and nothing comes twice. What
// changes meanwhile is told at the end.
func TestLedgerPages(t *testing.T) {
	s, clock := open(t)
	var ids []string
	for i := range 23 {
		clock.t = clock.t.Add(time.Minute)
		m, problems := compose.Parse(fmt.Appendf(nil,
			`{"name":"Bed %02d","content":{"kind":"url","url":"marrowby.example/bed/%d"}}`, i, i), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		id, err := s.Create(t.Context(), ws, m, []string{"", "Spring", "Autumn", "Fair"}[i%4])
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	clock.t = clock.t.Add(time.Minute)
	whole := namesOf(listed(t, s, Active, ""))
	if got := fmt.Sprint(whole[:7]); got != "[Bed 22 Bed 18 Bed 14 Bed 10 Bed 06 Bed 02 Bed 21]" {
		t.Errorf("the ledger begins with %s", got)
	}
	for _, limit := range []int{1, 2, 5, 6, 22, 23, 24} {
		got, last := paged(t, s, "", limit, func(int) {})
		if !slices.Equal(namesOf(got), whole) || last.Since != 0 {
			t.Errorf("in pages of %d: %v, want %v", limit, namesOf(got), whole)
		}
	}
	// A code further down, and the one that its campaign was in front for, are changed while the first page is looked at.
	got, last := paged(t, s, "", 5, func(page int) {
		if page == 0 {
			clock.t = clock.t.Add(time.Minute)
			if _, err := s.Edit(t.Context(), ws, ids[3], Edit{Path: "/name", Text: "Bed 03", Base: -1, Tab: "x",
				Seq: 1}); err != nil {
				t.Fatal(err)
			}
			if _, err := s.Edit(t.Context(), ws, ids[3], Edit{Path: "/name", Text: "Changed", Base: -1, Tab: "x",
				Seq: 2}); err != nil {
				t.Fatal(err)
			}
			if _, err := s.Edit(t.Context(), ws, ids[22], Edit{Path: "/content/url", Text: "marrowby.example/later", Base: -1,
				Tab: "x", Seq: 3}); err != nil {
				t.Fatal(err)
			}
		}
	})
	if seen := namesOf(got); len(seen) != 22 || slices.Contains(seen, "Changed") ||
		len(slices.Compact(slices.Sorted(slices.Values(seen)))) != 22 || last.Since != 2 {
		t.Errorf("while one is changed: %d codes, %d changed since", len(seen), last.Since)
	}
	if again := listed(t, s, Active, ""); again[0].Name != "Bed 22" && again[0].Name != "Changed" {
		t.Errorf("opened again it begins with %s", again[0].Name)
	}
}

// TestSummaries: what the ledger says of a code is that of the code as it stands, whether its summary was kept or is still to
// be written.
func TestSummaries(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate poster", "marrowby.example/fair")
	compare := func(what string) {
		t.Helper()
		c, err := s.Get(t.Context(), ws, id)
		if err != nil {
			t.Fatal(err)
		}
		got, want := listed(t, s, Active, "")[0].Summary, SummaryOf(c.Rendition)
		if fmt.Sprint(got) != fmt.Sprint(want) || !strings.Contains(got.Corner, "<svg") || got.Full == "" {
			t.Errorf("%s: the ledger says %+v, want %+v", what, got, want)
		}
	}
	compare("made")
	for i, e := range [][2]string{{"/name", "South gate"}, {"/content/url", "marrowby.example/later"}, {"/look/ink", "#5b1f33"},
		{"/content/url", "not an address"}} {
		edit(t, s, id, e[0], e[1], "a", int64(i+1))
		compare(e[0])
	}
	if _, err := s.DB.Pool.Exec(t.Context(), `UPDATE codes SET summary = NULL, modules = 0, findable = 1`); err != nil {
		t.Fatal(err)
	}
	compare("from before")
	if n, err := s.Upkeep().Reindex(t.Context()); err != nil || n != 1 {
		t.Errorf("%d brought up to date, %v", n, err)
	}
	compare("brought up to date")
	var kept bool
	if err := s.DB.Pool.QueryRow(t.Context(), `SELECT summary IS NOT NULL AND modules > 0 FROM codes`).Scan(&kept); err != nil ||
		!kept {
		t.Errorf("the summary is kept: %v, %v", kept, err)
	}
}

// counted counts the codes of a workspace by campaign.
func counted(ctx context.Context, s *Store) error {
	return s.DB.InWorkspace(ctx, inWS, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `SELECT in_campaign, count(*), max(changed_at) FROM codes WHERE workspace = $1 AND state = $2
			GROUP BY 1`, inWS, Active)
		return err
	})
}

// many fills the ledger with copies of one code under names of their own; all but those of the workspace belong to another.
func many(t testing.TB, s *Store, n int) {
	t.Helper()
	m,
		problems := compose.Parse(
		[]byte(
			`{"name":"Pattern","content":{"kind":"url","url":"marrowby.example/pattern"},"placements":[{"name":"gate","medium":"poster-a2"}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if _, err := s.Create(t.Context(), ws, m, "Spring"); err != nil {
		t.Fatal(err)
	}
	rows := make([][]any, 0, n)
	for i := range n {
		for _, w := range []string{inWS, "other"} {
			id := fmt.Sprintf("%s%06d", w[:1], i)
			summary, err := s.summed(w, id, m)
			if err != nil {
				t.Fatal(err)
			}
			name := fmt.Sprintf("Bed %d %s", i, []string{"tulip", "crocus", "foxglove", "nasturtium"}[i%4])
			rows = append(rows, []any{w, id, []byte("x"), []byte("x"), []byte("x"), fmt.Sprint("d", i%977), name,
				fmt.Sprint("p", i), strings.ToLower(name) + "\nmarrowby.example/bed/" + fmt.Sprint(i),
				s.Now().Add(-time.Duration(i) * time.Second), findable, summary, 29})
		}
	}
	if _, err := s.DB.Pool.CopyFrom(t.Context(), pgx.Identifier{"codes"},
		[]string{"workspace", "id", "draft", "unparsed", "last_good", "digest", "name", "payload_mac", "search", "changed_at",
			"findable", "summary", "modules"}, pgx.CopyFromRows(rows)); err != nil {
		t.Fatal(err)
	}
	for _, w := range []string{inWS, "other"} {
		for i := range 40 {
			if _, err := s.DB.Pool.Exec(t.Context(), `INSERT INTO campaigns (workspace, id, name) VALUES ($1, $2, $3)`, w,
				fmt.Sprint("c", i), fmt.Sprint("Campaign ", i)); err != nil {
				t.Fatal(err)
			}
		}
	}
	if _, err := s.DB.Pool.Exec(t.Context(),
		`UPDATE codes SET campaign = 'c' || (hashtext(id) & 31) WHERE id ~ '^[mo][0-9]{6}$'`); err != nil {
		t.Fatal(err)
	}
	if _, err := s.DB.Pool.Exec(t.Context(), `VACUUM ANALYZE codes`); err != nil {
		t.Fatal(err)
	}
}

// maxLedger is how many times as long as counting a workspace's codes by campaign, which every page has to do, a page of the
// ledger may take. It is about 3, on a machine with much else to do it was seen at 6; one that read every code's row instead of
// an index would take 20 times as long.
const maxLedger = 8

// TestLedgerOfMany: a ledger of 20,000 codes, beside as many of another workspace, answers quickly: its beginning, its
// middle, and words that few or many codes have. What is held is the proportion to the least that PostgreSQL has to do, taken
// turn by turn, since machines are fast and slow by the hour.
func TestLedgerOfMany(t *testing.T) {
	s, _ := open(t)
	const n = 20_000
	many(t, s, n)
	var middle *Mark
	for range 8 {
		p, err := s.Ledger(t.Context(), ws, Active, "", middle, 60)
		if err != nil {
			t.Fatal(err)
		}
		middle = p.Next
	}
	for _, c := range []struct {
		name, query string
		after       *Mark
		codes       int
	}{
		{"the beginning", "", nil, n + 1}, {"the middle", "", middle, n + 1}, {"a word of few", "bed/1234", nil, 11},
		{"a word of many", "nasturtium", nil, n / 4}, {"no code", "begonia", nil, 0},
		{"two words", "bed/777 crocus", nil, 3}, // 777, 7773 and 7777 leave 1 when divided by 4
	} {
		t.Run(c.name, func(t *testing.T) {
			var took, least []time.Duration
			for range 14 {
				start := time.Now()
				if err := counted(t.Context(), s); err != nil {
					t.Fatal(err)
				}
				least = append(least, time.Since(start))
				start = time.Now()
				p, err := s.Ledger(t.Context(), ws, Active, c.query, c.after, 60)
				took = append(took, time.Since(start))
				if err != nil || p.Codes != c.codes {
					t.Fatalf("%d codes, want %d, %v", p.Codes, c.codes, err)
				}
			}
			slices.Sort(took)
			slices.Sort(least)
			t.Logf("p50 %v, p95 %v, counting alone %v", took[7].Round(100*time.Microsecond), took[13].Round(100*time.Microsecond),
				least[7].Round(100*time.Microsecond))
			if took[2] > maxLedger*least[2] {
				t.Errorf("the quickest take %v, counting alone takes %v", took[2], least[2])
			}
		})
	}
	var plan []string
	err := s.DB.InWorkspace(t.Context(), inWS, func(tx pgx.Tx) error {
		var ids []string
		rows, err := tx.Query(t.Context(), `SELECT id FROM sodrik_found('active', '{%bed/12345%}')`)
		if err == nil {
			ids, err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		if !slices.Equal(ids, []string{"m012345"}) {
			t.Errorf("found are %v, of this workspace alone it is m012345", ids)
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
	rows, err := s.DB.Pool.Query(t.Context(),
		`EXPLAIN SELECT id FROM codes WHERE workspace = 'marrowby' AND state = 'active' AND sought LIKE '%bed/12345%' AND sought LIKE ALL ('{%bed/12345%}')`)
	if err == nil {
		plan, err = pgx.CollectRows(rows, pgx.RowTo[string])
	}
	if err != nil || !strings.Contains(strings.Join(plan, "\n"), "codes_sought") {
		t.Errorf("the trigrams are not used: %v %s", err, strings.Join(plan, "\n"))
	}
}

// TestProofsStay: what a proof does not read, such as a name or the quality of a JPEG, leaves the verdict where it is, in the
// ledger and on the desk, and asks no reader again; what it reads does not.
func TestProofsStay(t *testing.T) {
	s, _ := open(t)
	id := create(t, s, "Gate", "marrowby.example/fair")
	c, err := s.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	s.Panel = panelThat(says{payload: c.Rendition.Payload})
	prove := func() {
		t.Helper()
		if c, err = s.Get(t.Context(), ws, id); err != nil {
			t.Fatal(err)
		}
		if _, err = s.Prove(t.Context(), ws, c.Rendition, 0, proof.Ordinary); err != nil {
			t.Fatal(err)
		}
	}
	prove()
	for i, e := range [][2]string{{"/name", "South gate"}, {"/placements/0/name", "south gate"}, {"/output/quality", "50"}} {
		edit(t, s, id, e[0], e[1], "a", int64(i+1))
		if v := listed(t, s, Active, "")[0].Verdict; v == "" {
			t.Errorf("%s: the ledger has no verdict any more", e[0])
		}
		prove()
	}
	kept := 0
	if err := s.DB.Pool.QueryRow(t.Context(), `SELECT count(*) FROM proofs`).Scan(&kept); err != nil || kept != 1 {
		t.Errorf("it was proved %d times, %v", kept, err)
	}
	edit(t, s, id, "/placements/0/width_mm", "60", "a", 9)
	if v := listed(t, s, Active, "")[0].Verdict; v != "" {
		t.Errorf("at another width the ledger says %s", v)
	}
}
