package redirect

import (
	"net/netip"
	"os"
	"path/filepath"
	"testing"
	"time"

	"sodrik/internal/standin"
)

func placesFileOf(t testing.TB) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "places.mmdb")
	if err := standin.Places(file); err != nil {
		t.Fatal(err)
	}
	return file
}

func TestPlaces(t *testing.T) {
	file := placesFileOf(t)
	p, err := OpenPlaces(file)
	if err != nil {
		t.Fatal(err)
	}
	at := func(a string) Place { return p.Of(netip.MustParseAddr(a)) }
	for a, want := range map[string]Place{"192.0.2.7": {"GB", "England", "Ludlow", 10},
		"192.0.2.65":     {"GB", "England", "Shrewsbury", 10},
		"198.51.100.200": {"PL", "", "", 500}, "2001:db8:2::1": {"GB", "Scotland", "Perth", 50},
		"127.0.0.1": {}, "10.0.0.1": {}} {
		t.Run(a, func(t *testing.T) {
			if got := at(a); got != want {
				t.Errorf("%s is at %+v, want %+v", a, got, want)
			}
		})
	}
	if got := (*Places)(nil).Of(netip.MustParseAddr("192.0.2.7")); got != (Place{}) {
		t.Errorf("without a file: %+v", got)
	}
	if got := p.Of(netip.Addr{}); got != (Place{}) {
		t.Errorf("without an address: %+v", got)
	}

	// A damaged file, or none, leaves what was there; a sound one is read.
	later := func(text []byte) {
		if err := os.WriteFile(file, text, 0o600); err != nil {
			t.Fatal(err)
		}
		p.looked.Store(0)
	}
	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	later(whole[:len(whole)/2])
	if got := at("192.0.2.7"); got.Town != "Ludlow" {
		t.Errorf("with a damaged file: %+v", got)
	}
	if _, err := OpenPlaces(file); err == nil {
		t.Error("a damaged file is opened")
	}
	if err := os.Remove(file); err != nil {
		t.Fatal(err)
	}
	p.looked.Store(0)
	if got := at("192.0.2.7"); got.Town != "Ludlow" {
		t.Errorf("with a file that is gone: %+v", got)
	}
	later(whole)
	if err := os.Chtimes(file, time.Now(), time.Now().Add(time.Minute)); err != nil {
		t.Fatal(err)
	}
	before := p.held.Load()
	if at("192.0.2.7"); p.held.Load() == before {
		t.Error("a file that has changed is not read again")
	}
	before = p.held.Load()
	p.looked.Store(0)
	if at("192.0.2.7"); p.held.Load() != before {
		t.Error("a file that has not changed is read again")
	}
}

// TestPhones: a phone is the same all day and another the next, on every instance; who wants to be counted only is not told
// apart.
func TestPhones(t *testing.T) {
	w := start(t)
	p, err := OpenPlaces(placesFileOf(t))
	if err != nil {
		t.Fatal(err)
	}
	proxies := []netip.Prefix{netip.MustParsePrefix("192.0.2.1/32")} // the address that httptest asks from
	day := now
	w.s.o.Places, w.s.o.Proxies, w.s.o.Now = p, proxies, func() time.Time { return day }
	other := New(w.s.o)
	w.live("go.marrowby.example/FA1R", fair, "gate")
	const ludlow, newtown = "192.0.2.7", "198.51.100.9"
	for _, ask := range []struct {
		from    string
		headers []string
	}{{ludlow, nil}, {ludlow, nil}, {newtown, nil}, {ludlow, []string{"User-Agent", "Mozilla/5.0 (Linux; Android 14) Chrome/126.0 Mobile"}},
		{ludlow, []string{"Sec-GPC", "1"}}, {"spoofed, " + ludlow, nil}} {
		w.ask("GET", "https://go.marrowby.example/FA1R", append([]string{"X-Forwarded-For", ask.from}, ask.headers...)...)
	}
	day = day.AddDate(0, 0, 1)
	w.ask("GET", "https://go.marrowby.example/FA1R", "X-Forwarded-For", ludlow)
	e := w.events(7)
	if len(e) != 7 {
		t.Fatalf("%d events", len(e))
	}
	if e[0].Phone == "" || len(e[0].Phone) != 16 || e[1].Phone != e[0].Phone || e[5].Phone != e[0].Phone {
		t.Errorf("one phone is %q, %q and %q", e[0].Phone, e[1].Phone, e[5].Phone)
	}
	if e[2].Phone == e[0].Phone || e[3].Phone == e[0].Phone || e[6].Phone == e[0].Phone || e[6].Phone == "" {
		t.Errorf("other phones and days are told for one: %q %q %q %q", e[0].Phone, e[2].Phone, e[3].Phone, e[6].Phone)
	}
	if e[4].Phone != "" || e[4].Country != "" || !e[4].Bare {
		t.Errorf("who wants to be counted only: %+v", e[4])
	}
	if e[0].Country != "GB" || e[0].Town != "Ludlow" || e[0].Accuracy != 10 || e[2].Part != "Wales" {
		t.Errorf("their places: %+v %+v", e[0], e[2])
	}
	a, b := other.phones.today(t.Context(), day), w.s.phones.today(t.Context(), day)
	if len(a.key) != 32 || string(a.key) != string(b.key) {
		t.Error("two instances have keys of their own")
	}
}
