package seal

import (
	"crypto/sha256"
	"encoding/hex"
)

// Hash is under what a token that is drawn at random is kept: who reads the database cannot use it (SHA-256 in hexadecimal).
func Hash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Token seals a token, for those to be shown it who may see it; hash is that of it.
func (b *Box) Token(workspace, token string) (hash string, sealed []byte) {
	hash = Hash(token)
	return hash, b.Seal([]byte(token), tokenPlace(workspace, hash))
}

// OpenToken is a token by what Token gave. What is kept without being sealed, as it was once, is the token itself.
func (b *Box) OpenToken(workspace, hash string, sealed []byte) (token string, err error) {
	if sealed == nil {
		return hash, nil
	}
	text, err := b.Open(sealed, tokenPlace(workspace, hash))
	return string(text), err
}

// tokenPlace is where a token is sealed, in the form that package code has for all columns.
func tokenPlace(workspace, hash string) string { return workspace + "/" + hash + "/token" }
