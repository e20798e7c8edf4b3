package db

import (
	"errors"
	"io"
	"net"
)

// isNetwork says whether a connection broke while it was in use.
func isNetwork(err error) bool {
	var op *net.OpError
	return errors.As(err, &op) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF)
}
