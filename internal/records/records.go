// Package records keeps what became of a code once it was made: what was handed over and to whom, which pictures have an
// address of their own, which version is in print, and what people saw who held a phone against it.
package records

import (
	"sodrik/internal/code"
	"sodrik/internal/ground"
)

// Records stand on the ground of the codes that they are about.
type Records struct {
	*ground.Ground
	codes *code.Store
}

// Of gives the records of codes.
func Of(codes *code.Store) *Records { return &Records{codes.Ground, codes} }
