// Package heavy lets only so many things at once take a processor for long: opening uploads, drawing files, proving.
// Everything of that sort that people ask for goes through one gate, so that pages are answered whatever is being made, and
// however many ask.
package heavy

import (
	"context"
	"runtime"
)

// one is the gate of this process: a core is left for pages.
var one = newGate(max(1, runtime.NumCPU()-1))

type within struct{}

type forWhom struct{}

// For gives a context whose heavy things are for somebody, such as a workspace: all such take turns.
func For(ctx context.Context, who string) context.Context {
	return context.WithValue(ctx, forWhom{}, who)
}

// Enter waits for a place. Who does not hurry stands back behind those who do. What has a place already, by ctx, takes no
// second one. Leaving through ctx gives its error.
func Enter(ctx context.Context, hurry bool) (inside context.Context, release func(), err error) {
	if ctx.Value(within{}) != nil {
		return ctx, func() {}, nil
	}
	if err := ctx.Err(); err != nil {
		return ctx, nil, err
	}
	who, _ := ctx.Value(forWhom{}).(string)
	release, err = one.enter(ctx, who, hurry)
	return context.WithValue(ctx, within{}, true), release, err
}

// Do does something that takes a processor for long, once there is a place for it.
func Do(ctx context.Context, f func(ctx context.Context) error) error {
	inside, release, err := Enter(ctx, true)
	if err != nil {
		return err
	}
	defer release()
	return f(inside)
}
