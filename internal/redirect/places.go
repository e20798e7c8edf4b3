package redirect

import (
	"fmt"
	"log/slog"
	"net/netip"
	"os"
	"sync"
	"sync/atomic"
	"time"

	"github.com/oschwald/maxminddb-golang/v2"
)

// Places says where an address is, by a file in MaxMind's open format (City), which may be replaced while it is read.
type Places struct {
	file   string
	held   atomic.Pointer[placesFile]
	lock   sync.Mutex
	looked atomic.Int64 // Unix milliseconds
}

// placesFile is one state of the file.
type placesFile struct {
	reader *maxminddb.Reader
	at     time.Time
	size   int64
}

// placesEvery is how often the file is looked at.
const placesEvery = 10 * time.Second

// Place is where an address is; empty where that is not known.
type Place struct {
	Country, Part, Town string // ISO 3166-1; English names
	Accuracy            int    // kilometres around it within which that holds
}

// OpenPlaces reads a file. The error says that there is none, or that it is damaged.
func OpenPlaces(file string) (*Places, error) {
	p := &Places{file: file}
	p.looked.Store(time.Now().UnixMilli())
	return p, p.read()
}

func (p *Places) read() error {
	info, err := os.Stat(p.file)
	if err != nil {
		return err
	}
	// In memory, and not mapped: whoever writes over a file that is mapped ends the process that reads it.
	b, err := os.ReadFile(p.file)
	if err != nil {
		return err
	}
	r, err := maxminddb.OpenBytes(b)
	if err != nil {
		return fmt.Errorf("%s is no database of places: %w", p.file, err)
	}
	p.held.Store(&placesFile{r, info.ModTime(), info.Size()})
	return nil
}

// Of is where an address is. Nil knows of none.
func (p *Places) Of(a netip.Addr) (out Place) {
	if p == nil || !a.IsValid() {
		return out
	}
	p.refresh()
	f := p.held.Load()
	if f == nil {
		return out
	}
	var is struct {
		Country struct {
			Code string `maxminddb:"iso_code"`
		} `maxminddb:"country"`
		Parts []struct {
			Names map[string]string `maxminddb:"names"`
		} `maxminddb:"subdivisions"`
		City struct {
			Names map[string]string `maxminddb:"names"`
		} `maxminddb:"city"`
		Location struct {
			Radius uint16 `maxminddb:"accuracy_radius"`
		} `maxminddb:"location"`
	}
	if err := f.reader.Lookup(a).Decode(&is); err != nil {
		return out
	}
	out = Place{Country: is.Country.Code, Town: is.City.Names["en"], Accuracy: int(is.Location.Radius)}
	if len(is.Parts) > 0 {
		out.Part = is.Parts[0].Names["en"]
	}
	return out
}

// refresh reads the file again where it has changed; one that cannot be read leaves what was there.
func (p *Places) refresh() {
	now, was := time.Now().UnixMilli(), p.looked.Load()
	if now-was < placesEvery.Milliseconds() || !p.lock.TryLock() {
		return
	}
	defer p.lock.Unlock()
	p.looked.Store(now)
	info, err := os.Stat(p.file)
	if f := p.held.Load(); err == nil && f != nil && info.ModTime().Equal(f.at) && info.Size() == f.size {
		return
	}
	if err == nil {
		err = p.read()
	}
	if err != nil {
		slog.Error("the file of places cannot be read; what it said goes on", "file", p.file, "error", err)
	}
}
