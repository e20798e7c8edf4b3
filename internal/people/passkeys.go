package people

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/go-webauthn/webauthn/webauthn"
	"github.com/jackc/pgx/v5"
)

// Passkey is a credential of Web Authentication (W3C, Level 2) that belongs to a person.
type Passkey struct {
	ID      []byte
	Name    string
	Created time.Time
	Used    *time.Time
}

// Keyholder is a person as Web Authentication sees them.
type Keyholder struct {
	Person
	credentials []webauthn.Credential
}

// WebAuthnID and the others are what the library asks of a user. The id is opaque: nobody learns an address from it.
func (k *Keyholder) WebAuthnID() []byte                         { return []byte(k.ID) }
func (k *Keyholder) WebAuthnName() string                       { return k.Email }
func (k *Keyholder) WebAuthnDisplayName() string                { return k.Name }
func (k *Keyholder) WebAuthnCredentials() []webauthn.Credential { return k.credentials }

// Keyholder reads a person with their passkeys.
func (s *Store) Keyholder(ctx context.Context, person string) (*Keyholder, error) {
	p, err := s.Get(ctx, person)
	if err != nil {
		return nil, err
	}
	rows, err := s.DB.Pool.Query(ctx, `SELECT credential FROM passkeys WHERE person = $1`, person)
	if err != nil {
		return nil, err
	}
	k := &Keyholder{Person: *p}
	k.credentials, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (c webauthn.Credential, err error) {
		var text []byte
		if err = r.Scan(&text); err == nil {
			err = json.Unmarshal(text, &c)
		}
		return c, err
	})
	return k, err
}

// Passkeys lists a person's passkeys, oldest first.
func (s *Store) Passkeys(ctx context.Context, person string) ([]Passkey, error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT id, name, created_at, used_at FROM passkeys WHERE person = $1 ORDER BY created_at`,
		person)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (k Passkey, err error) {
		err = r.Scan(&k.ID, &k.Name, &k.Created, &k.Used)
		return k, err
	})
}

// AddPasskey keeps a new passkey.
func (s *Store) AddPasskey(ctx context.Context, person, name string, c *webauthn.Credential) error {
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	_, err = s.DB.Pool.Exec(ctx, `INSERT INTO passkeys (id, person, name, credential, created_at) VALUES ($1, $2, $3, $4, $5)`,
		c.ID, person, name, text, s.Now())
	return err
}

// PasskeyUsed notes a use, with the counter by which a copied passkey would show.
func (s *Store) PasskeyUsed(ctx context.Context, c *webauthn.Credential) error {
	if c.Authenticator.CloneWarning {
		return errors.New("people: a passkey's counter went back; it may have been copied")
	}
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	_, err = s.DB.Pool.Exec(ctx, `UPDATE passkeys SET credential = $2, used_at = $3 WHERE id = $1`, c.ID, text, s.Now())
	return err
}

// RemovePasskey takes a passkey away from its person.
func (s *Store) RemovePasskey(ctx context.Context, person string, id []byte) error {
	_, err := s.DB.Pool.Exec(ctx, `DELETE FROM passkeys WHERE person = $1 AND id = $2`, person, id)
	return err
}
