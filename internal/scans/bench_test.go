package scans

import (
	"bytes"
	"math/rand/v2"
	"testing"
	"time"

	"sodrik/internal/core/scan"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/eventlog"
)

// BenchmarkIngest is a batch of 1,000 scans of 100 links on its way into the database, rollups included.
func BenchmarkIngest(b *testing.B) {
	d := dbtest.Open(b)
	i := &Ingest{DB: d, Now: at}
	random := rand.New(rand.NewPCG(1, 2))
	const each = 1000
	for b.Loop() {
		b.StopTimer()
		var batch []eventlog.Event
		for range each / 50 {
			var lines [][]byte
			for range 50 {
				link := "go.marrowby.example/L" + string(rune('A'+random.IntN(20))) + string(rune('A'+random.IntN(5)))
				at := now.Add(-time.Duration(random.IntN(3600)) * time.Second)
				lines = append(lines, event(at, link, scan.Scan).Encode())
			}
			batch = append(batch, eventlog.Event{Data: bytes.Join(lines, []byte("\n"))})
		}
		b.StartTimer()
		if err := i.take(b.Context(), batch); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(each*float64(b.N)/b.Elapsed().Seconds(), "scans/s")
}
