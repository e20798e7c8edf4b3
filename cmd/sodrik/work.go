package main

import (
	"context"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
)

// work does the jobs of a service that others serve, until it is stopped.
func work(args []string) error {
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	from := env("SODRIK_MAIL_FROM", "sodrik@localhost")
	if err := flags("work", args, func(f *flag.FlagSet) {
		f.StringVar(&from, "mail-from", from, "`address` that mails come from; SODRIK_MAIL_FROM")
		f.Usage = workUsage(f)
	}); err != nil {
		return err
	}
	key, err := begun()
	if err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	d, err := connect(ctx)
	if err != nil {
		return err
	}
	defer d.Close()
	if err := migrated(ctx, d); err != nil {
		return err
	}
	app, err := assembled(d, key, linksFrom().base, os.Getenv("SODRIK_BASE"))
	if err != nil {
		return err
	}
	if err := app.Codes.Upkeep().FollowKeyring(ctx); err != nil {
		return status{exitProblems, err.Error()}
	}
	post, _, err := postNamed(d, from)
	if err != nil {
		return err
	}
	fmt.Println("Working.")
	return app.Jobs(post).Run(ctx)
}

// workUsage is the reference of sodrik work.
func workUsage(f *flag.FlagSet) func() {
	return func() {
		fmt.Fprint(f.Output(),
			`sodrik work does what no request waits for: sweeps, mails, proofs of the ledger. sodrik serve does that itself; on
more machines, as many of these as you like share it. What one that dies leaves is taken up within two minutes.
It reads SODRIK_DATABASE, SODRIK_KEY, SODRIK_SMTP, SODRIK_MEMORY and SODRIK_WEBHOOKS as sodrik serve does.

Flags
`)
		f.PrintDefaults()
	}
}
