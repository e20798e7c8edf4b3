package eventlog

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"

	"github.com/nats-io/nats.go/jetstream"
)

// filesName is the bucket of files.
const filesName = "FILES"

// PutFile keeps a file under a name, unless the same is there.
func (l *Log) PutFile(ctx context.Context, name string, data []byte) error {
	sum := sha256.Sum256(data)
	switch is, err := l.files.GetInfo(ctx, name); {
	case err == nil && is.Digest == "SHA-256="+base64.URLEncoding.EncodeToString(sum[:]):
		return nil
	case err != nil && !errors.Is(err, jetstream.ErrObjectNotFound):
		return fmt.Errorf("eventlog: the file %s: %w", name, err)
	}
	if _, err := l.files.Put(ctx, jetstream.ObjectMeta{Name: name}, bytes.NewReader(data)); err != nil {
		return fmt.Errorf("eventlog: the file %s: %w", name, err)
	}
	return nil
}

// File gives a file, nil where there is none.
func (l *Log) File(ctx context.Context, name string) ([]byte, error) {
	data, err := l.files.GetBytes(ctx, name)
	if errors.Is(err, jetstream.ErrObjectNotFound) {
		return nil, nil
	}
	return data, err
}
