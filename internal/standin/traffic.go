package standin

import (
	"bytes"
	"context"
	"math/rand/v2"
	"strconv"
	"time"

	"github.com/google/uuid"

	"sodrik/internal/core/leave"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
	"sodrik/internal/link"
)

// days is for how long the demonstration's short links have hung.
const days = 20

// phones are the devices of the made-up people who scan, the commonest first.
var phones = []struct {
	device, system string
	languages      []string
}{
	{"phone", "Android", []string{"en-GB"}}, {"phone", "iOS", []string{"en-GB"}}, {"phone", "iOS", []string{"cy", "en-GB"}},
	{"phone", "Android", []string{"pl", "en"}}, {"tablet", "iOS", []string{"en-GB", "fr"}},
}

// Scans puts what made-up people have scanned in the last weeks into the log, by which it reaches the database as any scan
// does. It is done once: a workspace in which anything was scanned is left as it is.
func Scans(ctx context.Context, links *link.Store, log *eventlog.Log) error {
	var any bool
	if err := links.Codes.DB.Pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM scans WHERE workspace = $1)`, Workspace).
		Scan(&any); err != nil || any {
		return err
	}
	live, err := links.Live(ctx, Loader())
	if err != nil {
		return err
	}
	now := links.Codes.Now()
	for i, l := range live {
		random := rand.New(rand.NewPCG(27, uint64(i)))
		for day := days; day >= 0; day-- {
			if err := dayOf(ctx, log, l, now.AddDate(0, 0, -day), now, 14/(i+1), random); err != nil {
				return err
			}
		}
	}
	return nil
}

// dayOf publishes a day of a link: twice as many scans at the weekend, most of them around noon, none that is still to come.
func dayOf(ctx context.Context, log *eventlog.Log, l leave.Link, day, now time.Time, usual int, random *rand.Rand) error {
	n := usual/2 + random.IntN(usual+1)
	if w := day.Weekday(); w == time.Saturday || w == time.Sunday {
		n *= 2
	}
	var message [][]byte
	for range n {
		hour := 8 + (random.IntN(11)+random.IntN(11))/2
		at := time.Date(day.Year(), day.Month(), day.Day(), hour, random.IntN(60), random.IntN(60), 0, day.Location())
		if at.After(now) {
			continue
		}
		kind := scan.Scan
		if random.IntN(20) == 0 {
			kind = scan.Robot
		}
		p := phones[min(random.IntN(len(phones)), random.IntN(len(phones)))]
		t := towns[min(random.IntN(len(towns)), random.IntN(len(towns)))]
		message = append(message, scan.Event{Version: 1, ID: idAt(at), At: at.UnixMilli(), Kind: kind,
			Link:      l.Host + "/" + l.Path,
			Workspace: Workspace, Code: l.Live.Code, Place: l.Live.Place, Does: string(l.Live.At(at).Does), Device: p.device,
			System: p.system, Languages: p.languages, Country: t.country, Part: t.part, Town: t.name, Accuracy: int(t.radius),
			Phone: day.UTC().Format("20060102") + strconv.Itoa(random.IntN(4*n))}.Encode())
	}
	if len(message) == 0 {
		return nil
	}
	return log.Publish(ctx, uuid.NewString(), bytes.Join(message, []byte("\n")))
}

// idAt is a UUIDv7 of a time (RFC 9562, 5.7).
func idAt(at time.Time) string {
	id := uuid.Must(uuid.NewV7())
	for i := range 6 {
		id[i] = byte(at.UnixMilli() >> (40 - 8*i))
	}
	return id.String()
}
