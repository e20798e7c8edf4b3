// Package seal encrypts what is stored, so that a copy of the database gives nothing away: AES-256 in Galois/Counter Mode
// (NIST SP 800-38D) under a key that the database does not hold. Each sealed text is bound to the place it stands in: moved
// elsewhere, it does not open.
package seal

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
)

// KeySize is the length of a key in bytes.
const KeySize = 32

// form is the first byte of a sealed text.
const form = 1

const headSize = 1 + 4 // form, then the id of the key

// Box seals with its first key and opens with any of them, so that keys can be changed. It is safe for concurrent use.
type Box struct {
	first [4]byte
	keys  map[[4]byte]cipher.AEAD
	macs  map[string][]byte // by the id of the key, in hexadecimal
	mac   atomic.Pointer[[]byte]
	using atomic.Pointer[string]
}

// Errors of Open.
var (
	ErrKey    = errors.New("seal: this was sealed with a key that is not here")
	ErrBroken = errors.New("seal: what is sealed has been changed, or stands in another place than it was made for")
)

// New makes a box of one or more keys, the newest first. Digests (Mac) depend on the oldest until UseDigests says otherwise,
// so that they outlast a change.
func New(keys ...[]byte) (*Box, error) {
	if len(keys) == 0 {
		return nil, errors.New("seal: there is no key")
	}
	b := &Box{keys: map[[4]byte]cipher.AEAD{}, macs: map[string][]byte{}}
	for i, k := range keys {
		if len(k) != KeySize {
			return nil, fmt.Errorf("seal: key %d is %d bytes long; a key has %d", i+1, len(k), KeySize)
		}
		parts, err := hkdf.Key(sha256.New, k, nil, "sodrik seal", KeySize+4)
		if err != nil {
			return nil, err
		}
		block, err := aes.NewCipher(parts[:KeySize])
		if err != nil {
			return nil, err
		}
		aead, err := cipher.NewGCM(block)
		if err != nil {
			return nil, err
		}
		id := [4]byte(parts[KeySize:])
		b.keys[id] = aead
		if i == 0 {
			b.first = id
		}
		mac, err := hkdf.Key(sha256.New, k, nil, "sodrik mac", KeySize)
		if err != nil {
			return nil, err
		}
		name := hex.EncodeToString(id[:])
		b.macs[name] = mac
		b.mac.Store(&mac)
		b.using.Store(&name)
	}
	return b, nil
}

// Newest is the id of the key that seals, Digests that of the key on which digests depend.
func (b *Box) Newest() string  { return hex.EncodeToString(b.first[:]) }
func (b *Box) Digests() string { return *b.using.Load() }

// UseDigests has digests depend on a key from now on, by its id. It is an error where that key is not here.
func (b *Box) UseDigests(id string) error {
	mac, ok := b.macs[id]
	if !ok {
		return ErrKey
	}
	b.mac.Store(&mac)
	b.using.Store(&id)
	return nil
}

// Stale says whether what is sealed is under another key than the newest.
func (b *Box) Stale(sealed []byte) bool {
	return len(sealed) < headSize || [4]byte(sealed[1:headSize]) != b.first
}

// Parse reads keys in base64, the newest first, separated by commas, as a setting holds them.
func Parse(text string) (*Box, error) {
	var keys [][]byte
	for _, s := range strings.Split(text, ",") {
		k, err := base64.StdEncoding.DecodeString(strings.TrimSpace(s))
		if err != nil || len(k) != KeySize {
			return nil, errors.New("a key is 32 random bytes in base64; make one with: openssl rand -base64 32")
		}
		keys = append(keys, k)
	}
	return New(keys...)
}

// NewKey makes a key, in base64.
func NewKey() string {
	k := make([]byte, KeySize)
	rand.Read(k)
	return base64.StdEncoding.EncodeToString(k)
}

// Seal encrypts text for one place: a name such as "marrowby/codes/7k2m/draft".
func (b *Box) Seal(text []byte, place string) []byte {
	aead := b.keys[b.first]
	out := make([]byte, headSize, headSize+aead.NonceSize()+len(text)+aead.Overhead())
	out[0] = form
	copy(out[1:], b.first[:])
	nonce := make([]byte, aead.NonceSize())
	rand.Read(nonce)
	return aead.Seal(append(out, nonce...), nonce, text, []byte(place))
}

// Open gives back what was sealed for the same place.
func (b *Box) Open(sealed []byte, place string) ([]byte, error) {
	if len(sealed) < headSize || sealed[0] != form {
		return nil, ErrBroken
	}
	aead, ok := b.keys[[4]byte(sealed[1:headSize])]
	if !ok {
		return nil, ErrKey
	}
	rest := sealed[headSize:]
	if len(rest) < aead.NonceSize() {
		return nil, ErrBroken
	}
	text, err := aead.Open(nil, rest[:aead.NonceSize()], rest[aead.NonceSize():], []byte(place))
	if err != nil {
		return nil, ErrBroken
	}
	return text, nil
}

// Mac is a digest that only holders of the key can compute: equal texts have equal ones, and nothing can be guessed from
// them. HMAC with SHA-256, in hexadecimal.
func (b *Box) Mac(text string) string {
	h := hmac.New(sha256.New, *b.mac.Load())
	h.Write([]byte(text))
	return hex.EncodeToString(h.Sum(nil))
}
