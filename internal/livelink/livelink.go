// Package livelink is what a live link looks like in the bucket between the database and those who answer scans: its key, its
// value, and for which place the value is sealed. Both sides must agree on it, and neither knows the other.
package livelink

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"net/url"
	"strings"
)

// Position is the key under which the relay keeps how far it has come.
const Position = "position"

// Key is the key of a link, host and path: a bucket's keys have no colon, which stands as an underscore in the host, and of a
// path that came from elsewhere whatever else they do not have stands in hexadecimal.
func Key(link string) string {
	host, path, is := strings.Cut(link, "/")
	if !is {
		return link
	}
	var b strings.Builder
	b.WriteString(strings.ReplaceAll(host, ":", "_"))
	b.WriteByte('/')
	for i := range len(path) {
		c := path[i]
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '/' ||
			c == '.' && i < len(path)-1 {
			b.WriteByte(c)
		} else {
			fmt.Fprintf(&b, "=%02X", c)
		}
	}
	return b.String()
}

// Link is the link of a key; ok is false for a key that is none of a link.
func Link(key string) (link string, ok bool) {
	host, path, is := strings.Cut(key, "/")
	if !is {
		return key, false
	}
	text, err := url.PathUnescape(strings.ReplaceAll(path, "=", "%"))
	return strings.ReplaceAll(host, "_", ":") + "/" + text, err == nil
}

// Place is for which the value of a link is sealed.
func Place(workspace, link string) string { return workspace + "/" + link + "/answer" }

// Value is the value of a link.
type Value struct {
	Seq       uint64 // grows with each change; a smaller one is older
	Workspace string // whose place it is sealed for
	Sealed    []byte
}

// Pack writes a value.
func (v Value) Pack() []byte {
	out := binary.BigEndian.AppendUint64(nil, v.Seq)
	return append(append(append(out, v.Workspace...), 0), v.Sealed...)
}

// Unpack reads one.
func Unpack(b []byte) (v Value, err error) {
	if len(b) < 9 {
		return v, errors.New("livelink: a value was cut off")
	}
	v.Seq = binary.BigEndian.Uint64(b)
	workspace, sealed, ok := bytes.Cut(b[8:], []byte{0})
	if !ok {
		return v, errors.New("livelink: a value was cut off")
	}
	v.Workspace, v.Sealed = string(workspace), sealed
	return v, nil
}

// Newer says whether a value is newer than another, as it is packed; one that cannot be read is older than any.
func (v Value) Newer(packed []byte) bool {
	than, err := Unpack(packed)
	return err != nil || v.Seq > than.Seq
}

// Beside says whether a value has the same number as another, as it is packed: then one of the two is damaged.
func (v Value) Beside(packed []byte) bool {
	than, err := Unpack(packed)
	return err == nil && v.Seq == than.Seq
}
