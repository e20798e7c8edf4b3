package redirect

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"hash"
	"log/slog"
	"net/netip"
	"sync"
	"sync/atomic"
	"time"

	"sodrik/internal/eventlog"
)

// phones tells the phones of a day apart, without keeping what they are: by a digest of address and name of the browser under
// a key that is made anew each day (UTC). The key is shared in the memory of the log alone, and forgotten with the day, so
// that nobody can ever try addresses against what is kept.
type phones struct {
	log *eventlog.Log
	key atomic.Pointer[dayKey]

	asks   sync.Mutex   // one asks, and the others go on without
	failed atomic.Int64 // when it was last asked for in vain, Unix milliseconds
}

type dayKey struct {
	day     string
	key     []byte
	digests sync.Pool // of hash.Hash under the key
}

// keyWait is how long an answer waits for the first use of a day's key; without it a phone is not told apart.
const keyWait = 100 * time.Millisecond

// keyRest is for how long a day's key is not asked for again where the log did not give it.
const keyRest = time.Second

// of is the digest of a phone on a day, "" where there is no key or no address.
func (p *phones) of(ctx context.Context, now time.Time, a netip.Addr, agent string) string {
	if !a.IsValid() {
		return ""
	}
	key := p.today(ctx, now)
	if key == nil {
		return ""
	}
	h := key.digests.Get().(hash.Hash)
	defer key.digests.Put(h)
	h.Reset()
	h.Write(a.AsSlice())
	h.Write([]byte{0})
	h.Write([]byte(agent))
	return base64.RawStdEncoding.EncodeToString(h.Sum(nil)[:12])
}

// today is the key of the day, which whoever asks first makes.
func (p *phones) today(ctx context.Context, now time.Time) *dayKey {
	day := now.UTC().Format("2006-01-02")
	if k := p.key.Load(); k != nil && k.day == day {
		return k
	}
	if time.Now().UnixMilli()-p.failed.Load() < keyRest.Milliseconds() {
		return nil
	}
	if !p.asks.TryLock() {
		return nil
	}
	defer p.asks.Unlock()
	ctx, cancel := context.WithTimeout(ctx, keyWait)
	defer cancel()
	mine := make([]byte, 32)
	rand.Read(mine)
	key, err := p.log.Shared(ctx, day, mine)
	if err != nil {
		p.failed.Store(time.Now().UnixMilli())
		slog.Warn("phones are not told apart just now", "error", err)
		return nil
	}
	k := &dayKey{day: day, key: key, digests: sync.Pool{New: func() any { return hmac.New(sha256.New, key) }}}
	p.key.Store(k)
	return k
}
