package main

import (
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"sodrik/internal/assembly"
	"sodrik/internal/db"
	"sodrik/internal/db/private"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
	"sodrik/internal/web"
)

func demo(args []string) error {
	slog.SetLogLoggerLevel(slog.LevelWarn)
	if err := boundMemory(); err != nil {
		return err
	}
	addr, home := env("SODRIK_ADDR", defaultAddr), env("SODRIK_HOME", ".sodrik")
	reset := false
	if err := flags("demo", args, func(f *flag.FlagSet) {
		f.BoolVar(&reset, "reset", false, "reload the demonstration brand; what was made since is lost")
		f.StringVar(&addr, "addr", addr, "`address` to listen on; SODRIK_ADDR sets it too")
		f.StringVar(&home, "home", home, "`folder` for the database; SODRIK_HOME sets it too")
	}); err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := listen(addr)
	if err != nil {
		return err
	}
	defer l.Close()
	if home, err = filepath.Abs(home); err != nil {
		return err
	}
	dir, moved, err := private.DataDir(home)
	if err != nil {
		return err
	}
	if moved {
		fmt.Fprintf(os.Stderr, "The account postgres cannot enter %s, so the data is kept in %s.\n", home, dir)
	}
	server, err := private.Start(ctx, private.Options{Dir: dir, Log: func(f string, a ...any) {
		slog.Warn(fmt.Sprintf(f, a...))
	}})
	if err != nil {
		return err
	}
	defer server.Stop()
	if err := server.CreateDatabase(ctx, "sodrik", reset); err != nil {
		return err
	}
	key, err := keyOf(filepath.Join(filepath.Dir(dir), "key"))
	if err != nil {
		return err
	}
	d, err := db.Open(ctx, server.URL("sodrik"), 10*time.Second)
	if err != nil {
		return err
	}
	defer d.Close()
	if err := migrated(ctx, d); err != nil {
		return err
	}
	set, box := assembly.Demonstration(d, key, "http://"+l.Addr().String())
	app, err := assembly.New(set)
	if err != nil {
		return err
	}
	if err := standin.Load(ctx, app.Links); err != nil {
		return err
	}
	if err := standin.LoadPeople(ctx, app.Codes, app.People); err != nil {
		return err
	}
	short := linksFrom()
	short.base, short.dir, short.nats = standin.LinkHost, filepath.Join(home, "log"), ""
	scanned, err := listen(cmp.Or(os.Getenv("SODRIK_LINKS_ADDR"), next(l.Addr().String())))
	if err != nil && os.Getenv("SODRIK_LINKS_ADDR") == "" { // taken; any will do
		scanned, err = listen("127.0.0.1:0")
	}
	if err != nil {
		return err
	}
	_, port, _ := net.SplitHostPort(scanned.Addr().String())
	alias, near := standin.Near(port)
	short.alias, short.places = alias, filepath.Join(home, "places.mmdb")
	if err := standin.Places(short.places); err != nil {
		return err
	}
	short.proxies = assembly.Loopback // made-up phones say where they are
	links, err := short.answer(ctx, scanned, d, key, app.Links)
	if err != nil {
		return err
	}
	defer links.stop()
	if err := standin.Scans(ctx, app.Links, links.log); err != nil {
		return err
	}
	works := app.Jobs(box).Start(ctx)
	if err := standin.Webhooks(ctx, app.Webhooks); err != nil {
		return err
	}
	go func() {
		if err := standin.CheckPrints(ctx, app.Codes); err != nil && ctx.Err() == nil {
			slog.Error("the demonstration's print was not checked", "error", err)
		}
	}()
	fmt.Printf("\nSodrik is at http://%s/\nShort links lead on from http://%s:%s/\nCtrl-C stops it; what you make is kept.\n\n",
		l.Addr(), standin.LinkAlias, port)
	o := assembly.Guests(box)
	o.Follow, o.LinksAt, o.Metrics, o.Phones = links.service, near, web.NewMetrics(d),
		standin.Phones{Address: scanned.Addr().String()}
	countsOf(o.Metrics, links.service)
	err = runServer(ctx, l, web.New(app.Pages(o)))
	stop()
	<-works
	fmt.Println("Stopped.")
	return err
}

// keyOf reads the demonstration's key, made where it is not there, beside its database.
func keyOf(file string) (*seal.Box, error) {
	b, err := os.ReadFile(file)
	if errors.Is(err, os.ErrNotExist) {
		b = []byte(seal.NewKey())
		err = os.WriteFile(file, b, 0o600)
	}
	if err != nil {
		return nil, err
	}
	return seal.Parse(string(b))
}
