package archive

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/webhook"
	"sodrik/internal/db"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/link"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
	"sodrik/internal/webhooks"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// server is one with a database and a key of its own.
type server struct {
	*Store
	db     *db.DB
	links  *link.Store
	counts *scans.Store
}

func begin(t *testing.T) *server {
	t.Helper()
	d := dbtest.Open(t)
	key, err := seal.Parse(seal.NewKey())
	if err != nil {
		t.Fatal(err)
	}
	s := code.New(ground.Ground{DB: d, Now: time.Now, Seal: key}, proof.Panel{}, "none")
	links := link.New(s, standin.LinkHost)
	return &server{&Store{Codes: s, Links: links}, d, links, &scans.Store{DB: d, Now: time.Now}}
}

// house fills the demonstration's workspace, and whatever else a house may have.
func house(t *testing.T) *server {
	t.Helper()
	s := begin(t)
	ctx, actor := t.Context(), standin.Loader()
	if err := standin.Load(ctx, s.links); err != nil {
		t.Fatal(err)
	}
	if _, err := s.links.Keep(ctx, actor, "Guide.pdf", []byte("%PDF-1.7\n\x00\xff")); err != nil {
		t.Fatal(err)
	}
	hooks := &webhooks.Store{DB: s.db, Seal: s.Codes.Seal, Now: time.Now}
	_, err := hooks.Add(ctx, actor, "https://stock.marrowby.example/in", []string{webhook.Versions})
	err = errors.Join(err, s.links.Allow(ctx, actor, "marrowby.example"))
	if _, add := s.links.AddHost(ctx, actor, "leaf.marrowby.example"); add != nil {
		err = errors.Join(err, add)
	}
	made := s.links.MakeGoalKey(ctx, actor)
	if err = errors.Join(err, made); err != nil {
		t.Fatal(err)
	}
	var id string
	if err := s.db.Pool.QueryRow(ctx,
		`SELECT code FROM links WHERE place IS NOT NULL ORDER BY code LIMIT 1`).Scan(&id); err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{
		`INSERT INTO trials (workspace, code, digest, version, place, phone, result, note, at, who) SELECT 'marrowby', id, digest, 1,
			'gate', 'Old phone', 'at-once', 'in <rain> & fog', now(), 'Idris' FROM codes WHERE id = $1`,
		`INSERT INTO print_checks (workspace, code, n, place, dpi, print, verdict, forecast, at, who, who_id) VALUES ('marrowby', $1, 1, 'gate',
			300.1, '{"width": 0.1}', 'good', '', now(), 'Idris', '')`,
		`INSERT INTO handed_over (workspace, code, n, way, files, medium, recipient, at, who, sent) VALUES ('marrowby', $1, 1, 'mail',
			'{"a.pdf","b, c.svg"}', 'poster-a2', 'juno@fenwick-print.example', now(), 'Idris', true)`,
		`INSERT INTO shown_pictures (token, workspace, code, n, place, at, who) VALUES ('abc', 'marrowby', $1, 1, 0, now(), 'Idris')`,
		`INSERT INTO scans (workspace, id, at, kind, link, code, place, does, bare, device, system, languages, country, part, town,
			accuracy, route, draw, words) SELECT 'marrowby', ('0193' || lpad(to_hex(i), 4, '0') || '-0000-7000-8000-000000000000')::uuid,
			now() - i * interval '1 hour', CASE i WHEN 3 THEN 'report' ELSE 'scan' END, l.host || '/' || l.path, l.code, 'gate', 'go', false,
			'phone', 'iOS', '{cy,en}', 'GB', 'Shropshire', 'Ludlow', 5, '', 0.25, 'says "so"' FROM links l, generate_series(1, 700) i
			WHERE l.code = $1 AND l.place IS NOT NULL AND l.path = (SELECT min(path) FROM links WHERE code = $1 AND place IS NOT NULL)`,
		`INSERT INTO scan_days VALUES ('marrowby', $1, 'go.marrowby.example/A', '2026-03-29', 4, '{1,2,4}')`,
		`INSERT INTO scan_counts VALUES ('marrowby', '2026-03-29', $1, 'go.marrowby.example/A', 4)`,
		`INSERT INTO scan_months VALUES ('marrowby', '2026-03-01', $1, 'go.marrowby.example/A', 4)`,
		`INSERT INTO scan_parts VALUES ('marrowby', 'code:' || $1::text, '2026-03-29', '{"town": {"Ludlow": 4}}', 3)`,
		`INSERT INTO scan_unfolded SELECT 'marrowby', '2026-03-30' WHERE $1 <> ''`,
		`INSERT INTO scan_reached VALUES ('marrowby', $1, 'go.marrowby.example/A', '2026-03-29', 'order', true, 2)`,
		`INSERT INTO scan_keeping SELECT 'marrowby', 24 WHERE $1 <> ''`,
		`INSERT INTO scan_deletions SELECT 'marrowby', '2025-01-01', 12, now() WHERE $1 <> ''`,
		`INSERT INTO shared_overviews SELECT 'tok', 'marrowby', 'Spring', 'from=2026-03-01', 'Tamsin', now(), now() WHERE $1 <> ''`,
		`INSERT INTO notice_kinds SELECT 'marrowby', 'old', true WHERE $1 <> ''`,
		`INSERT INTO batch_taken SELECT 'marrowby', id, 'run-1', 'sheets', 34, 'plant-tag', 24.5, now(), 'Idris', 'p1', '2026-03-09',
			'Okafor Print', 2000, 'Ada' FROM batches WHERE $1 <> ''`,
		`INSERT INTO batch_heads SELECT 'marrowby', 'url', 'SKU', '/name' WHERE $1 <> ''`,
		`INSERT INTO batch_sheets SELECT 'marrowby', 'a4', '', '{"columns": 3}', now() WHERE $1 <> ''`,
		`INSERT INTO batch_proofs SELECT 'marrowby', id, 2, 1, 1, 'safe', 35 FROM batches WHERE $1 <> ''`,
	} {
		if _, err := s.db.Pool.Exec(ctx, sql, id); err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
	}
	if _, err := s.db.Pool.Exec(ctx, `INSERT INTO hangings VALUES ('marrowby', 'go.marrowby.example/A', $1)`,
		s.Codes.Seal.Seal([]byte(`{"spot": "gate"}`), "marrowby/go.marrowby.example/A/hanging")); err != nil {
		t.Fatal(err)
	}
	return s
}

func (s *server) exported(t *testing.T, actor access.Actor) ([]byte, About) {
	t.Helper()
	var b bytes.Buffer
	about, err := s.Export(t.Context(), actor, &b)
	if err != nil {
		t.Fatal(err)
	}
	return b.Bytes(), about
}

// entries are the files of an archive.
func entries(t *testing.T, data []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		out[f.Name] = string(text)
	}
	return out
}

// own are the columns of which each server has its own: digests under its key, an order of its links, and that webhooks wait.
var own = map[string][]string{"codes": {"digest", "payload_mac", "proofs"}, "issued_versions": {"digest", "payload_mac",
	"proofs"},
	"trials": {"digest"}, "link_hosts": {"token", "proved_at", "asked_at", "missing_since", "chosen"}, "webhooks": {"paused_at",
		"paused_why"}}

// alike is a table without those.
func alike(t *testing.T, table, text string) string {
	t.Helper()
	var out []string
	for line := range strings.Lines(text) {
		row := map[string]json.RawMessage{}
		if err := json.Unmarshal([]byte(line), &row); err != nil {
			t.Fatal(err)
		}
		for _, name := range append(own[table], "workspace") {
			delete(row, name)
		}
		out = append(out, string(marshal(row)))
	}
	return strings.Join(out, "\n")
}

// TestMoves: everything of a workspace arrives on another server, under another key and another name, as it was.
func TestMoves(t *testing.T) {
	t.Parallel()
	a, b := house(t), begin(t)
	ctx := t.Context()
	pack, about := a.exported(t, standin.Loader())
	for _, table := range tables {
		if about.Rows[table.name] == 0 {
			t.Errorf("no row of %s was tried", table.name)
		}
	}
	if _, err := b.Codes.EnsureWorkspace(ctx, "main", "Our codes"); err != nil {
		t.Fatal(err)
	}
	there := access.OfProgram("main", "Tamsin Ashdown")
	arrived, err := b.Import(ctx, there, bytes.NewReader(pack), int64(len(pack)))
	if err != nil {
		t.Fatal(err)
	}
	if arrived.Words() != about.Words() || !strings.HasPrefix(arrived.Words(), fmt.Sprint(about.Rows["codes"], " codes, ")) ||
		!strings.HasSuffix(arrived.Words(), "700 scans, 1 batch") {
		t.Error(arrived.Words())
	}
	again, _ := b.exported(t, there)
	was, is := entries(t, pack), entries(t, again)
	if names, now := slices.Sorted(maps.Keys(was)), slices.Sorted(maps.Keys(is)); !slices.Equal(names, now) {
		t.Fatalf("%v\n%v", names, now)
	}
	for name, text := range was {
		table, is_ := strings.CutPrefix(name, rowsBelow)
		switch table = strings.TrimSuffix(table, rowsEnding); {
		case name == aboutFile:
		case !is_ && text != is[name]:
			t.Errorf("%s is another", name)
		case is_ && alike(t, table, text) != alike(t, table, is[name]):
			t.Errorf("%s was\n%.2000s\nand is\n%.2000s", table, alike(t, table, text), alike(t, table, is[name]))
		}
	}
	a.agrees(t, b, there)
}

// agrees: what the use cases say is the same, of every code.
func (s *server) agrees(t *testing.T, b *server, there access.Actor) {
	ctx, here := t.Context(), standin.Loader()
	rows, err := s.db.Pool.Query(ctx, `SELECT id FROM codes ORDER BY id`)
	if err != nil {
		t.Fatal(err)
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil || len(ids) < 20 {
		t.Fatal(len(ids), err)
	}
	for _, id := range ids {
		was, err := s.Codes.Get(ctx, here, id)
		is, err2 := b.Codes.Get(ctx, there, id)
		if err = errors.Join(err, err2); err != nil {
			t.Fatal(err)
		}
		if was.Rendition.Payload != is.Rendition.Payload || was.Rev != is.Rev || was.Name() != is.Name() ||
			(was.Issued == nil) != (is.Issued == nil) || was.Issued != nil && was.Issued.N != is.Issued.N ||
			was.Undo != is.Undo || was.AsIssued() != is.AsIssued() {
			t.Errorf("%s: %+v\n%+v", id, was, is)
		}
		if found, _, ok, err := b.Codes.ByPayload(ctx, there, is.Rendition.Payload); err != nil || !ok || found == "" {
			t.Errorf("%s is not found by what it says: %v", id, err)
		}
	}
	was, err := s.links.Live(ctx, here)
	is, err2 := b.links.Live(ctx, there)
	if err = errors.Join(err, err2); err != nil || len(was) == 0 || fmt.Sprint(was) == "" || len(was) != len(is) {
		t.Fatal(len(was), len(is), err)
	}
	for i := range was {
		if is[i].Live.Workspace != there.Workspace {
			t.Errorf("%s counts for %q", is[i].Path, is[i].Live.Workspace)
		}
		was[i].Live.Workspace = there.Workspace
		x, _ := json.Marshal(was[i])
		y, _ := json.Marshal(is[i])
		if !bytes.Equal(x, y) {
			t.Errorf("%s\n%s", x, y)
		}
	}
	figures, err := s.counts.CSV(ctx, here)
	figures2, err2 := b.counts.CSV(ctx, there)
	if err = errors.Join(err, err2); err != nil || !bytes.Equal(figures, figures2) {
		t.Errorf("%s\n%s\n%v", figures, figures2, err)
	}
	// An edit goes on where it was.
	if _, err := b.Codes.Undo(ctx, there, ids[0], code.Turn{}); err != nil && !errors.Is(err, code.ErrNothing) {
		t.Error(err)
	}
	if n := 0; b.db.Pool.QueryRow(ctx, `SELECT count(*) FROM reports_told`).Scan(&n) != nil || n != 1 {
		t.Errorf("%d reports count as told", n)
	}
}

// TestEveryTable: each table of a workspace goes along or is said to stay behind.
func TestEveryTable(t *testing.T) {
	all := db.Walled()
	for _, name := range all {
		goes := slices.ContainsFunc(tables, func(t table) bool { return t.name == name })
		if _, stays := left[name]; goes == stays {
			t.Errorf("%s: goes is %v, stays is %v", name, goes, stays)
		}
	}
	if len(all) != len(tables)+len(left) {
		t.Errorf("%d tables, of which %d go and %d stay", len(all), len(tables), len(left))
	}
}

// edited is an archive with an entry changed; "" takes it away.
func edited(t *testing.T, pack []byte, name string, change func(string) string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for n, text := range entries(t, pack) {
		if n == name {
			if text = change(text); text == "" {
				continue
			}
		}
		w, err := z.Create(n)
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, text)
	}
	z.Close()
	return b.Bytes()
}

// TestBadArchives: what is no whole archive is refused in words, and the workspace stays empty.
func TestBadArchives(t *testing.T) {
	t.Parallel()
	b := begin(t)
	ctx := t.Context()
	for _, id := range []string{"main", "other"} {
		t.Run(id, func(t *testing.T) {
			if _, err := b.Codes.EnsureWorkspace(ctx, id, "Our codes"); err != nil {
				t.Fatal(err)
			}
		})
	}
	there, other := access.OfProgram("main", ""), access.OfProgram("other", "")
	m, problems := compose.Parse([]byte(`{"name":"Fair","content":{"kind":"url","url":"https://marrowby.example/fair"}}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := b.Codes.Create(ctx, other, m, "Spring")
	if err != nil {
		t.Fatal(err)
	}
	pack, _ := b.exported(t, other)
	constant := func(s string) func(string) string { return func(string) string { return s } }
	codes := rowsBelow + "codes" + rowsEnding
	for name, c := range map[string]struct {
		pack []byte
		want string
	}{
		"no zip":      {[]byte("PK"), "is no ZIP file"},
		"cut off":     {pack[:len(pack)-40], "is no ZIP file"},
		"no about":    {edited(t, pack, aboutFile, constant("")), "holds no workspace.json"},
		"other about": {edited(t, pack, aboutFile, constant(`{"format": "else"}`)), "cannot be read"},
		"newer": {edited(t, pack, aboutFile, func(s string) string {
			return strings.Replace(s, `"version": 1`,
				`"version": 2`, 1)
		}), "newer release"},
		"newer tables": {edited(t, pack, aboutFile, func(s string) string {
			return strings.Replace(s, `"schema": `,
				`"schema": 9`, 1)
		}),
			"newer release"},
		"no table": {edited(t, pack, codes, constant("")), "lacks the table codes"},
		"no line":  {edited(t, pack, codes, constant("\n")), "no JSON object at line 1 of the table codes"},
		"one lacks": {edited(t, pack, codes, func(s string) string { return s + s }),
			"has 2 rows in the table codes, and says that it has 1"},
		"a stranger": {edited(t, pack, codes, func(s string) string {
			return strings.Replace(s, `{`,
				`{"a; DROP TABLE codes": 1, `, 1)
		}), "not known"},
		"no time": {edited(t, pack, codes, func(s string) string {
			return strings.Replace(s, `"changed_at":"20`, `"changed_at":"soon 20`, 1)
		}), "does not fit at the table codes"},
		"no key": {edited(t, pack, codes, func(s string) string {
			return strings.Replace(s, `"id":"`+id+`"`, `"id":null`,
				1)
		}), "without a key"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := b.Import(ctx, there, bytes.NewReader(c.pack), int64(len(c.pack)))
			if _, is := code.IsProblem(err); !is || !strings.Contains(err.Error(), c.want) {
				t.Errorf("%s: %v", name, err)
			}
			if n := 0; b.db.Pool.QueryRow(ctx, `SELECT count(*) FROM codes WHERE workspace = 'main'`).Scan(&n) != nil || n != 0 {
				t.Errorf("%s: %d codes are there", name, n)
			}
		})
	}
	if _, err := b.Import(ctx, there, bytes.NewReader(pack), int64(len(pack))); err != nil {
		t.Error(err)
	}
	if _, err := b.Import(ctx, there, bytes.NewReader(pack), int64(len(pack))); err == nil || !strings.Contains(err.Error(),
		"holds codes already") {
		t.Errorf("twice: %v", err)
	}
	for _, role := range []access.Role{access.Editor, access.Viewer, access.Printer} {
		actor := access.Actor{Kind: access.Person, Workspace: "other", Role: role}
		_, err := b.Export(ctx, actor, io.Discard)
		_, err2 := b.Import(ctx, actor, bytes.NewReader(pack), int64(len(pack)))
		if !errors.Is(err, access.ErrForbidden) || !errors.Is(err2, access.ErrForbidden) {
			t.Errorf("%s: %v, %v", role, err, err2)
		}
	}
}

// TestHostileArchives: nothing that follows from something else is taken from an archive, and what a person could not have made
// is refused, so that the workspace stays empty.
func TestHostileArchives(t *testing.T) {
	t.Parallel()
	a := house(t)
	ctx := t.Context()
	pack, _ := a.exported(t, standin.Loader())
	of := func(table string) string { return rowsBelow + table + rowsEnding }
	first := func(field, value string) func(string) string { // in the first row
		return func(text string) string {
			row := map[string]json.RawMessage{}
			line, rest, _ := strings.Cut(text, "\n")
			if err := json.Unmarshal([]byte(line), &row); err != nil {
				t.Fatal(err)
			}
			row[field] = json.RawMessage(value)
			return string(marshal(row)) + "\n" + rest
		}
	}
	places := strings.TrimSuffix(strings.Repeat(`{"name":"gate","width_mm":30},`, 30_000), ",")
	job := `{"version":1,"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[` + places + `]}`
	var file string
	for name := range entries(t, pack) {
		if strings.HasPrefix(name, "files/") {
			file = name
		}
	}
	for name, c := range map[string]struct {
		pack []byte
		want string
	}{
		"a draft that is no job":     {edited(t, pack, of("codes"), first("draft", `"\"hello\""`)), "that is no job"},
		"30,000 places of a draft":   {edited(t, pack, of("codes"), first("draft", job)), "30000 places"},
		"30,000 places of a version": {edited(t, pack, of("issued_versions"), first("job", job)), "30000 places"},
		"no map of typed text":       {edited(t, pack, of("codes"), first("unparsed", `[]`)), "typed text"},
		"a change that is none":      {edited(t, pack, of("edits"), first("patch", `{"op":"add"}`)), "a change"},
		"a name of 5 MB": {edited(t, pack, of("campaigns"), first("name", `"`+strings.Repeat("n", 5<<20)+`"`)),
			"more than 1000 bytes"},
		"words of 5 MB": {edited(t, pack, of("scans"), first("words", `"`+strings.Repeat("n", 5<<20)+`"`)),
			"more than 65536 bytes"},
		"a file of 65 MB": {edited(t, pack, file, func(s string) string {
			return "%PDF-1.7\n" +
				strings.Repeat("\x00", 65<<20)
		}), "cannot be read"},
		"a file that is a program": {edited(t, pack, file, func(string) string { return "<html><script>" }), "give a PDF"},
		"a scheme that runs": {edited(t, pack, of("lead_versions"), func(s string) string {
			return strings.ReplaceAll(s, "https://marrowby.example/recipes/broad-bean", "javascript:alert(1)")
		}), "refused here"},
		"a circle": {edited(t, pack, of("lead_versions"), func(s string) string {
			return strings.ReplaceAll(s, "https://marrowby.example/recipes/broad-bean", "https://go.marrowby.example:443//SEEDS/")
		}), "lets none lead"},
		"a link in a link":  {edited(t, pack, of("links"), first("path", `"A\u0001B"`)), "short link"},
		"a host that is an": {edited(t, pack, of("link_hosts"), first("host", `"https://evil"`)), "host"},
	} {
		t.Run(name, func(t *testing.T) {
			b := begin(t)
			if _, err := b.Codes.EnsureWorkspace(ctx, "main", "Our codes"); err != nil {
				t.Fatal(err)
			}
			_, err := b.Import(ctx, access.OfProgram("main", ""), bytes.NewReader(c.pack), int64(len(c.pack)))
			if _, is := code.IsProblem(err); !is || !strings.Contains(err.Error(), c.want) {
				t.Errorf("%.500v", err)
			}
			if n := 0; b.db.Pool.QueryRow(ctx, `SELECT count(*) FROM codes WHERE workspace = 'main'`).Scan(&n) != nil || n != 0 {
				t.Errorf("%d codes are there", n)
			}
		})
	}
	// What follows from something else is made anew.
	b := begin(t)
	if _, err := b.Codes.EnsureWorkspace(ctx, "main", "Our codes"); err != nil {
		t.Fatal(err)
	}
	there := access.OfProgram("main", "")
	forged := edited(t, pack, of("codes"), func(s string) string {
		return first("name", `"Forged"`)(strings.ReplaceAll(s, `"corner":"`, `"corner":"<script>alert(1)</script>`))
	})
	forged = edited(t, forged, of("link_hosts"), func(s string) string {
		return strings.ReplaceAll(s, `"proved_at":null`, `"proved_at":"2026-01-01T00:00:00Z"`)
	})
	forged = append([]byte(nil), withEntry(t, forged, of("live_links"),
		`{"link":"bank.example/PAY","seq":1,"value":{"s":[{"x":{"d":"go","t":"javascript:alert(1)"}}],"c":302}}`)...)
	if _, err := b.Import(ctx, there, bytes.NewReader(forged), int64(len(forged))); err != nil {
		t.Fatal(err)
	}
	var proved, foreign, forgedNames int
	err := b.db.Pool.QueryRow(ctx, `SELECT (SELECT count(*) FROM link_hosts WHERE proved_at IS NOT NULL),
		(SELECT count(*) FROM live_links WHERE link LIKE 'bank%'), (SELECT count(*) FROM codes WHERE name LIKE 'Forged%')`).
		Scan(&proved, &foreign, &forgedNames)
	if err != nil || proved+foreign+forgedNames > 0 {
		t.Errorf("%d hosts count as proved, %d links are another's, %d names are forged, %v", proved, foreign, forgedNames, err)
	}
	again, _ := b.exported(t, there)
	if text := entries(t, again)[of("codes")]; strings.Contains(text, "<script>") {
		t.Error("what stands in the ledger is a stranger's")
	}
}

// withEntry is an archive with one more entry.
func withEntry(t *testing.T, pack []byte, name, text string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for n, was := range entries(t, pack) {
		w, _ := z.Create(n)
		io.WriteString(w, was)
	}
	w, _ := z.Create(name)
	io.WriteString(w, text+"\n")
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestTaken: short links that stand on a server already are not taken over.
func TestTaken(t *testing.T) {
	t.Parallel()
	a := begin(t)
	if err := standin.Load(t.Context(), a.links); err != nil {
		t.Fatal(err)
	}
	pack, _ := a.exported(t, standin.Loader())
	if _, err := a.Codes.EnsureWorkspace(t.Context(), "copy", "Copy"); err != nil {
		t.Fatal(err)
	}
	_, err := a.Import(t.Context(), access.OfProgram("copy", ""), bytes.NewReader(pack), int64(len(pack)))
	if err == nil || !strings.Contains(err.Error(),
		"holds a short link that stands on this server already, in another workspace: go.marrowby.example/") {
		t.Error(err)
	}
}

// FuzzShown: the contents of a column come back as they were, but for white space in JSON.
func FuzzShown(f *testing.F) {
	for _, s := range []string{"", "text", `{"a": 1}`, `[1, 2]`, `{"$base64": "x"}`, "\xff\x00", `"quoted"`, "{", "<&>",
		`{"a":"<&>"}`,
		"{\"a\":\"\xff\"}", "[\"\u2028\"]"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		value := shown(text)
		if !json.Valid(value) {
			t.Fatalf("%q is no JSON", value)
		}
		got, raw, err := read(value)
		if err != nil || raw {
			t.Fatal(raw, err)
		}
		if !bytes.Equal(got, text) {
			var x, y bytes.Buffer
			if json.Compact(&x, got) != nil || json.Compact(&y, text) != nil || !bytes.Equal(x.Bytes(), y.Bytes()) {
				t.Errorf("%q comes back as %q", text, got)
			}
		}
	})
}
