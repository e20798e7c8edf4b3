package link

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/seal"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const inWS = "marrowby"

var (
	ws        = access.OfProgram(inWS, "Ada Thorne")
	elsewhere = access.OfProgram("other", "Somebody")
)

func open(t *testing.T) *Store {
	t.Helper()
	now := func() time.Time { return time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC) }
	s := code.New(ground.Ground{DB: dbtest.Open(t), Now: now, Seal: sealtest.Box(t)}, proof.Panel{}, "test")
	for _, id := range []string{inWS, "other"} {
		if _, err := s.EnsureWorkspace(t.Context(), id, id); err != nil {
			t.Fatal(err)
		}
	}
	return New(s, "https://go.marrowby.example")
}

const places = `"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":30,"distance_mm":300}]`

func create(t *testing.T, s *Store, job string) string {
	t.Helper()
	m, problems := compose.Parse([]byte(job), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Codes.Create(t.Context(), ws, m, "")
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func fair(t *testing.T, s *Store) string {
	t.Helper()
	return create(t, s, `{"name":"Fair","content":{"kind":"url","url":"marrowby.example/fair"},`+places+`}`)
}

func turn(t *testing.T, s *Store, id string) *code.Code {
	t.Helper()
	c, err := s.Turn(t.Context(), ws, id, code.Anyhow)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func issue(t *testing.T, s *Store, id string) *code.Code {
	t.Helper()
	c, err := s.Codes.Issue(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func led(t *testing.T, s *Store, id string) *Led {
	t.Helper()
	c, err := s.Codes.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	l, err := s.Of(t.Context(), ws, c)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// answers is where each live link leads now, by its address.
func answers(t *testing.T, s *Store) map[string]string {
	t.Helper()
	out := map[string]string{}
	err := s.Codes.DB.InWorkspace(t.Context(), inWS, func(tx pgx.Tx) error {
		rows, err := tx.Query(t.Context(), `SELECT link, value FROM live_links`)
		if err != nil {
			return err
		}
		var link string
		var value []byte
		_, err = pgx.ForEachRow(rows, []any{&link, &value}, func() error {
			if strings.HasPrefix(link, "/") || strings.HasSuffix(link, "/") {
				return nil // a house or a host
			}
			text, err := s.Codes.Seal.Open(value, inWS+"/"+link+"/answer")
			if err != nil {
				return err
			}
			v, err := leads.Decode(text)
			if err != nil {
				return err
			}
			a := v.At(s.Codes.Now())
			out[link] = string(a.Does) + " " + a.To + " " + v.Place
			return nil
		})
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// refused says that an error is a problem of a field.
func refused(err error, field string) bool {
	var list problem.List
	return errors.As(err, &list) && len(list) > 0 && list[0].Field == field
}

// TestLife goes through the life of a code: turned, handed over, changed, made live, returned, paused, and turned back.
func TestLife(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	if l := led(t, s, id); l != nil {
		t.Fatalf("a static code leads to %+v", l)
	}
	c := turn(t, s, id)
	links := Links(c.Rendition.Job)
	if len(links) != 2 || links[0].Where() != "gate" || links[1].Where() != "till" || links[0].Address == links[1].Address {
		t.Fatalf("two places have the links %+v", links)
	}
	if _, err := s.Word(t.Context(), ws, id, -1, "fair-lane",
		code.Anyhow); err != nil { // and the link drawn before is never printed
		t.Fatal(err)
	}
	c, err := s.Codes.Get(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	links = Links(c.Rendition.Job)
	if p := c.Rendition.For(c.Rendition.Place(1)).Payload; p != links[1].Address.Payload() {
		t.Errorf("the till says %s, not %s", p, links[1].Address.Payload())
	}
	if l := led(t, s, id); l.Live != nil || l.Draft.Says() != "marrowby.example/fair" {
		t.Fatalf("before it is handed over it leads to %+v", l)
	}
	if _, err := s.MakeLive(t.Context(), ws, id, 0); err == nil {
		t.Error("it is live before it is handed over")
	}
	if a := answers(t, s); len(a) != 0 {
		t.Errorf("links answer before anything was handed over: %v", a)
	}

	issue(t, s, id)
	gate, till := links[0].Address.String(), links[1].Address.String()
	want := func(what, to string) {
		t.Helper()
		a := answers(t, s)
		if a[gate] != to+" gate" || a[till] != to+" till" || len(a) != 2 {
			t.Errorf("%s: %v, want %s", what, a, to)
		}
	}
	want("handed over", "go https://marrowby.example/fair")

	l := led(t, s, id)
	if l, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/after"}, "GB", l.Rev); err != nil ||
		!l.Changed() {
		t.Fatalf("%+v, %v", l, err)
	}
	want("edited, not live", "go https://marrowby.example/fair")
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/other"}, "GB", l.Rev); err == nil {
		t.Error("an edit of an older draft goes over a newer one")
	}
	issue(t, s, id)
	want("handed over again", "go https://marrowby.example/fair")
	if l, err := s.MakeLive(t.Context(), ws, id, 0); err != nil || l.Live.N != 2 || l.Live.Who != "Ada Thorne" || l.Changed() {
		t.Fatalf("%+v, %v", l, err)
	}
	want("made live", "go https://marrowby.example/after")
	if l, err := s.MakeLive(t.Context(), ws, id, 0); err != nil || l.Live.N != 2 {
		t.Errorf("made live again, nothing changed: %+v, %v", l.Live, err)
	}
	if l, err := s.GoBack(t.Context(), ws, id, 1, 0); err != nil || l.Live.N != 3 || l.Live.Back != 1 || len(l.Past) != 2 {
		t.Fatalf("%+v, %v", l, err)
	}
	want("gone back", "go https://marrowby.example/fair")

	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/draft", "message": "Back soon."}, "GB",
		0); err != nil {
		t.Fatal(err)
	}
	if l, err := s.Rest(t.Context(), ws, id, true, 0); err != nil || !l.Live.Lead.Paused ||
		l.Draft.Says() != "marrowby.example/draft" {
		t.Fatalf("%+v, %v", l, err)
	}
	want("paused", "quiet ")
	heads, err := s.Heading(t.Context(), ws, []string{id, "none"})
	if err != nil || len(heads) != 1 || heads[id] != (Heading{To: content.Summary{Verb: "Leads to",
		Object: "marrowby.example/fair"}, Resting: true, Changed: true}) {
		t.Errorf("%+v, %v", heads, err)
	}
	if l, err := s.Rest(t.Context(), ws, id, true, 0); err != nil || l.Live.N != 4 {
		t.Errorf("paused twice: %+v, %v", l.Live, err)
	}
	if _, err := s.Rest(t.Context(), ws, id, false, 0); err != nil {
		t.Fatal(err)
	}
	if l, err := s.GoBack(t.Context(), ws, id, 2, 0); err != nil || l.Live.Lead.Says() != "marrowby.example/after" ||
		l.Draft.Says() != "marrowby.example/draft" {
		t.Errorf("a draft that waits is lost by going back: %+v, %v", l.Draft, err)
	}
	want("gone back beside a draft", "go https://marrowby.example/after")
	if _, err := s.GoBack(t.Context(), ws, id, 1, 0); err != nil {
		t.Fatal(err)
	}
	want("goes on", "go https://marrowby.example/fair")
	if l, err := s.Discard(t.Context(), ws, id, 0); err != nil || l.Changed() || l.Draft.Says() != "marrowby.example/fair" {
		t.Errorf("%+v, %v", l, err)
	}

	back, err := s.TurnBack(t.Context(), ws, id, code.Anyhow)
	if err != nil || back.Rendition.Payload != "https://marrowby.example/fair" || back.Rendition.Job.Placements[1].Link != "" {
		t.Fatalf("turned back: %v, %v", back, err)
	}
	want("turned back, printed links", "go https://marrowby.example/fair")
	again := Links(turn(t, s, id).Rendition.Job)
	if again[0].Address != links[0].Address || again[1].Address != links[1].Address {
		t.Errorf("turned again, what hangs has other links: %+v", again)
	}
}

// TestRefused: what cannot lead, whose link it is, and what is no destination.
func TestRefused(t *testing.T) {
	s := open(t)
	wifi := create(t, s, `{"content":{"kind":"wifi","ssid":"Shed","security":"open"}}`)
	if _, err := s.Turn(t.Context(), ws, wifi, code.Anyhow); !refused(err, "/content/kind") {
		t.Errorf("a network: %v", err)
	}
	id := fair(t, s)
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "a.example"}, "GB", 0); !errors.Is(err, code.ErrNotFound) {
		t.Errorf("a static code's destination: %v", err)
	}
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	if _, err := s.Turn(t.Context(), ws, id, code.Anyhow); !refused(err, "/content/kind") {
		t.Errorf("turned twice: %v", err)
	}
	for text, want := range map[string]string{"javascript:alert(1)": "/to", "data:text/html,x": "/to",
		"file:///etc/passwd": "/to",
		"":                   "/to", a.String(): "/to", strings.ToLower(a.URL()): "/to",
		"https://marrowby.example/?" + strings.Repeat("q",
			8<<10): "/to",
		"https://marrowby.example/\r\nX: y": "/to", "a\xffb.example": "/to", "WIFI:S:Shed;;": "/to"} {
		t.Run(text, func(t *testing.T) {
			if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": text}, "GB", 0); !refused(err, want) {
				t.Errorf("%.40q: %v", text, err)
			}
		})
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"colour": "blue"}, "GB", 0); !refused(err, "/colour") {
		t.Errorf("a field that is none: %v", err)
	}
	if _, err := s.Edit(t.Context(), elsewhere, id, map[string]string{"to": "a.example"}, "GB", 0); !errors.Is(err,
		code.ErrNotFound) {
		t.Errorf("from another workspace: %v", err)
	}
	// a job with somebody else's link is no way to have it
	thief := create(t, s, fmt.Sprintf(`{"content":{"kind":"dynamic","link":%q}}`, a.String()))
	if _, err := s.Codes.Issue(t.Context(), ws, thief); !refused(err, "/content/link") {
		t.Errorf("another code's link is handed over: %v", err)
	}
	copied, err := s.Codes.Duplicate(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Codes.Issue(t.Context(), ws, copied); !refused(err, "/content/link") {
		t.Errorf("a copy has its original's link: %v", err)
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/fair"}, "GB", 0); err != nil {
		t.Fatal(err) // what was refused is put right: with it nothing is handed over
	}
	own, err := s.Duplicate(t.Context(), ws, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range Links(issue(t, s, own).Rendition.Job) {
		if p.Address == a || p.Address == Links(issue(t, s, id).Rendition.Job)[1].Address {
			t.Errorf("a copy leads through its original's link %s", p.Address)
		}
	}
	if l := led(t, s, own); l.Live == nil || l.Live.Lead.Says() != "marrowby.example/fair" {
		t.Errorf("a copy leads to %+v", l)
	}
}

// TestWord: a word of one's own, once for ever, in any letters.
func TestWord(t *testing.T) {
	s := open(t)
	first, second := fair(t, s), fair(t, s)
	turn(t, s, first)
	turn(t, s, second)
	c, err := s.Word(t.Context(), ws, first, -1, "spring-fair", code.Anyhow)
	if err != nil || c.Rendition.Payload != "HTTPS://GO.MARROWBY.EXAMPLE/SPRING-FAIR" {
		t.Fatalf("%v, %v", c, err)
	}
	for _, word := range []string{"Spring-Fair", "where", "../etc", "a", "a b", ""} {
		t.Run(word, func(t *testing.T) {
			if _, err := s.Word(t.Context(), ws, second, -1, word, code.Anyhow); !refused(err, "/word") {
				t.Errorf("%q: %v", word, err)
			}
		})
	}
	if _, err := s.Word(t.Context(), ws, first, -1, "bulbs", code.Anyhow); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Word(t.Context(), ws, second, -1, "spring-fair", code.Anyhow); !refused(err, "/word") {
		t.Errorf("a word that was another's is taken: %v", err)
	}
	if _, err := s.Word(t.Context(), ws, first, -1, "SPRING-FAIR", code.Anyhow); err != nil {
		t.Errorf("one's own again: %v", err)
	}
	if c, err := s.Word(t.Context(), ws, first, 1, "till", code.Anyhow); err != nil || c.Rendition.Job.Placements[1].Link !=
		"go.marrowby.example/TILL" {
		t.Errorf("%v, %v", c, err)
	}
	if id, ok, err := s.ByAddress(t.Context(), ws, shortlink.Address{Host: "go.marrowby.example",
		Path: "BULBS"}); id != first || !ok {
		t.Errorf("%s, %v", id, err)
	}
	if _, ok, _ := s.ByAddress(t.Context(), elsewhere, shortlink.Address{Host: "go.marrowby.example", Path: "BULBS"}); ok {
		t.Error("another workspace sees whose it is")
	}
	if _, err := s.Codes.DB.Pool.Exec(t.Context(), `DELETE FROM workspaces WHERE id = $1`, inWS); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Codes.EnsureWorkspace(t.Context(), inWS, inWS); err != nil {
		t.Fatal(err)
	}
	third := fair(t, s)
	turn(t, s, third)
	if _, err := s.Word(t.Context(), ws, third, -1, "bulbs", code.Anyhow); !refused(err, "/word") {
		t.Errorf("a word of a code that is gone is used again: %v", err)
	}
}

// TestDrawn: where a drawn path is taken, another is drawn.
func TestDrawn(t *testing.T) {
	s := open(t)
	same := strings.Repeat("\x00", 5) + strings.Repeat("\x00", 5) + "\x01\x02\x03\x04\x05"
	s.Random = strings.NewReader(same[:5])
	one := turn(t, s, create(t, s, `{"content":{"kind":"url","url":"a.example"}}`)).Rendition.Payload
	s.Random = bytes.NewReader([]byte(same[5:]))
	other := turn(t, s, create(t, s, `{"content":{"kind":"url","url":"b.example"}}`)).Rendition.Payload
	if one != "HTTPS://GO.MARROWBY.EXAMPLE/33333" || other != "HTTPS://GO.MARROWBY.EXAMPLE/4679C" {
		t.Errorf("%s, %s", one, other)
	}
	s.Host = ""
	if _, err := s.Turn(t.Context(), ws, fair(t, s), code.Anyhow); !refused(err, "/content/kind") {
		t.Errorf("without a host: %v", err)
	}
}

// TestSchedule: a change at a time, its end, and what is wrong with them.
func TestSchedule(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	l, err := s.Edit(t.Context(), ws, id, map[string]string{"then": "marrowby.example/after", "from": "22 March 2027, 18:00",
		"until": "1 April 2027, 9:00", "timezone": "London"}, "GB", 0)
	if err != nil || l.Draft.From != "2027-03-22T18:00" || l.Draft.Zone != "Europe/London" {
		t.Fatalf("%+v, %v", l, err)
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"until": "28 March 2027, 01:30"}, "GB", 0); !refused(err,
		"/until") {
		t.Errorf("an hour that the clocks skip: %v", err)
	}
	if l, err := s.Edit(t.Context(), ws, id, map[string]string{"then": "", "from": "", "until": ""}, "GB", 0); err != nil ||
		l.Draft.Then != nil {
		t.Errorf("%+v, %v", l, err)
	}
}

// TestSealed: nothing of where a code leads stands open in the database, and a change of the key opens it still.
func TestSealed(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	issue(t, s, id)
	for _, table := range []string{"leads", "lead_versions", "live_links", "links"} {
		t.Run(table, func(t *testing.T) {
			var text string
			if err := s.Codes.DB.Pool.QueryRow(t.Context(),
				`SELECT coalesce(json_agg(t)::text, '') FROM `+table+` t`).Scan(&text); err != nil {
				t.Fatal(err)
			}
			if text == "" || strings.Contains(text, "marrowby.example/fair") || strings.Contains(text, "gate") {
				t.Errorf("%s holds %s", table, text)
			}
		})
	}
	fresh := bytes.Repeat([]byte{9}, seal.KeySize)
	box := func(keys ...[]byte) *seal.Box {
		b, err := seal.New(keys...)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	s.Codes.Seal = box(fresh, bytes.Repeat([]byte{7}, seal.KeySize)) // as sealtest has it
	if _, err := s.Codes.Upkeep().Rotate(t.Context(), time.Millisecond); err != nil {
		t.Fatal(err)
	}
	s.Codes.Seal = box(fresh)
	if err := s.Codes.Upkeep().FollowKeyring(t.Context()); err != nil {
		t.Fatal(err)
	}
	if a := answers(t, s); len(a) != 2 {
		t.Errorf("under the new key alone links answer %v", a)
	}
	if _, err := s.GoBack(t.Context(), ws, id, 9, 0); !errors.Is(err, code.ErrNotFound) {
		t.Errorf("what was never live: %v", err)
	}
	if _, err := s.Rest(t.Context(), ws, id, true, 0); err != nil { // which opens drafts, versions and names of places
		t.Error(err)
	}
	l := led(t, s, id)
	if b, err := json.Marshal(l.Live.Lead.JSON()); err != nil || !strings.Contains(string(b), "marrowby.example/fair") {
		t.Errorf("%s, %v", b, err)
	}
}

// TestFoundByWhereItLeads: a dynamic code is found by its destinations, draft and live, and by each of its links, also after
// another word was chosen; what was kept before that was so is brought up to date.
func TestFoundByWhereItLeads(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	a := Links(turn(t, s, id).Rendition.Job)[0].Address
	found := func(query string, want bool) {
		t.Helper()
		p, err := s.Codes.Ledger(t.Context(), ws, code.Active, query, nil, 10)
		if err != nil {
			t.Fatal(err)
		}
		if got := len(p.Lines) == 1 && p.Lines[0].ID == id; got != want {
			t.Errorf("%q finds it: %v", query, got)
		}
	}
	found("marrowby.example/fair", true)
	found(strings.ToLower(a.Path), true)
	found("crocus", false)
	issue(t, s, id)
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/crocus"}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	found("CROCUS", true)
	found("marrowby.example/fair", true) // which is live
	if _, err := s.MakeLive(t.Context(), ws, id, 0); err != nil {
		t.Fatal(err)
	}
	found("marrowby.example/fair", false)
	if _, err := s.Word(t.Context(), ws, id, -1, "tulip", code.Anyhow); err != nil {
		t.Fatal(err)
	}
	found("example/tulip", true)
	found(a.Path, true)
	if _, err := s.SwapAll(t.Context(), ws, []string{id}, Swap{Find: "crocus", With: "iris"}); err != nil {
		t.Fatal(err)
	}
	found("iris", true)
	if err := s.Codes.DB.InWorkspace(t.Context(), inWS, func(tx pgx.Tx) error {
		_, err := tx.Exec(t.Context(), `UPDATE codes SET leads = '' WHERE id = $1`, id)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	found("iris", false)
	if n, err := s.Reindex(t.Context()); n != 1 || err != nil {
		t.Errorf("%d are brought up to date, %v", n, err)
	}
	found("iris", true)
}

// TestFoundByPrint: a fixed code is found by what hangs, also once its draft says something else.
func TestFoundByPrint(t *testing.T) {
	s := open(t)
	id := create(t, s, `{"name":"Shop","content":{"kind":"url","url":"marrowby.example/before"}}`)
	issue(t, s, id)
	now := code.Edit{Path: "/content/url", Text: "marrowby.example/now", Base: -1}
	if _, err := s.Codes.Edit(t.Context(), ws, id, now); err != nil {
		t.Fatal(err)
	}
	issue(t, s, id)
	issue(t, s, id)
	for query, want := range map[string]int{"example/before": 1, "example/now": 1, "example/never": 0} {
		t.Run(query, func(t *testing.T) {
			p, err := s.Codes.Ledger(t.Context(), ws, code.Active, query, nil, 10)
			if err != nil || len(p.Lines) != want {
				t.Errorf("%q finds %d codes, %v", query, len(p.Lines), err)
			}
		})
	}
}

// TestKeeper: every live link has one: whoever made it live first, until somebody else is named.
func TestKeeper(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	if l := led(t, s, id); l.Keeper != "" {
		t.Errorf("before it is live it is kept by %q", l.Keeper)
	}
	issue(t, s, id)
	if l := led(t, s, id); l.Keeper != "Ada Thorne" {
		t.Errorf("it is kept by %q", l.Keeper)
	}
	if err := s.Keeper(t.Context(), ws, id, "idris", "Idris Penn"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Edit(t.Context(), ws, id, map[string]string{"to": "marrowby.example/shop"}, "GB", 0); err != nil {
		t.Fatal(err)
	}
	if _, err := s.MakeLive(t.Context(), ws, id, 0); err != nil {
		t.Fatal(err)
	}
	if l := led(t, s, id); l.Keeper != "Idris Penn" || l.KeeperID != "idris" {
		t.Errorf("it is kept by %q, %q", l.Keeper, l.KeeperID)
	}
	if err := s.Keeper(t.Context(), elsewhere, id, "x", "X"); !errors.Is(err, code.ErrNotFound) {
		t.Errorf("another workspace names a keeper: %v", err)
	}
}

// TestRefusedStays: what is typed and refused is kept as it is typed, and nothing that would hold it goes live or is handed over.
func TestRefusedStays(t *testing.T) {
	s := open(t)
	id := fair(t, s)
	turn(t, s, id)
	typed := func(text string) error {
		_, err := s.Edit(t.Context(), ws, id, map[string]string{"to": text}, "GB", 0)
		return err
	}
	refused := func(doing string, err error) {
		t.Helper()
		problems, is := code.IsProblem(err)
		if !is || len(problems) != 1 || !strings.Contains(problems[0].Message, "marrowby.example spring") {
			t.Errorf("%s: %v", doing, err)
		}
	}
	if err := typed("marrowby.example spring"); err == nil {
		t.Fatal("an address with a blank in it is taken")
	}
	if l := led(t, s, id); l.Refused["to"].Text != "marrowby.example spring" || l.Refused["to"].Message == "" {
		t.Errorf("kept is %+v", l.Refused)
	}
	_, err := s.Codes.Issue(t.Context(), ws, id)
	refused("handing over", err)
	if err := typed("marrowby.example/offer"); err != nil {
		t.Fatal(err)
	}
	issue(t, s, id)
	if l := led(t, s, id); len(l.Refused) > 0 || l.Live.Lead.To.Payload() != "https://marrowby.example/offer" {
		t.Errorf("%+v", l)
	}
	typed("marrowby.example spring")
	_, err = s.MakeLive(t.Context(), ws, id, 0)
	refused("making it live", err)
	issue(t, s, id) // holds what is live, and none of the draft
	if _, err := s.Discard(t.Context(), ws, id, 0); err != nil {
		t.Fatal(err)
	}
	if l := led(t, s, id); len(l.Refused) > 0 {
		t.Errorf("a draft that is dropped keeps %+v", l.Refused)
	}
}
