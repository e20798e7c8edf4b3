package standin

import (
	"bytes"
	"context"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"sodrik/internal/core/leave"
	"sodrik/internal/core/scan"
	"sodrik/internal/eventlog"
	"sodrik/internal/link"
)

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
	for _, l := range live {
		c, since, known := courseOf(l)
		if !known {
			continue
		}
		if err := c.publish(ctx, log, l, since, now); err != nil {
			return err
		}
	}
	return nil
}

// course is how a place of the demonstration is scanned.
type course struct {
	perDay  float64 // on a day of the week
	weekend float64 // times as many on Saturdays and Sundays
	grow    float64 // times as many in the end as at the start; 0 as many
	opening float64 // times as many in the first three days; 0 as many
	until   int     // days ago on which somebody covered it; 0 for never
}

// courseOf is that of a short link, since how many days, and whether it is one of the demonstration's.
func courseOf(l leave.Link) (c course, since int, known bool) {
	for _, h := range hungCodes {
		for place, word := range h.words {
			if strings.EqualFold(word, l.Path) {
				return h.courses[max(0, place)], h.since, true
			}
		}
	}
	return c, 0, false
}

// atOnce is how many made-up scans share a message.
const atOnce = 500

// publish puts the scans of a place into the log, day by day.
func (c course) publish(ctx context.Context, log *eventlog.Log, l leave.Link, since int, now time.Time) error {
	seed := uint64(0)
	for _, b := range []byte(l.Path) {
		seed = seed*31 + uint64(b)
	}
	random := rand.New(rand.NewPCG(27, seed))
	var message [][]byte
	send := func() error {
		if len(message) == 0 {
			return nil
		}
		err := log.Publish(ctx, uuid.NewString(), bytes.Join(message, []byte("\n")))
		message = nil
		return err
	}
	for ago := since; ago >= c.until; ago-- {
		day := now.AddDate(0, 0, -ago)
		mean := c.perDay * (0.6 + 0.8*random.Float64()) // weather
		if w := day.Weekday(); w == time.Saturday || w == time.Sunday {
			mean *= c.weekend
		}
		if c.grow > 0 {
			mean *= 1 + (c.grow-1)*float64(since-ago)/float64(since)
		}
		if c.opening > 0 && since-ago < 3 {
			mean *= c.opening
		}
		for range int(mean + random.Float64()) {
			if e, past := scanOn(l, day, now, mean, random); past {
				message = append(message, e.Encode())
			}
		}
		if len(message) >= atOnce {
			if err := send(); err != nil {
				return err
			}
		}
	}
	return send()
}

// scanOn is a made-up scan of a day, most of them around noon; past is false for one that is still to come.
func scanOn(l leave.Link, day, now time.Time, usual float64, random *rand.Rand) (e scan.Event, past bool) {
	hour := 8 + (random.IntN(11)+random.IntN(11))/2
	at := time.Date(day.Year(), day.Month(), day.Day(), hour, random.IntN(60), random.IntN(60), 0, day.Location())
	kind := scan.Scan
	if random.IntN(20) == 0 {
		kind = scan.Robot
	}
	p := phones[min(random.IntN(len(phones)), random.IntN(len(phones)))]
	t := towns[min(random.IntN(len(towns)), random.IntN(len(towns)))]
	return scan.Event{Version: 1, ID: idAt(at), At: at.UnixMilli(), Kind: kind, Link: l.Host + "/" + l.Path, Workspace: Workspace,
		Code: l.Live.Code, Place: l.Live.Place, Does: string(l.Live.At(at).Does), Device: p.device, System: p.system,
		Languages: p.languages,
		Country:   t.country, Part: t.part, Town: t.name, Accuracy: int(t.radius),
		Phone: day.UTC().Format("20060102") + strconv.Itoa(random.IntN(4*int(usual)+4))}, !at.After(now)
}

// idAt is a UUIDv7 of a time (RFC 9562, 5.7).
func idAt(at time.Time) string {
	id := uuid.Must(uuid.NewV7())
	for i := range 6 {
		id[i] = byte(at.UnixMilli() >> (40 - 8*i))
	}
	return id.String()
}
