package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"flag"
	"fmt"
	"io"
	"os"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/assembly"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/movein"
	"sodrik/internal/db"
	"sodrik/internal/link"
)

func init() {
	commands = append(commands, command{"links", "list|lead|leave|movein …", "see and change where short links lead", linksOf})
}

const linksUsage = `sodrik links works on the database that SODRIK_DATABASE names, with SODRIK_KEY and SODRIK_LINKS as sodrik serve has them.

  sodrik links list                    every link that hangs, as CSV: link, what it does, where to, code, place
  sodrik links lead CODE ADDRESS       have a code lead to an address, live at once; without ADDRESS it tells the draft and what is live
  sodrik links leave FILE.zip          write the leaving pack
  sodrik links movein HOST RULES       have the paths of a domain in print answered here; RULES may be - for standard input.
                                       -look shows what would move, and with SODRIK_OUTSIDE=ask where the host leads today

Flags
`

// linksOf is a use case of short links on the command line.
func linksOf(args []string) error {
	f := flag.NewFlagSet("sodrik links", flag.ContinueOnError)
	workspace := f.String("workspace", "main", "`workspace` whose links they are")
	look := f.Bool("look", false, "change nothing")
	f.Usage = func() { fmt.Fprint(f.Output(), linksUsage); f.PrintDefaults() }
	if err := f.Parse(args); err != nil {
		return status{exitProblems, ""}
	}
	act, rest := f.Arg(0), f.Args()
	if len(rest) > 0 {
		rest = rest[1:]
	}
	wants := map[string][2]int{"list": {0, 0}, "lead": {1, 2}, "leave": {1, 1}, "movein": {2, 2}}
	if n, ok := wants[act]; !ok || len(rest) < n[0] || len(rest) > n[1] {
		f.Usage()
		return status{exitProblems, ""}
	}
	ctx := context.Background()
	d, app, err := atHand(ctx, "")
	if err != nil {
		return err
	}
	defer d.Close()
	c := linksCommand{app.Links, access.OfProgram(*workspace, "command line"), os.Stdout}
	switch act {
	case "list":
		return c.list(ctx)
	case "lead":
		return c.lead(ctx, rest)
	case "leave":
		return c.leave(ctx, rest[0])
	}
	return c.moveIn(ctx, rest[0], rest[1], *look)
}

// atHand is the application on the database and the key that the environment names, for a command beside a service. Where a
// workspace is named, it is made there if it is not, in a database that is brought up to date. The caller closes the database.
func atHand(ctx context.Context, workspace string) (*db.DB, *assembly.App, error) {
	key, err := keyNamed()
	if err != nil {
		return nil, nil, err
	}
	d, err := connect(ctx)
	if err != nil {
		return nil, nil, err
	}
	if workspace != "" {
		err = migrated(ctx, d)
	}
	var app *assembly.App
	if err == nil {
		app, err = assembled(d, key, linksFrom().base, os.Getenv("SODRIK_BASE"))
	}
	switch {
	case err != nil:
	case workspace != "":
		err = ready(ctx, app, workspace)
	default:
		if err = app.Codes.Upkeep().FollowKeyring(ctx); err != nil {
			err = status{exitProblems, err.Error()}
		}
	}
	if err != nil {
		d.Close()
		return nil, nil, err
	}
	return d, app, nil
}

// linksCommand is a use case of short links in a workspace, said on out.
type linksCommand struct {
	links *link.Store
	actor access.Actor
	out   io.Writer
}

func (c linksCommand) list(ctx context.Context) error {
	list, err := c.links.Live(ctx, c.actor)
	if err != nil {
		return err
	}
	w := csv.NewWriter(c.out)
	w.Write([]string{"link", "does", "to", "code", "place"})
	for _, l := range list {
		a := l.Live.At(time.Now())
		w.Write([]string{l.Host + "/" + l.Path, string(a.Does), a.To, l.Live.Code, l.Live.Place})
	}
	w.Flush()
	return w.Error()
}

func (c linksCommand) lead(ctx context.Context, args []string) error {
	x, err := c.links.Codes.Get(ctx, c.actor, args[0])
	if err != nil {
		return status{exitFailed, fmt.Sprintf("There is no code %s.", args[0])}
	}
	l, err := c.links.Of(ctx, c.actor, x)
	if err != nil {
		return err
	}
	if l == nil {
		return status{exitProblems, "The code is a fixed address; it leads through no short link."}
	}
	if len(args) == 2 {
		if l, err = c.links.Edit(ctx, c.actor, args[0], map[string]string{"to": args[1]}, "", 0); err == nil {
			l, err = c.links.MakeLive(ctx, c.actor, args[0], 0)
		}
		if err != nil {
			return err
		}
	}
	fmt.Fprintf(c.out, "draft: %s\n", l.Draft.Says())
	if l.Live != nil {
		fmt.Fprintf(c.out, "live: %s, since %s\n", l.Live.Lead.Says(), l.Live.At.UTC().Format("2 January 2006, 15:04 UTC"))
	}
	return nil
}

func (c linksCommand) leave(ctx context.Context, file string) error {
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	if err := c.links.Pack(ctx, c.actor, f); err != nil {
		f.Close()
		os.Remove(file)
		return err
	}
	return f.Close()
}

func (c linksCommand) moveIn(ctx context.Context, host, file string, look bool) error {
	text, err := os.ReadFile(file)
	if file == "-" {
		text, err = io.ReadAll(io.LimitReader(os.Stdin, leads.MaxServed))
	}
	if err != nil {
		return status{exitFailed, err.Error()}
	}
	rows := movein.Read(string(bytes.TrimSpace(text)))
	if len(rows) == 0 {
		return status{exitProblems, "The rules hold no path; write one a line, a comma, and where it leads, or give redirect rules"}
	}
	list, err := c.links.Moves(ctx, c.actor, host, rows)
	if err != nil {
		return err
	}
	bad := 0
	for _, m := range list {
		switch {
		case m.Bad != "":
			bad++
			fmt.Fprintf(c.out, "line %d: %s\n", m.Line, m.Bad)
		case m.Asked && !m.Same():
			fmt.Fprintf(c.out, "line %d: %s leads to %q today, and will to %s\n", m.Line, m.Path, m.Today, m.To)
		}
	}
	if look {
		fmt.Fprintf(c.out, "%d of %d paths can move in.\n", len(list)-bad, len(list))
		return nil
	}
	n, err := c.links.MoveIn(ctx, c.actor, host, rows)
	if err != nil {
		return err
	}
	words := "paths lead"
	if n == 1 {
		words = "path leads"
	}
	fmt.Fprintf(c.out, "%d %s from here now.\n", n, words)
	return nil
}
