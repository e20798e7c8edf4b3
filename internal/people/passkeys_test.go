package people

import (
	"testing"
	"time"

	"github.com/go-webauthn/webauthn/webauthn"
)

// TestCopiedPasskey: a passkey whose counter went back, as that of a copy does, is refused (WebAuthn Level 2, 6.1.1), and
// nothing is noted of its use.
func TestCopiedPasskey(t *testing.T) {
	f := open(t)
	p := f.register(t, "tamsin@marrowby.example", "leeks in october")
	key := &webauthn.Credential{ID: []byte("key"), Authenticator: webauthn.Authenticator{SignCount: 5}}
	if err := f.AddPasskey(t.Context(), p.ID, "Laptop", key); err != nil {
		t.Fatal(err)
	}
	used := func() *time.Time {
		t.Helper()
		list, err := f.Passkeys(t.Context(), p.ID)
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		return list[0].Used
	}
	key.Authenticator.UpdateCounter(5) // the same again: two devices count on their own
	if err := f.PasskeyUsed(t.Context(), key); err == nil || used() != nil {
		t.Errorf("a copy is taken: %v, used %v", err, used())
	}
	key.Authenticator.CloneWarning = false
	key.Authenticator.UpdateCounter(6)
	if err := f.PasskeyUsed(t.Context(), key); err != nil || used() == nil {
		t.Errorf("the key itself is refused: %v", err)
	}
}
