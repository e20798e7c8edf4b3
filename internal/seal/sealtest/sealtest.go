// Package sealtest gives tests a box with a key of no worth.
package sealtest

import (
	"bytes"
	"testing"

	"sodrik/internal/seal"
)

// Box gives the box; it is the same every time.
func Box(t testing.TB) *seal.Box {
	t.Helper()
	b, err := seal.New(bytes.Repeat([]byte{7}, seal.KeySize))
	if err != nil {
		t.Fatal(err)
	}
	return b
}
