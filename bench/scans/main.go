// Command scans measures what figures cost: so many made-up scans of a year go through the log and the ingest that real ones go
// through, are folded by day, and the pages of figures are asked for, all on a database of its own.
package main

import (
	"bytes"
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/scan"
	"sodrik/internal/db"
	"sodrik/internal/db/private"
	"sodrik/internal/eventlog"
	"sodrik/internal/ground"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/readers"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
	"sodrik/internal/web/scanned"
	"sodrik/internal/web/ui"
)

const (
	workspace = "marrowby"
	aMessage  = 64  // scans that share a message
	aPush     = 200 // messages before the ingest is waited for
)

func main() {
	n := flag.Int("n", 10_000_000, "scans")
	codes := flag.Int("codes", 400, "codes, each with five links")
	rounds := flag.Int("rounds", 20, "times that each page is asked for")
	dir := flag.String("dir", "", "folder in which the database stays, in place of a temporary one")
	again := flag.Bool("again", false, "only ask for the pages again, of what is there")
	flag.Parse()
	if err := run(*n, *codes, *rounds, *dir, *again); err != nil {
		log.Fatal(err)
	}
}

func run(n, codes, rounds int, kept string, again bool) error {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	server, err := private.Start(ctx, private.Options{Dir: kept})
	if err != nil {
		return err
	}
	defer server.Stop()
	d, err := db.Open(ctx, server.URL("postgres"), 10*time.Second)
	if err != nil {
		return err
	}
	defer d.Close()
	if err := d.Migrate(ctx); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "sodrik-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	l, err := eventlog.Open(ctx, eventlog.Options{Dir: filepath.Join(dir, "log")})
	if err != nil {
		return err
	}
	defer l.Close()
	box, err := seal.New(bytes.Repeat([]byte{7}, 32))
	if err != nil {
		return err
	}
	panel := readers.Panel()
	store := code.New(ground.Ground{DB: d, Now: time.Now, Seal: box}, panel, readers.Version(panel))
	if _, err := store.EnsureWorkspace(ctx, workspace, "Marrowby Seed House"); err != nil {
		return err
	}
	links := link.New(store, "https://go.marrowby.example")
	counts := &scans.Store{DB: d, Now: time.Now}
	h := &scanned.Handler{Codes: store, Links: links, Scans: counts,
		Notices: &notices.Store{DB: d, Seal: box, Now: time.Now, Links: links, Scans: counts}}
	if again {
		rows, err := d.Pool.Query(ctx, `SELECT code, link FROM scan_months GROUP BY 1, 2 ORDER BY sum(n) DESC`)
		if err != nil {
			return err
		}
		hung, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (e scan.Event, err error) {
			return e, r.Scan(&e.Code, &e.Link)
		})
		if err != nil {
			return err
		}
		return ask(h, hung, rounds)
	}
	hung, err := hang(ctx, links, codes)
	if err != nil {
		return err
	}
	if err := send(ctx, d, l, hung, n); err != nil {
		return err
	}
	if err := fold(ctx, counts); err != nil {
		return err
	}
	if _, err := d.Pool.Exec(ctx, `VACUUM ANALYZE`); err != nil {
		return err
	}
	sizes(ctx, d, n)
	return ask(h, hung, rounds)
}

// hang makes codes with five links each, which hang since a year.
func hang(ctx context.Context, links *link.Store, codes int) (out []scan.Event, err error) {
	actor := access.OfProgram(workspace, "bench")
	for i := range codes {
		m, problems := compose.Parse(fmt.Appendf(nil, `{"name": "Plant label %d", "content": {"kind": "url",
			"url": "https://marrowby.example/plants/%d"}, "placements": [{"name": "bed", "width_mm": 30}, {"name": "door", "width_mm": 30},
			{"name": "till", "width_mm": 30}, {"name": "gate", "width_mm": 30}, {"name": "leaflet", "width_mm": 30}]}`, i, i), nil)
		if len(problems) > 0 {
			return nil, problems
		}
		id, err := links.Codes.Create(ctx, actor, m, "Campaign "+strconv.Itoa(i/20))
		if err != nil {
			return nil, err
		}
		if _, err = links.Turn(ctx, actor, id, code.Anyhow); err != nil {
			return nil, err
		}
		made, err := links.Codes.Issue(ctx, actor, id)
		if err != nil {
			return nil, err
		}
		for k, p := range link.Links(made.Rendition.Job) {
			out = append(out, scan.Event{Version: 1, Kind: scan.Scan, Link: p.Address.String(), Workspace: workspace, Code: id,
				Place: made.Rendition.Job.Placements[k].Name, Does: "go"})
		}
	}
	_, err = links.Codes.DB.Pool.Exec(ctx, `UPDATE lead_versions SET at = now() - interval '1 year'`)
	return out, err
}

var (
	towns   = []string{"Ludlow", "Shrewsbury", "Hereford", "Marrowby", "London", "Cardiff", "Bristol", ""}
	systems = []string{"Android", "iOS"}
	tongues = [][]string{{"en-GB"}, {"cy", "en-GB"}, {"pl"}, {"fr", "en"}}
)

// send has scans of a year come in the order of their times, the nth link 1/n as often as the first.
func send(ctx context.Context, d *db.DB, l *eventlog.Log, hung []scan.Event, n int) error {
	ingest := &scans.Ingest{DB: d, Log: l, Now: time.Now}
	go ingest.Run(ctx)
	random := rand.New(rand.NewPCG(1, 2))
	zipf := rand.NewZipf(random, 1.1, 10, uint64(len(hung)-1))
	begin := time.Now().AddDate(-1, 0, 0)
	step := time.Since(begin) / time.Duration(n)
	started, pushed := time.Now(), 0
	for i := 0; i < n; {
		for range aPush {
			var lines [][]byte
			for ; len(lines) < aMessage && i < n; i++ {
				at := begin.Add(time.Duration(i) * step).Add(-time.Duration(random.IntN(60)) * time.Second)
				e := hung[zipf.Uint64()]
				id := uuid.Must(uuid.NewV7())
				for k := range 6 {
					id[k] = byte(at.UnixMilli() >> (40 - 8*k))
				}
				e.ID, e.At = id.String(), at.UnixMilli()
				e.Device, e.System, e.Languages = "phone", systems[random.IntN(2)], tongues[min(random.IntN(4), random.IntN(4))]
				e.Town, e.Country, e.Accuracy = towns[min(random.IntN(8), random.IntN(8))], "GB", 10
				e.Phone = strconv.Itoa(random.IntN(n / 500))
				lines = append(lines, e.Encode())
			}
			if len(lines) > 0 {
				if err := l.Publish(ctx, uuid.NewString(), bytes.Join(lines, []byte("\n"))); err != nil {
					return err
				}
				pushed++
			}
		}
		left, err := l.Trim(ctx, time.Now().Add(time.Hour))
		for err == nil && left > 2*aPush {
			time.Sleep(20 * time.Millisecond)
			left, err = l.Trim(ctx, time.Now().Add(time.Hour))
		}
		if err != nil {
			return err
		}
		if i%(50*aPush*aMessage) == 0 {
			log.Printf("%d scans, %.0f a second", i, float64(i)/time.Since(started).Seconds())
		}
	}
	for {
		var there int
		if err := d.Pool.QueryRow(ctx, `SELECT coalesce(sum(n), 0)::int FROM scan_days WHERE link <> ''`).Scan(&there); err != nil {
			return err
		}
		if there == n {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	fmt.Printf("ingest: %d scans, %.0f a second, counts included\n", n, float64(n)/time.Since(started).Seconds())
	return nil
}

func fold(ctx context.Context, counts *scans.Store) error {
	started, days := time.Now(), int64(0)
	for {
		n, err := counts.Fold(ctx)
		if err != nil {
			return err
		}
		if n == 0 {
			break
		}
		days += n
	}
	fmt.Printf("fold: %d days, %.0f ms a day\n", days, time.Since(started).Seconds()*1000/float64(max(1, days)))
	return nil
}

// sizes says what a million scans take.
func sizes(ctx context.Context, d *db.DB, n int) {
	for _, t := range []string{"scans", "scan_days", "scan_counts", "scan_months", "scan_parts"} {
		var table, index float64
		if err := d.Pool.QueryRow(ctx, `SELECT sum(pg_table_size(c.oid)), sum(pg_indexes_size(c.oid)) FROM pg_class c
			WHERE c.oid = $1::regclass OR c.oid IN (SELECT inhrelid FROM pg_inherits WHERE inhparent = $1::regclass)`, t).
			Scan(&table, &index); err != nil {
			log.Fatal(err)
		}
		million := float64(n) / 1e6
		fmt.Printf("%s: %.1f MB of table and %.1f MB of indexes a million scans\n", t, table/1e6/million, index/1e6/million)
	}
}

// ask asks for each page of figures, in turns, and says how long it took at the median and at the 95th of 100.
func ask(h *scanned.Handler, hung []scan.Event, rounds int) error {
	r := chi.NewRouter()
	present := &people.Present{Workspace: workspace, Role: people.Owner}
	present.Person.ID, present.Person.Name = "tamsin", "Tamsin"
	r.Use(func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			next.ServeHTTP(w, r.WithContext(ui.WithPresent(r.Context(), present)))
		})
	})
	h.Routes(r, func(people.Right) func(http.Handler) http.Handler {
		return func(next http.Handler) http.Handler { return next }
	})
	busy, middling := hung[0], hung[len(hung)/10]
	compared := url.Values{"days": {"365"}}
	for i := range 6 {
		compared.Add("with", hung[i*7].Link)
	}
	all := []time.Duration{}
	for _, page := range []struct{ name, path string }{
		{"28 days", "/scans"}, {"a year", "/scans?days=365"}, {"a year against the one before", "/scans?days=365&against=year"},
		{"a year by code", "/scans?days=365&by=code"}, {"a campaign, a year", "/scans?days=365&campaign=Campaign+0"},
		{"the busiest link unfolded, a year", "/scans?days=365&open=" + url.QueryEscape(busy.Link)},
		{"another link unfolded, a year", "/scans?days=365&open=" + url.QueryEscape(middling.Link)},
		{"all unfolded, a year, in Kathmandu", "/scans?days=365&open=all&zone=Asia/Kathmandu"},
		{"a code on its desk", "/codes/" + busy.Code + "/scans"}, {"six side by side, a year", "/scans?" + compared.Encode()},
	} {
		var took []time.Duration
		size := 0
		for range rounds {
			w, started := httptest.NewRecorder(), time.Now()
			r.ServeHTTP(w, httptest.NewRequest(http.MethodGet, page.path, nil))
			took = append(took, time.Since(started))
			if size = w.Body.Len(); w.Code != http.StatusOK {
				return fmt.Errorf("%s: %d", page.path, w.Code)
			}
		}
		slices.Sort(took)
		fmt.Printf("%s: %v at the median, %v at the 95th of 100, %d kB\n", page.name, took[len(took)/2].Round(time.Millisecond),
			took[len(took)*95/100].Round(time.Millisecond), size/1000)
		all = append(all, took...)
	}
	slices.Sort(all)
	fmt.Printf("all pages: %v at the 95th of 100\n", all[len(all)*95/100].Round(time.Millisecond))
	return nil
}
