// Package caught turns a panic into an error, so that whatever runs on a goroutine of its own fails alone: a panic there
// would end the process, and with it everything that others ask for. It is a leaf.
package caught

import (
	"fmt"
	"runtime/debug"
)

// Panic is a panic that was caught.
type Panic struct {
	Value any
	Stack []byte // where it came from, for the log
}

func (p *Panic) Error() string { return fmt.Sprintf("panic: %v", p.Value) }

// To puts a panic of the function that defers it into err, in place of what is there.
func To(err *error) {
	if v := recover(); v != nil {
		*err = &Panic{v, debug.Stack()}
	}
}

// Safe is f with its panics as errors, for what runs it on a goroutine of its own.
func Safe(f func() error) func() error {
	return func() (err error) {
		defer To(&err)
		return f()
	}
}

// Made gives what f makes, a panic of f as the error.
func Made[T any](f func() (T, error)) (made T, err error) {
	defer To(&err)
	return f()
}
