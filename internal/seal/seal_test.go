package seal

import (
	"bytes"
	"encoding/base64"
	"errors"
	"testing"
)

func box(t *testing.T, keys ...byte) *Box {
	t.Helper()
	var all [][]byte
	for _, k := range keys {
		all = append(all, bytes.Repeat([]byte{k}, KeySize))
	}
	b, err := New(all...)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func TestSeal(t *testing.T) {
	b := box(t, 1)
	for _, text := range []string{"", "x", "leeks in october", string(make([]byte, 70000))} {
		t.Run(text, func(t *testing.T) {
			sealed := b.Seal([]byte(text), "here")
			if len(text) > 3 && bytes.Contains(sealed, []byte(text)) {
				t.Error("it can be read as it is")
			}
			if got, err := b.Open(sealed, "here"); err != nil || string(got) != text {
				t.Errorf("%q comes back as %q, %v", text, got, err)
			}
			if _, err := b.Open(sealed, "there"); !errors.Is(err, ErrBroken) {
				t.Errorf("in another place: %v", err)
			}
			for i := range min(len(sealed), 60) {
				broken := bytes.Clone(sealed)
				broken[i] ^= 1
				if _, err := b.Open(broken, "here"); err == nil {
					t.Errorf("byte %d was changed and it opened", i)
				}
			}
			for n := range min(len(sealed), 40) {
				if _, err := b.Open(sealed[:n], "here"); err == nil {
					t.Errorf("%d bytes of it opened", n)
				}
			}
		})
	}
	if bytes.Equal(b.Seal([]byte("x"), "p"), b.Seal([]byte("x"), "p")) {
		t.Error("the same text is sealed alike twice")
	}
}

func TestChangeOfKeys(t *testing.T) {
	old := box(t, 1)
	sealed, mac := old.Seal([]byte("x"), "p"), old.Mac("x")
	both := box(t, 2, 1)
	if got, err := both.Open(sealed, "p"); err != nil || string(got) != "x" {
		t.Errorf("with a newer key in front: %q, %v", got, err)
	}
	if both.Mac("x") != mac {
		t.Error("digests changed with the key")
	}
	if _, err := old.Open(both.Seal([]byte("x"), "p"), "p"); !errors.Is(err, ErrKey) {
		t.Errorf("the older key opens what the newer sealed: %v", err)
	}
	if box(t, 2).Mac("x") == mac || old.Mac("y") == mac {
		t.Error("digests do not depend on key and text")
	}
}

func TestParse(t *testing.T) {
	k := NewKey()
	if _, err := Parse(k + ", " + NewKey()); err != nil {
		t.Error(err)
	}
	for _, s := range []string{"", "short", k + ",", base64.StdEncoding.EncodeToString(make([]byte, 31))} {
		t.Run(s, func(t *testing.T) {
			if _, err := Parse(s); err == nil {
				t.Errorf("%q was taken for a key", s)
			}
		})
	}
	if _, err := New(); err == nil {
		t.Error("a box without a key")
	}
}

func FuzzOpen(f *testing.F) {
	b, _ := New(make([]byte, KeySize))
	f.Add(b.Seal([]byte("x"), "p"))
	f.Fuzz(func(t *testing.T, sealed []byte) {
		if text, err := b.Open(sealed, "p"); err == nil && string(text) != "x" {
			t.Fatalf("%x opened as %q", sealed, text)
		}
	})
}
