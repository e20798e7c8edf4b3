// Package ground is what use cases stand on: the database, the box that seals what is kept, the clock, and who draws pages.
package ground

import (
	"context"
	"errors"
	"time"

	"sodrik/internal/db"
	"sodrik/internal/seal"
)

// ErrNotFound is the answer for what is not there, or belongs to another workspace.
var ErrNotFound = errors.New("there is no such code")

// Ground is shared by the use cases of a program: who changes it changes it for all.
type Ground struct {
	DB   *db.DB
	Seal *seal.Box // for what contents say
	Now  func() time.Time
	// Pages draws a page of a PDF as a PNG; nil where nothing can.
	Pages func(ctx context.Context, file []byte, page int, dpi float64) ([]byte, error)
}
