package code

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// Effect is what a use case has done, as far as somebody who repeats the request has to be told.
type Effect struct {
	Code    string
	Rev     int64
	Version int // that was issued, 0 for none
}

type effectKey struct{}

// WithEffect gives a context in which a use case calls f within the very transaction that makes its effect last, so that what
// f keeps is kept if and only if the effect is.
func WithEffect(ctx context.Context, f func(ctx context.Context, tx pgx.Tx, e Effect) error) context.Context {
	return context.WithValue(ctx, effectKey{}, f)
}

// noted says that somebody keeps the effects in this context.
func noted(ctx context.Context) bool { return ctx.Value(effectKey{}) != nil }

func (s *Store) effected(ctx context.Context, tx pgx.Tx, e Effect) error {
	f, ok := ctx.Value(effectKey{}).(func(context.Context, pgx.Tx, Effect) error)
	if !ok {
		return nil
	}
	return f(ctx, tx, e)
}
