package people

import (
	"bytes"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	_ "embed"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"

	"sodrik/internal/core/problem"
)

// Cost of argon2id (RFC 9106): 19 MiB, two passes, one lane. It bounds what sign-ins at once can take of the machine too.
const (
	hashMemory  = 19 * 1024 // KiB
	hashPasses  = 2
	hashThreads = 1
	hashLength  = 32
)

// hashing lets only a few passwords be worked on at once, since each takes 19 MiB.
var hashing = make(chan struct{}, 4)

func derive(password string, salt []byte) []byte {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2.IDKey([]byte(password), salt, hashPasses, hashMemory, hashThreads, hashLength)
}

// hashPassword gives the PHC form of a password's argon2id hash.
func hashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, hashMemory, hashPasses, hashThreads,
		b64.EncodeToString(salt), b64.EncodeToString(derive(password, salt)))
}

var errHash = errors.New("people: a stored password is not in the form it was written in")

// checkPassword compares in constant time. An empty hash never fits, and takes as long as any other.
func checkPassword(hash, password string) (bool, error) {
	if hash == "" {
		derive(password, make([]byte, 16))
		return false, nil
	}
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" ||
		parts[3] != fmt.Sprintf("m=%d,t=%d,p=%d", hashMemory, hashPasses, hashThreads) {
		return false, errHash
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false, errHash
	}
	return subtle.ConstantTimeCompare(derive(password, salt), want) == 1, nil
}

// common holds the first six bytes of the SHA-256 of passwords of ten or more characters that many people use (1,557 of
// them, from @zxcvbn-ts/language-common, MIT licence), in hexadecimal, one a line.
//
//go:embed common-passwords.sha
var common []byte

// Bounds of a password, in characters.
const (
	minPassword = 10
	maxPassword = 200
)

// passwordProblems holds a new password against length, the common ones, and the person's own name and address.
func passwordProblems(password, email, name string) (problems problem.List) {
	n := utf8.RuneCountInString(password)
	lower := strings.ToLower(password)
	sum := sha256.Sum256([]byte(lower))
	local, _, _ := strings.Cut(strings.ToLower(email), "@")
	switch {
	case n < minPassword:
		problems.Add("/password", "password.short", "has %d characters; it needs %d or more, of any kind", n, minPassword)
	case n > maxPassword:
		problems.Add("/password", "password.long", "has %d characters; at most %d are taken", n, maxPassword)
	case bytes.Contains(common, []byte(hex.EncodeToString(sum[:6]))):
		problems.Add("/password", "password.common", "is one that many people use and that is tried first; choose another")
	case strings.Count(lower, lower[:1]) == len(lower):
		problems.Add("/password", "password.common", "is one character over and over; choose another")
	case lower == strings.ToLower(email), len(local) >= 4 && strings.Trim(lower, "0123456789!.") == local,
		lower == strings.ToLower(name):
		problems.Add("/password", "password.own", "is your own name or address; choose another")
	}
	return problems
}
